package twin

import (
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/moment/earth"
)

// Wires that lie on the soil: radials, counterpoise and coax. They are wires like all others, a little above it, since
// grass and their own jacket keep them off; between Near and Far is where they mostly lie.
const (
	lying     = 0.005 // metres above the soil
	lyingNear = 0.003
	lyingFar  = 0.010
	// standing is how far up in metres a foot still counts as standing on the ground, with its radials level from there.
	standing = 0.3
	// onGround is the foot's height up to which it counts as on the ground.
	onGround = 0.021
	// Of a stake nobody measured: a hemisphere of this radius in metres has its contact with the soil. A rod's is that of
	// its length and thickness.
	stakeRadius = 0.1
	rodRadius   = 0.006
	// asFalls is how far outward a wire goes for each metre that it falls to the ground.
	asFalls = 0.15
)

// lying is the height in metres at which wires on the ground are taken.
func (s Setup) lying() float64 {
	if s.Lying > 0 {
		return s.Lying
	}
	return lying
}

// against adds what the radiator is fed against: radials, counterpoise, a rod in the soil, and the coax.
func (b *builder) against(cold []antenna.Line) {
	for i := 0; i < len(cold); i++ {
		n := b.equals(cold[i:])
		b.counterweight(cold[i], n)
		i += n - 1
	}
	rod := b.s.Built.M(antenna.Rod)
	earthed := b.s.Built.Earthed()
	if rod > 0 || earthed && len(cold) == 0 && b.coaxOutside() == 0 {
		b.earthRod(rod)
	}
	b.feedLine()
}

// equals is how many of the first lines are equal radials all round on the ground, which are solved as one.
func (b *builder) equals(cold []antenna.Line) int {
	if !b.s.Built.Earthed() || b.s.Built.W("directions", "") != "" || cold[0].Role != "radial" {
		return 1
	}
	n := 1
	for n < len(cold) && math.Abs(cold[n].Length()-cold[0].Length()) < 1e-6 {
		n++
	}
	// Two sets of one length are no set all round.
	way := func(l antenna.Line) float64 { return math.Atan2(l.To[1]-l.From[1], l.To[0]-l.From[0]) }
	for i := 1; i < n; i++ {
		if off := math.Mod(way(cold[i])-way(cold[i-1])-2*math.Pi/float64(n)+4*math.Pi, 2*math.Pi); math.Min(off, 2*math.Pi-off) > 1e-6 {
			return 1
		}
	}
	return n
}

// counterweight is one radial or counterpoise, or so many equal ones all round: straight where its end hangs up, otherwise
// falling to the ground and lying there.
func (b *builder) counterweight(l antenna.Line, n int) {
	round := func(wire int) {
		b.Model.Wires[wire].Round, b.Model.Wires[wire].About = n, b.hub
	}
	from := b.hub
	length, low := l.Length(), b.s.lying()
	out := moment.Vec{l.To[0] - l.From[0], l.To[1] - l.From[1]}
	level := math.Hypot(out[0], out[1])
	lies := l.To[2] <= 0.02 && l.Role == "counterpoise" || b.s.Built.Earthed()
	if !lies || level < 1e-6 {
		round(b.insulated(from, b.place(l.To)))
		return
	}
	to := func(run, up float64) moment.Vec {
		return moment.Vec{from[0] + out[0]/level*run, from[1] + out[1]/level*run, up}
	}
	run := 0.0
	if fall := from[2] - low; fall > onGround {
		run = asFalls * fall
		down := math.Hypot(fall, run)
		if down > length-0.1 {
			round(b.insulated(from, b.place(l.To))) // it does not reach
			return
		}
		round(b.insulated(from, to(run, low)))
		from, length = to(run, low), length-down
		round(b.insulated(from, moment.Vec{from[0] + out[0]/level*length, from[1] + out[1]/level*length, low}))
	} else {
		round(b.insulated(from, to(length, low)))
	}
	b.lies()
}

// lies says at what height wires on the ground are taken.
func (b *builder) lies() {
	b.Lies = true
	b.say("wires on the ground are modelled %s above the soil, %s to %s for the range", b.s.Units.Exact(b.s.lying()),
		b.s.Units.Exact(lyingNear), b.s.Units.Exact(lyingFar))
}

// earthRod leads from the feed into the soil, to a rod of a length in metres or to a stake.
func (b *builder) earthRod(rod float64) {
	foot := moment.Vec{b.hub[0], b.hub[1], 0}
	if b.hangsBelow() || b.hub[2] > standing {
		foot[1] += asFalls * b.hub[2] // on the other side of the coax
	}
	lead := b.add(moment.Wire{From: b.hub, To: foot, Radius: math.Min(0.001, b.hub[2]/5), Resistivity: circuit.CopperResistivity})
	b.inSoil = rod
	if rod > 0 {
		b.say("an earth rod of %s: %.0f ohm into this soil at low frequencies", b.s.Units.Long(rod), real(Rod(b.Model.Earth, 1, rod, rodRadius)))
	} else {
		b.say("no radials, no coax: a stake with the contact of a hemisphere of %s is the only earth, %.0f ohm into this soil at low frequencies",
			b.s.Units.Fine(stakeRadius), real(Stake(b.Model.Earth, 1, stakeRadius)))
	}
	r, c := contact(b.Model.Earth, b.f, rod)
	b.load(earthing, moment.Spot{Wire: lead, At: 1}, r, 0, c)
}

// earthing is the load that is the contact with the soil.
const earthing = "earth"

// contact is that of a rod of a length in metres, or of a stake, at f hertz: in ohms, and in farads in series.
func contact(g earth.Ground, f, rod float64) (ohms, farads float64) {
	z := Stake(g, f, stakeRadius)
	if rod > 0 {
		z = Rod(g, f, rod, rodRadius)
	}
	if imag(z) < 0 {
		farads = -1 / (2 * math.Pi * f * imag(z))
	}
	return real(z), farads
}

// Stake is the impedance in ohms of a hemisphere of a radius in metres in the soil at f hertz: 1/(2 pi a (sigma + jwe)).
func Stake(g earth.Ground, f, a float64) complex128 {
	return 1 / (complex(2*math.Pi*a, 0) * g.Admittivity(f))
}

// Rod is the impedance in ohms of an upright rod of a length and radius in metres in the soil: (ln(4l/a) - 1)/(2 pi l
// (sigma + jwe)) (Dwight 1936, with the soil's complex conductivity).
func Rod(g earth.Ground, f, l, a float64) complex128 {
	return complex(math.Max(math.Log(4*l/a)-1, 1)/(2*math.Pi*l), 0) / g.Admittivity(f)
}
