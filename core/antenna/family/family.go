// Package family is every kind of antenna that is known: one file each, with all that is its own. Everybody else asks
// an Antenna, which is a shape together with its family; nobody reaches into a family, and none has to know which
// there are.
package family

import (
	"math"
	"strings"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Ways in which an antenna answers to a change of its lengths.
const (
	Wired    = "wire"     // frequency times length stays nearly constant
	Loaded   = "loaded"   // it moves further than that for the same cut
	Settings = "settings" // it is set, not cut
	NoTrim   = "none"     // no length makes it resonant
)

// Against what an antenna is fed.
const (
	Whole        = "whole"        // it has both halves itself
	Counterpoise = "counterpoise" // it needs a counterpoise, or takes the coax for one
	Radial       = "radials"      // it stands over radials
	Aside        = "aside"        // by a coupling loop or an open line: the coax takes no part
)

// Sketch is a wire as it hangs in a few strokes, on a sheet of 120 by 50: paths of the wire, its pole and what is thin
// beside it, and the feed point.
type Sketch struct {
	Wire string     `json:"wire"`
	Pole string     `json:"pole,omitempty"`
	Thin string     `json:"thin,omitempty"`
	Feed [2]float64 `json:"feed"`
}

// Variant is one way to hang a family.
type Variant struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Sketch Sketch `json:"sketch"`
	// Feeding is against what it is fed when it hangs so, where that differs from its family's.
	Feeding string `json:"feeding,omitempty"`
}

// Family is one kind of antenna. Multi says that it is asked for several frequencies, Usual that it is offered first.
type Family struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Short    string    `json:"short"`
	Group    string    `json:"group"`
	Variants []Variant `json:"variants"`
	Multi    bool      `json:"multi"`
	Usual    bool      `json:"usual,omitempty"`
	Trims    string    `json:"trims"`
	Feeding  string    `json:"feeding"`
	// Ready names the ready-made thing that it is put up from, where a bag does not list it by its parts.
	Ready string `json:"-"`
	// OneForAll says that one wire serves harmonic bands too, on which it is several half-waves long.
	OneForAll bool `json:"-"`
	// Trust is how far its forecast holds and why, Why how it comes that the solver finds other lengths than the closed
	// form. Either may be empty.
	Trust, Why string `json:"-"`
	// Tuning is said where it is set and not cut.
	Tuning Tuning `json:"-"`
	// Practice are the ways in which one can practise with it.
	Practice []Practice `json:"-"`

	matters  []string // fields that are asked for before all others, beside those that it must have
	wholes   []whole  // lengths that are the sum of others
	stands   []string // amounts that a plan chooses together with its lengths: they stay where others of these are found
	fields   func(antenna.Shape) []entry.Field
	plan     func(antenna.Request, antenna.Wire, earth.Ground) antenna.Plan
	layout   func(antenna.Shape) (antenna.Drawing, []antenna.Fault)
	hot      func(s antenna.Shape, powerW float64) (where string, volts float64)
	near     func(s antenna.Shape, powerW, f float64) float64 // metres
	turns    func(s antenna.Shape, f, henries float64) (float64, bool)
	dangers  func(antenna.Shape, quantity.System) []antenna.Danger // while sending, beside those that every antenna has
	electric func(s antenna.Shape, f float64, e *antenna.Electric) // what the lines do not show
	knobs    func(antenna.Shape) []Knob                            // the lengths that bring it to its frequencies
	set      func(s antenna.Shape, id string, m float64) antenna.Shape
	wind     func(s antenna.Shape, id string, turns float64) antenna.Shape // sets turns, and what changes with them
	fixes    map[string]string                                             // typed fields that fix another: a winding's wire its turns
	wires    func(antenna.Shape) []string                                  // fields that are lengths of wire, beside radiator and leg
	controls func() []Control                                              // by which it is set
	mend     func(Match) string                                            // what brings its resistance to 50 ohm
	fold     func(s antenna.Shape, m float64) (antenna.Shape, []string, bool)
	beam     *Beam
}

// Tuning holds the instructions for an antenna that is set: for a dip above, a dip below, and none.
type Tuning struct{ Above, Below, Lost string }

// Practice is a way to practise: hung so, fed so many metres up, its far end higher by a share of a wavelength, and on
// no lower frequency in hertz than a pole allows.
type Practice struct {
	Variant      string
	Height, Rise float64
	LeastHz      float64
}

// Antenna is a shape with its family.
type Antenna struct {
	antenna.Shape
	kind  Family
	known bool
}

