package marks

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/numeric"
	"reed/core/quantity"
	"reed/core/sweep"
)

var seven = []float64{7.03e6, 10.12e6, 14.06e6, 18.08e6, 21.06e6, 24.9e6, 28.06e6}

func loaded(whip, former float64, hz ...float64) antenna.Shape {
	s := antenna.Shape{Family: "loaded-whip", Variant: "ground-radials", FrequencyHz: hz[0], More: hz[1:]}
	s.PutRadials(antenna.WireSet{Count: 4, Length: quantity.Metres(5)})
	s.Put("whip", quantity.Metres(whip))
	s.Put("coil_former", quantity.Metres(former))
	s.Put("coil_length", quantity.Metres(0.16))
	return s
}

// taps are where an antenna is really tapped: from its plan, which counts the coil's own capacitance as well.
func taps(t *testing.T, s antenna.Shape) map[float64]float64 {
	t.Helper()
	p := family.Design(antenna.Request{Shape: s})
	out := map[float64]float64{}
	for _, strip := range p.Strips {
		for _, m := range strip.Marks {
			mhz, err := strconv.ParseFloat(m.Text, 64)
			if err != nil {
				t.Fatal(err)
			}
			out[math.Round(mhz*1e6)] = m.MM / 1000
		}
	}
	if len(out) == 0 {
		t.Fatalf("no taps: %+v", p.Faults)
	}
	return out
}

func at(hz float64, set func(*Mark)) Mark {
	m := Mark{Hz: hz, SWR: 1.3}
	set(&m)
	return m
}

func tapped(hz, m float64) Mark {
	return at(hz, func(x *Mark) { x.Put("tap", quantity.Metres(m)) })
}

// The coil that was really wound is thicker and its whip shorter than recorded, and every tap is read off to a
// millimetre. What is set between the marks lands nearer than a straight line between them does.
func TestATapBetweenMarksIsForeseenByTheCoilsLaw(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	var law, line []float64
	inside := 0
	wanted := []float64{8.5e6, 12e6, 16e6, 19.5e6}
	for range 60 {
		former, whip := 0.05*(1+0.04*rng.NormFloat64()), 2.0*(1+0.03*rng.NormFloat64())
		truth := taps(t, loaded(whip, former, append(slices.Clone(seven[:5]), wanted...)...))
		set := Set{Name: "x"}
		for _, f := range seven[:5] {
			set.Marks = append(set.Marks, tapped(f, math.Round(truth[f]*1000)/1000))
		}
		for i, f := range wanted {
			got := set.along(controlOf(t, "tap"), nil, loaded(2, 0.05, seven[:5]...), f)
			if !got.ok || !got.inside || got.of != 5 {
				t.Fatalf("%+v", got)
			}
			law = append(law, math.Abs(got.value-truth[f]))
			if math.Abs(got.value-truth[f]) < 2*got.sd {
				inside++
			}
			a, b := set.Marks[i], set.Marks[i+1]
			u := (f - a.Hz) / (b.Hz - a.Hz)
			line = append(line, math.Abs((1-u)*a.M("tap")+u*b.M("tap")-truth[f]))
		}
	}
	slices.Sort(law)
	slices.Sort(line)
	n := len(law)
	t.Logf("by the law: median %.1f mm, 95 %% %.1f mm; straight line: %.1f and %.1f mm; %d of %d within what it said",
		1000*law[n/2], 1000*law[n*95/100], 1000*line[n/2], 1000*line[n*95/100], inside, n)
	if law[n/2] > 0.0012 || law[n/2] > line[n/2]/2 || inside < n*90/100 {
		t.Errorf("median %v against %v, %d of %d within its range", law[n/2], line[n/2], inside, n)
	}
}

func controlOf(t *testing.T, id string) family.Control {
	t.Helper()
	for _, kind := range []string{"loaded-whip", "whip", "small-loop"} {
		for _, c := range family.Of((antenna.Shape{Family: kind})).Controls() {
			if c.ID == id {
				return c
			}
		}
	}
	t.Fatalf("no control %s", id)
	return family.Control{}
}

func whip() antenna.Shape {
	return antenna.Shape{Family: "whip", Variant: "ground-radials", FrequencyHz: 14.06e6, More: []float64{21.06e6, 28.06e6}}
}

func out(hz, metres float64) Mark {
	return at(hz, func(m *Mark) { m.Put("radiator", quantity.Metres(metres)) })
}

