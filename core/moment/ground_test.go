package moment

import (
	"math"
	"math/cmplx"
	"testing"

	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/internal/testsize"
)

const f14 = 14.1e6

var wave = numeric.Light / f14

// level, upright and slope are half-wave wires in metres over a ground, the lowest point at a height.
func hung(kind string, height float64, g earth.Ground) Model {
	half := 0.24 * wave
	w := Wire{Radius: 0.0005}
	switch kind {
	case "level":
		w.From, w.To = Vec{-half, 0, height}, Vec{half, 0, height}
	case "upright":
		w.From, w.To = Vec{0, 0, height}, Vec{0, 0, height + 2*half}
	default:
		w.From, w.To = Vec{-half * 0.8, 0, height}, Vec{half * 0.8, 0.3, height + half}
	}
	return Model{Ground: Real, Earth: g, Density: 30, Wires: []Wire{w}, Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}}
}

// intoSoil is the power in watts that goes down into a lossless dielectric: the far field there by
// reciprocity, from what a plane wave from below does in the air (Fresnel, evanescent beyond the critical
// angle). It shares nothing with Sommerfeld's integrals.
func intoSoil(s *Solution) float64 {
	n2 := s.model.Earth.Complex(s.F)
	k0 := 2 * math.Pi * s.F / numeric.Light
	k1, n := k0*math.Sqrt(real(n2)), math.Sqrt(real(n2))
	root := func(l float64, k2 complex128) complex128 {
		r := cmplx.Sqrt(complex(l*l, 0) - k2)
		if real(r) < -1e-12 || imag(r) < 0 {
			r = -r
		}
		return r
	}
	total := 0.0
	const steps, around = 100, 48
	// The field is steep at the critical angle: steps crowd towards it from both sides.
	critical := math.Asin(1 / n)
	for i := range 2 * steps {
		t := (float64(i%steps) + 0.5) / steps
		theta, width := critical*(1-t*t), critical*2*t/steps
		if i >= steps {
			theta, width = critical+(math.Pi/2-critical)*t*t, (math.Pi/2-critical)*2*t/steps
		}
		l := k1 * math.Sin(theta)
		g0, g1 := root(l, complex(k0*k0, 0)), root(l, complex(k1*k1, 0))
		te, th := 2*g1/(g1+g0), 2*g1/(g1+n2*g0)
		for a := range around {
			sa, ca := math.Sincos(2 * math.Pi * float64(a) / around)
			in := Vec{-ca, -sa, 0} // the wave's way along the ground, towards the wires
			side := Vec{sa, -ca, 0}
			var eTE, eTM complex128
			for k := range s.mesh.segs {
				sg := &s.mesh.segs[k]
				for j, x := range gauss3.X {
					p := sg.from.to(sg.to, x)
					c := (s.ends[k][0] + (s.ends[k][1]-s.ends[k][0])*complex(x, 0)) * complex(gauss3.W[j]*sg.h, 0)
					c *= cmplx.Exp(-g0*complex(p[2], 0) - complex(0, l*in.dot(p)))
					eTE += c * te * complex(sg.u.dot(side), 0)
					// E = H (k_z s - k_t z) / (omega eps0), H = T/eta1.
					h := th * complex(n/k0, 0)
					eTM += c * h * (complex(0, -1)*g0*complex(sg.u.dot(in), 0) - complex(l*sg.u[2], 0))
				}
			}
			e2 := (real(eTE*cmplx.Conj(eTE)) + real(eTM*cmplx.Conj(eTM))) * math.Pow(k0*numeric.Eta0/(4*math.Pi), 2)
			total += e2 / (2 * numeric.Eta0 / n) * math.Sin(theta) * width * (2 * math.Pi / around)
		}
	}
	return total
}

func TestSkyAndSoilShareTheInputOverALosslessDielectric(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	for _, e := range []float64{4, 13} {
		for _, kind := range []string{"level", "upright", "slope"} {
			for _, h := range []float64{0.01, 0.05, 0.3} {
				if e == 4 && (kind != "slope" || h == 0.05) {
					continue
				}
				s := solve(t, hung(kind, h*wave, earth.Ground{Permittivity: e}), f14)
				sky, soil := s.Average(), intoSoil(s)/s.Input
				if math.Abs(sky+soil-1) > 0.005 {
					t.Errorf("%s %v high over permittivity %v: sky %.4f and soil %.4f make %.4f", kind, h, e, sky, soil, sky+soil)
				}
			}
		}
	}
}

