package moment

import (
	"context"
	"errors"
	"math"
	"math/cmplx"
	"math/rand/v2"
	"testing"
)

func near2(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > tol {
		t.Errorf("%s = %v, want %v within %v", what, got, want, tol)
	}
}

func solve(t *testing.T, m Model, f float64) *Solution {
	t.Helper()
	s, err := Solve(context.Background(), m, f)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

const f0 = light / 1 // a wave of one metre

// dipole is a centre-fed wire in free space, of a length and radius in wavelengths.
func dipole(length, radius float64) Model {
	return Model{Wires: []Wire{{From: Vec{0, 0, -length / 2}, To: Vec{0, 0, length / 2}, Radius: radius}}, Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}}
}

func TestThinHalfWaveTendsToTheClassicalValue(t *testing.T) {
	// 73.13 + j42.54 in the thin limit, reached as 1/ln(1/a) (Carter 1932).
	var last float64
	for _, a := range []float64{1e-3, 1e-5, 1e-7, 1e-9} {
		z := solve(t, dipole(0.5, a), f0).Z
		d := cmplx.Abs(z - complex(73.13, 42.54))
		if last != 0 && d >= last {
			t.Errorf("radius %v: %v, no nearer than before", a, z)
		}
		last = d
	}
	if last > 4 {
		t.Errorf("at 1e-9 wavelengths still %v ohm away", last)
	}
}

func resonant(t *testing.T, radius float64) float64 {
	lo, hi := 0.44, 0.5
	for range 18 {
		mid := (lo + hi) / 2
		if imag(solve(t, dipole(mid, radius), f0).Z) < 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo
}

func TestResonantLengthByRadius(t *testing.T) {
	last := 0.5
	for _, a := range []float64{1e-6, 1e-5, 1e-4, 1e-3} {
		l := resonant(t, a)
		if l < 0.462 || l > 0.492 || l >= last {
			t.Errorf("radius %v wavelengths: resonant at %v, want 0.47 to 0.49 and shorter when thicker", a, l)
		}
		last = l
	}
}

func monopole(h, radius float64) Model {
	return Model{Ground: Perfect, Wires: []Wire{{From: Vec{0, 0, 0}, To: Vec{0, 0, h}, Radius: radius}}, Sources: []Source{{Spot: Spot{0, 0}, Volts: 1}}}
}

func TestMonopoleOverPerfectGroundIsHalfTheDipole(t *testing.T) {
	m, d := solve(t, monopole(0.24, 1e-4), f0), solve(t, dipole(0.48, 1e-4), f0)
	if e := cmplx.Abs(2*m.Z-d.Z) / cmplx.Abs(d.Z); e > 0.003 {
		t.Errorf("%v against %v", m.Z, d.Z)
	}
	near2(t, "average gain over the ground", m.Average(), 1, 0.005)
	near2(t, "quarter-wave's gain at the horizon", 10*math.Log10(m.Gain(1e-6, 0)), 5.15, 0.05)
}

func TestFoldedDipoleIsFourTimes(t *testing.T) {
	const l, gap, a = 0.47, 0.01, 2e-4
	m := Model{Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}, Wires: []Wire{
		{From: Vec{0, 0, -l / 2}, To: Vec{0, 0, l / 2}, Radius: a}, {From: Vec{gap, 0, -l / 2}, To: Vec{gap, 0, l / 2}, Radius: a},
		{From: Vec{0, 0, l / 2}, To: Vec{gap, 0, l / 2}, Radius: a}, {From: Vec{0, 0, -l / 2}, To: Vec{gap, 0, -l / 2}, Radius: a},
	}}
	z := solve(t, m, f0).Z
	// Against the pair of wires fed together, whose radius is the mean sqrt(a gap).
	single := real(solve(t, dipole(l+gap/2, math.Sqrt(a*gap)), f0).Z)
	near2(t, "ratio", real(z)/single, 4, 0.25)
}