func TestAWhipsThirdBandFollowsFromTwo(t *testing.T) {
	// A rod that is 0.94 of the quarter-wave less 7 cm of fitting.
	truth := func(f float64) float64 { return 0.94*numeric.Light/f/4 - 0.07 }
	set := Set{Marks: []Mark{out(14.06e6, truth(14.06e6)), out(28.06e6, truth(28.06e6))}}
	got := set.For(21.06e6, whip(), Today{}, 1, false)
	want := truth(21.06e6)
	if got.How != "between" || !strings.Contains(got.Sentence, "Whip out 3.2") {
		t.Errorf("%+v, want %.3f m", got, want)
	}
	if v := set.along(controlOf(t, "radiator"), nil, whip(), 21.06e6); math.Abs(v.value-want) > 0.012 || v.sd > 0.05 {
		t.Errorf("%v ± %v, want %v", v.value, v.sd, want)
	}
	// From one mark alone the law still gives the other, more loosely.
	one := Set{Marks: set.Marks[:1]}
	v := one.along(controlOf(t, "radiator"), nil, whip(), 28.06e6)
	if math.Abs(v.value-truth(28.06e6)) > 2*v.sd || v.sd < 0.02 || v.inside {
		t.Errorf("from one mark %+v, want %v", v, truth(28.06e6))
	}
	if s := one.For(28.06e6, whip(), Today{}, 1, false); s.How != "beyond" || !strings.Contains(s.Detail, "Beyond your marks") ||
		s.Values[0].Range == "" {
		t.Errorf("%+v", s)
	}
}

func TestAMarkGivesItselfBack(t *testing.T) {
	set := Set{}
	for i, f := range seven {
		set.Marks = append(set.Marks, out(f, 8.1-float64(i)*1.013))
	}
	for _, m := range set.Marks {
		got := set.For(m.Hz*1.0005, whip(), Today{}, 1, false)
		if got.How != "marked" || got.Values[0].Text != quantity.Metric(m.M("radiator"), 1) || !strings.Contains(got.Detail, "SWR was 1.3") {
			t.Errorf("%v: %+v", m.Hz, got)
		}
		if v := set.along(controlOf(t, "radiator"), nil, whip(), m.Hz); v.value != m.M("radiator") {
			t.Errorf("%v gives %v back", m, v.value)
		}
	}
}

// A fixed tap with a whip that is moved a little: the marks of one tap speak for its band only.
func TestAWhipOverAFixedTapMovesWithinItsBand(t *testing.T) {
	shape := loaded(1.5, 0.05, 7.03e6, 14.06e6)
	both := func(hz, tap, whip float64) Mark {
		return at(hz, func(m *Mark) { m.Put("tap", quantity.Metres(tap)); m.Put("whip", quantity.Metres(whip)) })
	}
	set := Set{Marks: []Mark{both(7.01e6, 0.10, 1.50), both(7.19e6, 0.10, 1.38), both(14.06e6, 0.03, 1.50)}}
	got := set.For(7.1e6, shape, Today{}, 1, false)
	if got.How != "between" || len(got.Values) != 2 || got.Values[0].Text != "100.0 mm" || got.Values[0].Range != "" ||
		got.Values[1].Range == "" {
		t.Fatalf("%+v", got)
	}
	v := set.along(controlOf(t, "whip"), map[string]float64{"tap": 0.10}, shape, 7.1e6)
	if v.of != 2 || v.value < 1.41 || v.value > 1.46 {
		t.Errorf("%+v", v)
	}
}

func TestADialOfAnotherBandSaysNothing(t *testing.T) {
	dial := func(hz, n float64) Mark { return at(hz, func(m *Mark) { m.PutNumber("dial_1", n) }) }
	shape := antenna.Shape{Family: "random-wire", FrequencyHz: 7.1e6}
	set := Set{Marks: []Mark{dial(7.0e6, 42), dial(7.2e6, 46)}}
	if got := set.For(14.1e6, shape, Today{}, 1, false); got.How != "none" || len(got.Values) != 0 {
		t.Errorf("%+v", got)
	}
	if got := set.For(7.1e6, shape, Today{}, 1, false); got.How != "between" || got.Values[0].Text != "44" {
		t.Errorf("%+v", got)
	}
	if got := (Set{}).For(7.1e6, shape, Today{}, 1, false); got.How != "none" || got.Sentence != "No marks yet." {
		t.Errorf("%+v", got)
	}
}

