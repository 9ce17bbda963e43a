package moment

import (
	"math"
	"math/cmplx"
	"testing"

	"reed/core/moment/earth"
	"reed/internal/testsize"
)

// radials over soil, each a wire or all of them one that stands all round.
func radials(n int, round bool, aside bool) Model {
	const up = 0.02
	m := Model{Ground: Real, Earth: earth.Ground{Permittivity: 10, Conductivity: 0.003}, Density: 40,
		Wires:   []Wire{{From: Vec{1, 2, up}, To: Vec{1, 2, 5 + up}, Radius: 0.001, Resistivity: 1.7e-8}},
		Sources: []Source{{Volts: 1}}}
	for i := range n {
		if round && i > 0 {
			break
		}
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		w := Wire{From: Vec{1, 2, up}, To: Vec{1 + 4*cos, 2 + 4*sin, up}, Radius: 0.0005, Resistivity: 1.7e-8, Permittivity: 3, Outer: 0.001}
		if round {
			w.Round, w.About = n, w.From
		}
		m.Wires = append(m.Wires, w)
	}
	if aside {
		m.Wires = append(m.Wires, Wire{From: Vec{1, 2, up}, To: Vec{1 + 3*math.Cos(0.5), 2 + 3*math.Sin(0.5), up}, Radius: 0.002})
	}
	return m
}

func TestEqualWiresAllRoundAreOne(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	const f = 13e6
	for _, n := range []int{3, 6} {
		apart, err := Solve(t.Context(), radials(n, false, false), f)
		if err != nil {
			t.Fatal(err)
		}
		one, err := Solve(t.Context(), radials(n, true, false), f)
		if err != nil {
			t.Fatal(err)
		}
		if off := cmplx.Abs(one.Z - apart.Z); off > 1e-3*cmplx.Abs(apart.Z) {
			t.Errorf("%d radials: %v as one, %v apart", n, one.Z, apart.Z)
		}
		if one.Unknowns >= apart.Unknowns {
			t.Errorf("%d unknowns for one, %d for all", one.Unknowns, apart.Unknowns)
		}
		lost := 0.0
		for _, w := range apart.Metal[1:] {
			lost += w
		}
		if math.Abs(one.Metal[1]/lost-1) > 1e-3 {
			t.Errorf("%g W lost in the metal of one, %g in all", one.Metal[1], lost)
		}
		if a, b := one.Average(), apart.Average(); math.Abs(a/b-1) > 1e-3 {
			t.Errorf("%g to the sky, %g apart", a, b)
		}
		if a, b := one.EndVolts(), apart.EndVolts(); math.Abs(a/b-1) > 1e-3 {
			t.Errorf("%g V at the end, %g apart", a, b)
		}
		at := []Vec{{2, 4, 1}}
		x, err := one.Near(t.Context(), at, 10)
		if err != nil {
			t.Fatal(err)
		}
		y, err := apart.Near(t.Context(), at, 10)
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(x[0].E/y[0].E-1) > 2e-3 || math.Abs(x[0].H/y[0].H-1) > 2e-3 {
			t.Errorf("near: %v as one, %v apart", x[0], y[0])
		}
	}
	// A wire beside them parts their currents a little; shared alike the answer hardly moves.
	apart, err := Solve(t.Context(), radials(4, false, true), f)
	if err != nil {
		t.Fatal(err)
	}
	one, err := Solve(t.Context(), radials(4, true, true), f)
	if err != nil {
		t.Fatal(err)
	}
	if off := cmplx.Abs(one.Z - apart.Z); off > 0.02*cmplx.Abs(apart.Z) {
		t.Errorf("with one aside: %v as one, %v apart", one.Z, apart.Z)
	}
	band, err := Over(t.Context(), radials(5, true, false), 12e6, 14e6)
	if err != nil {
		t.Fatal(err)
	}
	a, err := band.Solve(t.Context(), 12.5e6)
	if err != nil {
		t.Fatal(err)
	}
	b, err := Solve(t.Context(), radials(5, true, false), 12.5e6)
	if err != nil {
		t.Fatal(err)
	}
	if off := cmplx.Abs(a.Z - b.Z); off > 0.01*cmplx.Abs(b.Z) {
		t.Errorf("over a band %v, alone %v", a.Z, b.Z)
	}
}
