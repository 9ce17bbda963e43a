package earth

import (
	"context"
	"math"
	"math/cmplx"
	"slices"
	"sync"
	"testing"

	"reed/internal/testsize"
)

// brute integrates Sommerfeld's integrals in another way: straight up from 0, level along a line above all
// poles and branch points, evenly and very finely, with the reflections in their textbook form.
func brute(w Wave, rho, height float64) Kernel {
	lift := math.Min(w.K, 2/math.Max(rho, 1e-9))
	end := 34/height + 4*w.K
	k2 := complex(w.K*w.K, 0)
	var sum Kernel
	integrate := func(from, to complex128, n int) {
		d := (to - from) / complex(float64(n), 0)
		for i := range n {
			// Two-point Gauss in each piece.
			for _, x := range []float64{0.21132486540518713, 0.7886751345948129} {
				l := from + d*complex(float64(i)+x, 0)
				g, u := root(l*l-k2), root(l*l-k2*w.N2)
				h := (g - u) / (g + u)
				e := (u - w.N2*g) / (u + w.N2*g)
				charge := (g*g*e + k2*h) / (l * l)
				zz := -e - g*g/(l*l)*(e-h)
				j0, j1 := bessel01(l * complex(rho, 0))
				decay := cmplx.Exp(-g*complex(height, 0)) * d / 2
				sum.XX += h * j0 * l / g * decay
				sum.ZZ += zz * j0 * l / g * decay
				sum.Charge += charge * j0 * l / g * decay
				sum.ZX += (e - h) * j1 * decay
			}
		}
	}
	up := complex(0, lift)
	integrate(1e-9, up, 300)
	integrate(up, up+complex(3*w.K*real(cmplx.Sqrt(w.N2)), 0), 40000)
	integrate(up+complex(3*w.K*real(cmplx.Sqrt(w.N2)), 0), up+complex(end, 0), 300+int(end*rho*0.9))
	return sum
}

// off is the largest difference of two kernels against the image's own size.
func off(a, b Kernel, r float64) float64 {
	d := math.Max(math.Max(cmplx.Abs(a.XX-b.XX), cmplx.Abs(a.ZZ-b.ZZ)), math.Max(cmplx.Abs(a.Charge-b.Charge), cmplx.Abs(a.ZX-b.ZX)))
	return d * r
}

var soils = []string{"sea", "average", "dry-sand", "rock"}

func TestSommerfeldAgainstBruteForce(t *testing.T) {
	testsize.SkipIfShort(t, "integrates many grounds")
	points := 0
	for _, id := range soils {
		g, _ := Kind(id)
		w := g.At(14e6)
		lambda := 2 * math.Pi / w.K
		for _, height := range []float64{0.005, 0.05, 0.5} {
			for _, rho := range []float64{0.01, 0.3, 3} {
				if rho/height > 300 && id != "average" {
					continue // slow by brute force: one soil is enough
				}
				got, want := w.Reflect(rho*lambda, height*lambda), brute(w, rho*lambda, height*lambda)
				if e := off(got, want, math.Hypot(rho, height)*lambda); e > 0.01 {
					t.Errorf("%s, %v high, %v away: off by %.4f\n%v\n%v", id, height, rho, e, got, want)
				}
				points++
			}
		}
	}
	if points < 30 {
		t.Errorf("only %d points", points)
	}
}

func TestSommerfeldLimits(t *testing.T) {
	k := 2 * math.Pi / 20
	for _, p := range [][2]float64{{0.3, 0.2}, {4, 0.5}, {30, 3}, {0, 2}} {
		r := math.Hypot(p[0], p[1])
		image := cmplx.Exp(complex(0, -k*r)) / complex(r, 0)
		if e := off(Wave{k, complex(1, -1e-9)}.Reflect(p[0], p[1]), Kernel{}, r); e > 1e-6 {
			t.Errorf("ground of nothing but air reflects %v at %v", e, p)
		}
		if e := off(Wave{k, complex(1, -1e9)}.Reflect(p[0], p[1]), Kernel{XX: -image, ZZ: image, Charge: -image}, r); e > 2e-3 {
			t.Errorf("a mirror is off by %v at %v", e, p)
		}
	}
}

