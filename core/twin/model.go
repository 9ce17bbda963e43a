// Package twin is the computed double of a set-up: from what was planned or recorded to wires in space, from
// their impedance through transformer, line and coax to the radio's socket, and what reaches the sky. What the
// record lacks is taken from stated defaults, and the list of them is part of every answer.
package twin

import (
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/moment"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

// Setup is the input of a model: a set-up as built, or a plan, whose coax is not known yet. Ground is a
// preset's ID; PowerW is the power at the radio's socket, 0 meaning 10 W.
type Setup struct {
	Built   deployment.Built `json:"built"`
	Planned bool             `json:"planned"`
	// Given are the fields of a plan that the operator typed: the solver leaves them as they are.
	Given  []string `json:"given,omitempty"`
	Ground string   `json:"ground"`
	PowerW float64  `json:"power_w"`
	// Units are the reader's, for lengths in sentences.
	Units quantity.System `json:"units"`
	// Lying is how high in metres wires on the ground are taken, 0 for the usual.
	Lying float64 `json:"-"`
	// What is taken in place of the preset's soil, of the transformer that is recorded or usual, and what share of the choke
	// there is, where one asks what they matter.
	Soil       *earth.Ground        `json:"-"`
	Inside     *circuit.Transformer `json:"-"`
	ChokeShare float64              `json:"-"`
	Parts      Part                 `json:"-"`
	// Winding is the share by which the inductance of a fixed winding differs from the recorded one, 0 for as recorded.
	Winding float64 `json:"-"`
	// Bridged says that the coil is bridged, as on a band where the whip alone is long enough.
	Bridged bool `json:"-"`
}

// Defaults that stand in for what no record holds.
const (
	shieldOut = 0.0025
	leads     = 1.5 // metres of battery lead and operator behind the radio
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
	// What a knob was turned to: a coil in henries or a capacitor in farads, 0 without.
	SetL, SetC float64
	// Lost says that nothing that it can be turned to takes away the reactance.
	Lost   bool
	from   Setup   // what it was made of
	inSoil float64 // metres of rod
	f      float64
	// Lies says that a wire lies on the soil: the answer then has a range for how high.
	Lies bool
}

// builder gathers a case.
type builder struct {
	Case
	s     Setup
	wire  antenna.Wire
	hub   moment.Vec
	cold  int     // wires that it is fed against
	drop  float64 // how far everything is lowered, for radiators that stand on the ground
	aside float64 // direction in radians in which the coax leads off
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
	if low := b.s.lying(); z < low {
		z = low
		b.lies()
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
	out := moment.Wire{From: from, To: to, Radius: w.Radius, Resistivity: circuit.CopperResistivity, Permittivity: w.Permittivity,
		Outer: w.Outer}
	if w.Factor > 0 {
		// A velocity learned from sweeps stands for the jacket: an inductance that slows the wave to it.
		out.Permittivity, out.Outer = 1, w.Radius
		out.Inductance = antenna.Average(5, w.Radius) / numeric.Light * (1/(w.Factor*w.Factor) - 1)
		b.say("the wire slows the wave to %.3f, as learned from sweeps", w.Factor)
	}
	return b.add(out)
}

// rod is a run of bare metal, with a share of its inductance and resistance.
func (b *builder) rod(from, to moment.Vec, diameter, wound float64) int {
	return b.add(moment.Wire{From: from, To: to, Radius: diameter / 2, Resistivity: circuit.CopperResistivity,
		Inductance: wound * b.Electric.SpreadHenries, Resistance: wound * b.Electric.SpreadOhms})
}

func (b *builder) load(name string, at moment.Spot, r, l, c float64) int {
	b.Model.Loads = append(b.Model.Loads, moment.Load{Spot: at, R: r, L: l, C: c})
	b.loads = append(b.loads, name)
	return len(b.Model.Loads) - 1
}

// Build makes the model of a set-up at f hertz. Errors name what it cannot do.
func Build(s Setup, f float64, tables *earth.Tables) (Case, error) {
	shape := s.Built.Shape
	drawing, faults := family.Of(shape).Layout()
	for _, x := range faults {
		if x.Severity == "error" {
			return Case{}, fmt.Errorf("%s", x.Text)
		}
	}
	b := &builder{s: s, wire: shape.Conductor(), Case: Case{coil: -1, from: s, f: f, Electric: family.Of(shape).Electrics(f)}}
	if w := b.Electric.Wire; w != nil {
		b.wire = *w
	}
	if s.Bridged {
		b.Electric.Henries, b.Electric.Ohms, b.Electric.Across = 0, 0, 0
	}
	if s.Winding > 0 {
		b.Electric.Henries *= s.Winding
		b.Electric.SpreadHenries *= s.Winding
	}
	b.Model = moment.Model{Ground: moment.Real, Earth: s.ground(), Tables: tables}
	if up := drawing.Feed[2]; shape.Earthed() && up <= onGround {
		// It stands on the ground, as high as it is thick, its radials go level from its foot.
		b.drop = up - math.Max(s.lying(), 0.55*b.Electric.Diameter)
	}
	b.hub = b.place(drawing.Feed)
	b.say("ground: %s, permittivity %.3g, conductivity %.3g S/m, flat and uniform", strings.ToLower(b.Model.Earth.Name),
		b.Model.Earth.Permittivity, b.Model.Earth.Conductivity)
	b.say("the pole carries no current")
	if _, own := (chain{setup: s}).transformer(); own == nil && b.Electric.TransformsFrom != 1 && b.Electric.Line == nil {
		b.say("the transformer is its ratio, with the loss of a typical ring: what else it does to the impedance counts as tuned out")
	}
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
	b.cold = len(cold)
	b.turnAside(cold)
	b.radiate(radiators)
	b.against(cold)
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
	if out, ok := b.Case.lossy(s.Parts); ok {
		return out, nil
	}
	return b.Case, nil
}

// radiate adds the radiator with its source, its coil or capacitor and its open links.
func (b *builder) radiate(lines []antenna.Line) {
	e := b.Electric
	source := moment.Source{Volts: 1}
	fed := false
	run := 0.0 // along a radiator of several lines
	for _, l := range lines {
		from, to := b.place(l.From), b.place(l.To)
		starts := l.From == lines[0].From
		if starts {
			run = 0
		}
		length := l.Length()
		runs := b.runs(from, to, run, length)
		first := runs[0].wire
		switch {
		case starts && !fed:
			source.Spot, fed = moment.Spot{Wire: first}, true
		case starts && e.Together:
			source.Also = append(source.Also, moment.Spot{Wire: first})
		}
		if e.Henries > 0 || e.Farads > 0 {
			for _, r := range runs {
				if at := e.At - run; at >= r.from-1e-9 && at < r.to-1e-6 {
					b.lumped(moment.Spot{Wire: r.wire, At: math.Max(0, (at-r.from)/(r.to-r.from))})
				}
			}
		}
		run += length
	}
	b.Model.Sources = []moment.Source{source}
	if e.Matching.Stub > 0 {
		// The matching section carries a common current too: one thick wire for the pair.
		top := b.Model.Wires[0].From
		foot := moment.Vec{top[0], top[1], math.Max(top[2]-e.Matching.Stub, b.s.lying())}
		b.add(moment.Wire{From: top, To: foot, Radius: 0.002, Resistivity: circuit.CopperResistivity})
		b.hub = foot
		b.say("the matching section counts as one thick wire for what it radiates, and as a line for the match")
	}
	if e.Diameter > 0 && e.SpreadHenries > 0 {
		b.say("the helix counts as a straight rod of the radius and inductance that its winding has to a slow wave")
	}
}

// lumped puts the coil or the capacitor in at a spot.
func (b *builder) lumped(at moment.Spot) {
	e, name := b.Electric, "coil"
	if e.Farads > 0 {
		name = "capacitor"
	}
	n := b.load(name, at, e.Ohms, e.Henries, e.Farads)
	b.Model.Loads[n].Across = e.Across
	if b.coil < 0 {
		b.coil = n
	}
}

// run is a wire of a radiating line, from and to so many metres along it.
type run struct {
	wire     int
	from, to float64
}

// runs adds a line of the radiator that begins so many metres along it: with its open links, in rods of one diameter each,
// or as one wire.
func (b *builder) runs(from, to moment.Vec, along, length float64) (out []run) {
	e := b.Electric
	add := func(at, end float64, put func(from, to moment.Vec) int) {
		if end-at > 1e-3 {
			out = append(out, run{put(point(from, to, at/length), point(from, to, end/length)), at, end})
		}
	}
	at := 0.0
	switch {
	case len(e.Open) > 0:
		for _, open := range e.Open {
			if open < length-e.Gap {
				add(at, open, b.insulated)
				at = open + e.Gap
			}
		}
		add(at, length, b.insulated)
	case e.Diameter > 0:
		for _, r := range e.Rods {
			if end := r.To - along; end > at && end < length {
				add(at, end, func(from, to moment.Vec) int { return b.rod(from, to, r.Diameter, 1) })
				at = end
			}
		}
		last := e.Diameter
		for _, r := range e.Rods {
			if last = r.Diameter; r.To-along > at+1e-9 {
				break
			}
		}
		if e.SpreadFrom > at && e.SpreadFrom < length {
			add(at, e.SpreadFrom, func(from, to moment.Vec) int { return b.rod(from, to, last, 0) })
			at = e.SpreadFrom
		}
		add(at, length, func(from, to moment.Vec) int { return b.rod(from, to, last, 1) })
	default:
		add(at, length, b.insulated)
	}
	if len(out) == 0 {
		out = append(out, run{b.insulated(from, to), 0, length}) // of no length: what is wrong with it is said when it is solved
	}
	return out
}

func point(a, b moment.Vec, t float64) moment.Vec {
	return moment.Vec{a[0] + t*(b[0]-a[0]), a[1] + t*(b[1]-a[1]), a[2] + t*(b[2]-a[2])}
}

// asideOf is the direction in radians that the coax takes from the feed: not quite square to the antenna, so that it
// falls on none of two, three, four or eight radials all round, and crosses neither wire nor counterpoise.
const asideOf = 4.56

// turnAside leads the coax off between two wires on the ground where it would run along one.
func (b *builder) turnAside(cold []antenna.Line) {
	const least = 0.12 // radians to the next wire
	clear := func(way float64) float64 {
		gap := math.Pi
		for _, l := range cold {
			d := math.Mod(math.Abs(way-math.Atan2(l.To[1]-l.From[1], l.To[0]-l.From[0])), 2*math.Pi)
			gap = math.Min(gap, math.Min(d, 2*math.Pi-d))
		}
		return gap
	}
	b.aside = asideOf
	widest := clear(asideOf)
	for turn := 0.02; turn < math.Pi && widest < least; turn += 0.02 {
		for _, way := range []float64{asideOf - turn, asideOf + turn} {
			if gap := clear(way); gap > widest+1e-9 {
				b.aside, widest = way, gap
			}
		}
	}
}

// coaxOutside is how much of the coax, in metres, is a wire of the antenna; 0 where it takes no part.
func (b *builder) coaxOutside() float64 {
	built := b.s.Built
	length, feeding := built.Coax.Length.M, family.Of(built.Shape).Feeding()
	own := b.cold > 0 || built.M(antenna.Rod) > 0
	switch {
	case feeding == family.Aside:
		return 0 // fed through a coupling loop, or a balanced line
	case b.s.Planned && (own || feeding == family.Whole):
		b.say("the coax is choked at the feed and takes no part")
		return 0
	case length > 0:
		return length
	case b.s.Planned:
		b.say("there is no counterpoise: 10 m of coax acts as one")
		return 10
	case own || feeding != family.Counterpoise:
		if !own && feeding == family.Radial {
			return 0 // a stake is its earth
		}
		b.say("no coax is recorded: its outside takes no part")
		return 0
	}
	b.say("no coax and no counterpoise are recorded: %s of leads and operator act as one", b.s.Units.Rough(leads))
	return leads
}

// hangsBelow reports whether a wire of the antenna hangs straight down from the feed.
func (b *builder) hangsBelow() bool {
	return slices.ContainsFunc(b.Model.Wires, func(w moment.Wire) bool {
		down := b.hub[2] - w.To[2]
		return w.From == b.hub && down > 0 && math.Hypot(w.To[0]-b.hub[0], w.To[1]-b.hub[1]) < 0.1*down
	})
}

// coaxPath leads so many metres of coax down from the feed, then along the ground, away from wires and radials. Where a
// leg of the antenna hangs below the feed the coax first leads away level.
func (b *builder) coaxPath(length float64) []moment.Vec {
	at := b.hub
	path := []moment.Vec{at}
	lead := func(out, to float64) {
		at = moment.Vec{at[0] + out*math.Cos(b.aside), at[1] + out*math.Sin(b.aside), to}
		path = append(path, at)
	}
	if b.hangsBelow() && length > 2 {
		out := math.Min(length/2, 3)
		lead(out, at[2])
		length -= out
	}
	foot := b.s.lying()
	if fall := math.Min(length, at[2]-foot); fall > 0.2 {
		lead(asFalls*fall, at[2]-fall) // a little outward, clear of the pole and of what hangs straight down
		length -= fall
	}
	if length > 0.1 {
		lead(length, foot)
		b.lies()
	}
	return path
}

// feedLine adds the outside of the coax, which is a wire of the antenna up to a choke, and beyond it when it
// is no perfect one.
func (b *builder) feedLine() {
	length := b.coaxOutside()
	if length <= 0 {
		return
	}
	choke := b.s.Built.Choke
	place, choked := map[string]float64{"feed": 0, "along": choke.Distance.M, "radio": b.s.Built.Coax.Length.M}[choke.Place]
	path := b.coaxPath(length)
	done := 0.0
	for i := 1; i < len(path); i++ {
		n := b.add(moment.Wire{From: path[i-1], To: path[i], Radius: shieldOut, Resistivity: circuit.CopperResistivity})
		b.coax[n] = true
		d := math.Sqrt(sq(path[i][0]-path[i-1][0]) + sq(path[i][1]-path[i-1][1]) + sq(path[i][2]-path[i-1][2]))
		if choked && (place <= done+d || i == len(path)-1) {
			choke := b.choke()
			b.load("choke", moment.Spot{Wire: n, At: math.Min(math.Max((place-done)/d, 0), 0.98)}, choke.r, choke.l, choke.c)
			choked = false
		}
		done += d
	}
	if choke.Place != "feed" {
		end := path[len(path)-1]
		n := b.add(moment.Wire{From: end, To: moment.Vec{end[0] + leads*math.Cos(b.aside), end[1] + leads*math.Sin(b.aside), end[2]},
			Radius: shieldOut, Resistivity: circuit.CopperResistivity})
		b.coax[n] = true
		b.say("radio, battery lead and operator count as %s more of wire on the ground", b.s.Units.Rough(leads))
	}
	b.say("the coax hangs down from the feed, then lies on the ground away from the wires")
}

// series is an impedance as what is in series: ohms, henries and farads.
type series struct{ r, l, c float64 }

// choke returns the choke's impedance: its own where known, otherwise the default.
func (b *builder) choke() series {
	z, how := b.s.choked(b.f)
	if how == "" {
		b.say("the choke is %d ohm, resistive, on every band", kit.ChokeOhms)
		return series{r: real(z)}
	}
	b.say("the choke is %.0f ohm here, %s", cmplx.Abs(z), how)
	w := 2 * math.Pi * b.f
	if x := imag(z); x < 0 {
		return series{r: real(z), c: -1 / (w * x)}
	}
	return series{r: real(z), l: imag(z) / w}
}

func sq(x float64) float64 { return x * x }

// uprightAt is the direction in radians in which metal stands from the feed.
const uprightAt = 1.9

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
		long, kind := m.Long(), m.Sort()
		says, away := m.What, b.s.Units.Rough(off)
		if says == "" {
			says = kind.Name
		}
		// A little aside, so that it stands between radials and not in one.
		foot := moment.Vec{off * math.Cos(uprightAt), off * math.Sin(uprightAt), 0.1}
		up := func(at moment.Vec, top float64) moment.Vec { return moment.Vec{at[0], at[1], top} }
		switch kind.ID {
		case deployment.MetalFence:
			if m.Size.M == 0 {
				long = far + 2
			}
			thin(moment.Vec{far/2 - long/2, off, 1}, moment.Vec{far/2 + long/2, off, 1})
			b.say("%s: %s of wire 1 m up along the antenna, %s beside it", says, b.s.Units.Rough(long), away)
		case deployment.MetalTable, deployment.MetalVehicle:
			height := 0.75
			if kind.ID == deployment.MetalVehicle {
				height = 1.3
			}
			thin(moment.Vec{-long / 2, off, height}, moment.Vec{long / 2, off, height})
			b.say("%s: %s of metal %s up, %s from the feed", says, b.s.Units.Rough(long), b.s.Units.Rough(height), away)
		case deployment.MetalBuilding:
			wide := long * 1.5
			corner := up(foot, long)
			thin(foot, corner)
			thin(corner, moment.Vec{corner[0] + wide*math.Cos(uprightAt), corner[1] + wide*math.Sin(uprightAt), long})
			b.say("%s: an edge of %s and a roof's edge of %s, %s from the feed", says, b.s.Units.Rough(long), b.s.Units.Rough(wide), away)
		case deployment.MetalAntenna:
			height := math.Max(b.s.Built.PoleHeight().M, 3)
			thin(moment.Vec{-long / 2, off, height}, moment.Vec{long / 2, off, height})
			b.say("%s: %s of wire %s up, %s beside it", says, b.s.Units.Rough(long), b.s.Units.Rough(height), away)
		default:
			thin(foot, up(foot, math.Max(long, 0.3)))
			b.say("%s: an upright of %s, %s from the feed", says, b.s.Units.Rough(long), away)
		}
	}
	for _, l := range b.Electric.Near {
		b.add(moment.Wire{From: moment.Vec(l.From), To: moment.Vec(l.To), Radius: 0.00125, Resistivity: 10 * circuit.CopperResistivity})
	}
	if len(b.Electric.Near) > 0 {
		b.say("%s", b.Electric.NearSays)
	}
}
