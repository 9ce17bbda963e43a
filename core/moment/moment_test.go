package moment

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"reed/core/moment/earth"
	"reed/core/numeric"
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

const f0 = numeric.Light / 1 // a wave of one metre

// dipole is a centre-fed wire in free space, of a length and radius in wavelengths.
func dipole(length, radius float64) Model {
	return Model{Wires: []Wire{{From: Vec{0, 0, -length / 2}, To: Vec{0, 0, length / 2}, Radius: radius}},
		Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}}
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
	return Model{Ground: Perfect, Wires: []Wire{{From: Vec{0, 0, 0}, To: Vec{0, 0, h}, Radius: radius}},
		Sources: []Source{{Spot: Spot{0, 0}, Volts: 1}}}
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
		m := Model{Ground: Free, Wires: []Wire{{From: Vec{0, 0, 1}, To: Vec{l * 0.97, 0, 6}, Radius: 0.0005},
			{From: Vec{0, 0, 1}, To: Vec{-1.9, 0, 0.2}, Radius: 0.0005}}, Sources: []Source{{Spot: Spot{0, 0}, Volts: 1}}}
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
	}{{Load{R: 50, Shunt: true}, 50}, {Load{}, 0}, {Load{R: 3, C: 1e-12}, complex(3, -1/(2*math.Pi*f0*1e-12))},
		{Load{L: 1e-6, C: 1e-12, Shunt: true}, 1 / complex(0, 2*math.Pi*f0*1e-12-1/(2*math.Pi*f0*1e-6))}, {Load{Shunt: true}, 0}} {
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
	for _, m := range []Model{{}, {Wires: ok.Wires}, {Wires: ok.Wires, Sources: []Source{{Spot: Spot{3, 0}, Volts: 1}}},
		{Wires: ok.Wires, Sources: ok.Sources, Ground: "lava"}, {Wires: ok.Wires, Sources: ok.Sources, Loads: []Load{{Spot: Spot{0, 2}}}}} {
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

func TestLineBetweenTwoDipolesIsThatOfCircuitTheory(t *testing.T) {
	one := Wire{From: Vec{0, 0, -0.24}, To: Vec{0, 0, 0.24}, Radius: 1e-3}
	two := Wire{From: Vec{0.3, 0, -0.22}, To: Vec{0.3, 0, 0.22}, Radius: 1e-3}
	both := Model{Wires: []Wire{one, two}, Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}, {Spot: Spot{1, 0.5}}}}
	// The two ports' impedances from two ways to feed them.
	a := solve(t, both, f0)
	both.Sources[0].Volts, both.Sources[1].Volts = 0, 1
	b := solve(t, both, f0)
	det := a.Currents[0]*b.Currents[1] - a.Currents[1]*b.Currents[0]
	z11, z22, z12 := b.Currents[1]/det, a.Currents[0]/det, -b.Currents[0]/det
	for _, l := range []Line{{Z0: 300, VF: 0.8, Length: 0.17}, {Z0: 50, VF: 0.66, Length: 0.31, MatchedDB: 1, Crossed: true}} {
		l.A, l.B = Spot{0, 0.5}, Spot{1, 0.5}
		m := Model{Wires: both.Wires, Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}, Lines: []Line{l}}
		s := solve(t, m, f0)
		own, transfer := l.ports(f0)
		want := z11 + own - (z12+transfer)*(z12+transfer)/(z22+own)
		if cmplx.Abs(s.Z-want) > 1e-3*cmplx.Abs(want) {
			t.Errorf("%+v: %v, by circuit theory %v", l, s.Z, want)
		}
		if lossy := l.MatchedDB > 0; s.Cable < -1e-9 || lossy != (s.Cable > 1e-3*s.Input) || math.Abs(s.Average()-s.Radiated()) > 0.01 {
			t.Errorf("%+v: the line takes %v of %v W, %v to the sky", l, s.Cable, s.Input, s.Average())
		}
	}
	m := Model{Wires: both.Wires, Sources: both.Sources, Lines: []Line{{A: Spot{0, 0.5}, B: Spot{1, 0.5}, Z0: 50, VF: 1.2, Length: 1}}}
	if err := m.Check(f0); err == nil {
		t.Error("a line faster than light is solved")
	}
}

func TestFitNeedsFewSolvesAndSaysWhenItMisses(t *testing.T) {
	// A series resonance in parallel with a capacitor: four poles and zeros.
	z := func(f float64) complex128 {
		w := 2 * math.Pi * f
		return 1 / (1/(complex(40, w*8e-6-1/(w*16e-12))) + complex(0, w*20e-12))
	}
	n := 0
	c, err := Across{Lo: 13e6, Hi: 15e6, Z0: 50}.Fit(context.Background(),
		func(_ context.Context, f float64) (complex128, error) { n++; return z(f), nil })
	if err != nil || n > 8 || c.Off > 0.005 {
		t.Fatalf("%d solves, off %v, %v", n, c.Off, err)
	}
	for f := 13e6; f <= 15e6; f += 37e3 {
		if cmplx.Abs(c.At(f)-z(f)) > 0.01*cmplx.Abs(z(f)) {
			t.Errorf("at %v: %v, want %v", f, c.At(f), z(f))
		}
	}
	if _, err := (Across{Lo: 1e6, Hi: 2e6, Z0: 50}).Fit(context.Background(),
		func(context.Context, float64) (complex128, error) { return 0, errSingular }); !errors.Is(err, errSingular) {
		t.Error("a failed solve is fitted")
	}
}

