// Package bounds checks what every kept document has to hold: an ID that is safe as a name, texts and lists of a sensible length,
// numbers that are numbers, and times within the centuries of radio.
package bounds

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"
)

// What a document may hold at most.
const (
	MostBytes  = 4 << 20 // of a document
	MostText   = 20_000  // characters of one text
	MostList   = 20_000  // elements of a list
	MostKeys   = 2000    // of one object
	MostDepth  = 24
	MostName   = 200
	MostNumber = 1e18
	firstYear  = 1900
	lastYear   = 2200
)

var idForm = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9._:-]{0,63}$`)

// ID checks an ID: up to 64 letters, digits and . _ : -, the first a letter or digit, and no two dots in a row.
func ID(id string) error {
	if !idForm.MatchString(id) || strings.Contains(id, "..") {
		return fmt.Errorf("%.80q is no ID: up to 64 letters, digits, points, dashes", id)
	}
	return nil
}

// Name checks a name: not empty, and of a length that a line holds.
func Name(what, name string) error {
	switch n := utf8.RuneCountInString(name); {
	case strings.TrimSpace(name) == "":
		return fmt.Errorf("%s: a name is missing", what)
	case n > MostName:
		return fmt.Errorf("%s: the name has %d characters, at most %d are kept", what, n, MostName)
	}
	return nil
}

// Moment checks a time: it may be missing, and otherwise lies between 1900 and 2200.
func Moment(what string, at time.Time) error {
	if y := at.UTC().Year(); !at.IsZero() && (y < firstYear || y > lastYear) {
		return fmt.Errorf("%s: the year %d is outside %d to %d", what, y, firstYear, lastYear)
	}
	return nil
}

// Day checks a date, YYYY-MM-DD.
func Day(what, date string) error {
	at, err := time.Parse(time.DateOnly, date)
	if err != nil {
		return fmt.Errorf("%s: %.40q is no date, like 2026-06-01", what, date)
	}
	return Moment(what, at)
}

// Number checks that a number lies within bounds.
func Number(what string, v, lo, hi float64) error {
	if math.IsNaN(v) || v < lo || v > hi {
		return fmt.Errorf("%s: %.6g found; expected %.6g to %.6g", what, v, lo, hi)
	}
	return nil
}

// All is the first error of several checks.
func All(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// Document checks a JSON document as a whole, and that it is of an ID.
func Document(id string, doc json.RawMessage) error {
	if len(doc) > MostBytes {
		return fmt.Errorf("the document has %d bytes, at most %d are kept", len(doc), MostBytes)
	}
	d := json.NewDecoder(bytes.NewReader(doc))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return fmt.Errorf("no document: %w", err)
	}
	root, ok := v.(map[string]any)
	if !ok {
		return fmt.Errorf("no document: it is no object")
	}
	if own, has := root["id"]; has && own != id {
		return fmt.Errorf("the document is of %.80q, not of %.80q", fmt.Sprint(own), id)
	}
	return value(v, 0)
}

func value(v any, depth int) error {
	if depth > MostDepth {
		return fmt.Errorf("the document goes deeper than %d levels", MostDepth)
	}
	switch x := v.(type) {
	case string:
		if n := utf8.RuneCountInString(x); n > MostText {
			return fmt.Errorf("a text has %d characters, at most %d are kept", n, MostText)
		}
	case json.Number:
		if f, err := x.Float64(); err != nil || math.Abs(f) > MostNumber {
			return fmt.Errorf("the number %.40s is beyond what is kept", x)
		}
	case []any:
		if len(x) > MostList {
			return fmt.Errorf("a list has %d elements, at most %d are kept", len(x), MostList)
		}
		for _, e := range x {
			if err := value(e, depth+1); err != nil {
				return err
			}
		}
	case map[string]any:
		if len(x) > MostKeys {
			return fmt.Errorf("an object has %d fields, at most %d are kept", len(x), MostKeys)
		}
		for k, e := range x {
			if utf8.RuneCountInString(k) > MostName {
				return fmt.Errorf("a field's name has more than %d characters", MostName)
			}
			if err := value(e, depth+1); err != nil {
				return err
			}
		}
	}
	return nil
}