func TestTableReadsWhatWasIntegrated(t *testing.T) {
	testsize.SkipIfShort(t, "integrates many grounds")
	var kept Tables
	for _, id := range soils {
		g, _ := Kind(id)
		for _, f := range []float64{5.7e6, 28.5e6} {
			w := g.At(f)
			lambda := 2 * math.Pi / w.K
			exact, err := g.Table(context.Background(), f)
			if err != nil {
				t.Fatal(err)
			}
			between, err := kept.At(context.Background(), g, f)
			if err != nil {
				t.Fatal(err)
			}
			for _, height := range []float64{0.0009, 0.004, 0.011, 0.033, 0.16, 0.7, 2.1} {
				for _, rho := range []float64{0, 0.002, 0.013, 0.11, 0.42, 1.7, 5.3} {
					want := w.Reflect(rho*lambda, height*lambda)
					for name, table := range map[string]*Table{"table": exact, "table between frequencies": between} {
						if e := off(table.At(rho*lambda, height*lambda), want, math.Hypot(rho, height)*lambda); e > 0.005 {
							t.Errorf("%s, %v MHz, %v high, %v away: the %s is off by %.4f", id, f/1e6, height, rho, name, e)
						}
					}
				}
			}
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	wet, _ := Kind("wet")
	if _, err := kept.At(ctx, wet, 7e6); err == nil {
		t.Error("it does not stop when asked")
	}
}

func TestBesselOfComplexArguments(t *testing.T) {
	// Against Bessel's integral: J_n(z) = 1/pi of the integral of cos(n t - z sin t) from 0 to pi.
	for _, z := range []complex128{0.5, 3, complex(2, 1), complex(9, 2), complex(13.9, 2.5), complex(14.1, 2.5), complex(40, 3),
		complex(200, 1), complex(0.01, 0.02)} {
		var want [2]complex128
		const n = 4000
		for i := range n {
			at := math.Pi * (float64(i) + 0.5) / n
			for k := range 2 {
				want[k] += cmplx.Cos(complex(float64(k)*at, 0)-z*complex(math.Sin(at), 0)) / n
			}
		}
		j0, j1 := bessel01(z)
		if e := cmplx.Abs(j0-want[0]) + cmplx.Abs(j1-want[1]); e > 1e-7*(cmplx.Abs(want[0])+cmplx.Abs(want[1])) {
			t.Errorf("at %v: %v %v, want %v", z, j0, j1, want)
		}
	}
}

func BenchmarkTable(b *testing.B) {
	g, _ := Kind("average")
	for b.Loop() {
		if _, err := g.Table(context.Background(), 14e6); err != nil {
			b.Fatal(err)
		}
	}
}

// As near to the image as a wire on the soil is, over what conducts best at the lowest frequency too.
func TestTableReadsAsNearAsAWireLies(t *testing.T) {
	testsize.SkipIfShort(t, "integrates many grounds")
	for _, id := range soils {
		for _, f := range []float64{1.85e6, 3.6e6, 29e6} {
			g, _ := Kind(id)
			table, err := g.Table(t.Context(), f)
			if err != nil {
				t.Fatal(err)
			}
			for _, height := range []float64{0.006, 0.01, 0.02} {
				for _, rho := range []float64{0, 0.003, 0.02, 0.15} {
					want := g.At(f).Reflect(rho, height)
					if e := off(table.At(rho, height), want, math.Hypot(rho, height)); e > 0.012 {
						t.Errorf("%s, %v MHz, %v m high, %v away: off by %.4f", id, f/1e6, height, rho, e)
					}
				}
			}
		}
	}
}

// Grounds made ready together are those made one by one, and several asking at once get the same.
func TestGroundsTogetherAreThoseAlone(t *testing.T) {
	var together, alone Tables
	var all []Ground
	for _, id := range []string{"sea", "rock", "average"} {
		g, _ := Kind(id)
		all = append(all, g)
	}
	const f = 10.1e6
	var asking sync.WaitGroup
	for i := range all {
		asking.Go(func() {
			if err := together.Ready(t.Context(), append(slices.Clone(all[i:]), all[:i]...), f, 1.1*f); err != nil {
				t.Error(err)
			}
		})
	}
	asking.Wait()
	for _, g := range all {
		a, err := together.At(t.Context(), g, f)
		if err != nil {
			t.Fatal(err)
		}
		b, err := alone.At(t.Context(), g, f)
		if err != nil {
			t.Fatal(err)
		}
		for _, at := range [][2]float64{{0, 0.01}, {0.2, 0.01}, {5, 4}, {40, 3}, {90, 20}} {
			if e := off(a.At(at[0], at[1]), b.At(at[0], at[1]), math.Hypot(at[0], at[1])); e > 2e-3 {
				t.Errorf("%s at %v: off by %g", g.ID, at, e)
			}
		}
	}
}
