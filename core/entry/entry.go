// Package entry describes what a form asks for as data, and reads the texts that people typed into it.
// Whoever adds an antenna, a part or a calculation lists its fields; no screen has to know them.
package entry

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"regexp"
	"strconv"
	"strings"

	"reed/core/band"
	"reed/core/quantity"
)

// Fault is something to be said about one field. Severity "error" cannot be, "ask" is unlikely and wants
// a second look, "caution" is a danger.
type Fault struct {
	Path     string `json:"path"`
	Severity string `json:"severity"`
	Text     string `json:"text"`
	Offer    string `json:"offer,omitempty"` // what the text would be, if that was meant
	format   string
	args     []any
}

// Say is a fault in a sentence as by fmt.Sprintf. Lengths told in it (quantity.Told) follow the reader's units.
func Say(path, severity, format string, args ...any) Fault {
	return Fault{Path: path, Severity: severity, Text: fmt.Sprintf(format, args...), format: format, args: args}
}

// In is the fault with its lengths in somebody's units.
func (f Fault) In(units quantity.System) Fault {
	if f.format == "" {
		return f
	}
	args := make([]any, len(f.args))
	for i, a := range f.args {
		if t, ok := a.(quantity.Told); ok {
			a = t.In(units)
		}
		args[i] = a
	}
	f.Text = fmt.Sprintf(f.format, args...)
	return f
}

// In are faults with their lengths in somebody's units.
func In(units quantity.System, faults []Fault) []Fault {
	out := make([]Fault, len(faults))
	for i, f := range faults {
		out[i] = f.In(units)
	}
	return out
}

// Kinds of a field. A length takes the reader's unit when bare, a size the field's own (mm); frequencies
// are several, in MHz or as names of bands; an amount is a number with a decimal part, a dial what is read off one.
const (
	Length      = "length"
	Size        = "size"
	Frequencies = "frequencies"
	Count       = "count"
	Amount      = "amount"
	Dial        = "dial"
	Choice      = "choice"
	Words       = "words"
)

// Option is one of the choices of a field.
type Option struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Field is one entry of a form. Min and Max bound numbers and, in metres, lengths; both zero is unbounded.
// Usual is the default when nothing is typed.
type Field struct {
	ID      string   `json:"id"`
	Label   string   `json:"label"`
	Kind    string   `json:"kind"`
	Unit    string   `json:"unit,omitempty"`
	Help    string   `json:"help,omitempty"`
	Usual   string   `json:"usual,omitempty"`
	Seen    string   `json:"seen,omitempty"`  // how what was typed was understood, where that is not plain
	Bands   []string `json:"bands,omitempty"` // the bands in which typed frequencies lie, "" outside of all, in their order
	Options []Option `json:"options,omitempty"`
	Aside   bool     `json:"aside,omitempty"` // left as usual mostly: asked for behind the others
	Min     float64  `json:"-"`
	Max     float64  `json:"-"`
	Only    string   `json:"-"` // "plan" or "built" when it is asked only then
	Must    bool     `json:"-"`
	Sends   bool     `json:"-"` // frequencies to transmit on: what is in no amateur band is asked about
}

// Values are the texts as understood. Every map may be nil.
type Values struct {
	Sizes   map[string]quantity.Length `json:"sizes,omitempty"`
	Numbers map[string]float64         `json:"numbers,omitempty"`
	Words   map[string]string          `json:"words,omitempty"`
}

// M is a length in metres, 0 when it was not given.
func (v Values) M(id string) float64 { return v.Sizes[id].M }

// N is a number, or otherwise when it was not given.
func (v Values) N(id string, otherwise float64) float64 {
	if n, ok := v.Numbers[id]; ok {
		return n
	}
	return otherwise
}

// W is a word, or otherwise when it was not given.
func (v Values) W(id, otherwise string) string {
	if w := v.Words[id]; w != "" {
		return w
	}
	return otherwise
}

// Put stores a length, or takes it away when it is none. The maps of a copy made before stay as they were.
func (v *Values) Put(id string, l quantity.Length) {
	v.Sizes = changed(v.Sizes, id, l, l == quantity.Length{})
}

// PutNumber stores a number.
func (v *Values) PutNumber(id string, n float64) { v.Numbers = changed(v.Numbers, id, n, false) }

// PutWord stores a word, or takes it away when it is empty.
func (v *Values) PutWord(id, w string) { v.Words = changed(v.Words, id, w, w == "") }

// Drop takes away what was stored under an ID.
func (v *Values) Drop(id string) {
	v.Sizes = changed(v.Sizes, id, quantity.Length{}, true)
	v.Numbers = changed(v.Numbers, id, 0, true)
	v.Words = changed(v.Words, id, "", true)
}

// changed is a map with one value set or gone; the given one stays as it is.
func changed[T any](m map[string]T, id string, value T, gone bool) map[string]T {
	if _, ok := m[id]; gone && !ok {
		return m
	}
	out := make(map[string]T, len(m)+1)
	maps.Copy(out, m)
	out[id] = value
	if gone {
		delete(out, id)
	}
	return out
}

