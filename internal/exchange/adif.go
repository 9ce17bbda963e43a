package exchange

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"reed/core/onair"
)

// lengthUnits are the ways in which programs count the characters of a value.
var lengthUnits = []string{"bytes", "characters", "UTF-16 units"}

// plain are the fields whose values cannot hold what looks like a tag: there a length that swallows one
// is wrong, though it lines up.
var plain = map[string]bool{"CALL": true, "BAND": true, "FREQ": true, "MODE": true, "SUBMODE": true, "QSO_DATE": true, "TIME_ON": true,
	"QSO_DATE_OFF": true, "TIME_OFF": true, "RST_SENT": true, "RST_RCVD": true, "GRIDSQUARE": true, "TX_PWR": true}

type tag struct {
	name, kind string
	length     int
	hasLength  bool
	start, end int // of the tag itself in the text
}

// tagAt reads a data specifier at text[i], which has to be a less-than sign.
func tagAt(text string, i int) (tag, bool) {
	const most = 80
	closing := strings.IndexByte(text[i:min(len(text), i+most)], '>')
	if closing < 0 {
		return tag{}, false
	}
	parts := strings.Split(text[i+1:i+closing], ":")
	t := tag{name: strings.ToUpper(strings.TrimSpace(parts[0])), start: i, end: i + closing + 1}
	if t.name == "" || len(parts) > 3 {
		return tag{}, false
	}
	for _, r := range t.name {
		if !(r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '_') {
			return tag{}, false
		}
	}
	if len(parts) > 1 {
		n, err := strconv.Atoi(strings.TrimSpace(parts[1]))
		if err != nil || n < 0 {
			return tag{}, false
		}
		t.length, t.hasLength = n, true
	}
	if len(parts) > 2 {
		t.kind = strings.ToUpper(strings.TrimSpace(parts[2]))
	}
	return t, t.hasLength || t.name == "EOR" || t.name == "EOH"
}

// nextTag finds the first tag at or after i.
func nextTag(text string, i int) (tag, bool) {
	for i < len(text) {
		k := strings.IndexByte(text[i:], '<')
		if k < 0 {
			return tag{}, false
		}
		if t, ok := tagAt(text, i+k); ok {
			return t, true
		}
		i += k + 1
	}
	return tag{}, false
}

// valueEnd is where a value of n units that starts at i ends; short says that the text ends before.
func valueEnd(text string, i, n int, unit string) (end int, short bool) {
	if unit == lengthUnits[0] {
		if i+n > len(text) {
			return len(text), true
		}
		return i + n, false
	}
	for n > 0 {
		if i >= len(text) {
			return len(text), true
		}
		r, w := utf8.DecodeRuneInString(text[i:])
		i += w
		n--
		if unit == lengthUnits[2] && r > 0xffff {
			n--
		}
	}
	return i, false
}

// linesUp reports whether a value that ends at i is followed by a tag, a blank, or the end.
func linesUp(text string, i int) bool {
	if i > 0 && i < len(text) && !utf8.RuneStart(text[i]) {
		return false
	}
	rest := strings.TrimLeft(text[i:], " \t\r\n")
	if rest == "" {
		return true
	}
	if rest[0] == '<' {
		_, ok := tagAt(rest, 0)
		return ok
	}
	// Text between fields is allowed where white space parts it from the value.
	return len(rest) < len(text)-i
}

// countUnit decides per file what lengths count, by which unit makes more tags line up.
func countUnit(text string) (unit string, certain bool) {
	ascii := true
	for i := 0; i < len(text) && ascii; i++ {
		ascii = text[i] < 0x80
	}
	if ascii {
		return lengthUnits[0], true
	}
	best, bestScore, second := "", -1, -1
	for _, u := range lengthUnits {
		score := 0
		for i := 0; ; {
			t, ok := nextTag(text, i)
			if !ok {
				break
			}
			i = t.end
			if t.hasLength {
				end, short := valueEnd(text, t.end, t.length, u)
				if !short && linesUp(text, end) {
					score++
					if u != lengthUnits[0] || utf8.ValidString(text[t.end:end]) {
						i = end
					}
				}
			}
		}
		if score > bestScore {
			best, bestScore, second = u, score, bestScore
		} else if score > second {
			second = score
		}
	}
	return best, bestScore > second
}