func TestMutualImpedanceOfParallelDipoles(t *testing.T) {
	// Half a wave apart: -12.5 - j29.9 with sinusoidal currents (induced EMF, Carter 1932).
	one := Wire{From: Vec{0, 0, -0.25}, To: Vec{0, 0, 0.25}, Radius: 1e-13}
	two := one
	two.From, two.To = Vec{0.5, 0, -0.25}, Vec{0.5, 0, 0.25}
	pair := func(v1, v2 complex128) *Solution {
		return solve(t, Model{Wires: []Wire{one, two}, Sources: []Source{{Spot: Spot{0, 0.5}, Volts: v1}, {Spot: Spot{1, 0.5}, Volts: v2}}}, f0)
	}
	s1, s2 := pair(1, 0), pair(0, 1)
	y11, y21, y12 := s1.Currents[0], s1.Currents[1], s2.Currents[0]
	if cmplx.Abs(y12-y21) > 1e-9*cmplx.Abs(y12) {
		t.Errorf("not reciprocal: %v and %v", y12, y21)
	}
	z12 := -y21 / (y11*y11 - y21*y21)
	if cmplx.Abs(z12-complex(-12.5, -29.9)) > 1.5 {
		t.Errorf("mutual impedance %v, want about -12.5-j29.9", z12)
	}
}

func TestSmallLoopRadiationResistance(t *testing.T) {
	// 20 pi^2 (C/lambda)^4 by its area: 320 pi^4 (A/lambda^2)^2, for a square of side 0.01 wavelengths.
	const s = 0.01
	p := []Vec{{0, 0, 0}, {s, 0, 0}, {s, s, 0}, {0, s, 0}}
	m := Model{Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}, Density: 200}
	for i := range p {
		m.Wires = append(m.Wires, Wire{From: p[i], To: p[(i+1)%4], Radius: 1e-5})
	}
	x := solve(t, m, f0)
	near2(t, "radiation resistance", real(x.Z)/(320*math.Pow(math.Pi, 4)*math.Pow(s, 4)), 1, 0.05)
	if imag(x.Z) < 20 {
		t.Errorf("a small loop is no inductor: %v", x.Z)
	}
}

// tangled is an end-fed sloping wire with a counterpoise, a bend, a coil and a jacket: nothing symmetrical.
func tangled() Model {
	return Model{Wires: []Wire{
		{From: Vec{0, 0, 0.05}, To: Vec{0.2, 0.02, 0.2}, Radius: 5e-5, Permittivity: 2.3, Outer: 1e-4},
		{From: Vec{0.2, 0.02, 0.2}, To: Vec{0.4, 0, 0.05}, Radius: 5e-5},
		{From: Vec{0, 0, 0.05}, To: Vec{-0.05, 0.01, 0.02}, Radius: 3e-5},
	}, Sources: []Source{{Spot: Spot{0, 0}, Volts: 1}}, Loads: []Load{{Spot: Spot{1, 0.5}, R: 1, L: 2e-8}}, Ground: Perfect, Density: 30}
}

func TestOrderAndDirectionOfWiresChangeNothing(t *testing.T) {
	want := solve(t, tangled(), f0).Z
	m := tangled()
	m.Wires[1].From, m.Wires[1].To = m.Wires[1].To, m.Wires[1].From
	if z := solve(t, m, f0).Z; cmplx.Abs(z-want) > 1e-9*cmplx.Abs(want) {
		t.Errorf("turned round: %v, want %v", z, want)
	}
	m = tangled()
	m.Wires[0], m.Wires[2] = m.Wires[2], m.Wires[0]
	m.Sources[0].Spot = Spot{2, 0}
	if z := solve(t, m, f0).Z; cmplx.Abs(z-want) > 1e-9*cmplx.Abs(want) {
		t.Errorf("reordered: %v, want %v", z, want)
	}
}

func TestPowerGoesSomewhere(t *testing.T) {
	m := tangled()
	for i := range m.Wires {
		m.Wires[i].Resistivity = 1.724e-8
	}
	s := solve(t, m, f0)
	if r := s.Radiated(); r <= 0 || r >= 1 || s.Lost[0] <= 0 || s.Metal[0] <= 0 {
		t.Errorf("radiated %v, load %v, metal %v", r, s.Lost, s.Metal)
	}
	near2(t, "sky power against what is not lost", s.Average(), s.Radiated(), 0.01)
	free := dipole(0.48, 1e-4)
	near2(t, "average gain of a lossless dipole", solve(t, free, f0).Average(), 1, 0.005)
	near2(t, "its gain broadside in dB", 10*math.Log10(solve(t, free, f0).Gain(0, 1)), 2.14, 0.03)
}