// Read understands the texts of the fields; texts of other fields are left out. unit is the unit of a bare
// length takes ("m" or "ft"). Frequencies become numbers named id, id+".2", id+".3" and so on.
func Read(fields []Field, texts map[string]string, unit string) (Values, []Fault) {
	var v Values
	var faults []Fault
	for _, f := range fields {
		text := strings.TrimSpace(texts[f.ID])
		if text == "" {
			if f.Must {
				faults = append(faults, Fault{Path: f.ID, Severity: "error", Text: "this is missing: " + strings.ToLower(f.Label)})
			}
			continue
		}
		if err := f.read(text, unit, &v); err != nil {
			fault := Fault{Path: f.ID, Severity: "error", Text: err.Error()}
			if meant := (*BandMeant)(nil); errors.As(err, &meant) {
				fault.Offer = meant.Offer
			}
			faults = append(faults, fault)
		} else if out, is := f.Outside(v); is {
			faults = append(faults, out)
		}
	}
	return v, faults
}

func (f Field) read(text, unit string, v *Values) error {
	switch f.Kind {
	case Length, Size:
		if f.Kind == Size {
			unit = f.Unit
		}
		l, err := quantity.Typed(text, unit)
		if err != nil {
			return err
		}
		v.Put(f.ID, l)
	case Frequencies:
		hz, err := ParseFrequencies(text)
		if err != nil {
			return err
		}
		if f.Sends {
			if err := bandMeant(text); err != nil {
				return err
			}
		}
		for i, x := range hz {
			v.PutNumber(Nth(f.ID, i), x)
		}
	case Count, Amount:
		n, err := Number(text)
		if err != nil {
			return err
		}
		if f.Kind == Count && n != math.Trunc(n) {
			return fmt.Errorf("%s found; this is counted in whole numbers", text)
		}
		v.PutNumber(f.ID, n)
	case Dial:
		n, marked, err := ParseDial(text)
		if err != nil {
			return err
		}
		v.PutNumber(f.ID, n)
		v.PutWord(f.ID, marked)
	case Choice:
		for _, o := range f.Options {
			if o.ID == text {
				v.PutWord(f.ID, text)
				return nil
			}
		}
		return fmt.Errorf("%q is not among the choices", text)
	default:
		v.PutWord(f.ID, text)
	}
	return nil
}

// Outside is a fault when the field's value among v lies outside what it takes; no value is none.
func (f Field) Outside(v Values) (Fault, bool) {
	if f.Kind == Frequencies && f.Sends {
		for i := 0; ; i++ {
			hz, ok := v.Numbers[Nth(f.ID, i)]
			if !ok {
				return Fault{}, false
			}
			if _, taken := band.Anywhere(hz); !taken {
				return Say(f.ID, "ask", "%s MHz is in no amateur band: is it meant?", quantity.ToKHz(hz)), true
			}
		}
	}
	if f.Min == 0 && f.Max == 0 {
		return Fault{}, false
	}
	in := func(n float64) bool { return n >= f.Min-1e-9*math.Abs(f.Min) && n <= f.Max*(1+1e-9) }
	switch f.Kind {
	case Length, Size:
		l, ok := v.Sizes[f.ID]
		if !ok || l.Problem() != nil || l.M == 0 && l.Typed == "" || in(l.M) {
			return Fault{}, false
		}
		if f.Kind == Size {
			return Say(f.ID, "error", "%.3g mm found; expected %.3g to %.3g mm", l.M*1000, f.Min*1000, f.Max*1000), true
		}
		return Say(f.ID, "error", "%s found; expected %s to %s", quantity.Exact(l.M), quantity.Exact(f.Min), quantity.Exact(f.Max)), true
	case Count, Amount, Dial:
		n, ok := v.Numbers[f.ID]
		if !ok || in(n) {
			return Fault{}, false
		}
		return Say(f.ID, "error", "%.6g found; expected %.6g to %s", n, f.Min, strings.TrimSpace(fmt.Sprintf("%.6g %s", f.Max, f.Unit))), true
	}
	return Fault{}, false
}

// Nth names the i-th of several values of a field, counted from 0.
func Nth(id string, i int) string {
	if i == 0 {
		return id
	}
	return fmt.Sprintf("%s.%d", id, i+1)
}

// Number reads a plain number with a point or a comma.
func Number(text string) (float64, error) {
	n, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(text), ",", "."), 64)
	if err != nil || math.IsNaN(n) || math.IsInf(n, 0) {
		return 0, fmt.Errorf("%q is not a number; write it like 12 or 3.5", text)
	}
	return n, nil
}

var (
	bandName = regexp.MustCompile(`^(\d+)\s?m$`)
	oneOf    = regexp.MustCompile(`\d+(?:[.,]\d+)*\s*(?:[A-Za-z]+)?`)
)

// BandMeant are bare numbers that are no amateur frequencies in MHz and name bands in metres.
type BandMeant struct {
	MHz   []string
	Offer string // the whole text with those bands named
}

