package family

import (
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

// What matters of a family are fields of its own, few enough to be read at a glance, and never what it cannot do without.
func TestFewFieldsOfAFamilyStandOpen(t *testing.T) {
	for _, f := range Families() {
		plan, built := map[string]bool{}, map[string]bool{}
		for _, v := range f.Variants {
			a := Of(antenna.Shape{Family: f.ID, Variant: v.ID, FrequencyHz: 14.1e6})
			open := 0
			for _, x := range a.Fields("plan") {
				plan[x.ID] = true
				if !x.Aside {
					open++
				}
				if x.Must && x.Aside {
					t.Errorf("%s %s: %s must be given, and is put aside", f.ID, v.ID, x.ID)
				}
			}
			// With the bands, how it hangs and the wire that is five or six.
			if open < 2 || open > 4 {
				t.Errorf("%s %s: %d fields stand open in its plan", f.ID, v.ID, open)
			}
			for _, x := range a.Fields("built") {
				built[x.ID] = true
				if x.Must && x.Aside {
					t.Errorf("%s %s: %s must be recorded, and is put aside", f.ID, v.ID, x.ID)
				}
			}
		}
		for _, id := range f.matters {
			if !plan[id] && !built[id] {
				t.Errorf("%s: %s matters and is no field of it", f.ID, id)
			}
		}
	}
}

func TestOneLengthAndOneRange(t *testing.T) {
	r := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6}, TrimPercent: 2}
	p := Design(r)
	from, to, ok := strings.Cut(p.Likely, " to ")
	lo, err1 := quantity.Typed(from, "m")
	hi, err2 := quantity.Typed(to, "m")
	l := p.Pieces[0].Electrical.M
	if !ok || err1 != nil || err2 != nil || lo.M >= l || hi.M <= l {
		t.Fatalf("%q about %.3f m: %v %v", p.Likely, l, err1, err2)
	}
	if p.Called != "End-fed 40 m" {
		t.Errorf("called %q", p.Called)
	}
	// By the solver it is narrower, and about the solver's length.
	r.Solved = []antenna.Solved{{Piece: "radiator", Field: "radiator", Size: quantity.Metres(19.4)}}
	solved := Design(r)
	if solved.Likely != "19.11 m to 19.69 m" || !strings.Contains(solved.Sentence, "1 radiator of 19.97 m") {
		t.Errorf("%q: %s", solved.Likely, solved.Sentence)
	}
	r.Units = quantity.FeetInches
	if got := Design(r).Likely; strings.Contains(got, " m") || !strings.Contains(got, "'") {
		t.Errorf("in feet: %q", got)
	}
	r.More = []float64{14.1e6, 21.1e6, 28.1e6}
	if got := Design(r).Called; got != "End-fed 40 to 10 m" {
		t.Errorf("called %q", got)
	}
}