// The loop's capacitance goes by the inverse square of the frequency; two marks fix the dial's zero and scale.
func TestALoopsDialFollowsItsCapacitance(t *testing.T) {
	shape := antenna.Shape{Family: "small-loop", Variant: "upright", FrequencyHz: 14.06e6}.With(antenna.Radiator, quantity.Metres(3))
	shape.Put("tube", quantity.Metres(0.012))
	ring := family.Ring{Around: 3, Tube: 0.006}
	count := func(f float64) float64 { return 12 + 0.3*1e12*ring.Capacitance(f) }
	dial := func(hz float64) Mark { return at(hz, func(m *Mark) { m.PutNumber("dial", count(hz)) }) }
	set := Set{Marks: []Mark{dial(7.1e6), dial(14.06e6)}}
	v := set.along(controlOf(t, "dial"), nil, shape, 10.12e6)
	if math.Abs(v.value-count(10.12e6)) > 1 {
		t.Errorf("dial at %v, want %v", v.value, count(10.12e6))
	}
	one := Set{Marks: set.Marks[:1]}
	if got := one.For(10.12e6, shape, Today{}, 1, false); got.How != "none" {
		t.Errorf("one mark of an unknown dial said %+v", got)
	}
}

func TestASlipOfThePenIsAskedAfter(t *testing.T) {
	truth := taps(t, loaded(2, 0.05, seven[:5]...))
	set := Set{Name: "loaded whip"}
	for _, f := range seven[:5] {
		set.Marks = append(set.Marks, tapped(f, truth[f]))
	}
	shape := loaded(2, 0.05, seven[:5]...)
	if f := set.Check(1, shape, false); len(f) != 0 {
		t.Errorf("sound marks are asked after: %+v", f)
	}
	set.Marks[2].Put("tap", quantity.Metres(truth[14.06e6]*2))
	got := set.Check(1, shape, false)
	if !slices.ContainsFunc(got, func(f entry.Fault) bool { return f.Path == "marks.2.tap" && f.Severity == "ask" }) {
		t.Errorf("%+v", got)
	}
	for name, bad := range map[string]Mark{
		"marks.0.hz":  tapped(5, 0.1),
		"marks.0.swr": func() Mark { m := tapped(7e6, 0.1); m.SWR = 0.5; return m }(),
		"marks.0.tap": {Hz: 7.03e6},
	} {
		faults := Set{Name: "x", Marks: []Mark{bad}}.Check(1, shape, false)
		if len(faults) == 0 || faults[0].Path != name || faults[0].Severity != "error" {
			t.Errorf("%s: %+v", name, faults)
		}
	}
	if f := (Set{Marks: set.Marks[:1]}).Check(1, shape, false); len(f) != 1 || f[0].Path != "name" {
		t.Errorf("%+v", f)
	}
}

func TestOtherRadialsCoaxAndPlaceAreSaid(t *testing.T) {
	built := deployment.Built{Shape: whip()}
	built.PutRadials(antenna.WireSet{Count: 4, Length: quantity.Metres(5)})
	built.Coax = deployment.Coax{Type: "RG-58", Length: quantity.Metres(10)}
	m := out(14.06e6, 4.95)
	m.Held = Held{Built: built, Place: "Gannet Spit", Ground: "sea"}
	set := Set{Marks: []Mark{m}}
	if got := set.For(14.06e6, whip(), Today{Built: built, Place: "Gannet Spit", Ground: "sea"}, 1, false); len(got.Warnings) != 0 {
		t.Errorf("as it was, yet %v", got.Warnings)
	}
	other := built
	other.PutNumber(antenna.RadialsCount, 2)
	other.Coax.Length = quantity.Metres(5)
	other.Wind = "fresh"
	got := set.For(14.06e6, whip(), Today{Built: other, Place: "Hollow Fell", Ground: "rock"}, 1, false)
	all := strings.Join(got.Warnings, " ")
	for _, want := range []string{"Radials: 4 of 5.00 m then, 2 of 5.00 m now.", "Coax: 10.00 m of RG-58 then, 5.00 m of RG-58 now.",
		"Found at Gannet Spit, now at Hollow Fell.", "ground"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is missing in %q", want, all)
		}
	}
	if strings.Contains(all, "wind") {
		t.Errorf("the wind moves no mark: %q", all)
	}
	// Marks that were found with today's radials come before closer ones that were not.
	today := out(14.2e6, 4.60)
	today.Held.Built = other
	set.Marks = append(set.Marks, today, func() Mark { x := out(14.0e6, 4.70); x.Held.Built = other; return x }())
	if got := set.For(14.06e6, whip(), Today{Built: other}, 1, false); got.How != "between" || len(got.Warnings) != 0 {
		t.Errorf("%+v", got)
	}
}