func TestRealGroundTendsToItsLimits(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	for _, kind := range []string{"level", "slope"} {
		m := hung(kind, 0.05*wave, earth.Ground{Permittivity: 1, Conductivity: 2e4})
		metal := solve(t, m, f14)
		m.Ground = Perfect
		if want := solve(t, m, f14); cmplx.Abs(metal.Z-want.Z) > 0.01*cmplx.Abs(want.Z) || math.Abs(metal.Average()-1) > 0.03 {
			t.Errorf("%s over metal: %v, average %v; over a perfect ground %v", kind, metal.Z, metal.Average(), want.Z)
		}
		m.Ground, m.Earth = Real, earth.Ground{Permittivity: 1.0000001}
		air := solve(t, m, f14)
		m.Ground = Free
		if want := solve(t, m, f14); cmplx.Abs(air.Z-want.Z) > 0.002*cmplx.Abs(want.Z) {
			t.Errorf("%s over air: %v, free %v", kind, air.Z, want.Z)
		}
	}
}

func TestRealGroundTakesPowerAndLowWiresPayMost(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	for _, id := range []string{"sea", "average", "rock"} {
		g, _ := earth.Kind(id)
		last := 1.0
		for _, h := range []float64{0.3, 0.05, 0.01} {
			s := solve(t, hung("level", h*wave, g), f14)
			lost := 1 - s.Average()
			if lost < 0 || lost > 1 || real(s.Z) <= 0 {
				t.Errorf("%s %v high: %v lost, Z %v", id, h, lost, s.Z)
			}
			if left := s.Average(); left > last {
				t.Errorf("%s: %v of the power is left %v high, less when higher", id, left, h)
			} else {
				last = left
			}
		}
	}
}

// TestLowDipoleOverAverageSoilIsResistive keeps in mind why the integrals are there: at a fiftieth of a wave
// over average soil a picture with plane-wave images is off by 41 % in R and 129 ohm in X.
func TestLowDipoleOverAverageSoilIsResistive(t *testing.T) {
	g, _ := earth.Kind("average")
	low, clear := solve(t, hung("level", 0.02*wave, g), f14), solve(t, hung("level", 0.2*wave, g), f14)
	if real(low.Z) < 1.1*real(clear.Z) || imag(low.Z) < imag(clear.Z) {
		t.Errorf("0.02 wavelengths up %v, 0.2 up %v: a low wire gains resistance and length", low.Z, clear.Z)
	}
	m := hung("level", 0.0001, g)
	m.Wires[0].From[2], m.Wires[0].To[2] = 0.0002, 0.5
	if err := m.Check(f14); err == nil {
		t.Error("a wire that dips into real ground is solved")
	}
	m.Wires[0].From[2], m.Wires[0].To[2] = 0, 0
	if err := m.Check(f14); err == nil {
		t.Error("a wire that lies in real ground is solved")
	}
	m.Earth.Permittivity = 0
	if err := m.Check(f14); err == nil {
		t.Error("a ground of no permittivity is solved")
	}
}

// Two ways to earth a vertical share nothing but the wire: its own field in the soil (Sommerfeld), and the
// compensation theorem with a screen over perfect ground. With many short radials the second tends to the
// first, without its stake; over sea water they are the same.
func TestEarthedVerticalsAgreeByBothWays(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	for id, within := range map[string]float64{"sea": 0.03, "wet": 0.1, "average": 0.06} {
		g, _ := earth.Kind(id)
		m := Model{Ground: Real, Earth: g, Density: 30, Wires: []Wire{{To: Vec{0, 0, 0.235 * wave}, Radius: 0.001}},
			Sources: []Source{{Volts: 1}}}
		own := solve(t, m, f14)
		m.Screen = &Screen{Radials: 16, Length: 0.15 * wave, Wire: 0.0005, Height: 0.235 * wave}
		screen := solve(t, m, f14)
		if off := real(screen.Z)/real(own.Z) - 1; math.Abs(off) > within {
			t.Errorf("%s: R %v in the soil's field, %v over a screen of 16 radials", id, real(own.Z), real(screen.Z))
		}
		if lost := screen.Screen / screen.Input; lost <= 0 || lost > 0.5 || screen.Average()+lost > 1.001 {
			t.Errorf("%s: the screen takes %v, the sky %v", id, lost, screen.Average())
		}
		m.Screen.Radials, m.Screen.Stake = 4, 20
		if poor := solve(t, m, f14); poor.Average() >= screen.Average() || real(poor.Z) < real(screen.Z)+15 {
			t.Errorf("%s: with 4 radials and 20 ohm %v and %v to the sky, with 16 %v and %v", id, poor.Z, poor.Average(), screen.Z, screen.Average())
		}
	}
}

func BenchmarkRealGround(b *testing.B) {
	g, _ := earth.Kind("average")
	m := hung("slope", 0.05*wave, g)
	m.Density = 100
	for b.Loop() {
		if _, err := Solve(b.Context(), m, f14); err != nil {
			b.Fatal(err)
		}
	}
}
