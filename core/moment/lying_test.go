package moment

import (
	"context"
	"math"
	"math/cmplx"
	"testing"

	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/internal/testsize"
)

func piece(from, to Vec) *segment {
	h := to.sub(from).length()
	s := segment{from: from, to: to, u: to.sub(from).scale(1 / h), h: h, a: 0.0007}.placed()
	return &s
}

// What the ground adds near the soil, taken as an image and a smooth rest, is what a very fine sum of the whole gives.
func TestCouplingsNearTheSoilAgainstAFineSum(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	up := 0.004
	lies := piece(Vec{0, 0, up}, Vec{0.4, 0, up})
	pairs := map[string][2]*segment{
		"itself":       {lies, lies},
		"a long one":   {piece(Vec{0, 0, up}, Vec{1.1, 0, up}), piece(Vec{0, 0, up}, Vec{1.1, 0, up})},
		"the next":     {lies, piece(Vec{0.4, 0, up}, Vec{0.8, 0, up})},
		"round a bend": {lies, piece(Vec{0, 0, up}, Vec{0.1, 0.4, up})},
		"a short one":  {piece(Vec{0, 0, up}, Vec{0.004, 0, up}), lies},
		"falling":      {lies, piece(Vec{0, 0, up}, Vec{-0.06, 0, 0.4})},
		"upright":      {piece(Vec{0, 0, up}, Vec{0, 0, 0.5}), piece(Vec{0, 0, up}, Vec{0, 0, 0.5})},
	}
	for _, id := range []string{"sea", "average", "dry-sand"} {
		for _, f := range []float64{3.7e6, 18.1e6} {
			soil, _ := earth.Kind(id)
			table, err := soil.Table(context.Background(), f)
			if err != nil {
				t.Fatal(err)
			}
			k := wavesOf([]float64{f})
			for name, pq := range pairs {
				p, q := pq[0], pq[1]
				var got, want [most]coupling
				coupler{table: table, k: k, read: new(earth.Kernels)}.overGround(p, q, &got)
				fine := crossing{t: table, k: k, p: p, q: q, along: p.u[0]*q.u[0] + p.u[1]*q.u[1], upright: p.u[2] * q.u[2], tilted: true,
					kernels: new(earth.Kernels), out: &want}
				fine.over(gauss8, gauss8, 24, 24, whole)
				var direct [most]moments
				pair(p, q, k, &direct)
				size := cmplx.Abs(direct[0].g00)
				v, w := got[0].vector, want[0].vector
				off := cmplx.Abs(got[0].charge - want[0].charge)
				for _, d := range []complex128{v.g00 - w.g00, v.g10 - w.g10, v.g01 - w.g01, v.g11 - w.g11} {
					off = math.Max(off, cmplx.Abs(d))
				}
				if off > 0.0015*size {
					t.Errorf("%s, %v MHz, %s: off by %.4f of what goes through the air", id, f/1e6, name, off/size)
				}
			}
		}
	}
}

// A wire on the soil is a line over lossy ground: ln(2z/a) + ln((1+gz)/(gz)) for its inductance, g the soil's propagation
// constant (Sunde 1949), ln(2z/a) for its capacitance. Over salt water it shows what stands nearest to the image.
func TestAWireOnTheSoilIsALineOverIt(t *testing.T) {
	for _, c := range []struct {
		soil   string
		mhz, z float64
	}{{"sea", 3.6, 0.005}, {"sea", 3.6, 0.02}, {"sea", 14.2, 0.01}, {"wet", 3.6, 0.02}} {
		ground, _ := earth.Kind(c.soil)
		const a = 0.0008
		f := c.mhz * 1e6
		omega := 2 * math.Pi * f
		g := cmplx.Sqrt(complex(0, omega*numeric.Mu0)*ground.Admittivity(f)) * complex(c.z, 0)
		flat := complex(math.Log(2*c.z/a), 0)
		series := complex(0, omega*numeric.Mu0/(2*math.Pi)) * (flat + cmplx.Log((1+g)/g))
		across := complex(0, 2*math.Pi*omega*numeric.Eps0) / flat
		gamma, z0 := cmplx.Sqrt(series*across), cmplx.Sqrt(series/across)
		length := math.Pi / imag(gamma)
		m := Model{Ground: Real, Earth: ground, Wires: []Wire{{From: Vec{-length / 2, 0, c.z}, To: Vec{length / 2, 0, c.z}, Radius: a}},
			Sources: []Source{{Spot: Spot{0, 0.5}, Volts: 1}}}
		got := solve(t, m, f).Z
		want := 2 * z0 / cmplx.Tanh(gamma*complex(length/2, 0))
		if off := cmplx.Abs(got-want) / cmplx.Abs(2*z0); off > 0.03 {
			t.Errorf("%s, %v MHz, %v m up: %v, as a line %v, off by %.3f of its impedance", c.soil, c.mhz, c.z, got, want, off)
		}
	}
}

// Several frequencies at a time give what each gives alone.
func TestFrequenciesTogetherAreThoseAlone(t *testing.T) {
	m := hung("slope", 0.1, earth.Ground{Permittivity: 13, Conductivity: 0.005})
	m.Wires = append(m.Wires, Wire{From: m.Wires[0].From, To: Vec{-4, 3, 0.006}, Radius: 0.001},
		Wire{From: Vec{-4, 3, 0.006}, To: Vec{-9, 3, 0.006}, Radius: 0.001})
	all := []float64{13.6e6, 14.1e6, 14.6e6}
	g := build(m, 14.6e6)
	together, err := g.fill(context.Background(), m, all...)
	if err != nil {
		t.Fatal(err)
	}
	for n, f := range all {
		alone, err := g.fill(context.Background(), m, f)
		if err != nil {
			t.Fatal(err)
		}
		worst := 0.0
		for i := range alone[0] {
			for j := range alone[0] {
				own := math.Sqrt(cmplx.Abs(alone[0][i][i]) * cmplx.Abs(alone[0][j][j]))
				worst = math.Max(worst, cmplx.Abs(alone[0][i][j]-together[n][i][j])/own)
			}
		}
		if worst > 3e-5 {
			t.Errorf("%v MHz: off by %g of the diagonal", f/1e6, worst)
		}
	}
}

// A point that is known saves a solve, wherever in the range it lies.
func TestAKnownPointSavesASolve(t *testing.T) {
	z := func(f float64) complex128 { return complex(40+f/1e6, (f-14.05e6)/2e3) + 2000/complex(5, (f-13e6)/1e5) }
	solves := func(known float64) int {
		n := 0
		across := Across{Lo: 13.5e6, Hi: 14.8e6, Z0: 50, Known: known, KnownZ: z(known)}
		c, err := across.Fit(t.Context(), func(_ context.Context, f float64) (complex128, error) {
			n++
			return z(f), nil
		})
		if err != nil {
			t.Fatal(err)
		}
		for f := 13.5e6; f < 14.8e6; f += 0.07e6 {
			if off := cmplx.Abs(c.At(f) - z(f)); off > 0.02*cmplx.Abs(z(f)) {
				t.Errorf("known at %v: %v at %v, want %v", known, c.At(f), f, z(f))
			}
		}
		return n
	}
	without := solves(0)
	for _, known := range []float64{13.55e6, 14.02e6, 14.15e6, 14.6e6} {
		if n := solves(known); n >= without {
			t.Errorf("known at %v MHz: %d solves, %d without", known/1e6, n, without)
		}
	}
}