func TestBandAgreesWithSolvingEachFrequency(t *testing.T) {
	m := Model{Ground: Perfect, Wires: []Wire{{To: Vec{0, 0, 0.24}, Radius: 1e-4, Resistivity: 1.7e-8},
		{From: Vec{0, 0, 0.24}, To: Vec{0.7, 0, 0.3}, Radius: 1e-4}}, Sources: []Source{{Volts: 1}},
		Loads: []Load{{Spot: Spot{1, 0.3}, R: 2, L: 1e-7}}}
	long := Model{Ground: Perfect, Density: 30, Wires: []Wire{{From: Vec{0, 0, 0.2}, To: Vec{4, 0, 0.4}, Radius: 1e-4}},
		Sources: []Source{{Spot: Spot{0, 0.1}, Volts: 1}}}
	for name, m := range map[string]Model{"bent": m, "four waves long": long} {
		b, err := Over(context.Background(), m, 0.925*f0, 1.075*f0)
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range []float64{0.94, 0.9713, 1.037, 1.06} {
			got, err := b.Solve(context.Background(), k*f0)
			if err != nil {
				t.Fatal(err)
			}
			if want := solve(t, m, k*f0); cmplx.Abs(got.Z-want.Z) > 0.015*cmplx.Abs(want.Z) ||
				math.Abs(got.Metal[0]/got.Input-want.Metal[0]/want.Input) > 1e-3 {
				t.Errorf("%s at %v: %v from the band, %v alone", name, k, got.Z, want.Z)
			}
		}
	}
}

func TestTogetherSolvesShareTables(t *testing.T) {
	g, _ := earth.Kind("average")
	var tables earth.Tables
	m := Model{Ground: Real, Earth: g, Tables: &tables, Density: 20, Wires: []Wire{{From: Vec{0, 0, 0.2}, To: Vec{3, 0, 0.4}, Radius: 1e-3}},
		Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}}
	var wg sync.WaitGroup
	z := make([]complex128, 4)
	for i := range z {
		wg.Add(1)
		go func() {
			defer wg.Done()
			if s, err := Solve(context.Background(), m, 20e6); err == nil {
				z[i] = s.Z
				s.Average()
			}
		}()
	}
	wg.Wait()
	for _, v := range z {
		if v == 0 || v != z[0] {
			t.Errorf("four at once: %v", z)
		}
	}
}

// tangle makes a model of wires that go from one another or apart, loaded and grounded by chance.
func tangle(rng *rand.Rand) Model {
	at := Vec{rng.Float64() - 0.5, rng.Float64() - 0.5, 0.1 + rng.Float64()}
	average, _ := earth.Kind("average")
	m := Model{Ground: []string{Free, Perfect, Real}[rng.IntN(3)], Earth: average, Density: 15,
		Sources: []Source{{Spot: Spot{0, []float64{0.5, 0.3, 0.77}[rng.IntN(3)]}, Volts: 1}}}
	for range 1 + rng.IntN(4) {
		next := at.add(Vec{rng.NormFloat64() * 0.2, rng.NormFloat64() * 0.2, rng.NormFloat64() * 0.2})
		m.Wires = append(m.Wires, Wire{From: at, To: next, Radius: math.Pow(10, -5+2*rng.Float64()), Resistivity: 1.7e-8 * float64(rng.IntN(2))})
		if rng.IntN(2) == 0 {
			at = next
		}
	}
	if rng.IntN(2) == 0 {
		m.Loads = append(m.Loads, Load{Spot: Spot{rng.IntN(len(m.Wires)), rng.Float64()}, R: 10 * rng.Float64(), L: 1e-7 * rng.Float64(),
			C: 1e-12 * float64(rng.IntN(3)), Shunt: rng.IntN(2) == 0})
	}
	return m
}

// sound solves a model if it is legal, and says what is wrong with the answer.
func sound(ctx context.Context, m Model) (solved bool, wrong string) {
	s, err := Solve(ctx, m, f0)
	if err != nil {
		return false, ""
	}
	if r := s.Radiated(); s.Input <= 0 || r < -1e-9 || r > 1+1e-9 || real(s.Z) <= 0 {
		return true, fmt.Sprintf("%+v: input %v W, radiated %v, Z %v", m, s.Input, r, s.Z)
	}
	if sky := s.Average(); m.Ground == Real && (sky < 0 || sky > 1.02) {
		return true, fmt.Sprintf("%+v: %v to the sky", m, sky)
	}
	return true, ""
}

