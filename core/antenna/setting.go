package antenna

import (
	"math"

	"reed/core/circuit"
	"reed/core/entry"
)

// Control is one thing by which an antenna is set to a frequency, with the place its reading is counted from.
type Control struct {
	entry.Field
	Edge string
	law  func(Shape) (Law, bool)
}

// Law is how a setting answers to a frequency: Of(setting, hz) = a + b Against(hz), where a and b are known
// beforehand to be about Mean with the standard deviations Spread. Settings are in metres or in the dial's own
// counts and lie between Lo and Hi; Of rises or falls all the way. Read is how well a setting is read off, Rough
// by how much Of scatters beyond that. A Local law holds within one band only.
type Law struct {
	Of           func(setting, hz float64) float64
	Against      func(hz float64) float64
	Mean, Spread [2]float64
	Lo, Hi       float64
	Read, Rough  float64
	Local        bool
}

// plain is the setting itself.
func plain(setting, _ float64) float64 { return setting }

// quarterWave in metres.
func quarterWave(hz float64) float64 { return Light / hz / 4 }

// Controls lists what an antenna of this kind is set by: its own, and the dials of a tuner, which may follow
// any antenna. The order is that of the form.
func (s Shape) Controls() []Control {
	dial := func(id, label string) Control {
		return Control{Field: entry.Field{ID: id, Label: label, Kind: entry.Amount, Max: 1000}, Edge: "the dial's own scale", law: dialLaw}
	}
	var own []Control
	switch s.Family {
	case "whip":
		own = []Control{
			{Field: entry.Field{ID: "radiator", Label: "Whip out", Kind: entry.Length, Max: 20}, Edge: "the base insulator's top", law: rodLaw},
			{Field: entry.Field{ID: "sections", Label: "Sections out", Kind: entry.Amount, Max: 30, Help: "parts of one as a decimal, like 6.5"}, Edge: "the whip's foot", law: sectionLaw},
		}
	case "loaded-whip", "whip-pair":
		own = []Control{
			{Field: entry.Field{ID: "tap", Label: "Tap at", Kind: entry.Size, Unit: "mm", Max: 1.5}, Edge: "the end of the winding nearer the feed", law: tapLaw},
			{Field: entry.Field{ID: "whip", Label: "Whip beyond the coil", Kind: entry.Length, Max: 12}, Edge: "the coil's top", law: beyondLaw},
		}
	case "small-loop":
		own = []Control{{Field: entry.Field{ID: "dial", Label: "Capacitor's dial", Kind: entry.Amount, Max: 10000}, Edge: "the dial's own scale", law: loopLaw}}
	}
	return append(own, dial("dial_1", "Tuner, radio's side"), dial("dial_2", "Tuner, coil"), dial("dial_3", "Tuner, antenna's side"))
}

// Law is the law of a control for this antenna. ok is false where nothing is known of it.
func (s Shape) Law(c Control) (Law, bool) {
	if c.law == nil {
		return Law{}, false
	}
	return c.law(s.copied())
}

// rodLaw: a rod of full size is a share of the quarter-wave, less what fitting and leads add.
func rodLaw(Shape) (Law, bool) {
	return Law{Of: plain, Against: quarterWave, Mean: [2]float64{-0.02, 0.955}, Spread: [2]float64{0.1, 0.03}, Lo: 0.05, Hi: 20, Read: 0.003, Rough: 0.004}, true
}

func sectionLaw(s Shape) (Law, bool) {
	each := s.size("whip_full", 5.6) / s.number("whip_sections", 10)
	return Law{Of: plain, Against: quarterWave, Mean: [2]float64{0, 0.955 / each}, Spread: [2]float64{0.6, 0.1 / each}, Lo: 0, Hi: 40, Read: 0.05, Rough: 0.05}, true
}

// tapLaw: the part of the coil in circuit has to cancel the rods' reactance. Both go by their logarithms, so
// that a former or a rod taken a little wrong is a constant.
func tapLaw(s Shape) (Law, bool) {
	x, coil := s.loadedParts(&Plan{})
	if coil.Turns <= 0 || coil.Winding() <= 0 {
		return Law{}, false
	}
	density := coil.Turns / coil.Winding()
	return Law{
		Of: func(m, _ float64) float64 {
			return math.Log(circuit.Solenoid(density*m, coil.Mean(), m))
		},
		Against: func(hz float64) float64 {
			// Where the rods are long enough no coil is wanted; a nanohenry stands for none.
			return math.Log(math.Max(x.reactance(hz)/(2*math.Pi*hz), 1e-9))
		},
		Mean: [2]float64{0, 1}, Spread: [2]float64{1.5, 0.07}, Lo: 0.0002, Hi: 3, Read: 0.001, Rough: 0.015,
	}, true
}

// beyondLaw: with the tap left alone, the inductance that the whip wants stays that of the coil.
func beyondLaw(s Shape) (Law, bool) {
	x, _ := s.loadedParts(&Plan{})
	at := func(m, hz float64) float64 {
		x := x
		x.upper = m
		return math.Log(math.Max(x.reactance(hz)/(2*math.Pi*hz), 1e-10))
	}
	f := s.lowest()
	return Law{Of: at, Against: func(hz float64) float64 { return math.Log(hz / f) }, Mean: [2]float64{at(s.M("whip"), f), 0}, Spread: [2]float64{3, 0.1}, Lo: 0.1, Hi: 12, Read: 0.003, Rough: 0.004}, true
}

// loopLaw: the dial is taken to turn the capacitance evenly; its zero and its scale come from two marks.
func loopLaw(s Shape) (Law, bool) {
	ring := s.ring()
	return Law{Of: plain, Against: func(hz float64) float64 { return ring.Capacitance(hz) * 1e12 }, Mean: [2]float64{0, 0}, Spread: [2]float64{1000, 100}, Lo: 0, Hi: 10000, Read: 0.3, Rough: 0.5}, true
}

// dialLaw: nothing is known of a tuner's dial but that it moves evenly over a small range.
func dialLaw(Shape) (Law, bool) {
	return Law{Of: plain, Against: func(hz float64) float64 { return math.Log(hz / 1e7) }, Mean: [2]float64{0, 0}, Spread: [2]float64{1e4, 1e4}, Lo: 0, Hi: 1000, Read: 0.3, Rough: 1, Local: true}, true
}
