package family

import (
	"maps"
	"math"
	"slices"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

// A plan with the solver's lengths is the plan that they were found for, with these lengths: nothing else of it moves but
// the poles, which have to be long enough.
func TestSolvedLengthsMoveNothingElseOfAPlan(t *testing.T) {
	bands := map[bool][]float64{false: {10.12e6}, true: {10.12e6, 21.2e6}}
	for _, f := range Families() {
		for _, v := range f.Variants {
			all := bands[f.Multi]
			r := antenna.Request{Shape: antenna.Shape{Family: f.ID, Variant: v.ID, FrequencyHz: all[0], More: all[1:]}}
			p := Design(r)
			want := p.Shape
			for _, k := range Of(p.Shape).Solved() {
				size := k.Length(want) * 1.03
				want = k.Set(want, size)
				r.Solved = append(r.Solved, antenna.Solved{Piece: k.Piece, Field: k.Field, Size: quantity.Metres(size)})
			}
			for i, k := range Of(p.Shape).Solved() {
				r.Solved[i].Electrical = quantity.Metres(k.Electrical(want))
			}
			got := Design(r).Shape
			poles := func(id string, _ quantity.Length) bool {
				return slices.Contains([]string{antenna.PoleHeight, antenna.FeedHeight, antenna.FarHeight}, id)
			}
			maps.DeleteFunc(got.Sizes, poles)
			maps.DeleteFunc(want.Sizes, poles)
			near := func(a, b float64) bool { return math.Abs(a-b) < 0.051 } // turns are told to a tenth
			if !maps.EqualFunc(got.Sizes, want.Sizes, func(a, b quantity.Length) bool { return math.Abs(a.M-b.M) < 1e-3 }) {
				t.Errorf("%s %s: %v, want %v", f.ID, v.ID, got.Sizes, want.Sizes)
			}
			if !maps.EqualFunc(got.Numbers, want.Numbers, near) {
				t.Errorf("%s %s: %v, want %v", f.ID, v.ID, got.Numbers, want.Numbers)
			}
		}
	}
}
