// Package antenna holds what an antenna is made of, whatever its kind: its shape as data, wires and their slowing, the
// layout in space, the open line as a picture of a wire, pieces to cut and figures to show. Lengths in metres,
// frequencies in hertz, unless said otherwise.
package antenna

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"reed/core/entry"
	"reed/core/quantity"
)

// Fault is something to be said about one field.
type Fault = entry.Fault

// Say is a fault in a sentence; see entry.Say.
func Say(path, severity, format string, args ...any) Fault {
	return entry.Say(path, severity, format, args...)
}

// FaultAt is a fault in a text.
func FaultAt(path, severity, text string) Fault {
	return Fault{Path: path, Severity: severity, Text: text}
}

// IDs of the fields that more than one family has. What a shape measures stands among its Values by the ID of its
// field, and nowhere else.
const (
	Radiator           = "radiator" // a dipole's first leg, otherwise the whole radiator
	LegB               = "leg_b"    // a dipole's second leg
	FeedHeight         = "feed_height"
	FarHeight          = "far_height" // of the low or far end
	PoleHeight         = "pole_height"
	ApexAngle          = "apex_angle" // degrees between the legs
	Bearing            = "bearing"    // degrees from north
	CounterpoiseCount  = "counterpoise_count"
	CounterpoiseLength = "counterpoise_length"
	CounterpoiseHeight = "counterpoise_height"
	RadialsCount       = "radials_count"
	RadialsLength      = "radials_length"
	RadialsHeight      = "radials_height"
	PrimaryTurns       = "primary_turns"
	SecondaryTurns     = "secondary_turns"
	Rod                = "earth_rod" // length in metres in the soil
)

// Shape describes an antenna and how it hangs: frequencies in hertz, and among the Values lengths, angles in
// degrees, counts and words by the IDs of the family's fields. Parts says by role which things of the bag it is made
// of. A copy of a shape may be changed: Values are never shared. It is written as its Record.
type Shape struct {
	Family       string            `json:"-"`
	Variant      string            `json:"-"`
	FrequencyHz  float64           `json:"-"`
	More         []float64         `json:"-"` // further frequencies that it is for
	Wire         string            `json:"-"`
	WireData     *Wire             `json:"-"` // of a wire from the bag, as it was then
	Parts        map[string]string `json:"-"`
	entry.Values `json:"-"`
}

// WireSet is a set of equal wires: radials or counterpoise. Height is that of their far ends.
type WireSet struct {
	Count  int             `json:"count"`
	Length quantity.Length `json:"length,omitzero"`
	Height quantity.Length `json:"height,omitzero"`
}

func (s Shape) Radiator() quantity.Length   { return s.Sizes[Radiator] }
func (s Shape) LegB() quantity.Length       { return s.Sizes[LegB] }
func (s Shape) FeedHeight() quantity.Length { return s.Sizes[FeedHeight] }
func (s Shape) FarHeight() quantity.Length  { return s.Sizes[FarHeight] }
func (s Shape) PoleHeight() quantity.Length { return s.Sizes[PoleHeight] }
func (s Shape) ApexAngle() float64          { return s.N(ApexAngle, 0) }
func (s Shape) Bearing() float64            { return s.N(Bearing, 0) }
func (s Shape) Primary() int                { return int(s.N(PrimaryTurns, 0)) }
func (s Shape) Secondary() int              { return int(s.N(SecondaryTurns, 0)) }

// Counterpoise is the counterpoise's wires, as they stand among the Values.
func (s Shape) Counterpoise() WireSet {
	return WireSet{int(s.N(CounterpoiseCount, 0)), s.Sizes[CounterpoiseLength], s.Sizes[CounterpoiseHeight]}
}

// Radials are the radials, as they stand among the Values.
func (s Shape) Radials() WireSet {
	return WireSet{int(s.N(RadialsCount, 0)), s.Sizes[RadialsLength], s.Sizes[RadialsHeight]}
}

// PutCounterpoise sets all of the counterpoise.
func (s *Shape) PutCounterpoise(w WireSet) {
	s.putSet(w, CounterpoiseCount, CounterpoiseLength, CounterpoiseHeight)
}

// PutRadials sets all of the radials.
func (s *Shape) PutRadials(w WireSet) { s.putSet(w, RadialsCount, RadialsLength, RadialsHeight) }

func (s *Shape) putSet(w WireSet, count, length, height string) {
	s.PutNumber(count, float64(w.Count))
	s.Put(length, w.Length)
	s.Put(height, w.Height)
}

// Earthed reports whether it stands on radials that lie on the ground, Raised whether on some in the air.
func (s Shape) Earthed() bool { return s.Variant == "ground-radials" }
func (s Shape) Raised() bool  { return s.Variant == "raised-radials" }

// With is the shape with one of its lengths set.
func (s Shape) With(id string, l quantity.Length) Shape { s.Put(id, l); return s }

