package family

import (
	"math"
	"math/cmplx"
	"testing"
)

// A coil across the feed lifts a low resistance to 50 ohm, once the antenna is set short by the reactance that belongs
// to it: checked with complex arithmetic.
func TestACoilAcrossTheFeedMatches(t *testing.T) {
	for _, r := range []float64{2, 8, 12.5, 20, 32} {
		const f = 7.05e6
		x := 2 * math.Pi * f * (Match{R: r, Hz: f}).Hairpin()
		antenna := complex(r, -math.Sqrt(r*(50-r)))
		coil := complex(0, x)
		if z := antenna * coil / (antenna + coil); cmplx.Abs(z-50) > 1e-6 {
			t.Errorf("%v ohm becomes %v", r, z)
		}
	}
}