type rawField struct {
	onair.Field
	line int
}

// makeRoom makes room for as many records as a file has ends of them: a list that grows is in memory twice for a moment.
func (p *Preview) makeRoom(text string, ends ...string) {
	n := 0
	for _, end := range ends {
		n += strings.Count(text, end)
	}
	p.Records = make([]Record, 0, min(n, mostRecords))
}

func tooLong(f rawField) error {
	return &FileError{fmt.Sprintf("line %d: %s has %d characters", f.line, f.Name, len(f.Value)),
		fmt.Sprintf("values of at most %d", mostLine)}
}

func readADI(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "adif"
	unit, certain := countUnit(text)
	if c := o.choice("length-unit"); c != "" {
		unit = c
	}
	if !certain || o.choice("length-unit") != "" {
		p.guess("length-unit", unit, "lengths count "+unit, lengthUnits...)
	}
	a := adi{p: p, o: o, text: text, line: 1, record: 1}
	p.makeRoom(text, "<EOR>", "<eor>")
	for i := 0; ; {
		if len(a.fields) == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		t, ok := nextTag(text, i)
		if !ok {
			if stray := strings.TrimSpace(text[i:]); stray != "" && a.begun {
				p.note("warning", a.lineOf(i), 0, "", "text after the last field is not read: %s", short(stray))
			}
			break
		}
		if a.record > mostRecords {
			return tooMany()
		}
		a.stray(strings.TrimSpace(text[i:t.start]), i)
		i = a.take(t, unit)
		if n := len(a.fields); n > 0 && len(a.fields[n-1].Value) > mostLine {
			return tooLong(a.fields[n-1])
		}
	}
	if len(a.fields) > 0 {
		p.note("warning", a.line, a.record, "", "the last record has no end-of-record mark")
		a.flush()
	}
	if p.Notes == nil {
		p.Notes = []Note{}
	}
	if len(p.Records) == 0 {
		return &FileError{"no contact was found in the file", "ADIF with at least one record, like <CALL:5>Q2TAV ... <EOR>"}
	}
	return nil
}

// adi is a file as far as it was read.
type adi struct {
	p             *Preview
	o             Options
	text          string
	line, counted int // the line at a place, and the place
	record        int
	fields        []rawField
	seen          map[string]bool
	headed, begun bool
	last          string // the field before, in this record
}

// lineOf is the line of a place; places only go on.
func (a *adi) lineOf(i int) int {
	a.line += strings.Count(a.text[a.counted:i], "\n")
	a.counted = i
	return a.line
}

// flush ends a record.
func (a *adi) flush() {
	if len(a.fields) > 0 {
		a.p.addRecord(a.record, a.fields, a.o)
		a.record++
	}
	a.fields, a.seen = nil, nil
}

// stray says that text between fields was left out; what stands before the first one is nobody's business.
func (a *adi) stray(text string, at int) {
	switch {
	case text == "" || !a.begun:
	case a.last != "":
		a.p.note("warning", a.lineOf(at), a.record, a.last, "text behind the value, left out: %s; is its length right?", short(text))
	default:
		a.p.note("note", a.lineOf(at), a.record, "", "text between records, left out: %s", short(text))
	}
}

// take takes a tag in, and returns where its value ends.
func (a *adi) take(t tag, unit string) int {
	at := a.lineOf(t.start)
	a.begun = true
	switch t.name {
	case "EOH":
		if !a.headed {
			for _, f := range a.fields {
				a.p.Header = append(a.p.Header, f.Field)
			}
			a.p.Notes, a.p.Records, a.record = nil, a.p.Records[:0], 1
		}
		a.fields, a.seen, a.headed, a.last = nil, nil, true, ""
		return t.end
	case "EOR":
		a.flush()
		a.last = ""
		return t.end
	}
	a.last = t.name
	value, end := a.p.value(a.text, t, unit, at, a.record)
	if a.seen[t.name] && (t.name == "CALL" || t.name == "QSO_DATE") {
		a.p.note("warning", at, a.record, t.name, "an end-of-record is missing before this %s; a new record begins here", t.name)
		a.flush()
	}
	if a.seen == nil {
		a.seen = map[string]bool{}
	}
	a.seen[t.name] = true
	a.fields = append(a.fields, rawField{onair.Field{Name: t.name, Value: value, Type: t.kind}, at})
	return end
}