// Of is the antenna that a shape is of. Of a family that is not known everything is empty.
func Of(s antenna.Shape) Antenna {
	f, ok := Named(s.Family)
	return Antenna{s, f, ok}
}

// Kind is its family.
func (a Antenna) Kind() Family { return a.kind }

// families is every family in the order in which they are offered.
var families = []func() Family{
	dipole, linked, doublet, whipPair,
	endFed, endFedLoaded, random, jPole, fence,
	vertical, multiVertical, whip, loadedWhip, stick, helix,
	rectangle, loop,
}

// Families lists every family in the order in which they are offered.
func Families() []Family {
	out := make([]Family, len(families))
	for i, f := range families {
		out[i] = f()
	}
	return out
}

// Named finds a family.
func Named(id string) (Family, bool) {
	for _, f := range families {
		if fam := f(); fam.ID == id {
			return fam, true
		}
	}
	return Family{}, false
}

func (f Family) variant(id string) bool {
	for _, v := range f.Variants {
		if v.ID == id {
			return true
		}
	}
	return false
}

func familyIDs() string {
	var ids []string
	for _, f := range Families() {
		ids = append(ids, f.ID)
	}
	return strings.Join(ids, ", ")
}

// Hot is where the voltage is highest at a power in watts, and its peak in volts; none is zero.
func (a Antenna) Hot(powerW float64) (where string, volts float64) {
	if a.kind.hot == nil || powerW <= 0 {
		return "", 0
	}
	where, volts = a.kind.hot(a.Shape, powerW)
	return where, tens(volts)
}

// tens rounds an estimated voltage to tens, as it is shown everywhere.
func tens(volts float64) float64 { return math.Ceil(volts/10-1e-6) * 10 }

// Near is the distance in metres from its conductor within which its near field passes what people may be exposed to, at a
// power in watts on f hertz; 0 where only the solver knows.
func (a Antenna) Near(powerW, f float64) float64 {
	if a.kind.near == nil || powerW <= 0 {
		return 0
	}
	return a.kind.near(a.Shape, powerW, f)
}

// Folded is the antenna with so many metres of each free end hanging straight down, and the fields that say so; ok is false
// where it has none to fold, or not so much.
func (a Antenna) Folded(m float64) (s antenna.Shape, fields []string, ok bool) {
	if a.kind.fold == nil || m <= 0 {
		return a.Shape, nil, false
	}
	return a.kind.fold(a.Shape, m)
}

// Turns is how many turns of its coil are in circuit where they show an inductance in henries at f hertz; ok is false where
// it has no tapped coil, or that has not so many.
func (a Antenna) Turns(f, henries float64) (turns float64, ok bool) {
	if a.kind.turns == nil || henries <= 0 {
		return 0, false
	}
	return a.kind.turns(a.Shape, f, henries)
}

// Dangers lists what this family has to be careful of while sending.
func (a Antenna) Dangers(units quantity.System) []antenna.Danger {
	if a.kind.dangers == nil {
		return nil
	}
	return a.kind.dangers(a.Shape, units)
}

// Trims is the way in which it answers to a change of its lengths.
func (a Antenna) Trims() string { return a.kind.Trims }

// Feeding is against what it is fed.
func (a Antenna) Feeding() string {
	for _, v := range a.kind.Variants {
		if v.ID == a.Variant && v.Feeding != "" {
			return v.Feeding
		}
	}
	return a.kind.Feeding
}

// Slider is the length of it that is slid in and out, so that a change costs nothing and is taken back at once.
func (a Antenna) Slider() (k Knob, ok bool) {
	for _, k := range a.lengths() {
		if k.Way == Slide {
			return k, true
		}
	}
	return Knob{}, false
}

// Electrics returns its parts at f hertz beside its lines, with the settings that closed forms give for it.
func (a Antenna) Electrics(f float64) antenna.Electric {
	e := antenna.Electric{TransformsFrom: a.Transforms()}
	if a.kind.electric != nil {
		a.kind.electric(a.Shape, f, &e)
	}
	return e
}

// Wires are the fields that are lengths of wire, as a tape that is wrong would change them all.
func (a Antenna) Wires() []string {
	out := []string{antenna.Radiator, antenna.LegB}
	if a.kind.wires != nil {
		out = append(out, a.kind.wires(a.Shape)...)
	}
	return out
}

// Beam returns the lengths of a directive antenna that are optimised together, nil for others.
func (a Antenna) Beam() *Beam { return a.kind.beam }
