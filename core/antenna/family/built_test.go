package family

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// chains are the lengths in metres of what is drawn as wires from the feed, one after another, and how low each ends.
func chains(d antenna.Drawing, role string) (lengths, ends []float64) {
	for _, l := range d.Lines {
		switch {
		case l.Role != role:
		case l.From == d.Feed:
			lengths, ends = append(lengths, l.Length()), append(ends, l.To[2])
		default:
			lengths[len(lengths)-1] += l.Length()
			ends[len(ends)-1] = l.To[2]
		}
	}
	return lengths, ends
}

func TestWiresOnOneFeedStandOnSpacersOrLeanApart(t *testing.T) {
	texts := map[string]string{"for": "7.05 10.12 18.1", "pole_height": "8 m", "spacing": "10 cm"}
	p := wish(t, "multi-vertical", "ground-radials", texts)
	s := p.Shape
	lengths, ends := chains(p.Drawing, "radiator")
	want := []float64{s.Radiator().M, s.M("wire_2"), s.M("wire_3")}
	if len(lengths) != 3 {
		t.Fatalf("%d wires drawn", len(lengths))
	}
	for i := range want {
		near(t, "drawn", lengths[i], want[i], 0.005)
	}
	if ends[0] > 8-0.5 || math.Abs(ends[1]-(s.FeedHeight().M+want[1])) > 0.1 {
		t.Errorf("on a pole of 8 m wires of %v end %v up", want, ends)
	}
	for _, l := range p.Drawing.Lines {
		if off := math.Hypot(l.To[0], l.To[1]); l.Role == "radiator" && math.Abs(off-0.1) > 1e-9 {
			t.Errorf("%v m from the pole's middle", off)
		}
	}
	texts["pole_height"] = "3 m"
	if q := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "multi-vertical", Variant: "ground-radials"}},
		Typed: entry.Typed{Texts: texts}}); !antenna.HasError(q.Faults) {
		t.Errorf("a wire of %v m up 3 m and down again: %v", want[0], q.Faults)
	}
	fan := wish(t, "multi-vertical", "raised-radials", map[string]string{"for": "7.05 14.06", "wires_run": "fan", "spread": "40 cm"})
	lengths, _ = chains(fan.Drawing, "radiator")
	near(t, "fanned", lengths[1], fan.Shape.M("wire_2"), 1e-6)
}

func TestNoWiresIsAnAnswer(t *testing.T) {
	for _, c := range []struct{ fam, variant, count, piece string }{
		{"end-fed", "sloper", "counterpoise_count", "counterpoise"}, {"random-wire", "sloper", "counterpoise_count", "counterpoise"},
		{"fence-wire", "wooden", "counterpoise_count", "counterpoise"}, {"end-fed-loaded", "sloper", "counterpoise_count", "counterpoise"},
		{"vertical", "ground-radials", "radials_count", "radial"}, {"loaded-whip", "raised-radials", "radials_count", "radial"},
	} {
		p := wish(t, c.fam, c.variant, map[string]string{"for": "10.12", c.count: "0"})
		for _, x := range p.Pieces {
			if x.Name == c.piece {
				t.Errorf("%s: %d %s to cut", c.fam, x.Count, x.Name)
			}
		}
		for _, l := range p.Drawing.Lines {
			if l.Role == c.piece {
				t.Errorf("%s: a %s is drawn", c.fam, c.piece)
			}
		}
		back := p.Shape.Record().Shape()
		if !back.Said(c.count) || back.N(c.count, 1) != 0 || Of(back).Texts("plan", false)[c.count] != "0" {
			t.Errorf("%s: what is written says %v", c.fam, back.Numbers)
		}
		usual := wish(t, c.fam, c.variant, map[string]string{"for": "10.12"})
		if usual.Shape.N(c.count, 0) == 0 {
			t.Errorf("%s: none where nothing was said", c.fam)
		}
	}
}

func TestRadialsInSets(t *testing.T) {
	p := wish(t, "vertical", "ground-radials", map[string]string{"for": "7.1", "radials_count": "3", "radials_length": "6 m",
		"radials_count_2":  "4",
		"radials_length_2": "2.5 m"})
	lengths, _ := chains(p.Drawing, "radial")
	total := 0.0
	for _, l := range lengths {
		total += l
	}
	near(t, "wire on the ground", total, 3*6+4*2.5, 1e-6)
	cut := map[string]int{}
	for _, x := range p.Pieces {
		cut[x.Name] = x.Count
	}
	if cut["radial"] != 3 || cut["radial, set 2"] != 4 {
		t.Errorf("%v", cut)
	}
	heaped := wish(t, "vertical", "ground-radials", map[string]string{"for": "7.1", "radials_count": "3", "radials_length": "6 m",
		"radials_lie": "heap"})
	for _, l := range heaped.Drawing.Lines {
		if l.Role == "radial" && l.Length() > 0.6 {
			t.Errorf("of a heap %v m are spread", l.Length())
		}
	}
}

func TestATaperedRodIsLonger(t *testing.T) {
	rod := func(texts map[string]string) float64 {
		all := map[string]string{"for": "14.06", "whip_full": "7 m"}
		for k, v := range texts {
			all[k] = v
		}
		return wish(t, "whip", "ground-radials", all).Shape.Radiator().M
	}
	even := rod(map[string]string{"whip_radius": "9 mm"})
	if tapered := rod(map[string]string{"whip_bottom": "14 mm", "whip_top": "4 mm", "whip_sections": "8"}); tapered < even*1.015 ||
		tapered > even*1.07 {
		t.Errorf("%v m tapered, %v even", tapered, even)
	}
	near(t, "no taper", antenna.TaperFactor(5, 0.01, 0.01, 6), 1, 1e-6)
	// Two lines of a quarter-wave together: tan a tan b = Z above / Z below.
	z := func(d float64) float64 { return antenna.Average(5, d/2) }
	a := math.Atan(math.Sqrt(z(0.004) / z(0.016)))
	near(t, "two sections", antenna.TaperFactor(5, 0.016, 0.004, 2), 2*a/(math.Pi/2), 1e-6)
}