func TestFinerSegmentsChangeLittle(t *testing.T) {
	for name, m := range map[string]Model{"dipole": dipole(0.48, 1e-4), "monopole": monopole(0.24, 1e-4), "tangled": tangled()} {
		m.Density = 30
		a := solve(t, m, f0).Z
		m.Density = 60
		b := solve(t, m, f0).Z
		if e := cmplx.Abs(1/a-1/b) / cmplx.Abs(1/b); e > 0.02 {
			t.Errorf("%s: %v becomes %v, %.1f %% of admittance", name, a, b, e*100)
		}
	}
}

// TestEndFedWireSettles watches the hard case, a high impedance, judged by its admittance: at the usual
// density it moves under 1 % when the mesh is doubled.
func TestEndFedWireSettles(t *testing.T) {
	const f = 7.1e6
	for _, l := range []float64{19.6, 20.8} {
		m := Model{Ground: Free, Wires: []Wire{{From: Vec{0, 0, 1}, To: Vec{l * 0.97, 0, 6}, Radius: 0.0005}, {From: Vec{0, 0, 1}, To: Vec{-1.9, 0, 0.2}, Radius: 0.0005}}, Sources: []Source{{Spot: Spot{0, 0}, Volts: 1}}}
		a := solve(t, m, f).Z
		m.Density = 120
		b := solve(t, m, f).Z
		if e := cmplx.Abs(1/a-1/b) / cmplx.Abs(1/b); e > 0.01 {
			t.Errorf("%v m: %.0f becomes %.0f, %.2f %% of admittance", l, a, b, 100*e)
		}
	}
}

func TestLossesAndLoadsKnownAnswers(t *testing.T) {
	s := solve(t, dipole(0.47, 1e-4), f0)
	m := dipole(0.47, 1e-4)
	m.Loads = []Load{{Spot: Spot{0, 0.5}, R: 10, L: 1e-8}}
	loaded := solve(t, m, f0)
	want := s.Z + complex(10, 2*math.Pi*f0*1e-8)
	if cmplx.Abs(loaded.Z-want) > 1e-6*cmplx.Abs(want) {
		t.Errorf("a load at the feed adds %v, want itself", loaded.Z-s.Z)
	}
	near2(t, "its share", loaded.Lost[0]/loaded.Input, 10/real(loaded.Z), 1e-9)
	for _, c := range []struct {
		load Load
		want complex128
	}{{Load{R: 50, Shunt: true}, 50}, {Load{}, 0}, {Load{R: 3, C: 1e-12}, complex(3, -1/(2*math.Pi*f0*1e-12))}, {Load{L: 1e-6, C: 1e-12, Shunt: true}, 1 / complex(0, 2*math.Pi*f0*1e-12-1/(2*math.Pi*f0*1e-6))}, {Load{Shunt: true}, 0}} {
		if z := c.load.Z(f0); cmplx.Abs(z-c.want) > 1e-6*(1+cmplx.Abs(c.want)) {
			t.Errorf("%+v is %v, want %v", c.load, z, c.want)
		}
	}
	// A jacket slows the wave: the resonance of a wire of PE falls by 1 to 4 %.
	jacket := dipole(0.47, 5e-5)
	bare := solve(t, jacket, f0)
	jacket.Wires[0].Permittivity, jacket.Wires[0].Outer = 2.3, 1e-4
	if dx := imag(solve(t, jacket, f0).Z) - imag(bare.Z); dx < 5 || dx > 60 {
		t.Errorf("the jacket adds %v ohm", dx)
	}
}