func TestTheCardIsInOrderAndTheStripTrue(t *testing.T) {
	set := Set{Name: "Loaded whip", Marks: []Mark{tapped(14.06e6, 0.0312), tapped(7.03e6, 0.118), tapped(10.12e6, 0.0625)}}
	card := set.Card(loaded(2, 0.05, seven...), seven, Today{}, 1, false)
	var order []string
	for _, r := range card.Rows {
		order = append(order, r.MHz)
	}
	if fmt.Sprint(order) != "[7.030 10.120 14.060]" || card.Rows[0].Settings[0] != "118.0 mm" || card.Rows[0].Texts["tap"] == "" {
		t.Errorf("%+v", card)
	}
	if len(card.Strips) != 1 || card.Strips[0].MM < 118 || math.Abs(card.Strips[0].Marks[0].MM-118) > 1e-9 {
		t.Errorf("%+v", card.Strips)
	}
	if !strings.Contains(card.Missing, "18.080") || strings.Contains(card.Missing, "7.030") {
		t.Error(card.Missing)
	}
	// Marks far out on a whip lie on a strip that begins at a whole decimetre.
	far := Set{Name: "Whip", Marks: []Mark{out(14.0e6, 5.02), out(14.2e6, 4.95)}}.Card(whip(), nil, Today{}, 1, false)
	if len(far.Strips) != 1 || !strings.Contains(far.Strips[0].Edge, "4.90 m") || math.Abs(far.Strips[0].Marks[0].MM-120) > 1e-6 {
		t.Errorf("%+v", far.Strips)
	}
	// What is too long for a sheet goes on over several, each with its cross laid on the last one's, and no mark is lost.
	wide := (Set{Name: "Whip", Marks: []Mark{out(14e6, 5), out(21e6, 3.27), out(28e6, 2.4)}}).Card(whip(), nil, Today{}, 1, false).Strips
	along, labels := 2400.0, map[string]float64{}
	for i, x := range wide {
		if i > 0 && (!strings.Contains(x.Edge, "cross") || x.Marks[0].Text != cross) {
			t.Errorf("sheet %d: %+v", i+1, x)
		}
		for _, m := range x.Marks {
			if m.Text != cross {
				labels[m.Text] = along + m.MM
			}
			if m.MM > x.MM {
				t.Errorf("%v mm on a sheet of %v", m.MM, x.MM)
			}
		}
		along += x.MM
	}
	for text, mm := range map[string]float64{"14.000": 5000, "21.000": 3270, "28.000": 2400} {
		if math.Abs(labels[text]-mm) > 1e-6 {
			t.Errorf("%s at %v mm of %v, on %d sheets", text, labels[text], mm, len(wide))
		}
	}
}

// A whip over a coil answers to its length only below a quarter-wave of the whole; between two marks nothing is proposed
// that lies outside of both, and nothing that the part does not reach.
func TestNothingIsProposedOffTheLawsBranch(t *testing.T) {
	long := func(hz, m float64) Mark { return at(hz, func(x *Mark) { x.Put("whip", quantity.Metres(m)) }) }
	shape := loaded(2, 0.05, 21.2e6, 28.4e6)
	set := Set{Name: "w", Marks: []Mark{long(21.0e6, 2.35), long(28.5e6, 2.05)}}
	for _, hz := range []float64{21.2e6, 24.9e6, 28.1e6} {
		got := set.For(hz, shape, Today{}, 1, false)
		if got.How == "none" {
			continue
		}
		var m float64
		if _, err := fmt.Sscanf(got.Values[0].Text, "%f m", &m); err != nil || m < 2 || m > 2.4 {
			t.Errorf("%v MHz between 2.05 and 2.35 m: %+v", hz/1e6, got)
		}
	}
	full := whip()
	full.Put("whip_full", quantity.Metres(5.2))
	reach := Set{Name: "w", Marks: []Mark{out(14.2e6, 4.98), out(18.1e6, 3.9)}}
	if got := reach.For(10.12e6, full, Today{}, 1, false); got.How != "none" || !strings.Contains(got.Sentence, "reach") {
		t.Errorf("a whip of 5.2 m for 10.12 MHz: %+v", got)
	}
	dial := func(hz, n float64) Mark { return at(hz, func(x *Mark) { x.PutNumber("dial_2", n) }) }
	got := (Set{Name: "t", Marks: []Mark{dial(14.05e6, 31)}}).For(14.33e6, full, Today{}, 1, false)
	if got.How == "none" && !strings.Contains(got.Detail, "14.050") {
		t.Errorf("%+v", got)
	}
}

