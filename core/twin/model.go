// Package twin is the computed double of a set-up: from what was planned or recorded to wires in space, from
// their impedance through transformer, line and coax to the radio's socket, and what reaches the sky. What the
// record lacks is taken from stated defaults, and the list of them is part of every answer.
package twin

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/moment"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Setup is what is modelled: a set-up as built, or a plan, of whose coax nothing is known yet. Ground is a
// preset's ID; PowerW is what goes into the radio's socket, 0 meaning 10 W.
type Setup struct {
	Built   deployment.Built `json:"built"`
	Planned bool             `json:"planned"`
	Ground  string           `json:"ground"`
	PowerW  float64          `json:"power_w"`
}

// Defaults that stand in for what no record holds.
const (
	lying     = 0.03 // metres: how high a wire on the ground is taken
	chokeOhms = 3000 // of a common-mode choke, resistive
	shieldOut = 0.0025
	leads     = 1.5  // metres of battery lead and operator behind the radio
	person    = 0.01 // radius of that
)

func (s Setup) power() float64 {
	if s.PowerW > 0 {
		return s.PowerW
	}
	if s.Built.PowerW > 0 {
		return s.Built.PowerW
	}
	return 10
}

func (s Setup) earth() earth.Ground {
	g, ok := earth.Kind(s.Ground)
	if !ok {
		g, _ = earth.Kind("average")
	}
	return g
}

// Case is a set-up made ready for one frequency.
type Case struct {
	Model       moment.Model
	Electric    antenna.Electric
	Assumptions []string
	loads       []string // what each load of the model is
	coax        []bool   // which wires are the coax's outside
	coil        int      // load that a knob turns, -1 without
	earthed     bool
}

// builder gathers a case.
type builder struct {
	Case
	s    Setup
	wire antenna.Wire
	hub  moment.Vec
	f    float64 // hertz, that the case is made for
	drop float64 // how far everything is lowered, for radiators that stand on the ground
}

func (b *builder) say(format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	for _, a := range b.Assumptions {
		if a == text {
			return
		}
	}
	b.Assumptions = append(b.Assumptions, text)
}

// place is a point of the drawing for the solver: what lies on the ground is taken a little above it.
func (b *builder) place(p antenna.Point) moment.Vec {
	z := p[2] - b.drop
	if !b.earthed && z < lying {
		z = lying
		b.say("wires on the ground are taken %s above it", quantity.Metric(lying, 1))
	}
	return moment.Vec{p[0], p[1], math.Max(z, 0)}
}

func (b *builder) add(w moment.Wire) int {
	b.Model.Wires = append(b.Model.Wires, w)
	b.coax = append(b.coax, false)
	return len(b.Model.Wires) - 1
}

// insulated is a run of the antenna's own wire.
func (b *builder) insulated(from, to moment.Vec) int {
	w := b.wire
	out := moment.Wire{From: from, To: to, Radius: w.Radius, Resistivity: circuit.CopperResistivity, Permittivity: w.Permittivity, Outer: w.Outer}
	if w.Factor > 0 {
		// A velocity learned from sweeps stands for the jacket: an inductance that slows the wave to it.
		out.Permittivity, out.Outer = 1, w.Radius
		out.Inductance = antenna.Average(5, w.Radius) / antenna.Light * (1/(w.Factor*w.Factor) - 1)
		b.say("the wire slows the wave to %.3f, as learned from sweeps", w.Factor)
	}
	return b.add(out)
}

// rod is a run of bare metal.
func (b *builder) rod(from, to moment.Vec, diameter float64) int {
	return b.add(moment.Wire{From: from, To: to, Radius: diameter / 2, Resistivity: circuit.CopperResistivity,
		Inductance: b.Electric.SpreadHenries, Resistance: b.Electric.SpreadOhms})
}

func (b *builder) load(name string, at moment.Spot, r, l, c float64) int {
	b.Model.Loads = append(b.Model.Loads, moment.Load{Spot: at, R: r, L: l, C: c})
	b.loads = append(b.loads, name)
	return len(b.Model.Loads) - 1
}

