package family

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// everyPlan calls a test with the plan of every family and way to hang it, by the closed forms, and with every length of the
// solver's so much longer; want is the shape that it should then have.
func everyPlan(t *testing.T, longer float64, test func(t *testing.T, form, solved antenna.Plan, want antenna.Shape)) {
	bands := map[bool][]float64{false: {14.2e6}, true: {14.2e6, 21.2e6}}
	for _, f := range Families() {
		for _, v := range f.Variants {
			t.Run(f.ID+" "+v.ID, func(t *testing.T) {
				all := bands[f.Multi]
				r := antenna.Request{Shape: antenna.Shape{Family: f.ID, Variant: v.ID, FrequencyHz: all[0], More: all[1:]}}
				form := Design(r)
				var want antenna.Shape
				want, r.Solved = lengthened(form.Shape, longer)
				test(t, form, Design(r), want)
			})
		}
	}
}

// lengthened is a shape with every length that the solver finds of it so much longer, and these lengths as it tells them.
func lengthened(s antenna.Shape, longer float64) (antenna.Shape, []antenna.Solved) {
	var out []antenna.Solved
	a := Of(s)
	if beam := a.Beam(); beam != nil {
		for _, l := range beam.Lengths {
			size := quantity.Metres(s.M(l.Field) * longer)
			s = s.With(l.Field, size)
			out = append(out, antenna.Solved{Field: l.Field, Size: size})
		}
		s = beam.Close(s)
		for _, w := range beam.Wholes {
			out = append(out, antenna.Solved{Piece: w.Piece, Field: w.Field, Size: quantity.Metres(w.Length(s))})
		}
		return s, out
	}
	knobs := a.Solved()
	if a.Trims() == Settings { // of what is set on each band the length of a whip
		knobs = slices.DeleteFunc(a.Knobs(), func(k Knob) bool { return k.Field != antenna.Radiator })
	}
	begin := s
	for _, k := range slices.Backward(knobs) { // the whole of a winding before the taps that move with it
		size := k.Length(begin) * longer
		s = k.Set(s, size)
		out = append(out, antenna.Solved{Piece: k.Piece, Field: k.Field, Size: quantity.Metres(size)})
	}
	return s, out
}

// A plan with the solver's lengths is the plan that they were found for, with these lengths: nothing else of it moves but
// the poles, which have to be long enough.
func TestSolvedLengthsMoveNothingElseOfAPlan(t *testing.T) {
	everyPlan(t, 1.03, func(t *testing.T, _, solved antenna.Plan, want antenna.Shape) {
		got := solved.Shape
		poles := func(id string, _ quantity.Length) bool {
			return slices.Contains([]string{antenna.PoleHeight, antenna.FeedHeight, antenna.FarHeight}, id)
		}
		maps.DeleteFunc(got.Sizes, poles)
		maps.DeleteFunc(want.Sizes, poles)
		near := func(a, b float64) bool { return math.Abs(a-b) < 0.051 } // turns are told to a tenth
		if !maps.EqualFunc(got.Sizes, want.Sizes, func(a, b quantity.Length) bool { return math.Abs(a.M-b.M) < 1e-3 }) {
			t.Errorf("%v, want %v", got.Sizes, want.Sizes)
		}
		if !maps.EqualFunc(got.Numbers, want.Numbers, near) {
			t.Errorf("%v, want %v", got.Numbers, want.Numbers)
		}
	})
}