func TestOddLegalModelsKeepTheirPower(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	solved := 0
	var tables earth.Tables
	for range 150 {
		m := tangle(rng)
		m.Tables = &tables
		ok, wrong := sound(context.Background(), m)
		if wrong != "" {
			t.Error(wrong)
		}
		if ok {
			solved++
		}
	}
	if solved < 70 {
		t.Errorf("only %d were legal", solved)
	}
}

func FuzzTangledWires(f *testing.F) {
	f.Add(uint64(1), uint64(2))
	var tables earth.Tables
	f.Fuzz(func(t *testing.T, a, b uint64) {
		m := tangle(rand.New(rand.NewPCG(a, b)))
		m.Tables = &tables
		if _, wrong := sound(context.Background(), m); wrong != "" {
			t.Error(wrong)
		}
	})
}

// FuzzCases reads any case: an answer or an error, never a panic or power from nothing.
func FuzzCases(f *testing.F) {
	f.Add([]byte(`{"frequencies_mhz":[14.1],"ground":{"kind":"perfect"},` +
		`"wires":[{"from":[0,0,2],"to":[0,0,7.1],"radius_mm":0.5}],"feed":{"wire":0,"at":0.5},` +
		`"loads":[{"wire":0,"at":0.6,"r_ohm":1,"l_uh":34,"kind":"series"}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		var c Case
		if json.Unmarshal(text, &c) != nil || c.Density > 40 || len(c.Wires) > 6 {
			return
		}
		m, err := c.Model()
		if err != nil || m.Check(14e6) != nil {
			return
		}
		for _, w := range m.Wires {
			if w.To.sub(w.From).length() > 60 {
				return
			}
		}
		if _, wrong := sound(context.Background(), m); wrong != "" {
			t.Error(wrong)
		}
	})
}

// BenchmarkParts times the parts of an answer over 100, 200 and 400 unknowns. factor_ratio is the time of
// the factoring against 8/3 N^3 floating-point operations at the rate of multiply-adds that this machine is
// measured to do in one thread of plain code: under 1 because the matrix is symmetrical and both cores work.
func BenchmarkParts(b *testing.B) {
	rate := multiplyAdds()
	for _, n := range []struct {
		name    string
		density float64
	}{{"100", 170}, {"200", 370}, {"400", 770}} {
		m := dipole(0.48, 1e-6)
		m.Density = n.density
		b.Run(n.name, func(b *testing.B) {
			var fill, factor, far time.Duration
			unknowns := 0.0
			for b.Loop() {
				begun := time.Now()
				g := build(m, f0)
				z, err := g.fill(context.Background(), m, f0)
				if err != nil {
					b.Fatal(err)
				}
				filled := time.Now()
				s, err := g.solve(context.Background(), m, f0, z[0])
				if err != nil {
					b.Fatal(err)
				}
				solved := time.Now()
				s.Average()
				fill, factor, far = fill+filled.Sub(begun), factor+solved.Sub(filled), far+time.Since(solved)
				unknowns = float64(s.Unknowns)
			}
			each := func(d time.Duration) float64 { return d.Seconds() * 1e3 / float64(b.N) }
			b.ReportMetric(unknowns, "unknowns")
			b.ReportMetric(each(fill), "fill-ms")
			b.ReportMetric(each(factor), "factor+solve-ms")
			b.ReportMetric(each(far), "sky-ms")
			b.ReportMetric(each(factor)/1e3/(8.0/3*math.Pow(unknowns, 3)/rate), "factor_ratio")
			b.ReportMetric(unknowns*unknowns*16/1e6, "matrix-MB")
		})
	}
}

// multiplyAdds measures floating-point operations a second of multiply-adds on two short vectors.
func multiplyAdds() float64 {
	a, c := make([]complex128, 256), make([]complex128, 256)
	for i := range a {
		a[i], c[i] = complex(float64(i), 1), complex(1, float64(i))
	}
	begun := time.Now()
	const turns = 20000
	var sum complex128
	for range turns {
		sum += dot(a, c)
	}
	if sum == 0 {
		return 0
	}
	return 8 * 256 * turns / time.Since(begun).Seconds()
}

// At a free end stands the voltage of the wave on the wire: of a rod much shorter than a quarter-wave more than its
// current times its impedance, by one over the sine of its length. Held against the charge that the solver puts there.
func TestTheEndOfAShortRodIsHot(t *testing.T) {
	for _, share := range []float64{0.06, 0.12, 0.25} {
		const f = 10e6
		h := share * numeric.Light / f
		m := Model{Ground: Perfect, Wires: []Wire{{To: Vec{0, 0, h}, Radius: 0.002}}, Density: 120, Sources: []Source{{Volts: 1}}}
		s, err := Solve(context.Background(), m, f)
		if err != nil {
			t.Fatal(err)
		}
		z0 := 60 * (math.Log(2*h/0.002) - 1)
		want := s.Most([]bool{true}) * z0 / math.Sin(math.Min(2*math.Pi*share, math.Pi/2))
		if got := s.EndVolts(); math.Abs(got/want-1) > 0.05 {
			t.Errorf("%g wavelengths: %g V at the end, the standing wave has %g", share, got, want)
		}
	}
}