// Build makes the model of a set-up at f hertz. Errors name what it cannot do.
func Build(s Setup, f float64, tables *earth.Tables) (Case, error) {
	shape := s.Built.Shape
	drawing, faults := shape.Layout()
	for _, x := range faults {
		if x.Severity == "error" {
			return Case{}, fmt.Errorf("%s", x.Text)
		}
	}
	b := &builder{s: s, f: f, wire: shape.Kind(), Case: Case{coil: -1, Electric: shape.Electrics(f)}}
	b.Model = moment.Model{Ground: moment.Real, Earth: s.earth(), Tables: tables}
	b.earthed = shape.Variant == "ground-radials"
	if b.earthed {
		b.drop = drawing.Feed[2]
	}
	b.hub = b.place(drawing.Feed)
	b.say("ground: %s, permittivity %.3g, conductivity %.3g S/m, flat and uniform", strings.ToLower(b.Model.Earth.Name), b.Model.Earth.Permittivity, b.Model.Earth.Conductivity)
	b.say("the pole carries no current")
	var radiators, cold []antenna.Line
	for _, l := range drawing.Lines {
		switch l.Role {
		case "radiator", "loop":
			radiators = append(radiators, l)
		case "counterpoise", "radial":
			cold = append(cold, l)
		}
	}
	if len(radiators) == 0 {
		return Case{}, fmt.Errorf("there is no radiator to compute with")
	}
	b.radiate(radiators)
	if b.earthed {
		r := shape.Radials
		// The screen is worked out for the wire that carries the current: the one nearest to a quarter-wave.
		quarter := antenna.Light / f / 4
		top := radiators[0].Length()
		for _, l := range radiators {
			if math.Abs(l.Length()-quarter) < math.Abs(top-quarter) {
				top = l.Length()
			}
		}
		top = math.Min(top, 1.4*quarter)
		b.Model.Screen = &moment.Screen{Radials: r.Count, Length: r.Length.M, Wire: b.wire.Radius, Height: top}
		b.say("radials on the ground act as a screen (compensation theorem); coax and choke play no part there")
		if r.Count == 0 {
			b.say("no radials: an electrode of 10 cm radius is the only earth, a rough figure")
		}
	} else {
		for _, l := range cold {
			b.insulated(b.place(l.From), b.place(l.To))
		}
		b.feedLine()
	}
	own := len(b.Model.Wires)
	b.metal(drawing)
	err := b.Model.Check(f)
	for crossed := (*moment.WireError)(nil); errors.As(err, &crossed) && crossed.Wire >= own; err = b.Model.Check(f) {
		// Stand-ins for metal must not break what they stand beside.
		b.Model.Wires = slices.Delete(b.Model.Wires, crossed.Wire, crossed.Wire+1)
		b.coax = slices.Delete(b.coax, crossed.Wire, crossed.Wire+1)
		b.say("metal that would cross the antenna in the model is left out")
	}
	if err != nil {
		return Case{}, fmt.Errorf("the wires as recorded cannot be solved: %w", err)
	}
	return b.Case, nil
}

// radiate adds the radiator with its source, its coil or capacitor and its open links.
func (b *builder) radiate(lines []antenna.Line) {
	e, family := b.Electric, b.s.Built.Family
	source := moment.Source{Volts: 1}
	fed := false
	run := 0.0 // along a radiator of several lines
	for i, l := range lines {
		from, to := b.place(l.From), b.place(l.To)
		starts := l.From == lines[0].From
		if starts {
			run = 0
		}
		length := l.Length()
		var first int
		switch {
		case len(e.Open) > 0:
			first = b.linked(from, to, length)
		case e.Diameter > 0:
			first = b.rod(from, to, e.Diameter)
		default:
			first = b.insulated(from, to)
		}
		switch {
		case family == "rectangle" && i == 0:
			source.Spot, fed = moment.Spot{Wire: first, At: 0.5}, true
		case family == "rectangle":
		case starts && !fed:
			source.Spot, fed = moment.Spot{Wire: first}, true
		case starts && family == "multi-vertical":
			source.Also = append(source.Also, moment.Spot{Wire: first})
		}
		if at := e.At - run; (e.Henries > 0 || e.Farads > 0) && at >= -1e-9 && at < length-1e-6 {
			name := "coil"
			if e.Farads > 0 {
				name = "capacitor"
			}
			n := b.load(name, moment.Spot{Wire: first, At: math.Max(0, at/length)}, e.Ohms, e.Henries, e.Farads)
			b.Model.Loads[n].Across = e.Across
			if b.coil < 0 {
				b.coil = n
			}
		}
		run += length
	}
	b.Model.Sources = []moment.Source{source}
	if family == "j-pole" {
		// The matching section carries a common current too: one thick wire for the pair.
		top := b.Model.Wires[0].From
		foot := moment.Vec{top[0], top[1], math.Max(top[2]-e.Matching.Stub, lying)}
		b.add(moment.Wire{From: top, To: foot, Radius: 0.002, Resistivity: circuit.CopperResistivity})
		b.hub = foot
		b.say("the matching section counts as one thick wire for what it radiates, and as a line for the match")
	}
	if e.Diameter > 0 && e.SpreadHenries > 0 {
		b.say("the helix counts as a straight rod with the inductance that slows the wave to Kandoian and Sichak's factor")
	}
}