// What a plan says of its lengths is of those that are cut: in its sentence, its cut list, its tables and its figures.
func TestSolvedLengthsAreSaidEverywhere(t *testing.T) {
	numbers := regexp.MustCompile(`\d+(\.\d+)?( (m|cm|mm)\b)?`)
	everyPlan(t, 0.96, func(t *testing.T, form, solved antenna.Plan, want antenna.Shape) {
		if a, b := numbers.ReplaceAllString(form.Sentence, "#"), numbers.ReplaceAllString(solved.Sentence, "#"); a != b {
			t.Errorf("said in another way: %q, with the solver's lengths %q", form.Sentence, solved.Sentence)
		}
		for _, p := range solved.Pieces {
			sum := p.Electrical.M + p.Trim.M
			for _, a := range p.Allowances {
				sum += a.Length.M
			}
			if math.Abs(sum-p.Cut.M) > 1e-6 {
				t.Errorf("%s adds up to %v, cut at %v", p.Name, sum, p.Cut.M)
			}
		}
		was, is := map[string]float64{}, map[string]float64{}
		_, lengths := lengthened(form.Shape, 1)
		for _, x := range lengths {
			if m := want.M(x.Field); m > 0 {
				was[x.Field], is[x.Field] = form.Shape.M(x.Field), m
			}
		}
		if _, ok := was[antenna.Radiator]; ok {
			if got := cutOf(solved); math.Abs(got-is[antenna.Radiator]) > 1e-3 {
				t.Errorf("the cut list comes to %.3f m of radiator, the solver to %.3f", got, is[antenna.Radiator])
			}
		}
		for id, m := range was {
			old, now := say(antenna.Request{}, m), say(antenna.Request{}, is[id])
			for i, table := range form.Tables {
				for j, row := range table.Rows {
					for n, cell := range row {
						if cell == old && table.Columns[n] != "best" && solved.Tables[i].Rows[j][n] != now {
							t.Errorf("%s, %s: %q, cut at %q", table.Title, table.Columns[n], solved.Tables[i].Rows[j][n], now)
						}
					}
				}
			}
			for i, f := range form.Figures {
				if f.Value == old && solved.Figures[i].Value != now {
					t.Errorf("%s: %q, cut at %q", f.Label, solved.Figures[i].Value, now)
				}
			}
		}
		if _, ok := was[antenna.Radiator]; ok && form.Factor.Value < 0.99 {
			if share := solved.Factor.Value / form.Factor.Value; math.Abs(share-0.96) > 1e-3 {
				t.Errorf("factor %.3f for lengths of 0.96 of those with %.3f", solved.Factor.Value, form.Factor.Value)
			}
		}
	})
}

// cutOf is the radiator that a cut list makes: pieces one after another, halves of which there are two.
func cutOf(p antenna.Plan) (m float64) {
	for i, x := range p.Pieces {
		switch {
		case p.Shape.Family == "multi-vertical" && x.Name == "wire for 14.200 MHz", x.Name == "radiator", x.Name == "leg", x.Name == "whip, out":
			m = x.Electrical.M
		case x.Name == "line":
			m = x.Electrical.M - p.Shape.M("stub") - p.Shape.M("gap")
		case x.Name == "driven half":
			m = 2 * x.Electrical.M
		case strings.HasPrefix(x.Name, "section "):
			m += x.Electrical.M
			if i > 0 {
				m += p.Shape.M("link_gap")
			}
		}
	}
	return m
}

