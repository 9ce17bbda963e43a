package numeric

import (
	"context"
	"errors"
	"math"
	"sync/atomic"
	"testing"
)

func TestConstantsAgreeWithEachOther(t *testing.T) {
	if c := 1 / math.Sqrt(Mu0*Eps0); math.Abs(c/Light-1) > 1e-9 {
		t.Errorf("1/sqrt(mu0 eps0) = %v", c)
	}
	if z := math.Sqrt(Mu0 / Eps0); math.Abs(z/Eta0-1) > 1e-9 {
		t.Errorf("sqrt(mu0/eps0) = %v", z)
	}
}

func TestLegendreIsExactForPolynomials(t *testing.T) {
	for n := 1; n <= 8; n++ {
		r := Legendre(n)
		for degree := 0; degree <= 2*n-1; degree++ {
			sum := 0.0
			for i, x := range r.X {
				sum += r.W[i] * math.Pow(x, float64(degree))
			}
			if math.Abs(sum-1/float64(degree+1)) > 1e-13 {
				t.Errorf("%d points, degree %d: %v", n, degree, sum)
			}
		}
	}
}

func TestSearchesFindWhatIsThere(t *testing.T) {
	if x, ok := Bisect(func(x float64) float64 { return x*x - 2 }, 0, 2, 0); !ok || math.Abs(x-math.Sqrt2) > 1e-15 {
		t.Errorf("bisection: %v", x)
	}
	if x, ok := Bisect(func(x float64) float64 { return 2 - x*x }, 0, 2, 1e-3); !ok || math.Abs(x-math.Sqrt2) > 1e-3 {
		t.Errorf("falling: %v", x)
	}
	for name, f := range map[string]func(float64) float64{"one sign": func(float64) float64 { return 1 },
		"no value": func(float64) float64 { return math.NaN() }} {
		if x, ok := Bisect(f, 0, 2, 0); ok {
			t.Errorf("%s: found %v", name, x)
		}
	}
	calls := 0
	bowl := func(x float64) (float64, error) { calls++; return (x - 0.7) * (x - 0.7), nil }
	if x, err := Golden(bowl, 0, 2, 1e-6); err != nil || math.Abs(x-0.7) > 1e-6 || calls > 34 {
		t.Errorf("golden section: %v after %d calls, %v", x, calls, err)
	}
	if x := Vertex(func(x float64) float64 { return (x - 0.3) * (x - 0.3) }, 0.2, 0.5); math.Abs(x-0.3) > 1e-12 {
		t.Errorf("vertex: %v", x)
	}
	if x := Vertex(func(x float64) float64 { return -x * x }, 0.2, 0.5); x != 0.2 {
		t.Errorf("of a hill: %v", x)
	}
	free := func(_, to float64) float64 { return to }
	near := func(_, fx float64) bool { return math.Abs(fx) < 1e-12 }
	if x, ok, err := Secant(func(x float64) (float64, error) { return x*x*x - 8, nil }, 1, 1.5, 20, free, near); !ok || err != nil ||
		math.Abs(x-2) > 1e-9 {
		t.Errorf("secant: %v %v %v", x, ok, err)
	}
	if _, ok, _ := Secant(func(float64) (float64, error) { return 1, nil }, 1, 2, 20, free, near); ok {
		t.Error("a constant has no zero")
	}
	if _, ok, _ := Secant(func(x float64) (float64, error) { return x - 9, nil }, 1, 2, 20,
		func(_, to float64) float64 { return math.Min(to, 3) }, near); ok {
		t.Error("a zero beyond the bound was found")
	}
	bad := errors.New("bad")
	fails := func(float64) (float64, error) { return 0, bad }
	if _, err := Golden(fails, 0, 1, 0.1); err != bad {
		t.Errorf("golden: %v", err)
	}
	if _, _, err := Secant(fails, 0, 1, 3, free, near); err != bad {
		t.Errorf("secant: %v", err)
	}
}

// A belief that knows nothing beforehand becomes the least squares through the points.
func TestABeliefLearnsALine(t *testing.T) {
	b := Believe([]float64{0, 0}, []float64{1e4, 1e4})
	for x := 0.0; x < 5; x++ {
		b.Learn([]float64{1, x}, 3+2*x, 1e-6)
	}
	if y, v := b.Says([]float64{1, 10}); math.Abs(y-23) > 1e-3 || v > 1e-4 || v <= 0 {
		t.Errorf("%v with a variance of %v", y, v)
	}
	// One point leaves the direction that it does not see as it was.
	one := Believe([]float64{0, 0}, []float64{1, 1})
	one.Learn([]float64{1, 0}, 5, 1)
	if math.Abs(one.Mean[0]-2.5) > 1e-12 || one.Mean[1] != 0 || math.Abs(one.Cov.At(0, 0)-0.5) > 1e-12 || one.Cov.At(1, 1) != 1 {
		t.Errorf("%+v", one)
	}
}

func TestWorkIsSharedOutOnceAndStopped(t *testing.T) {
	var done [1000]atomic.Int32
	if err := Share(context.Background(), len(done), func(i int) { done[i].Add(1) }); err != nil {
		t.Fatal(err)
	}
	for i := range done {
		if n := done[i].Load(); n != 1 {
			t.Fatalf("piece %d was done %d times", i, n)
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	var n atomic.Int32
	err := Share(ctx, 1e6, func(int) {
		if n.Add(1) == 10 {
			stop()
		}
	})
	if !errors.Is(err, context.Canceled) || n.Load() > 1000 {
		t.Errorf("%v after %d pieces", err, n.Load())
	}
	defer func() {
		if p, ok := recover().(Panicked); !ok || p.Value != "oh" || len(p.Stack) == 0 {
			t.Errorf("%v", p)
		}
	}()
	_ = Share(context.Background(), 10, func(i int) {
		if i == 3 {
			panic("oh")
		}
	})
	t.Error("a panic was swallowed")
}
