package earth

import (
	"math"
	"math/cmplx"
	"testing"

	"reed/core/numeric"
)

// The screen's integral is closed for a quarter-wave whose field falls as exp(-jkd)/(2 pi r), d the way from its top: over a stake
// alone the surface impedance is one number, and the rest is summed here with a rule of its own.
func TestTheScreensIntegralIsTheOneOfAQuarterWave(t *testing.T) {
	g, f := Kinds()[0], 7.1e6
	lambda := numeric.Light / f
	h, k := lambda/4, 2*math.Pi/lambda
	var sum complex128
	// The midpoint rule over the logarithm of distance, as far as the phase turns within many of its steps.
	const n = 400000
	lo, hi := math.Log(0.1), math.Log(300*lambda)
	for i := range n {
		r := math.Exp(lo + (hi-lo)*(float64(i)+0.5)/n)
		sum += cmplx.Exp(complex(0, -2*k*math.Hypot(r, h))) * complex((hi-lo)/n/(2*math.Pi), 0)
	}
	want := -complex(numeric.Eta0, 0) / cmplx.Sqrt(g.Complex(f)) * sum
	got := Screen(g, f, h, 0, 0, 0.001)
	if off := cmplx.Abs(got-want) / cmplx.Abs(want); !(off < 0.01) {
		t.Errorf("%v, want %v: %.4f off", got, want, off)
	}
}