// linked adds one leg with its open links, and returns its first wire.
func (b *builder) linked(from, to moment.Vec, length float64) int {
	first, at := -1, 0.0
	for _, open := range b.Electric.Open {
		if open >= length-b.Electric.Gap {
			continue
		}
		n := b.insulated(point(from, to, at/length), point(from, to, open/length))
		if first < 0 {
			first = n
		}
		at = open + b.Electric.Gap
	}
	n := b.insulated(point(from, to, at/length), to)
	if first < 0 {
		first = n
	}
	return first
}

func point(a, b moment.Vec, t float64) moment.Vec {
	return moment.Vec{a[0] + t*(b[0]-a[0]), a[1] + t*(b[1]-a[1]), a[2] + t*(b[2]-a[2])}
}

// feedLine adds the outside of the coax, which is a wire of the antenna up to a choke, and beyond it when it
// is no perfect one.
func (b *builder) feedLine() {
	built := b.s.Built
	family := built.Family
	length := built.Coax.Length.M
	switch {
	case family == "small-loop" || family == "doublet":
		return // fed through a coupling loop, or a balanced line
	case b.s.Planned && (built.Counterpoise.Count > 0 || built.Radials.Count > 0 || family == "dipole" || family == "linked-dipole" || family == "whip-pair" || family == "rectangle" || family == "j-pole"):
		b.say("the coax is choked at the feed and takes no part")
		return
	case length <= 0 && b.s.Planned:
		length = 10
		b.say("there is no counterpoise: 10 m of coax acts as one")
	case length <= 0:
		if built.Counterpoise.Count > 0 || built.Radials.Count > 0 || family != "end-fed" && family != "end-fed-loaded" && family != "random-wire" && family != "fence-wire" {
			b.say("no coax is recorded: its outside takes no part")
			return
		}
		length = leads
		b.say("no coax and no counterpoise are recorded: %s of leads and operator act as one", quantity.Metric(length, 100))
	}
	// Down from the feed, then along the ground, away from wires and radials. Where a leg of the antenna
	// hangs below the feed the coax first leads away level.
	hub := b.hub
	way := moment.Vec{math.Cos(4.56), math.Sin(4.56), 0}
	turn := hub
	path := []moment.Vec{hub}
	if (family == "dipole" && built.Variant == "upright") && length > 2 {
		out := math.Min(length/2, 3)
		turn = moment.Vec{hub[0] + out*way[0], hub[1] + out*way[1], hub[2]}
		path = append(path, turn)
		length -= out
	}
	foot := 0.05
	if fall := math.Min(length, turn[2]-foot); fall > 0.2 {
		// A little outward, clear of the pole and of what hangs straight down.
		turn = moment.Vec{turn[0] + 0.15*fall*way[0], turn[1] + 0.15*fall*way[1], turn[2] - fall}
		path = append(path, turn)
		length -= fall
	}
	tail := 0.0
	if built.Choke.Place != "feed" {
		tail = leads
	}
	if rest := length; rest > 0.1 {
		end := moment.Vec{turn[0] + rest*way[0], turn[1] + rest*way[1], math.Max(math.Min(turn[2], foot), lying)}
		path, turn = append(path, end), end
	}
	at := map[string]float64{"feed": 0, "along": built.Choke.Distance.M, "radio": built.Coax.Length.M}
	place, choked := at[built.Choke.Place]
	done := 0.0
	chosen := false
	for i := 1; i < len(path); i++ {
		n := b.add(moment.Wire{From: path[i-1], To: path[i], Radius: shieldOut, Resistivity: circuit.CopperResistivity})
		b.coax[n] = true
		d := math.Sqrt(sq(path[i][0]-path[i-1][0]) + sq(path[i][1]-path[i-1][1]) + sq(path[i][2]-path[i-1][2]))
		if choked && !chosen && (place <= done+d || i == len(path)-1) {
			share := math.Min(math.Max((place-done)/d, 0), 0.98)
			ohms := float64(chokeOhms)
			if measured, ok := built.Own["choke"].Choke(b.f); ok {
				ohms = measured
				b.say("the choke is %.0f ohm here, as measured, taken as resistive", ohms)
			} else {
				b.say("the choke is %d ohm, resistive, on every band", chokeOhms)
			}
			b.load("choke", moment.Spot{Wire: n, At: share}, ohms, 0, 0)
			chosen = true
		}
		done += d
	}
	if tail > 0 {
		n := b.add(moment.Wire{From: turn, To: moment.Vec{turn[0] + tail*way[0], turn[1] + tail*way[1], turn[2]}, Radius: person})
		b.coax[n] = true
		b.say("radio, battery lead and operator count as %s more of wire on the ground", quantity.Metric(tail, 100))
	}
	b.say("the coax hangs down from the feed, then lies on the ground away from the wires")
}

