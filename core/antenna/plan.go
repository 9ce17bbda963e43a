package antenna

import (
	"math"

	"reed/core/entry"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Form is a request as a form sends it.
type Form = entry.Form[Request]

// Request asks for a plan. Zero values take the family's custom; Ground is an earth preset's ID.
type Request struct {
	Shape       `json:"-"`
	HalfWaves   int             `json:"half_waves,omitempty"`
	Ground      string          `json:"ground,omitempty"`
	Knot        quantity.Length `json:"knot,omitzero"`
	TrimPercent float64         `json:"trim_percent,omitempty"`
	PowerW      float64         `json:"power_w,omitempty"`
	Units       quantity.System `json:"imperial,omitempty"` // how lengths in sentences are printed
	// Measured are the lengths that were measured after cutting, by the key of the piece.
	Measured map[string]quantity.Length `json:"measured,omitempty"`
	// Hung says that they were measured between the knots, as the wires hang, and not on the cut wire from end to end.
	Hung bool `json:"measured_hung,omitempty"`
	// Solved are lengths that were found by solving the antenna; they stand for those of the closed forms.
	Solved []Solved `json:"solved,omitempty"`
}

// Solved is a length by the solver: Size is that of the shape's field, from which the cut list follows. Piece is the piece
// that it is told of. Either name may be empty. Of what is set on each band it is the setting on one: its frequency, and the
// coil's henries, the capacitor's farads or the length in Size.
type Solved struct {
	Piece       string          `json:"piece"`
	Field       string          `json:"field"`
	Size        quantity.Length `json:"size"`
	FrequencyHz float64         `json:"frequency_hz,omitempty"`
	Henries     float64         `json:"henries,omitempty"`
	Farads      float64         `json:"farads,omitempty"`
}

// Setting returns the solver's setting at a frequency, empty where it found none.
func (r Request) Setting(f float64) Solved {
	for _, x := range r.Solved {
		if x.FrequencyHz > 0 && math.Abs(x.FrequencyHz-f) < 0.5 {
			return x
		}
	}
	return Solved{}
}

// Allowance is wire that is cut but does not radiate as length.
type Allowance struct {
	Name   string          `json:"name"`
	Length quantity.Length `json:"length"`
}

// Piece is one line of the cut list. Cut = Electrical + Allowances + Trim. Of names the wire to cut it from. AtHand marks a typed length:
// the wire exists already and gets no allowance.
type Piece struct {
	Name       string          `json:"name"`
	Title      string          `json:"title"` // how many of them, in words
	Of         string          `json:"of"`
	Count      int             `json:"count"`
	Electrical quantity.Length `json:"electrical"`
	Allowances []Allowance     `json:"allowances"`
	Trim       quantity.Length `json:"trim"`
	Cut        quantity.Length `json:"cut"`
	AtHand     bool            `json:"at_hand,omitempty"`
}

// Table is several answers side by side: bands, lengths to choose from, settings. Estimates are the columns by a closed form that the
// forecast replaces once it is there.
type Table struct {
	Title     string     `json:"title"`
	Columns   []string   `json:"columns"`
	Rows      [][]string `json:"rows"`
	Note      string     `json:"note,omitempty"`
	Estimates []int      `json:"estimates,omitempty"`
}

// School is one answer to a question on which practitioners disagree.
type School struct {
	Question string `json:"question"`
	Way      string `json:"way"`
	Figures  string `json:"figures"`
	Says     string `json:"says"`
}

// Mark is a place on a strip in millimetres from its edge.
type Mark struct {
	MM   float64 `json:"mm"`
	Text string  `json:"text"`
}

// Strip is printed at its true size, to be laid on a coil, a whip or a line.
type Strip struct {
	Title string  `json:"title"`
	Edge  string  `json:"edge"` // what the zero is laid against
	MM    float64 `json:"mm"`
	Marks []Mark  `json:"marks"`
}

// Plan answers a Request. Provisional says why its figures will be bettered.
type Plan struct {
	Shape       Shape           `json:"-"`
	Record      Record          `json:"shape"` // the shape as it is written
	Fields      []entry.Field   `json:"fields"`
	Factor      Factor          `json:"factor"`
	Pieces      []Piece         `json:"pieces"`
	Wire        Wire            `json:"wire"`
	Drawing     Drawing         `json:"drawing"`
	Faults      []Fault         `json:"faults"`
	Sentence    string          `json:"sentence"`
	Expect      string          `json:"expect"`
	Schools     []School        `json:"schools"`
	Figures     []phrase.Figure `json:"figures"`
	Tables      []Table         `json:"tables"`
	Strips      []Strip         `json:"strips"`
	Provisional string          `json:"provisional,omitempty"`
	Called      string          `json:"called,omitempty"` // a name for it, where nobody gives it another
	Likely      string          `json:"likely,omitempty"` // between which lengths the right one of the first piece lies
	WireUsed    float64         `json:"wire_used_m"`
	WireSays    string          `json:"wire_says"`
	Measure     *Measure        `json:"measure,omitempty"`
}

// Danger is a safety check that belongs to one family.
type Danger struct{ Code, Title, Text, Figure string }

// HasError reports whether any fault is an error.
func HasError(fs []Fault) bool {
	for _, f := range fs {
		if f.Severity == "error" {
			return true
		}
	}
	return false
}

// Or is a number, or another one where it is zero.
func Or(v, otherwise float64) float64 {
	if v == 0 {
		return otherwise
	}
	return v
}

// LengthOr keeps a given length and otherwise sets a computed one.
func LengthOr(l quantity.Length, m float64) quantity.Length {
	if l.IsZero() {
		return quantity.Metres(m)
	}
	return l
}

// Fill keeps a given length among the Values and otherwise sets a computed one; it returns its metres.
func (s *Shape) Fill(id string, m float64) float64 {
	l := LengthOr(s.Sizes[id], m)
	s.Put(id, l)
	return l.M
}

// ServedWith reports whether a wire can serve a band that wants one length with one that wants another: half of what they
// differ by is its error on both.
func ServedWith(want, other float64) bool { return math.Abs(want/other-1) < 0.08 }

// FillNumber keeps a given number among the Values and otherwise sets a usual one.
func (s *Shape) FillNumber(id string, otherwise float64) float64 {
	n := s.N(id, otherwise)
	s.PutNumber(id, n)
	return n
}
