package family

import (
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/quantity"
)

// Ways to change a length.
const (
	Fold  = "fold"  // a wire, folded back and tied before it is cut
	Slide = "slide" // a rod, slid in and out
	Wind  = "wind"  // turns of a winding
)

// Part is one length with a name of its own: its field and label.
type Part struct {
	Field, Label string
	of           func(antenna.Shape) float64 // its length in metres, where that is not the field's
}

// Length returns its length in metres.
func (p Part) Length(s antenna.Shape) float64 {
	if p.of != nil {
		return p.of(s)
	}
	return s.M(p.Field)
}

// Knob is a length that is changed to move a resonance: the shape's field, what it is called, the line of the cut list
// that it is, and the frequency in hertz that it is for. Legs is how many wires are changed alike.
type Knob struct {
	Field string
	Label string
	Piece string
	F     float64
	Legs  int
	Way   string
	// High says that it is fed at a high impedance: what counts is the best match behind the transformer.
	High bool
	// Radials have no resonance of their own: they move the radiator's, and where they are within reach they do so with
	// the pole up.
	Radials bool
	// Nested lengths are counted from the feed: what is taken off an inner one moves all beyond.
	Nested bool
	// Parts are shown in place of the whole length.
	Parts []Part
	of    func(antenna.Shape) float64 // the length in metres, where that is not the field's
	// Least and Most are as far as it goes in metres, 0 without a bound, and At what it meets there.
	Least, Most float64
	AtLeast     string
	// Within is the range about its length that the solver looks in, as shares of it.
	Within [2]float64
}

// usualRange is about a length that closed forms gave.
var usualRange = [2]float64{0.88, 1.15}

// lengths are the family's own knobs.
func (a Antenna) lengths() []Knob {
	if a.kind.knobs == nil {
		return nil
	}
	out := a.kind.knobs(a.Shape)
	for i := range out {
		if out[i].F == 0 {
			out[i].F = a.FrequencyHz
		}
		if out[i].Within == [2]float64{} {
			out[i].Within = usualRange
		}
		if out[i].Way == "" {
			out[i].Way = Fold
		}
		if out[i].Legs == 0 {
			out[i].Legs = a.Legs()
		}
	}
	return out
}

// Knobs lists the lengths that bring it to its frequencies, innermost and highest band first; none where it is tuned.
// Where one radiator stands over raised radials, these come last.
func (a Antenna) Knobs() []Knob {
	if a.kind.Trims == NoTrim {
		return nil
	}
	out := a.lengths()
	if r := a.Radials(); len(out) == 1 && a.Raised() && r.Count > 0 && r.Length.M > 0 {
		out = append(out, Knob{Field: antenna.RadialsLength, Label: "radials", F: a.FrequencyHz, Legs: r.Count, Radials: true, Way: Fold,
			Within: usualRange})
	}
	return out
}

// Solved lists the lengths that the solver finds by resonance: the knobs without the radials. Those of an antenna that
// is set are found when it is set.
func (a Antenna) Solved() []Knob {
	if a.kind.Trims == Settings || a.kind.beam != nil {
		return nil
	}
	return a.lengths()
}

// Turns reports whether the length is counted in turns.
func (k Knob) Turns() bool { return k.Way == Wind }

// Length is a knob's length in metres, or its turns.
func (k Knob) Length(s antenna.Shape) float64 {
	if k.Turns() {
		return s.N(k.Field, 0)
	}
	if k.of != nil {
		return k.of(s)
	}
	return s.M(k.Field)
}

// Bound is a length in metres that it can have, the nearest to one.
func (k Knob) Bound(m float64) float64 {
	m = math.Max(m, k.Least)
	if k.Most > 0 {
		m = math.Min(m, k.Most)
	}
	return m
}

// Step is a change as one can make it: in whole millimetres from 3 on, or in half turns.
func (k Knob) Step(change float64) float64 {
	if k.Turns() {
		return math.Round(2*change) / 2
	}
	if change = math.Round(change*1000) / 1000; math.Abs(change) < 0.003 {
		return 0
	}
	return change
}

// Set is the antenna's shape with a knob's length changed, and with it what hangs on it.
func (k Knob) Set(s antenna.Shape, v float64) antenna.Shape {
	if k.Turns() {
		if wind := Of(s).kind.wind; wind != nil {
			return wind(s, k.Field, v)
		}
		return s.WithNumber(k.Field, v)
	}
	return Of(s).Set(k.Field, v)
}

// Set is the shape with one length in metres changed, and with it what hangs on that.
func (a Antenna) Set(id string, m float64) antenna.Shape {
	if a.kind.set != nil {
		return a.kind.set(a.Shape, id, m)
	}
	return setLength(a.Shape, id, m)
}

// Fixed reports whether one of the typed fields fixes another.
func (a Antenna) Fixed(typed []string, id string) bool {
	for by, field := range a.kind.fixes {
		if field == id && slices.Contains(typed, by) {
			return true
		}
	}
	return false
}

// setLength sets a length, and the second leg alike with the first.
func setLength(s antenna.Shape, id string, m float64) antenna.Shape {
	s.Put(id, quantity.Metres(m))
	if id == antenna.Radiator && s.M(antenna.LegB) > 0 {
		s.Put(antenna.LegB, quantity.Metres(m))
	}
	return s
}

// setLegs is setLength of legs in a V: ends whose height was computed hang where the new length puts them.
func setLegs(s antenna.Shape, id string, m float64) antenna.Shape {
	s = setLength(s, id, m)
	if s.ApexAngle() != 0 && s.FarHeight().Typed == "" && s.Variant == "inverted-v" {
		s.Put(antenna.FarHeight, quantity.Metres(math.Max(0, s.M(antenna.FeedHeight)-s.M(antenna.Radiator)*math.Cos(s.ApexAngle()*math.Pi/360))))
	}
	return s
}

// Beam lists the lengths of a directive antenna that are optimised together, and the wires that they make.
type Beam struct {
	Lengths []Part
	Wholes  []WholeWire
	// Close makes the shape agree with its lengths again.
	Close func(antenna.Shape) antenna.Shape
}

// WholeWire is one wire of a beam, bent from several lengths: its field if it has one, its piece of the cut list, and
// its length in metres. AtHand is the field in which a plan asks for one that exists, and Tail the length at both of its
// ends that follows from that and the frame.
type WholeWire struct {
	Field, Piece, Label string
	AtHand, Tail        string
	Length              func(antenna.Shape) float64
}

// Tails sets the tails of wires that exist to what is left of them beyond the frame.
func (b Beam) Tails(s antenna.Shape, whole func(w WholeWire) float64) antenna.Shape {
	for _, w := range b.Wholes {
		if m := whole(w); m > 0 && w.Tail != "" {
			s.Put(w.Tail, quantity.Metres(math.Max((m-s.M("width"))/2, leastTail)))
		}
	}
	return s
}

// leastTail is the shortest tail in metres that is bent from a wire.
const leastTail = 0.05
