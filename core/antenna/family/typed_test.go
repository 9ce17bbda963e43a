package family

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// A typed length is a fact: whatever else the plan works out, and whatever the solver found for other lengths, it stays.
func TestTypedLengthsStayInThePlan(t *testing.T) {
	tried := 0
	everyPlan(t, 1.05, func(t *testing.T, form, _ antenna.Plan, _ antenna.Shape) {
		_, solved := lengthened(form.Shape, 1.05)
		for _, f := range form.Fields {
			if f.Kind != entry.Length && f.Kind != entry.Size {
				continue
			}
			for _, share := range []float64{0.9, 1, 1.1} {
				m := math.Round(form.Shape.M(f.ID)*share*1000) / 1000
				if m <= 0 {
					continue
				}
				r := antenna.Request{Shape: antenna.Shape{Family: form.Shape.Family, Variant: form.Shape.Variant,
					FrequencyHz: form.Shape.FrequencyHz, More: form.Shape.More}, Solved: solved}
				typed := quantity.Length{M: m, Typed: quantity.Metric(m, 1)}
				r.Put(f.ID, typed)
				p := Design(r)
				if antenna.HasError(p.Faults) {
					continue // it is refused at its field, and so not replaced
				}
				tried++
				if got := p.Shape.M(f.ID); math.Abs(got-m) > 1e-9 {
					t.Errorf("%s typed as %.3f m is %.3f m in the plan", f.ID, m, got)
				}
			}
		}
	})
	if tried < 300 {
		t.Errorf("only %d lengths were tried", tried)
	}
}
