package family

import (
	"math"
	"slices"
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
				if got := AsCut(p).M(f.ID); slices.ContainsFunc(Of(p.Shape).lengths(), func(k Knob) bool { return k.Field == f.ID && k.Piece != "" }) &&
					math.Abs(got-m) > 1e-9 {
					t.Errorf("%s typed as %.3f m begins a record with %.3f m", f.ID, m, got)
				}
			}
		}
	})
	if tried < 300 {
		t.Errorf("only %d lengths were tried", tried)
	}
}

// A wire that exists is used as it is: no trim margin, no knots, and the rest is still cut with both.
func TestAWireAtHandIsNotCutLonger(t *testing.T) {
	r := antenna.Request{Shape: antenna.Shape{Family: "random-wire", Variant: "sloper", FrequencyHz: 7.1e6}, TrimPercent: 3}
	r.Put(antenna.Radiator, quantity.Length{M: 16, Typed: "16 m"})
	p := Design(r)
	found := false
	for _, x := range p.Pieces {
		if x.Electrical.M == 16 {
			found = true
			if !x.AtHand || x.Cut.M != 16 || x.Trim.M != 0 || len(x.Allowances) != 0 {
				t.Errorf("%+v", x)
			}
		} else if x.Of == "wire" && x.Trim.M == 0 && x.Cut.M <= x.Electrical.M {
			t.Errorf("%s is cut without an allowance", x.Name)
		}
	}
	if !found {
		t.Errorf("no piece of 16 m among %+v", p.Pieces)
	}
	r = antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.1e6}, TrimPercent: 3}
	if p := Design(r); p.Pieces[0].AtHand || p.Pieces[0].Trim.M <= 0 {
		t.Errorf("a computed length is at hand: %+v", p.Pieces[0])
	}
}

// The field of the wire that is too short is named, and not that of the gap, which nobody typed.
func TestAWireTooShortForTheRectangleIsNamedAtItsField(t *testing.T) {
	for field, m := range map[string]float64{antenna.Radiator: 2, "reflector": 2.5} {
		r := antenna.Request{Shape: antenna.Shape{Family: "rectangle", Variant: "level", FrequencyHz: 14.1e6}}
		r.Put(field, quantity.Metres(m))
		var at []string
		for _, f := range Design(r).Faults {
			if f.Severity == "error" {
				at = append(at, f.Path)
			}
		}
		if !slices.Equal(at, []string{field}) {
			t.Errorf("%s of %g m: errors at %v", field, m, at)
		}
	}
}