func TestTheGuideGivesItsFigures(t *testing.T) {
	shape := antenna.Shape{Family: "small-loop", Variant: "upright", FrequencyHz: 7.1e6}.With(antenna.Radiator, quantity.Metres(3))
	shape.Put("tube", quantity.Metres(0.012))
	g := strings.Join(Guide(shape, 20), " ")
	if !strings.Contains(g, "most noise") || !strings.Contains(g, "at most 2 W") ||
		!strings.Contains(g, "V peak stand at the loop's capacitor") {
		t.Error(g)
	}
}

// TestNoMarksBreakTheAnswer draws odd sets: repeated, contradicting, absurd. Whatever is asked, what comes out is
// finite and within the control's bounds.
func TestASweepsDipIsKeptAsAMark(t *testing.T) {
	shape := loaded(1.5, 0.05, 7.03e6)
	shape.Put("tap", quantity.Metres(0.043))
	for _, units := range []quantity.System{quantity.SI, quantity.FeetInches} {
		seen := seen(shape, 7.0418e6, 1.274, units)
		unit := units.Unit()
		set, faults := Set{Name: "x"}.Read([]Typed{{ID: "1", Texts: seen.Texts}}, shape, Held{}, unit)
		if len(faults) > 0 || len(set.Check(1, shape, units)) > 0 {
			t.Fatalf("%+v: %+v", seen, faults)
		}
		m := set.Marks[0]
		if m.Hz != 7.042e6 || m.SWR != 1.27 || math.Abs(m.M("tap")-0.043) > 0.0005 || math.Abs(m.M("whip")-1.5) > 0.001 {
			t.Errorf("%+v from %+v", m, seen)
		}
		if got := set.For(7.042e6, shape, Today{}, 1, units); got.How != "marked" {
			t.Errorf("%+v", got)
		}
	}
	// What is not recorded is left to be typed.
	if seen := seen(whip(), 14.06e6, 1.3, false); len(seen.Texts) != 2 || seen.Says != "14.060 MHz, SWR 1.30" {
		t.Errorf("%+v", seen)
	}
	// Of two dips the one in a band is a mark; of an overview none is.
	swept := func(lo, hi float64) []Seen {
		var f []float64
		var g []complex128
		for hz := lo; hz <= hi; hz += (hi - lo) / 200 {
			f, g = append(f, hz), append(g, circuit.Gamma(circuit.SeriesAt(14.1e6, 50, 40).Z(hz), sweep.Reference))
		}
		s, _, _ := sweep.New(sweep.Complex, f, g)
		c, err := s.Curve()
		if err != nil {
			t.Fatal(err)
		}
		return FromSweep(s, c, shape, 1, false)
	}
	if got := swept(13.5e6, 14.8e6); len(got) != 1 || !strings.HasPrefix(got[0].Says, "14.100 MHz, SWR 1.0") {
		t.Errorf("%+v", got)
	}
	for _, span := range [][2]float64{{1e6, 30e6}, {13e6, 14e6}, {14.2e6, 15e6}} {
		if got := swept(span[0], span[1]); len(got) != 0 {
			t.Errorf("%v: %+v", span, got)
		}
	}
}