func sq(x float64) float64 { return x * x }

// metal adds what is recorded near the antenna.
func (b *builder) metal(d antenna.Drawing) {
	far := 0.0
	for _, l := range d.Lines {
		far = math.Max(far, l.To[0])
	}
	for _, m := range b.s.Built.Metal {
		off := m.Distance.M
		if off <= 0 {
			b.say("%s is recorded without a distance: left out", m.What)
			continue
		}
		thin := func(from, to moment.Vec) {
			b.add(moment.Wire{From: from, To: to, Radius: 0.005, Resistivity: 10 * circuit.CopperResistivity})
		}
		words := strings.ToLower(m.What)
		switch {
		case strings.Contains(words, "fence") || strings.Contains(words, "rail"):
			thin(moment.Vec{-1, off, 1}, moment.Vec{far + 1, off, 1})
			b.say("%s: a wire 1 m up along the antenna, %s beside it", m.What, quantity.Metric(off, 100))
		case strings.Contains(words, "table") || strings.Contains(words, "bench"):
			thin(moment.Vec{-0.9, off, 0.75}, moment.Vec{0.9, off, 0.75})
			b.say("%s: 1.8 m of metal 0.75 m up, %s from the feed", m.What, quantity.Metric(off, 100))
		case strings.Contains(words, "car") || strings.Contains(words, "vehicle") || strings.Contains(words, "van"):
			thin(moment.Vec{-2, off, 1.3}, moment.Vec{2, off, 1.3})
			b.say("%s: 4 m of metal 1.3 m up, %s from the feed", m.What, quantity.Metric(off, 100))
		default:
			top := 6.0
			if strings.Contains(words, "mast") || strings.Contains(words, "rigging") || strings.Contains(words, "pole") {
				top = math.Max(b.s.Built.PoleHeight.M, top)
			}
			// A little aside, so that it stands between radials and not in one.
			way := moment.Vec{off * math.Cos(1.9), off * math.Sin(1.9), 0}
			thin(moment.Vec{way[0], way[1], 0.1}, moment.Vec{way[0], way[1], top})
			b.say("%s: an upright of %s, %s from the feed", m.What, quantity.Metric(top, 100), quantity.Metric(off, 100))
		}
	}
	if b.s.Built.Family == "fence-wire" && b.s.Built.Variant == "wired" {
		h, l := b.s.Built.FeedHeight.M, b.s.Built.Radiator.M
		for _, z := range []float64{0.35, 0.7} {
			b.add(moment.Wire{From: moment.Vec{-1, 0.15, z * h}, To: moment.Vec{l + 1, 0.15, z * h}, Radius: 0.00125, Resistivity: 10 * circuit.CopperResistivity})
		}
		b.say("the fence has two wires of its own, 15 cm behind and below yours")
	}
}
