package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/numeric"
)

// plain is the setting itself.
func plain(setting, _ float64) float64 { return setting }

// quarterWave in metres.
func quarterWave(hz float64) float64 { return numeric.Light / hz / 4 }

// Law is the law of a control for this antenna. ok is false where nothing is known of it.
func (a Antenna) Law(c Control) (antenna.Law, bool) {
	if c.law == nil {
		return antenna.Law{}, false
	}
	return c.law(a.Shape)
}

// dialLaw: nothing is known of a tuner's dial but that it moves evenly over a small range.
func dialLaw(antenna.Shape) (antenna.Law, bool) {
	return antenna.Law{Of: plain, Against: func(hz float64) float64 { return math.Log(hz / 1e7) }, Mean: [2]float64{0, 0},
		Spread: [2]float64{1e4, 1e4}, Lo: 0, Hi: 1000, Read: 0.3, Rough: 1, Local: true}, true
}

// Control is one thing by which an antenna is set to a frequency, with the place its reading is counted from.
type Control struct {
	entry.Field
	Edge string
	// Marked is how a dial is marked, where marks of it say: entry.Letters or entry.Positions.
	Marked string
	law    func(antenna.Shape) (antenna.Law, bool)
}

// Controls lists what an antenna of this kind is set by: its own, and the dials of a tuner, which may follow
// any antenna. The order is that of the form.
func (a Antenna) Controls() []Control {
	var out []Control
	if a.kind.controls != nil {
		out = a.kind.controls()
	}
	for i, label := range []string{"Tuner, radio's side", "Tuner, coil", "Tuner, antenna's side"} {
		f := entry.Field{ID: fmt.Sprintf("dial_%d", i+1), Label: label, Kind: entry.Dial, Max: 1000,
			Help: "a number, a letter, or #3 for a switch"}
		out = append(out, Control{Field: f, Edge: "the dial's own scale", law: dialLaw})
	}
	return out
}