func TestNoMarksBreakTheAnswer(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	for range 400 {
		shape := []antenna.Shape{whip(), loaded(2*rng.Float64(), 0.05, seven...),
			antenna.Shape{Family: "small-loop", FrequencyHz: 7e6}.With(antenna.Radiator, quantity.Metres(3)),
			{Family: "doublet", FrequencyHz: 7e6}}[rng.IntN(4)]
		controls := family.Of(shape).Controls()
		set := Set{Name: "x"}
		for range rng.IntN(7) {
			c := controls[rng.IntN(len(controls))]
			set.Marks = append(set.Marks, at(1e6+40e6*rng.Float64(), func(m *Mark) {
				if c.Kind == entry.Amount || c.Kind == entry.Dial {
					m.PutNumber(c.ID, 1000*rng.Float64())
					if rng.IntN(3) == 0 {
						m.PutWord(c.ID, []string{entry.Letters, entry.Positions}[rng.IntN(2)])
					}
				} else {
					m.Put(c.ID, quantity.Metres(c.Max*rng.Float64()))
				}
			}))
		}
		set.Check(1, shape, rng.IntN(2) == 0)
		got := set.For(1e6+40e6*rng.Float64(), shape, Today{}, 1, rng.IntN(2) == 0)
		text := fmt.Sprintf("%+v", got)
		if strings.Contains(text, "NaN") || strings.Contains(text, "Inf") || got.Sentence == "" || got.How != "none" && len(got.Values) == 0 {
			t.Fatalf("%s from %+v", text, set)
		}
		set.Card(shape, seven, Today{}, 1, true)
	}
}

// dialled are marks of a tuner as they are typed, by frequency in MHz.
func dialled(t *testing.T, coil map[float64]string) Set {
	t.Helper()
	var rows []Typed
	for mhz, text := range coil {
		rows = append(rows, Typed{ID: fmt.Sprint(mhz), Texts: map[string]string{"hz": fmt.Sprint(mhz), "dial_2": text, "peaked": "42 uA"}})
	}
	s, faults := Set{Name: "tuner"}.Read(rows, antenna.Shape{Family: "doublet", FrequencyHz: 7e6}, Held{}, "m")
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	return s
}

func TestDialsByLettersAndSwitches(t *testing.T) {
	shape := antenna.Shape{Family: "doublet", FrequencyHz: 14.1e6}
	for _, c := range []struct {
		name string
		coil map[float64]string
		says string // between the marks, at 14.17 MHz
		step string
	}{
		{"letters", map[float64]string{14.0: "H", 14.34: "D"}, "tuner, coil F.", "letter"},
		{"letters that are read between", map[float64]string{14.0: "H.4", 14.34: "D"}, "tuner, coil F", "letter"},
		{"a switch", map[float64]string{14.0: "#9", 14.34: "#6"}, "tuner, coil #", "position"},
		{"numbers", map[float64]string{14.0: "60", 14.34: "40"}, "tuner, coil 49", ""},
	} {
		s := dialled(t, c.coil)
		if faults := s.Check(1, shape, false); len(faults) > 0 {
			t.Errorf("%s: %v", c.name, faults)
		}
		got := s.For(14.17e6, shape, Today{}, 1, false)
		if got.How != "between" || !strings.HasPrefix(lower(got.Sentence), c.says) || !strings.Contains(got.Values[0].Range, c.step) {
			t.Errorf("%s: %s %+v", c.name, got.Sentence, got.Values)
		}
		if c.name == "a switch" && strings.Contains(got.Sentence, ".5") {
			t.Errorf("a switch stands between: %s", got.Sentence)
		}
		// A mark stands for itself, with what was peaked there in place of an SWR, and comes back into the form as typed.
		at := s.For(14.0e6, shape, Today{}, 1, false)
		if want := "tuner, coil " + c.coil[14.0] + "."; lower(at.Sentence) != want || !strings.Contains(at.Detail, "peaked to 42 uA") {
			t.Errorf("%s: %q %q, want %q", c.name, at.Sentence, at.Detail, want)
		}
		for _, x := range s.Typed(shape, false) {
			if mhz, _ := strconv.ParseFloat(x.Texts["hz"], 64); x.Texts["dial_2"] != c.coil[mhz] || x.Texts["peaked"] != "42 uA" {
				t.Errorf("%s: %v comes back as %v", c.name, c.coil[mhz], x.Texts)
			}
		}
	}
	mixed := dialled(t, map[float64]string{14.0: "H", 14.34: "40"})
	if faults := mixed.Check(1, shape, false); len(faults) != 1 || !strings.Contains(faults[0].Text, "in one way") {
		t.Errorf("letters beside numbers: %v", faults)
	}
}