// value cuts out a field's value, and repairs its length where the next tag makes it certain.
func (p *Preview) value(text string, t tag, unit string, line, record int) (string, int) {
	end, short := valueEnd(text, t.end, t.length, unit)
	if !short && linesUp(text, end) {
		v := text[t.end:end]
		if !plain[t.name] || strings.IndexByte(v, '<') < 0 {
			return v, end
		}
		if _, inside := nextTag(v, 0); !inside {
			return v, end
		}
	}
	next, ok := nextTag(text, t.end)
	if !ok {
		v := strings.TrimSpace(text[t.end:])
		p.note("error", line, record, t.name, "the value should have %d %s, but the file ends after %d", t.length, unit,
			utf8.RuneCountInString(v))
		return v, len(text)
	}
	v := strings.TrimRight(text[t.end:next.start], " \t\r\n")
	p.note("warning", line, record, t.name, "length %d does not fit; read as %q up to the next field", t.length, v)
	return v, next.start
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return strconv.Quote(string(r[:40]) + "...")
	}
	return strconv.Quote(s)
}

// adxElement is one element below RECORD or HEADER.
type adxElement struct {
	XMLName   xml.Name
	FieldName string `xml:"FIELDNAME,attr"`
	ProgramID string `xml:"PROGRAMID,attr"`
	Type      string `xml:"TYPE,attr"`
	Value     string `xml:",chardata"`
}

// readADX reads the XML form. The decoder knows no entities but XML's own five, and fetches nothing.
func readADX(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "adx"
	d := xml.NewDecoder(strings.NewReader(text))
	d.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil } // decoded already
	p.makeRoom(text, "</RECORD>", "</record>")
	var fields []rawField
	record, in := 1, ""
	for {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if record > mostRecords {
			return tooMany()
		}
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			line, _ := d.InputPos()
			if len(p.Records) == 0 {
				return &FileError{fmt.Sprintf("line %d: the XML cannot be read: %v", line, err), "ADX, the XML form of ADIF"}
			}
			p.note("error", line, record, "", "the XML breaks off: %v; the records before are read", err)
			break
		}
		switch e := tok.(type) {
		case xml.Directive:
			if strings.Contains(string(e), "ENTITY") {
				p.note("warning", 1, 0, "", "entities declared in the file are not followed")
			}
		case xml.StartElement:
			name := strings.ToUpper(e.Name.Local)
			switch {
			case name == "ADX" || name == "RECORDS":
			case name == "HEADER" || name == "RECORD":
				in, fields = name, nil
			case in != "":
				line, _ := d.InputPos()
				var el adxElement
				if err := d.DecodeElement(&el, &e); err != nil {
					p.note("error", line, record, name, "cannot be read: %v", err)
					continue
				}
				if el.FieldName != "" {
					name = strings.ToUpper(el.FieldName)
					if el.ProgramID != "" {
						name = "APP_" + strings.ToUpper(el.ProgramID) + "_" + name
					}
				}
				f := rawField{onair.Field{Name: name, Value: el.Value, Type: el.Type}, line}
				if len(f.Value) > mostLine {
					return tooLong(f)
				}
				fields = append(fields, f)
			}
		case xml.EndElement:
			switch name := strings.ToUpper(e.Name.Local); {
			case name == "HEADER":
				for _, f := range fields {
					p.Header = append(p.Header, f.Field)
				}
				in, fields = "", nil
			case name == "RECORD":
				if len(fields) > 0 {
					p.addRecord(record, fields, o)
				}
				record++
				in, fields = "", nil
			}
		}
	}
	if len(p.Records) == 0 {
		return &FileError{"no contact was found in the file", "ADX with at least one RECORD"}
	}
	return nil
}