func TestAWireGoesOverItsBends(t *testing.T) {
	texts := map[string]string{"for": "7.1", "radiator": "20 m", "feed_height": "1 m", "bend_1_out": "3 m", "bend_1_height": "5 m",
		"bend_2_out": "10 m", "bend_2_height": "5 m", "bend_3_out": "4 m", "bend_3_aside": "2 m"}
	for _, fam := range []string{"random-wire", "fence-wire"} {
		variant := map[string]string{"random-wire": "flat", "fence-wire": "wooden"}[fam]
		p := wish(t, fam, variant, texts)
		lengths, ends := chains(p.Drawing, "radiator")
		if len(lengths) != 1 || math.Abs(lengths[0]-20) > 1e-6 || math.Abs(ends[0]-5) > 1e-9 {
			t.Errorf("%s: %v m ending %v m up", fam, lengths, ends)
		}
	}
	texts["radiator"] = "9 m"
	p := wish(t, "random-wire", "flat", texts)
	if _, found := faultAt(p.Faults, "bend_3_out"); !found {
		t.Errorf("9 m over three bends: %v", p.Faults)
	}
}

func TestALineOfTheLegsWire(t *testing.T) {
	w, _ := antenna.WireNamed("bare")
	l := pairOf(w, 0.1)
	near(t, "two bare wires of 1 mm, 10 cm apart", l.Z0, 120*math.Acosh(100), 1e-6)
	near(t, "in air", l.VF, 1, 1e-9)
	pvc, _ := antenna.WireNamed("pvc")
	if j := pairOf(pvc, 0.05); j.VF >= 1 || j.VF < 0.9 {
		t.Errorf("a jacket slows it to %v", j.VF)
	}
	s := wish(t, "doublet", "flat", map[string]string{"for": "7.1 14.1", "line": "legs", "line_spacing": "80 mm", "balun": "1"}).Shape
	if e := Of(s).Electrics(7.1e6); e.TransformsFrom != 1 || e.Line.ID != legsLine {
		t.Errorf("%+v", e)
	}
}

// Between the knots there is no wire for knots and solder, and a piece that is right there is not called short.
func TestWhatWasMeasuredHangsOrLies(t *testing.T) {
	ask := func(as string) *antenna.Measure {
		return Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat"}, TrimPercent: 2},
			Typed: entry.Typed{Texts: map[string]string{"for": "7.05", "trim_percent": "2", "knot": "9 cm", "measured_as": as,
				"measured.leg 1": "10.035 m", "measured.leg 2": "10.03 m"}}}).Measure
	}
	hung, cut := ask("hung"), ask("cut")
	if hung.Rows[0].Cut.M >= cut.Rows[0].Cut.M-0.1 || hung.Rows[0].Percent < cut.Rows[0].Percent+0.9 {
		t.Errorf("hung %+v, cut %+v", hung.Rows[0], cut.Rows[0])
	}
	if hung.Tone == cut.Tone && hung.Sentence == cut.Sentence {
		t.Errorf("%q either way", hung.Sentence)
	}
	r := antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 7e6}, Hung: true}
	if FormTexts(r, false)["measured_as"] != "hung" {
		t.Error("how it was measured is not written back")
	}
}

func TestTurnsInCircuitShowTheirInductance(t *testing.T) {
	s := wish(t, "loaded-whip", "ground-radials", map[string]string{"for": "5.36 10.12", "whip": "2.2 m"}).Shape
	_, coil := loadedParts(&s, &antenna.Plan{}, 0)
	last := 0.0
	for _, uh := range []float64{3, 8, 15} {
		n, ok := Of(s).Turns(5.36e6, uh*1e-6)
		if !ok || n <= last {
			t.Fatalf("%v turns for %v uH", n, uh)
		}
		part := coil
		part.Turns, part.Length = n, coil.Winding()*n/coil.Turns
		l, _, _, _ := part.At(5.36e6)
		near(t, "microhenries", l*1e6, uh, 0.01)
		last = n
	}
	if _, ok := Of(s).Turns(5.36e6, 1); ok {
		t.Error("a henry on a whip's coil")
	}
	if _, ok := Of(antenna.Shape{Family: "dipole", Variant: "flat"}).Turns(7e6, 1e-6); ok {
		t.Error("turns on a dipole")
	}
}

// A prefilled figure is not typed: with the feed raised the ends of a V hang where the legs put them, and nobody is asked about a height
// that the program computed. What was not touched keeps all its digits.
func TestPrefilledFiguresAreNotTyped(t *testing.T) {
	p := wish(t, "dipole", "inverted-v", map[string]string{"for": "7.1", "feed_height": "8 m"})
	was := Of(p.Shape)
	was.Put(antenna.Radiator, quantity.Metres(10.12345))
	texts := was.Texts("built", quantity.SI)
	texts["feed_height"] = "10 m"
	got, faults := was.Filled("built", texts, "m")
	_, more := Of(got).Layout()
	for _, f := range append(faults, more...) {
		t.Errorf("%s: %s", f.Path, f.Text)
	}
	if got.FarHeight().Typed != "" || got.M(antenna.Radiator) != 10.12345 || got.FeedHeight().M != 10 {
		t.Errorf("%+v", got.Sizes)
	}
	texts["far_height"] = "1 m"
	if got, _ := was.Filled("built", texts, "m"); got.FarHeight().Typed == "" {
		t.Error("a typed height counts as computed")
	}
}