// What the solver found to set is what the plan says: its table, its coil that has to be long enough, its strip.
func TestSolvedSettingsMakeTheCoil(t *testing.T) {
	texts := map[string]string{"for": "5.36 10.12", "whip": "2.2 m"}
	form := wish(t, "loaded-whip", "raised-radials", texts)
	ask := func(low, high float64, texts map[string]string) antenna.Plan {
		return Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "loaded-whip", Variant: "raised-radials"},
			Solved: []antenna.Solved{{FrequencyHz: 5.36e6, Henries: low}, {FrequencyHz: 10.12e6, Henries: high}}},
			Typed: entry.Typed{Texts: texts}})
	}
	l := Of(form.Shape).Electrics(5.36e6).Henries
	more := ask(1.2*l, 9e-6, texts)
	if rows := more.Tables[0].Rows; rows[0][1] != "9 uH" || rows[1][1] != fmt.Sprintf("%.3g uH", 1.2*l*1e6) {
		t.Errorf("coils of %v and %v for 9 and %.3g uH by the solver", rows[0][1], rows[1][1], 1.2*l*1e6)
	}
	n, ok := Of(more.Shape).Turns(5.36e6, 1.2*l)
	if turns := more.Shape.N("coil_turns", 0); !ok || n >= turns || n < 0.9*turns || turns <= form.Shape.N("coil_turns", 0) {
		t.Errorf("%v of %v turns serve the lowest band, %v wound by the closed form", n, turns, form.Shape.N("coil_turns", 0))
	}
	if marks := more.Strips[0].Marks; len(marks) != 2 || math.Abs(marks[1].MM/more.Strips[0].MM-n/more.Shape.N("coil_turns", 0)) > 1e-6 {
		t.Errorf("marks %v on a strip of %v mm", marks, more.Strips[0].MM)
	}
	// A coil that is wound already stays as it is: its taps move, and what it cannot reach is said.
	texts["coil_turns"], texts["coil_length"] = "60", "90"
	wound := ask(1.2*l, 9e-6, texts)
	if wound.Shape.N("coil_turns", 0) != 60 || wound.Tables[0].Rows[0][2] == more.Tables[0].Rows[0][2] {
		t.Errorf("%v turns, tapped at %v", wound.Shape.N("coil_turns", 0), wound.Tables[0].Rows)
	}
	texts["coil_turns"] = "12"
	short := ask(1.2*l, 9e-6, texts)
	said := func(f antenna.Fault) bool {
		return f.Path == "coil_turns" && strings.Contains(f.Text, "5.360 MHz wants")
	}
	if !slices.ContainsFunc(short.Faults, said) || short.Tables[0].Rows[1][2] != "more than it has" {
		t.Errorf("%v, %v", short.Faults, short.Tables[0].Rows)
	}
	loop := antenna.Request{Shape: antenna.Shape{Family: "small-loop", Variant: "upright", FrequencyHz: 10.12e6},
		Solved: []antenna.Solved{{FrequencyHz: 10.12e6, Farads: 61e-12}}}
	if p := Design(loop); p.Tables[0].Rows[0][1] != "61 pF" || !strings.Contains(p.Sentence, "61 pF") {
		t.Errorf("%v: %s", p.Tables[0].Rows, p.Sentence)
	}
	whip := antenna.Request{Shape: antenna.Shape{Family: "whip", Variant: "ground-radials", FrequencyHz: 18.1e6, More: []float64{24.9e6}},
		Solved: []antenna.Solved{{Field: "radiator", Size: quantity.Metres(4.12)},
			{Field: "radiator", FrequencyHz: 24.9e6, Size: quantity.Metres(2.95)}}}
	if rows := Design(whip).Tables[0].Rows; rows[0][1] != "2.95 m" || rows[1][1] != "4.12 m" {
		t.Errorf("whip out to %v", rows)
	}
	// A band beyond its length is still named, whatever was solved for the others, or told of all.
	for _, told := range []float64{0, 5.6} {
		low := antenna.Request{Shape: antenna.Shape{Family: "whip", Variant: "raised-radials", FrequencyHz: 10.12e6, More: []float64{21.2e6}},
			Solved: []antenna.Solved{{Field: "radiator", FrequencyHz: 21.2e6, Size: quantity.Metres(3.55)}}}
		if told > 0 {
			low.Solved = append(low.Solved, antenna.Solved{Field: "radiator", Size: quantity.Metres(told)})
		}
		p := Design(low)
		if f, found := faultAt(p.Faults, "whip_full"); !found || !strings.Contains(f.Text, "10.120 MHz") || p.Tables[0].Rows[0][1] != "3.55 m" {
			t.Errorf("%v: %v", p.Faults, p.Tables[0].Rows)
		}
	}
}

// One voltage is said of what is hot: that of the danger, on the band on which it is the highest.
func TestOneVoltageOfWhatIsHot(t *testing.T) {
	for _, f := range []string{"small-loop", "loaded-whip", "whip-pair"} {
		fam, _ := Named(f)
		p := wish(t, f, fam.Variants[0].ID, map[string]string{"for": "7.1 10.12 14.06"})
		_, volts := Of(p.Shape).Hot(10)
		said := fmt.Sprintf("up to %.0f V", volts)
		in := strings.Contains(p.Expect, said)
		for _, x := range p.Figures {
			in = in || strings.HasPrefix(x.Value, said)
		}
		if !in {
			t.Errorf("%s: %q is in neither %q nor %v", f, said, p.Expect, p.Figures)
		}
	}
}