func (e *BandMeant) Error() string {
	verb, list := "is", e.MHz[0]
	if n := len(e.MHz); n > 1 {
		verb, list = "are", strings.Join(e.MHz[:n-1], ", ")+" and "+e.MHz[n-1]
	}
	return fmt.Sprintf("%s MHz %s in no amateur band. Is it %s? Where megahertz are meant, write %s MHz", list, verb, e.Offer, e.MHz[0])
}

// bandMeant asks whether bands are meant by what was typed for frequencies; nil when nothing speaks for it.
func bandMeant(text string) error {
	var out BandMeant
	var offer []string
	for _, t := range oneOf.FindAllString(text, -1) {
		t = strings.Trim(strings.TrimSpace(t), ",;")
		mhz, err := strconv.Atoi(t)
		_, named := band.Named(1, t+"m")
		if _, taken := band.Anywhere(float64(mhz) * 1e6); err == nil && named && !taken {
			out.MHz = append(out.MHz, t)
			t += "m"
		}
		offer = append(offer, t)
	}
	if len(out.MHz) == 0 {
		return nil
	}
	out.Offer = strings.Join(offer, " ")
	return &out
}

// MostFrequencies is how many frequencies are taken at once.
const MostFrequencies = 16

// ParseFrequencies reads one to sixteen frequencies in hertz: in MHz when bare, or with their unit, or as
// the name of a band, whose middle is taken. They may be parted by spaces, semicolons or slashes.
func ParseFrequencies(text string) ([]float64, error) {
	var out []float64
	seen := map[float64]bool{}
	left := strings.Trim(oneOf.ReplaceAllString(text, " "), " ;,/+\t&")
	if left = strings.Join(strings.FieldsFunc(left, func(r rune) bool { return strings.ContainsRune(" ;,/+&\t", r) }), " "); left != "" {
		return nil, fmt.Errorf("%q was not understood; write frequencies in MHz like 7.1 14.2, or bands like 40m 20m", left)
	}
	for _, t := range oneOf.FindAllString(text, -1) {
		t = strings.Trim(strings.TrimSpace(t), ",;")
		hz := 0.0
		if m := bandName.FindStringSubmatch(t); m != nil {
			b, ok := band.Named(1, m[1]+"m")
			if !ok {
				return nil, fmt.Errorf("%q is not a band; bands are named like 40m or 20m", t)
			}
			hz = b.Centre()
		} else {
			r, err := quantity.ParseFrequency(t, "MHz")
			if err != nil {
				return nil, err
			}
			hz = r.Value
		}
		if !seen[hz] {
			out, seen[hz] = append(out, hz), true
		}
	}
	switch {
	case len(out) == 0:
		return nil, fmt.Errorf("no frequency was typed; write it in MHz like 7.1, or as a band like 40m")
	case len(out) > MostFrequencies:
		return nil, fmt.Errorf("%d frequencies found; at most %d are taken", len(out), MostFrequencies)
	}
	return out, nil
}

// Texts writes values as the texts of their fields, so that a form can be filled with them. Lengths stand
// as they were typed, when with a unit, and otherwise in the reader's system.
func Texts(fields []Field, v Values, units quantity.System) map[string]string {
	out := map[string]string{}
	for _, f := range fields {
		switch f.Kind {
		case Length, Size:
			if l, ok := v.Sizes[f.ID]; ok {
				out[f.ID] = Text(f, l, units)
			}
		case Frequencies:
			var parts []string
			for i := 0; ; i++ {
				n, ok := v.Numbers[Nth(f.ID, i)]
				if !ok {
					break
				}
				parts = append(parts, strconv.FormatFloat(n/1e6, 'f', -1, 64))
			}
			out[f.ID] = strings.Join(parts, " ")
		case Count, Amount:
			if n, ok := v.Numbers[f.ID]; ok {
				digits := 7
				if f.Kind == Amount && n != math.Trunc(n) {
					digits = 4 // no field of an amount is known better
				}
				out[f.ID] = strconv.FormatFloat(n, 'g', digits, 64)
			}
		case Dial:
			if n, ok := v.Numbers[f.ID]; ok {
				out[f.ID] = strconv.FormatFloat(n, 'g', 7, 64)
				if w := v.Words[f.ID]; w != "" {
					out[f.ID] = WriteDial(n, w)
				}
			}
		default:
			if w := v.Words[f.ID]; w != "" {
				out[f.ID] = w
			}
		}
	}
	return out
}

// Text writes a length for a form.
func Text(f Field, l quantity.Length, units quantity.System) string {
	switch {
	case l.IsZero():
		return ""
	case strings.ContainsAny(strings.ToLower(l.Typed), `abcdefghijklmnopqrstuvwxyz'"′″`):
		return l.Typed
	case f.Kind == Size && f.Unit == "in":
		return units.Small(l.M)
	case f.Kind == Size:
		return strconv.FormatFloat(math.Round(l.M*1e6)/1e3, 'f', -1, 64) + " mm"
	}
	return units.Exact(l.M)
}
