package twin

import (
	"math"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Unknown is a set-up with one thing changed, and what part of that change is its usual spread.
type Unknown struct {
	Setup  Setup
	Spread float64
}

// Unknowns are the set-up as it may be in truth though it was recorded rightly, one thing at a time by its usual spread:
// the soil drier and wetter, the wire sagging, hanging or lying otherwise, the transformer's and the choke's inside.
func (s Setup) Unknowns() []Unknown {
	var out []Unknown
	for _, g := range soils(s.earth()) {
		t := s
		t.Soil = &g
		out = append(out, Unknown{t, 0.5}) // a third or three times is two spreads
	}
	add := func(change func(*Setup)) {
		t := s
		change(&t)
		out = append(out, Unknown{t, 1})
	}
	const tape, height = 1.005, 1.06
	if knob := family.Of(s.Built.Shape).Electrics(s.Built.FrequencyHz).Knob; knob != "coil" && knob != "capacitor" {
		add(func(t *Setup) {
			for _, id := range family.Of(s.Built.Shape).Wires() {
				if l := s.Built.M(id); l > 0 {
					t.Built.Put(id, quantity.Metres(l*tape))
				}
			}
		})
	}
	if !s.Built.Earthed() {
		add(func(t *Setup) {
			up := s.Built.FeedHeight().M * (height - 1)
			for _, id := range []string{antenna.FeedHeight, antenna.FarHeight, antenna.RadialsHeight} {
				if l := s.Built.M(id); l > 0 {
					t.Built.Put(id, quantity.Metres(l+math.Max(up, 0.03*l)))
				}
			}
		})
	}
	add(func(t *Setup) { t.Lying = lyingFar })
	if s.Built.Primary() > 0 && s.Built.Secondary() > 0 {
		now, _ := chain{setup: s}.transformer()
		own := func(change func(*circuit.Transformer)) {
			add(func(t *Setup) {
				x := now
				change(&x)
				t.Inside = &x
			})
		}
		own(func(x *circuit.Transformer) { x.Compensated = !x.Compensated })
		own(func(x *circuit.Transformer) { x.Leakage += 0.1e-6 })
		own(func(x *circuit.Transformer) { x.Across += 40e-12 })
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
		add(func(t *Setup) { t.ChokeShare = 0.5 })
	}
	return out
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
