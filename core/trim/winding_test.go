package trim

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// A bought stick has another winding than the program assumes. Advice infers it from the first sweep, and the tip that it names
// brings the dip to where it is promised.
func TestTheWindingOfAStickIsInferredFromItsSweep(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "loading-stick", Variant: "ground-radials", FrequencyHz: 14.06e6}})
	b := deployment.Built{Shape: p.Shape}
	for _, share := range []float64{0.92, 1.07} {
		truth := twin.Setup{Built: b, Ground: "average", Winding: share}
		curve := func(s twin.Setup) sweep.Curve {
			z, err := e.Curve(t.Context(), s, 12e6, 16.4e6)
			if err != nil {
				t.Fatal(err)
			}
			var f []float64
			var g []complex128
			for i := range 441 {
				f = append(f, 12e6+1e4*float64(i))
				g = append(g, circuit.Gamma(z(f[i]), sweep.Reference))
			}
			return curveOf(t, sweep.Complex, f, g)
		}
		x := Subject{Swept: []Swept{{b, []sweep.Curve{curve(truth)}}}, Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 2}
		got, err := x.Advise(t.Context(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(got.Winding-share) > 0.015 || !strings.Contains(got.More(), "inductance than recorded") {
			t.Errorf("of a winding with %.2f of its inductance %.3f is inferred: %s", share, got.Winding, got.More())
		}
		if len(got.Foreseen) != 1 || len(got.Wires) != 1 {
			t.Fatalf("%+v", got)
		}
		truth.Built = got.Built
		at, ok, err := e.Near(t.Context(), truth, 14.06e6)
		if err != nil || !ok || at < got.Foreseen[0].Range[0] || at > got.Foreseen[0].Range[1] {
			t.Errorf("winding %.2f: %s; it then dips at %.3f MHz, promised %+v", share, got.Words(quantity.SI).Headline, at/1e6, got.Foreseen)
		}
	}
}
