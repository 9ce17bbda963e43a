package twin

import (
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Unknown is a set-up with one thing changed, and what part of that change is its usual spread. Name says what is changed.
type Unknown struct {
	Name   string
	Setup  Setup
	Spread float64
	// OneWay says that it is so much or less, and never the other way.
	OneWay bool
}

// Unknowns are the set-up as it may be in truth though it was recorded rightly, one thing at a time by its usual spread:
// the soil drier and wetter, the wire sagging, hanging or lying otherwise, the transformer's and the choke's inside.
func (s Setup) Unknowns() []Unknown {
	var out []Unknown
	for _, g := range soils(s.earth()) {
		t := s
		t.Soil = &g
		out = append(out, Unknown{Name: "the soil", Setup: t, Spread: 0.5}) // a third or three times is two spreads
	}
	add := func(name string, change func(*Setup)) {
		t := s
		change(&t)
		out = append(out, Unknown{Name: name, Setup: t, Spread: 1})
	}
	const tape, height = 1.005, 1.06
	if knob := family.Of(s.Built.Shape).Electrics(s.Built.FrequencyHz).Knob; knob != "coil" && knob != "capacitor" {
		add("the tape measure", func(t *Setup) {
			for _, id := range family.Of(s.Built.Shape).Wires() {
				if l := s.Built.M(id); l > 0 {
					t.Built.Put(id, quantity.Metres(l*tape))
				}
			}
		})
	}
	if !s.Built.Earthed() {
		add("the heights", func(t *Setup) {
			up := s.Built.FeedHeight().M * (height - 1)
			for _, id := range []string{antenna.FeedHeight, antenna.FarHeight, antenna.RadialsHeight} {
				if l := s.Built.M(id); l > 0 {
					t.Built.Put(id, quantity.Metres(l+math.Max(up, 0.03*l)))
				}
			}
		})
	}
	add("how wires lie on the ground", func(t *Setup) { t.Lying = lyingFar })
	if s.Built.Primary() > 0 && s.Built.Secondary() > 0 {
		now, _ := chain{setup: s}.transformer()
		own := func(change func(*circuit.Transformer)) {
			add("the inside of the transformer", func(t *Setup) {
				x := now
				change(&x)
				t.Inside = &x
			})
			out[len(out)-1].OneWay = true
		}
		own(func(x *circuit.Transformer) { x.Compensated = !x.Compensated })
		out[len(out)-1].Spread = 0.6 // it is so or not so, and never twice
		own(func(x *circuit.Transformer) { x.Leakage += 0.08e-6 })
		own(func(x *circuit.Transformer) { x.Across += 30e-12 })
		own(func(x *circuit.Transformer) {
			// The same ring with more and lossier permeability, as rings of one kind scatter.
			points := make([]circuit.MuPoint, 0, 12)
			for f := 1.5e6; f < 60e6; f *= 1.4 {
				mu := x.Core.MuAt(f)
				points = append(points, circuit.MuPoint{F: f, Real: real(mu) * 1.15, Imag: -imag(mu) * 1.3})
			}
			x.Core.Points = points
		})
	}
	if s.Built.Choke.Place != "" {
		add("the choke", func(t *Setup) { t.ChokeShare = 0.5 })
	}
	return out
}

// Hidden are the unknowns that only the range counts, beside Unknowns: what lies and hangs otherwise than recorded, and what parts
// lose. A cause is not blamed on them.
func (s Setup) Hidden() []Unknown {
	var out []Unknown
	add := func(name string, spread float64, change func(*Setup)) {
		t := s
		change(&t)
		out = append(out, Unknown{Name: name, Setup: t, Spread: spread})
	}
	if r := s.Built.Radials(); r.Count > 0 && r.Length.M > 0 {
		// Some are bent, some shorter: together they act as if all were.
		share, spread := 0.9, 0.7
		if s.Built.Raised() {
			share, spread = 0.98, 0.6
		}
		add("the radials", spread, func(t *Setup) { t.Built.Put(antenna.RadialsLength, quantity.Metres(r.Length.M*share)) })
	}
	if c := s.Built.Counterpoise(); c.Count > 0 && c.Length.M > 0 {
		add("the counterpoise", 0.7, func(t *Setup) { t.Built.Put(antenna.CounterpoiseLength, quantity.Metres(c.Length.M*0.92)) })
		if c.Height.M == 0 && s.Built.FeedHeight().M > 0.5 {
			add("how the counterpoise hangs", 0.6, func(t *Setup) { t.Built.Put(antenna.CounterpoiseHeight, quantity.Metres(0.25)) })
			out[len(out)-1].OneWay = true
		}
	}
	if s.Built.Coax.Length.M > 0 && s.Built.Choke.Place != "feed" {
		add("how the coax lies", 0.7, func(t *Setup) { t.Built.Coax.Length = quantity.Metres(s.Built.Coax.Length.M * 0.85) })
	}
	coil := family.Of(s.Built.Shape).Electrics(s.Built.FrequencyHz).Uncertain
	if coil[1] == 0 {
		coil = [2]float64{0.6, 1.7}
	}
	// Its loss lies between two shares, four spreads apart.
	add("the coil's loss", 1, func(t *Setup) { t.Parts = Part{Coil: math.Pow(coil[1]/coil[0], 0.25)} })
	if s.Wound() {
		add("the winding", 0.7, func(t *Setup) { t.Winding = 1.05 })
	}
	for _, part := range []Part{{Capacitor: 1.6}, {Contact: 1.8}, {Wire: 1.5}, {Coupling: 1.25}} {
		add("what parts lose", 1, func(t *Setup) { t.Parts = part })
	}
	return out
}

// Wound reports whether the set-up has a coil or a helix that is not set to its frequency, so that its inductance is what the winding
// makes it.
func (s Setup) Wound() bool {
	e := family.Of(s.Built.Shape).Electrics(s.Built.FrequencyHz)
	return (e.Henries > 0 || e.SpreadHenries > 0) && e.Knob != "coil" && e.Knob != "capacitor"
}

// Part are shares by which the losses of parts are others than computed: of coils, of a capacitor with its joints, of the contact of
// a rod or stake with the soil, and of the conductor; and by which the resistance is another that a coupling is set for. 0 is as
// computed.
type Part struct{ Coil, Capacitor, Contact, Wire, Coupling float64 }

// lossy is a case with the losses of its parts changed; ok is false where it has none of them.
func (c Case) lossy(p Part) (out Case, ok bool) {
	out = c
	out.Model.Loads = slices.Clone(c.Model.Loads)
	for i, name := range c.loads {
		share := map[string]float64{"coil": p.Coil, "capacitor": p.Capacitor, earthing: p.Contact}[name]
		if share > 0 && out.Model.Loads[i].R > 0 {
			out.Model.Loads[i].R *= share
			ok = true
		}
	}
	if p.Wire > 0 {
		out.Model.Wires = slices.Clone(c.Model.Wires)
		for i := range out.Model.Wires {
			out.Model.Wires[i].Resistivity *= p.Wire * p.Wire // by the skin's depth, losses go with its root
			ok = true
		}
	}
	return out, ok
}

// choked is the choke's impedance as it is taken, in ohms, of what it is known or usual to be.
func (s Setup) choked(f float64) (z complex128, how string) {
	z, how = s.Built.Own["choke"].Choke(f)
	if how == "" {
		z = complex(kit.ChokeOhms, 0)
	}
	if s.ChokeShare > 0 {
		z *= complex(s.ChokeShare, 0)
	}
	return z, how
}

// ground is the soil that is computed with.
func (s Setup) ground() earth.Ground {
	if s.Soil != nil {
		return *s.Soil
	}
	return s.earth()
}