// Marks on three bands with one whip: below the lowest the tap moves and not a whip longer than there is; a mark without its whip
// length is one of the same whip; where the coil is not needed at all it is at its least and the whip is drawn in.
func TestTapAndWhipAreSetTogether(t *testing.T) {
	shape := loaded(1.5, 0.05, 7.1e6, 14.12e6, 21.2e6)
	p := family.Design(antenna.Request{Shape: shape})
	shape = p.Shape
	truth := taps(t, shape)
	both := func(hz, whip float64) Mark {
		return at(hz, func(m *Mark) {
			m.Put("tap", quantity.Metres(truth[hz]))
			if whip > 0 {
				m.Put("whip", quantity.Metres(whip))
			}
		})
	}
	set := Set{Name: "w", Marks: []Mark{both(7.1e6, 1.5), both(14.12e6, 0), both(21.2e6, 1.5)}}
	got := set.For(10.12e6, shape, Today{}, 1, false)
	if got.How != "between" || got.Values[0].ID != "tap" {
		t.Errorf("10.12 MHz between 7.1 and 14.12: %+v", got)
	}
	below := set.For(7.02e6, shape, Today{}, 1, false)
	if below.How != "beyond" || len(below.Values) < 1 || below.Values[0].ID != "tap" || below.Values[0].Range == "" {
		t.Errorf("7.02 MHz below the lowest mark: %+v", below)
	}
	for _, v := range below.Values {
		if v.ID == "whip" && v.Text != "1.500 m" {
			t.Errorf("the whip of 1.5 m is set to %s", v.Text)
		}
	}
	// A whip of 1.5 m is longer than a quarter-wave on 6 m.
	high := set.For(50.2e6, shape, Today{}, 1, false)
	var tap, whip string
	for _, v := range high.Values {
		if v.ID == "tap" {
			tap = v.Text
		}
		if v.ID == "whip" {
			whip = v.Text
		}
	}
	var m float64
	if _, err := fmt.Sscanf(whip, "%f m", &m); err != nil || tap != "0.0 mm, the coil bridged" || m < 1.3 || m > 1.49 {
		t.Errorf("50.2 MHz: tap %q, whip %q, %+v", tap, whip, high)
	}
	// Far below neither reaches.
	if low := set.For(1.85e6, shape, Today{}, 1, false); low.How != "none" {
		t.Errorf("1.85 MHz with a coil for 7 MHz: %+v", low)
	}
}

// Marks of different whips are one law of the coil: what the tap is for a third length follows from both.
func TestMarksOfOtherWhipsCount(t *testing.T) {
	set := Set{Name: "w"}
	for _, whip := range []float64{1.4, 1.9} {
		shape := loaded(whip, 0.05, 7.1e6, 14.12e6)
		shape.PutNumber("coil_turns", 44)
		truth := taps(t, shape)
		for _, hz := range []float64{7.1e6, 14.12e6} {
			set.Marks = append(set.Marks, at(hz, func(m *Mark) { m.Put("tap", quantity.Metres(truth[hz])); m.Put("whip", quantity.Metres(whip)) }))
		}
	}
	shape := loaded(1.65, 0.05, 7.1e6, 14.12e6, 10.12e6)
	shape.PutNumber("coil_turns", 44)
	want := taps(t, shape)[10.12e6]
	got := set.along(controlOf(t, "tap"), map[string]float64{"whip": 1.65}, shape, 10.12e6)
	if !got.ok || got.of != 4 || math.Abs(got.value-want) > 2*got.sd+0.002 || got.sd > 0.1*want {
		t.Errorf("%+v, want %.4f m", got, want)
	}
}

// Who thinks in feet reads and types a tap in inches.
func TestATapIsInTheReadersSmallUnit(t *testing.T) {
	shape := loaded(2, 0.05, 7.1e6)
	unitOf := func(units quantity.System) string {
		for _, f := range Fields(shape, units) {
			if f.ID == "tap" {
				return f.Unit
			}
		}
		return ""
	}
	if unitOf(quantity.SI) != "mm" || unitOf(quantity.FeetInches) != "in" {
		t.Errorf("%q and %q", unitOf(quantity.SI), unitOf(quantity.FeetInches))
	}
	for unit, want := range map[string]float64{"m": 0.0015, "ft": 1.5 * quantity.Inch} {
		set, faults := Set{Name: "x"}.Read([]Typed{{ID: "1", Texts: map[string]string{"hz": "7.1", "tap": "1.5"}}}, shape, Held{}, unit)
		if len(faults) > 0 || math.Abs(set.Marks[0].M("tap")-want) > 1e-9 {
			t.Errorf("1.5 with %s is %v m: %v", unit, set.Marks[0].M("tap"), faults)
		}
	}
}