// WithNumber is the shape with one of its numbers set.
func (s Shape) WithNumber(id string, n float64) Shape { s.PutNumber(id, n); return s }

// WithCounterpoise is the shape with another counterpoise.
func (s Shape) WithCounterpoise(w WireSet) Shape { s.PutCounterpoise(w); return s }

// WithRadials is the shape with other radials.
func (s Shape) WithRadials(w WireSet) Shape { s.PutRadials(w); return s }

// Total is the length in metres of the whole radiator.
func (s Shape) Total() float64 { return s.M(Radiator) + s.M(LegB) }

// Ratio is the transformer's impedance ratio as people write it, "1:49", or empty without one.
func (s Shape) Ratio() string {
	if s.Primary() <= 0 || s.Secondary() <= 0 {
		return ""
	}
	return fmt.Sprintf("1:%.3g", s.Transforms())
}

func (s Shape) Transforms() float64 {
	if s.Primary() <= 0 || s.Secondary() <= 0 {
		return 1
	}
	return math.Pow(float64(s.Secondary())/float64(s.Primary()), 2)
}

// All lists every frequency in hertz that it is for, the highest first.
func (s Shape) All() []float64 {
	out := append([]float64{s.FrequencyHz}, s.More...)
	sort.Sort(sort.Reverse(sort.Float64Slice(out)))
	return out
}

// Wanted is the frequency it is for that lies nearest to one.
func (s Shape) Wanted(hz float64) float64 {
	out := s.FrequencyHz
	for _, f := range s.All() {
		if math.Abs(f-hz) < math.Abs(out-hz) {
			out = f
		}
	}
	return out
}

func (s Shape) Lowest() float64 { all := s.All(); return all[len(all)-1] }

// WireKind is the wire that it is made of.
func (s Shape) WireKind() (Wire, bool) {
	if s.WireData != nil {
		return *s.WireData, true
	}
	return WireNamed(s.Wire)
}

// Given lists the IDs of the lengths and numbers that are set, in alphabetical order. Of a request these are what the operator
// typed: a plan keeps them.
func (s Shape) Given() []string {
	var out []string
	for id, l := range s.Sizes {
		if !l.IsZero() {
			out = append(out, id)
		}
	}
	for id := range s.Numbers {
		out = append(out, id)
	}
	sort.Strings(out)
	return out
}

// Said reports whether a number was given, were it zero.
func (s Shape) Said(id string) bool { _, ok := s.Numbers[id]; return ok }

// counted reports whether a number is how many wires there are, of which none is an answer too.
func counted(id string) bool { return id == CounterpoiseCount || id == RadialsCount }

// Take stores what was read of a form. No turns, or an angle of zero, are as good as nothing; no wires are an answer.
func (s *Shape) Take(v entry.Values) {
	for id, l := range v.Sizes {
		s.Put(id, l)
	}
	for id, n := range v.Numbers {
		switch {
		case strings.HasPrefix(id, "for"):
		case n == 0 && recorded(id) && !counted(id):
			s.Drop(id)
		default:
			s.PutNumber(id, n)
		}
	}
	for id, w := range v.Words {
		s.PutWord(id, w)
	}
	if f, ok := v.Numbers["for"]; ok {
		s.FrequencyHz, s.More = f, nil
		for i := 1; ; i++ {
			f, ok := v.Numbers[entry.Nth("for", i)]
			if !ok {
				break
			}
			s.More = append(s.More, f)
		}
	}
}

// ValuesOf are those of some fields, its frequencies among them.
func (s Shape) ValuesOf(fields []entry.Field) entry.Values {
	var v entry.Values
	for _, f := range fields {
		switch f.Kind {
		case entry.Length, entry.Size:
			if l := s.Sizes[f.ID]; !l.IsZero() {
				v.Put(f.ID, l)
			}
		case entry.Frequencies:
			for i, hz := range append([]float64{s.FrequencyHz}, s.More...) {
				if hz > 0 {
					v.PutNumber(entry.Nth(f.ID, i), hz)
				}
			}
		case entry.Count, entry.Amount:
			if n, ok := s.Numbers[f.ID]; ok && (n != 0 || !recorded(f.ID) || counted(f.ID)) {
				v.PutNumber(f.ID, n)
			}
		default:
			if w := s.Words[f.ID]; w != "" {
				v.PutWord(f.ID, w)
			}
		}
	}
	return v
}

// Bounds of a shape beyond which nothing is laid out or computed: what nobody carries, and what would make a
// computation without end. The contract states them too.
const (
	MostWires       = 240    // radials, counterpoises and turns
	LongestWire     = 2000.0 // metres
	MostFrequencies = entry.MostFrequencies
	LeastHz, MostHz = 1.8e6, 54e6
)

// Legs is how many wires are changed together when the radiator is.
func (s Shape) Legs() int {
	if s.M(LegB) > 0 {
		return 2
	}
	return 1
}