func TestIllegalModelsAreNamed(t *testing.T) {
	ok := dipole(0.5, 1e-4)
	for name, c := range map[string]struct {
		wire   int
		change func(*Model)
	}{
		"crossing": {1, func(m *Model) {
			m.Wires = append(m.Wires, Wire{From: Vec{-0.1, 0, 0.1}, To: Vec{0.1, 0, 0.1}, Radius: 1e-4})
		}},
		"lying on": {1, func(m *Model) {
			m.Wires = append(m.Wires, Wire{From: Vec{0, 0, 0.1}, To: Vec{0, 0, 0.6}, Radius: 1e-4})
		}},
		"fat":        {0, func(m *Model) { m.Wires[0].Radius = 0.2 }},
		"no radius":  {0, func(m *Model) { m.Wires[0].Radius = 0 }},
		"no length":  {0, func(m *Model) { m.Wires[0].To = m.Wires[0].From }},
		"underneath": {0, func(m *Model) { m.Ground = Perfect }},
		"nowhere":    {0, func(m *Model) { m.Wires[0].To[2] = math.NaN() }},
	} {
		m := ok
		m.Wires = append([]Wire{}, ok.Wires...)
		c.change(&m)
		_, err := Solve(context.Background(), m, f0)
		var we *WireError
		if !errors.As(err, &we) || we.Wire != c.wire || we.Why == "" {
			t.Errorf("%s: %v, want wire %d named", name, err, c.wire)
		}
	}
	end := ok
	end.Sources = []Source{{Spot: Spot{0, 1}, Volts: 1}}
	if _, err := Solve(context.Background(), end, f0); !errors.Is(err, ErrNoPath) {
		t.Errorf("fed at a free end: %v", err)
	}
	for _, m := range []Model{{}, {Wires: ok.Wires}, {Wires: ok.Wires, Sources: []Source{{Spot: Spot{3, 0}, Volts: 1}}}, {Wires: ok.Wires, Sources: ok.Sources, Ground: "lava"}, {Wires: ok.Wires, Sources: ok.Sources, Loads: []Load{{Spot: Spot{0, 2}}}}} {
		if _, err := Solve(context.Background(), m, f0); err == nil {
			t.Errorf("%+v was solved", m)
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := Solve(ctx, ok, f0); !errors.Is(err, context.Canceled) {
		t.Errorf("asked to stop: %v", err)
	}
}

func TestOddLegalModelsKeepTheirPower(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	solved := 0
	for range 120 {
		at := Vec{rng.Float64() - 0.5, rng.Float64() - 0.5, 0.1 + rng.Float64()}
		m := Model{Ground: []string{Free, Perfect}[rng.IntN(2)], Density: 15, Sources: []Source{{Spot: Spot{0, []float64{0.5, 0.3, 0.77}[rng.IntN(3)]}, Volts: 1}}}
		for range 1 + rng.IntN(4) {
			next := at.add(Vec{rng.NormFloat64() * 0.2, rng.NormFloat64() * 0.2, rng.NormFloat64() * 0.2})
			m.Wires = append(m.Wires, Wire{From: at, To: next, Radius: math.Pow(10, -5+2*rng.Float64()), Resistivity: 1.7e-8 * float64(rng.IntN(2))})
			if rng.IntN(2) == 0 {
				at = next
			}
		}
		s, err := Solve(context.Background(), m, f0)
		if err != nil {
			continue
		}
		solved++
		if r := s.Radiated(); s.Input <= 0 || r < 0 || r > 1+1e-9 || real(s.Z) <= 0 {
			t.Errorf("%+v: input %v W, radiated %v, Z %v", m, s.Input, r, s.Z)
		}
	}
	if solved < 60 {
		t.Errorf("only %d were legal", solved)
	}
}

func BenchmarkSolve(b *testing.B) {
	for _, n := range []struct {
		name    string
		density float64
	}{{"100", 170}, {"200", 370}, {"400", 770}} {
		m := dipole(0.48, 1e-6)
		m.Density = n.density
		b.Run(n.name, func(b *testing.B) {
			for b.Loop() {
				s, err := Solve(context.Background(), m, f0)
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(s.Unknowns), "unknowns")
			}
		})
	}
}
