package twin

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"
	"sync"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/moment"
	"reed/core/numeric"
	"reed/core/quantity"
	"reed/internal/testsize"
)

// One engine for all tests: its tables of grounds are what takes the time.
var engine Engine

func planned(t *testing.T, kind, variant string, mhz ...float64) Setup {
	t.Helper()
	r := antenna.Request{Shape: antenna.Shape{Family: kind, Variant: variant, FrequencyHz: mhz[0] * 1e6}}
	for _, f := range mhz[1:] {
		r.More = append(r.More, f*1e6)
	}
	p := family.Design(r)
	if antenna.HasError(p.Faults) {
		t.Fatalf("%s: %v", kind, p.Faults)
	}
	return Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: "average"}
}

// everyFamily calls a test with each family and way to hang it, on the bands that it is for.
func everyFamily(t *testing.T, test func(t *testing.T, s Setup)) {
	for _, f := range family.Families() {
		for _, v := range f.Variants {
			bands := []float64{14.1}
			if f.Multi {
				bands = append(bands, 7.1)
			}
			t.Run(f.ID+" "+v.ID, func(t *testing.T) { test(t, planned(t, f.ID, v.ID, bands...)) })
		}
	}
}

// at solves a set-up's own model at a frequency.
func at(t *testing.T, s Setup, f, density float64) *moment.Solution {
	t.Helper()
	c, _, err := engine.set(context.Background(), s, Options{}, f)
	if err != nil {
		t.Fatal(err)
	}
	c.Model.Density = density
	x, err := moment.Solve(context.Background(), c.Model, f)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

func TestEveryFamilyConvergesAndConservesPower(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	everyFamily(t, func(t *testing.T, s Setup) {
		for _, f := range s.Built.All() {
			coarse, fine := at(t, s, f, 40), at(t, s, f, 80)
			// High impedances are judged by admittance, with the wire's own impedance level as the measure.
			z1, z2 := coarse.Z, fine.Z
			// A loaded antenna is the small difference of two large reactances: the coil's, or the winding's, is its measure.
			measure := math.Max(math.Hypot(real(z2), imag(z2)), 30)
			if e := family.Of(s.Built.Shape).Electrics(f); e.Henries > 0 {
				measure = math.Max(measure, 2*math.Pi*f*e.Henries)
			} else if e.SpreadHenries > 0 {
				measure = math.Max(measure, 2*math.Pi*f*e.SpreadHenries*(s.Built.Radiator().M-e.SpreadFrom))
			} else if e.Farads > 0 {
				measure = math.Max(measure, 1/(2*math.Pi*f*e.Farads))
			}
			off := math.Hypot(real(z1-z2), imag(z1-z2)) / measure
			if high := math.Hypot(real(z2), imag(z2)) > 800; high {
				y1, y2 := 1/z1, 1/z2
				off = math.Hypot(real(y1-y2), imag(y1-y2)) / math.Max(math.Hypot(real(y2), imag(y2)), 1.0/2000)
			}
			most := 0.02
			if family.Of(s.Built.Shape).Electrics(f).Together {
				most = 0.03 // wires a few centimetres from each other share the current by a small difference
			}
			if off > most {
				t.Errorf("%.1f MHz: %.1f with 40 segments to a wave, %.1f with 80", f/1e6, z1, z2)
			}
			if sky := fine.Average(); sky <= 0 || sky >= 1 || real(z2) <= 0 {
				t.Errorf("%.1f MHz: Z %v, %.3f to the sky", f/1e6, z2, sky)
			}
		}
	})
}

func TestEveryFamilyHasAWholeForecast(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	everyFamily(t, func(t *testing.T, s Setup) {
		s.PowerW = 20
		f, err := engine.Forecast(context.Background(), s, Options{Region: 1, Coarse: true}, nil)
		if err != nil {
			t.Fatal(err)
		}
		if len(f.Bands) != len(s.Built.All()) || f.Sentence == "" || f.Trust == "" || len(f.Assumptions) < 2 {
			t.Errorf("%d bands, %q, %d assumptions", len(f.Bands), f.Sentence, len(f.Assumptions))
		}
		for _, b := range f.Bands {
			last, db := 20.0, 0.0
			for _, x := range b.Budget {
				if x.Watts > last+1e-9 || x.DB < 0 {
					t.Errorf("%s: %s gives power: %v after %v", b.Name, x.Name, x, last)
				}
				last, db = x.Watts, db+x.DB
			}
			if got := 20 * math.Pow(10, -db/10); math.Abs(got-last) > 1e-6 {
				t.Errorf("%s: stages add up to %v W, %v W are left", b.Name, got, last)
			}
			best := math.Inf(1)
			for _, p := range b.Curve {
				if p.SWR < 1 || p.FeedSWR < 1 || math.IsNaN(p.SWR) {
					t.Fatalf("%s: %+v", b.Name, p)
				}
				best = math.Min(best, p.SWR)
			}
			if b.BestSWR != best || len(b.Pattern.Elevation) != 91 || len(b.Pattern.Azimuth) != 72 || b.Sky <= 0 || b.Sky >= 1 {
				t.Errorf("%s: %+v", b.Name, b)
			}
			for _, v := range b.Voltages {
				if v.Volts <= 0 || v.Volts > 20000 {
					t.Errorf("%s: %v", b.Name, v)
				}
			}
		}
	})
}

func TestFittedCurveIsWhatEverySolveSays(t *testing.T) {
	for _, s := range []Setup{planned(t, "end-fed", "sloper", 7.1), planned(t, "dipole", "inverted-v", 14.1),
		planned(t, "small-loop", "upright", 14.1)} {
		f := s.Built.FrequencyHz
		x, _, err := engine.solve(context.Background(), s, Options{Region: 1}, f, f*0.97, f*1.03)
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range []float64{0.972, 0.985, 0.9981, 1.0031, 1.013, 1.027} {
			want, err := moment.Solve(context.Background(), x.Model, f*k)
			if err != nil {
				t.Fatal(err)
			}
			near := complex(math.Hypot(real(want.Z), imag(want.Z)), 0)
			gamma := func(z complex128) complex128 { return (z - near) / (z + near) }
			if d := gamma(x.curve.At(f*k)) - gamma(want.Z); math.Hypot(real(d), imag(d)) > 0.01 {
				t.Errorf("%s at %.4f of its frequency: fitted %v, solved %v", s.Built.Family, k, x.curve.At(f*k), want.Z)
			}
		}
	}
}

func TestSolvedLengthsResonate(t *testing.T) {
	for _, c := range []struct{ kind, variant, field string }{
		{"dipole", "flat", "radiator"}, {"dipole", "inverted-v", "radiator"}, {"vertical", "ground-radials", "radiator"},
		{"vertical", "raised-radials", "radiator"},
	} {
		s := planned(t, c.kind, c.variant, 14.1)
		r, err := engine.Refine(context.Background(), s, nil)
		if err != nil || len(r.Lengths) != 1 {
			t.Fatal(c, err, r)
		}
		l := r.Lengths[0]
		if math.Abs(l.Off) > 5 || math.Abs(l.Solved.M/l.Closed.M-1-l.Off/100) > 1e-3 || r.Sentence == "" || r.Why == "" {
			t.Errorf("%v: %+v %q", c, l, r.Sentence)
		}
		s.Built.Shape = s.Built.With(c.field, l.Solved)
		if s.Built.LegB().M > 0 {
			s.Built.Put(antenna.LegB, l.Solved)
		}
		if c.variant == "inverted-v" {
			s.Built.Put(antenna.FarHeight, quantity.Metres(s.Built.FeedHeight().M-l.Solved.M*math.Cos(s.Built.ApexAngle()*math.Pi/360)))
		}
		if x := imag(at(t, s, 14.1e6, 30).Z); math.Abs(x) > 1.5 {
			t.Errorf("%v: %v m leaves %.1f ohm of reactance", c, l.Solved.M, x)
		}
	}
}

func TestSolvedLengthsGoIntoTheCutList(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	for _, c := range []struct {
		kind, variant string
		mhz           []float64
	}{{"linked-dipole", "inverted-v", []float64{14.06, 7.1}}, {"rectangle", "level", []float64{14.1}},
		{"helix", "ground-radials", []float64{14.1}}, {"end-fed-loaded", "sloper", []float64{14.1, 7.1}}} {
		r := antenna.Request{Shape: antenna.Shape{Family: c.kind, Variant: c.variant, FrequencyHz: c.mhz[0] * 1e6}, TrimPercent: 2}
		for _, f := range c.mhz[1:] {
			r.More = append(r.More, f*1e6)
		}
		before := family.Design(r)
		got, err := engine.Refine(context.Background(), Setup{Built: deployment.Built{Shape: before.Shape}, Planned: true, Ground: "average"},
			nil)
		if err != nil {
			t.Fatal(c, err)
		}
		r.Solved = got.Solved
		after := family.Design(r)
		if antenna.HasError(after.Faults) || len(after.Pieces) != len(before.Pieces) || after.Provisional != "" {
			t.Fatalf("%s: %v", c.kind, after.Faults)
		}
		for _, l := range got.Lengths {
			if l.Field != "" && l.Field != "helix_turns" && math.Abs(after.Shape.M(l.Field)-l.Solved.M) > 1e-9 {
				t.Errorf("%s: %s is %v in the plan, %v by the solver", c.kind, l.Field, after.Shape.M(l.Field), l.Solved.M)
			}
		}
	}
}

// The resistance that a plan foretells of a V is that which the solver finds, also with its ends near the soil.
func TestResistanceOfAVByBothWays(t *testing.T) {
	for _, c := range []struct {
		ground       string
		mhz, up, deg float64
	}{{"average", 7.15, 6.2, 118}, {"average", 10.12, 7.3, 95}, {"rock", 7.15, 6.5, 125}, {"sea", 14.2, 4.6, 110}, {"average", 21.2, 9, 135}} {
		r := antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: c.mhz * 1e6}, Ground: c.ground}
		r.Put(antenna.FeedHeight, quantity.Metres(c.up))
		r.PutNumber(antenna.ApexAngle, c.deg)
		p := family.Design(r)
		var said float64
		if _, err := fmt.Sscanf(p.Expect, "about %f ohm", &said); err != nil {
			t.Fatalf("%q: %v", p.Expect, err)
		}
		s := Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: c.ground}
		if solved := real(at(t, s, c.mhz*1e6, 30).Z); math.Abs(said-solved) > 6 {
			t.Errorf("%+v: %.0f ohm said, %.1f solved", c, said, solved)
		}
	}
}

// What is set is solved on every band, and the plan that is made with it reaches every setting.
func TestSolvedSettingsAreWithinReach(t *testing.T) {
	for _, variant := range []string{"ground-radials", "raised-radials"} {
		s := planned(t, "loaded-whip", variant, 10.12, 5.36)
		r, err := engine.Refine(context.Background(), s, nil)
		if err != nil || len(r.Solved) != 2 {
			t.Fatalf("%+v: %v", r.Solved, err)
		}
		p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "loaded-whip", Variant: variant, FrequencyHz: 10.12e6,
			More: []float64{5.36e6}}, Solved: r.Solved})
		after, err := engine.Refine(context.Background(), Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: "average"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range after.Solved {
			if n, ok := family.Of(p.Shape).Turns(x.FrequencyHz, x.Henries); !ok || n > p.Shape.N("coil_turns", 0) {
				t.Errorf("%s: %.3g uH are %.1f of %.0f turns on %.2f MHz", variant, x.Henries*1e6, n, p.Shape.N("coil_turns", 0), x.FrequencyHz/1e6)
			}
		}
	}
}

func TestRolledUpRadiatorIsOfItsLine(t *testing.T) {
	for variant, same := range map[string]bool{"roll-up": true, "upright": false} {
		s := planned(t, "j-pole", variant, 21.2)
		z := at(t, s, 21.2e6, 40).Z
		s.Built.Wire = "bare"
		if moved := cmplx.Abs(at(t, s, 21.2e6, 40).Z/z - 1); (moved < 1e-9) != same {
			t.Errorf("%s of another wire: impedance moved by %.2g", variant, moved)
		}
	}
}

func TestRectangleIsOptimised(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	s := planned(t, "rectangle", "level", 14.1)
	r, err := engine.Refine(context.Background(), s, nil)
	if err != nil {
		t.Fatal(err)
	}
	before := frontBack(at(t, s, 14.1e6, 24))
	for _, l := range r.Lengths {
		if l.Field != "" {
			s.Built.Shape = s.Built.With(l.Field, l.Solved)
		}
	}
	x := at(t, s, 14.1e6, 24)
	if match, front := swr(x.Z), frontBack(x); match > 1.5 || front < 15 || front < before {
		t.Errorf("SWR %.2f, %.0f dB front to back; %.0f before", match, front, before)
	}
}

func TestCoaxTakesCurrentUntilAChokeStopsIt(t *testing.T) {
	s := planned(t, "end-fed", "sloper", 7.1)
	s.Planned = false
	s.Built.PutCounterpoise(antenna.WireSet{})
	s.Built.Coax = deployment.Coax{Type: "RG-58", Length: quantity.Metres(10)}
	carries := func(choke string) float64 {
		s.Built.Choke.Place = choke
		f, err := engine.Forecast(context.Background(), s, Options{Region: 1, Coarse: true}, nil)
		if err != nil {
			t.Fatal(err)
		}
		return f.Bands[0].CoaxCurrent
	}
	none := carries("")
	s.Built.PutCounterpoise(antenna.WireSet{Count: 1, Length: quantity.Metres(2.1)})
	open, choked := carries(""), carries("feed")
	if none < 0.1 || open > none || choked > open*0.8 {
		t.Errorf("without counterpoise and choke the coax carries %.3f of the wire's current, with a counterpoise %.3f, with both %.3f", none,
			open, choked)
	}
}

func TestNearbyMetalIsPartOfTheModel(t *testing.T) {
	s := planned(t, "dipole", "flat", 14.1)
	alone := at(t, s, 14.1e6, 30)
	s.Built.Metal = []deployment.Metal{{What: "wire fence", Distance: quantity.Metres(1)}, {What: "table"}}
	c, err := Build(s, 14.1e6, &engine.Tables)
	if err != nil {
		t.Fatal(err)
	}
	says := strings.Join(c.Assumptions, "; ")
	if len(c.Model.Wires) != 3 || !strings.Contains(says, "wire fence") || !strings.Contains(says, "table is recorded without a distance") {
		t.Errorf("%d wires; %s", len(c.Model.Wires), says)
	}
	if with := at(t, s, 14.1e6, 30); math.Abs(real(with.Z-alone.Z))+math.Abs(imag(with.Z-alone.Z)) < 0.5 {
		t.Error("a fence a metre beside it changes nothing")
	}
}

func TestMetalThatWouldCrossIsLeftOut(t *testing.T) {
	s := planned(t, "vertical", "raised-radials", 14.1)
	s.Built.Put(antenna.FeedHeight, quantity.Metres(1))
	s.Built.Put(antenna.RadialsHeight, quantity.Metres(1))
	s.Built.Metal = []deployment.Metal{{What: "fence", Distance: quantity.Metres(1)}, {What: "mast", Distance: quantity.Metres(2)}}
	c, err := Build(s, 14.1e6, &engine.Tables)
	if err != nil || !strings.Contains(strings.Join(c.Assumptions, ";"), "is left out") || len(c.Model.Wires) != len(c.coax) {
		t.Errorf("%v %v", err, c.Assumptions)
	}
}

func TestPoorSoilTakesMoreThanGoodSoil(t *testing.T) {
	s := planned(t, "vertical", "ground-radials", 14.1)
	f, err := engine.Forecast(context.Background(), s, Options{Region: 1}, nil)
	if err != nil {
		t.Fatal(err)
	}
	b := f.Bands[0]
	if b.Spread == nil || b.Spread.Sky[0] >= b.Sky || b.Spread.Sky[1] <= b.Sky || b.Pattern.OverQuarter == nil {
		t.Fatalf("%v of %+v", b.Sky, b.Spread)
	}
	if math.Abs(*b.Pattern.OverQuarter) > 1.5 {
		t.Errorf("a quarter-wave on 8 radials is %+.1f dB against one on 16", *b.Pattern.OverQuarter)
	}
	for i, p := range b.Curve {
		if p.SWR < b.Spread.Low[i]-1e-9 || p.SWR > b.Spread.High[i]+1e-9 {
			t.Fatalf("point %d lies outside its band", i)
		}
	}
	s.Ground = "sea"
	sea, err := engine.Forecast(context.Background(), s, Options{Region: 1, Coarse: true}, nil)
	if err != nil || sea.Bands[0].Sky < 2*b.Sky {
		t.Errorf("over the sea %.2f reaches the sky, over loam %.2f (%v)", sea.Bands[0].Sky, b.Sky, err)
	}
}

func TestRadialWireIsBetterCutThanWasted(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	s := planned(t, "vertical", "ground-radials", 14.1)
	a, err := engine.Radials(context.Background(), s, 40, nil)
	if err != nil || len(a.Tables) != 1 || len(a.Tables[0].Rows) < 6 || !strings.Contains(a.Sentence, "raised") {
		t.Fatalf("%v %q %v", err, a.Sentence, a.Tables)
	}
	if _, err := engine.Radials(context.Background(), s, 0.3, nil); err == nil {
		t.Error("30 cm make radials")
	}
	q, err := engine.Counterpoise(context.Background(), planned(t, "end-fed", "sloper", 14.1, 7.1), nil)
	if err != nil || len(q.Tables) != 3 || q.Sentence == "" {
		t.Fatal(err, q)
	}
	for _, table := range q.Tables {
		for _, r := range table.Rows {
			if len(r) != len(table.Columns) {
				t.Errorf("%v under %v", r, table.Columns)
			}
		}
	}
}

func TestImpossibleSetupsAreRefusedInWords(t *testing.T) {
	s := planned(t, "dipole", "flat", 14.1)
	s.Built.Variant = "sloper"
	s.Built.Put(antenna.FarHeight, quantity.Metres(19))
	if _, err := Build(s, 14.1e6, &engine.Tables); err == nil || !strings.Contains(err.Error(), "cannot reach") {
		t.Errorf("%v", err)
	}
	s.Built.Put(antenna.Radiator, quantity.Length{})
	s.Built.Put(antenna.LegB, quantity.Length{})
	if _, err := engine.Forecast(context.Background(), s, Options{Region: 1}, nil); err == nil {
		t.Error("no radiator is forecast")
	}
}

func TestTogetherForecastsStopAndShareAnEngine(t *testing.T) {
	var e Engine
	s := planned(t, "dipole", "flat", 14.1)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := e.Forecast(ctx, s, Options{Region: 1}, nil); !errors.Is(err, context.Canceled) {
		t.Errorf("stopped with %v", err)
	}
	if _, err := e.Refine(ctx, planned(t, "rectangle", "level", 14.1), nil); !errors.Is(err, context.Canceled) {
		t.Errorf("the optimiser stopped with %v", err)
	}
	var wg sync.WaitGroup
	swrs := make([]float64, 3)
	for i := range swrs {
		wg.Add(1)
		go func() {
			defer wg.Done()
			f, err := e.Forecast(context.Background(), s, Options{Region: 1, Coarse: true}, func(int, int) {})
			if err == nil {
				swrs[i] = f.Bands[0].WantedSWR
			}
		}()
	}
	wg.Wait()
	if swrs[0] == 0 || swrs[0] != swrs[1] || swrs[1] != swrs[2] {
		t.Errorf("three at once: %v", swrs)
	}
}

// Bands beside each other are what each is alone, with its range; steps are told one at a time.
func TestTogetherBandsAreThoseAlone(t *testing.T) {
	var e Engine
	s := planned(t, "multi-vertical", "ground-radials", 28.4, 18.1)
	last := 0
	both, err := e.Forecast(t.Context(), s, Options{Region: 1}, func(step, of int) {
		if step != last+1 || of != 6 {
			t.Errorf("step %d of %d after %d", step, of, last)
		}
		last = step
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, b := range both.Bands {
		alone, err := new(Engine).Forecast(t.Context(), s, Options{Region: 1, Band: b.Name}, nil)
		if err != nil {
			t.Fatal(err)
		}
		a := alone.Bands[0]
		if math.Abs(a.WantedSWR-b.WantedSWR) > 1e-6 || math.Abs(a.Spread.Sky[0]-b.Spread.Sky[0]) > 1e-6 || a.Stay != b.Stay {
			t.Errorf("%s: SWR %v, sky from %v, %v m off; alone %v, %v, %v m", b.Name, b.WantedSWR, b.Spread.Sky[0], b.Stay, a.WantedSWR,
				a.Spread.Sky[0], a.Stay)
		}
	}
}

// nineBands is the largest antenna that one plans: an end-fed wire of 40 m with counterpoise and coax.
func nineBands() Setup {
	r := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 3.6e6,
		More: []float64{5.36e6, 7.1e6, 10.12e6, 14.1e6, 18.1e6, 21.1e6, 24.9e6, 28.3e6}}}
	p := family.Design(r)
	return Setup{Built: deployment.Built{Shape: p.Shape, Coax: deployment.Coax{Type: "RG-58", Length: quantity.Metres(10)}}, Ground: "average"}
}

func nine(b *testing.B, e *Engine, s Setup) {
	all, o := s.Built.All(), Options{Region: 1}
	if err := e.ready(b.Context(), s, Options{Region: 1, Coarse: true}, all); err != nil {
		b.Fatal(err)
	}
	unknowns := make([]int, len(all))
	err := numeric.Share(b.Context(), len(all), func(i int) {
		x, _, err := e.solve(b.Context(), s, o, all[i], all[i]*0.97, all[i]*1.03)
		if err != nil {
			b.Error(err)
			return
		}
		x.points(all[i]*0.97, all[i]*1.03)
		unknowns[i] = x.at.Unknowns
	})
	if err != nil {
		b.Fatal(err)
	}
	b.ReportMetric(float64(slices.Max(unknowns)), "unknowns")
}

func BenchmarkNineBandsCold(b *testing.B) {
	for b.Loop() {
		nine(b, &Engine{}, nineBands())
	}
}

func BenchmarkNineBandsAfterOneLengthChanged(b *testing.B) {
	var e Engine
	s := nineBands()
	nine(b, &e, s)
	for b.Loop() {
		s.Built.Put(antenna.Radiator, quantity.Metres(s.Built.Radiator().M*0.999))
		nine(b, &e, s)
	}
}

func BenchmarkDragCoarse(b *testing.B) {
	var e Engine
	s := planned(&testing.T{}, "dipole", "inverted-v", 14.1)
	run := func() {
		if _, err := e.Forecast(b.Context(), s, Options{Region: 1, Coarse: true}, nil); err != nil {
			b.Fatal(err)
		}
	}
	run()
	for b.Loop() {
		s.Built.Put(antenna.FeedHeight, quantity.Metres(s.Built.FeedHeight().M*1.0001))
		run()
	}
}

// The closed form of an inverted V is cut where the solver finds it resonant, to a per cent: not shorter than a level one.
func TestAVIsPlannedWhereItResonates(t *testing.T) {
	e := new(Engine)
	for _, c := range []struct{ mhz, up, apex float64 }{{14.1, 9, 100}, {14.1, 13, 140}, {7.05, 12, 110}, {21.2, 7, 90}} {
		s := antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: c.mhz * 1e6}
		s.Put(antenna.FeedHeight, quantity.Metres(c.up))
		s.PutNumber(antenna.ApexAngle, c.apex)
		p := family.Design(antenna.Request{Shape: s})
		r, err := e.Refine(context.Background(), Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true}, nil)
		if err != nil || len(r.Lengths) == 0 {
			t.Fatal(err)
		}
		if off := r.Lengths[0].Off; math.Abs(off) > 1 {
			t.Errorf("%g MHz, %g m up, %g degrees: the solver asks for %.2f %% more than the closed form", c.mhz, c.up, c.apex, off)
		}
	}
}

// A whip is told to be pulled out as far as the solver finds, over its radials and soil.
func TestASetWhipsLengthIsTheSolvers(t *testing.T) {
	s := planned(t, "whip", "ground-radials", 18.1)
	out, err := engine.Refine(t.Context(), s, nil)
	if err != nil || len(out.Lengths) != 1 || out.Lengths[0].Piece != "whip, out" {
		t.Fatalf("%v %+v", err, out)
	}
	s.Built.Put(antenna.Radiator, out.Lengths[0].Solved)
	s.Planned = false
	if z := at(t, s, 18.1e6, 36).Z; math.Abs(imag(z)) > 2 {
		t.Errorf("out to %v m: %v", out.Lengths[0].Solved.M, z)
	}
}

// A dip that lies outside of the band is found where it is.
func TestTheDipIsFollowedOutOfTheWindow(t *testing.T) {
	s := planned(t, "dipole", "flat", 14.1)
	s.Planned = false
	for _, share := range []float64{0.88, 1.13} {
		x := s
		for _, id := range []string{antenna.Radiator, antenna.LegB} {
			x.Built.Put(id, quantity.Metres(s.Built.M(id)*share))
		}
		f, err := engine.Forecast(t.Context(), x, Options{Region: 1, Band: "20m"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		if b := f.Bands[0]; math.Abs(b.DipF*share/14.1e6-1) > 0.03 {
			t.Errorf("legs %v as long: dips at %v", share, b.DipF)
		}
	}
}

// What a screen asks for: all bands with their ranges, distances and references, once computed and with one length changed.
func BenchmarkWholeForecastAfterOneLengthChanged(b *testing.B) {
	var e Engine
	s := nineBands()
	whole := func() {
		if _, err := e.Forecast(b.Context(), s, Options{Region: 1}, nil); err != nil {
			b.Fatal(err)
		}
	}
	whole()
	for b.Loop() {
		s.Built.Put(antenna.Radiator, quantity.Metres(s.Built.Radiator().M*0.999))
		whole()
	}
}

// What the operator typed is neither turned nor replaced; what would match better is said beside it, and does match better.
func TestTypedLengthsAreKeptAndABetterOneIsNamed(t *testing.T) {
	testsize.SkipIfShort(t, "solves several antennas")
	var e Engine
	for _, c := range []struct {
		family, variant, field string
		metres                 float64
		all                    []float64
	}{
		{"random-wire", "sloper", antenna.Radiator, 16, []float64{21.1e6, 14.1e6, 7.1e6}},
		{"end-fed-loaded", "flat", "coil_at", 9.3, []float64{14.2e6, 7.15e6}},
		{"end-fed", "sloper", antenna.Radiator, 18.4, []float64{14.1e6, 7.1e6}},
		{"dipole", "flat", antenna.Radiator, 5.6, []float64{14.1e6}},
		{"rectangle", "level", "width", 7.3, []float64{14.1e6}},
	} {
		t.Run(c.family, func(t *testing.T) {
			r := antenna.Request{Shape: antenna.Shape{Family: c.family, Variant: c.variant, FrequencyHz: c.all[0], More: c.all[1:]}}
			r.Put(c.field, quantity.Metres(c.metres))
			plan := func() Setup {
				return Setup{Built: deployment.Built{Shape: family.Design(r).Shape}, Planned: true, Given: r.Given(), Ground: "average"}
			}
			got, err := e.Refine(t.Context(), plan(), nil)
			if err != nil {
				t.Fatal(err)
			}
			for _, x := range got.Solved {
				if x.Field == c.field && x.FrequencyHz == 0 {
					t.Errorf("the solver's %s is %.3f m, typed was %.3f", c.field, x.Size.M, c.metres)
				}
			}
			r.Solved = got.Solved
			if now := family.Design(r).Shape.M(c.field); math.Abs(now-c.metres) > 1e-9 {
				t.Errorf("with the solved lengths it is %.3f m, typed was %.3f", now, c.metres)
			}
			if c.family == "rectangle" {
				return // its parts are optimised together: nothing is said of one
			}
			if len(got.Better) != 1 || got.Better[0].Field != c.field {
				t.Fatalf("nothing better is named: %+v", got.Better)
			}
			read, err := quantity.Typed(got.Better[0].Text, "m")
			if err != nil || math.Abs(read.M-got.Better[0].Size.M) > 0.006 || !strings.HasPrefix(got.Better[0].Says, got.Better[0].Text) {
				t.Errorf("to type %q (%v), said %q: %v", got.Better[0].Text, read.M, got.Better[0].Says, err)
			}
			// On the band that it is named for, on the worst one where it is named for all.
			worst := func(s Setup) (w float64) {
				f, err := e.Forecast(t.Context(), s, Options{Region: 1, Coarse: true}, nil)
				if err != nil {
					t.Fatal(err)
				}
				for _, b := range f.Bands {
					if says := got.Better[0].Says; !strings.Contains(says, " MHz") || strings.Contains(says, quantity.ToKHz(b.F)+" MHz") {
						w = math.Max(w, b.FeedSWR)
					}
				}
				return w
			}
			now := worst(plan())
			r.Put(c.field, got.Better[0].Size)
			if then := worst(plan()); then > now {
				t.Errorf("%s: by the forecast %.2f, it was %.2f", got.Better[0].Says, then, now)
			}
		})
	}
}

// A beam with all its parts typed leaves the solver nothing to find, and says so.
// A driven element or reflector at hand keeps its length: the solver fits the frame and the tails to it.
func TestABeamIsPlannedAroundTheWiresAtHand(t *testing.T) {
	testsize.SkipIfShort(t, "optimises two beams")
	var e Engine
	for field, metres := range map[string]float64{antenna.Radiator: 10, "reflector": 10.5} {
		r := antenna.Request{Shape: antenna.Shape{Family: "rectangle", Variant: "level", FrequencyHz: 14.1e6}}
		r.Put(field, quantity.Metres(metres))
		got, err := e.Refine(t.Context(), Setup{Built: deployment.Built{Shape: family.Design(r).Shape}, Planned: true, Given: r.Given(),
			Ground: "average"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Solved = got.Solved
		p := family.Design(r)
		made := map[string]float64{antenna.Radiator: p.Shape.M("width") + 2*p.Shape.M("driven_tail"),
			"reflector": p.Shape.M("width") + 2*p.Shape.M("reflector_tail")}
		if math.Abs(made[field]-metres) > 0.004 || len(p.Faults) > 0 {
			t.Errorf("%s of %.3f m: its parts make %.3f m; %v", field, metres, made[field], p.Faults)
		}
		for _, x := range p.Pieces {
			if x.Of == "wire" && x.AtHand && math.Abs(x.Cut.M*float64(x.Count)-metres) > 1e-9 {
				t.Errorf("%s of %.3f m: use %d of %.3f m", field, metres, x.Count, x.Cut.M)
			}
		}
		if !slices.ContainsFunc(p.Pieces, func(x antenna.Piece) bool { return x.AtHand }) {
			t.Errorf("%s of %.3f m is cut anew: %+v", field, metres, p.Pieces)
		}
	}
}

func TestBeamWithEveryPartTypedStaysAsTyped(t *testing.T) {
	var e Engine
	r := antenna.Request{Shape: antenna.Shape{Family: "rectangle", Variant: "level", FrequencyHz: 14.1e6}}
	for field, metres := range map[string]float64{"width": 7.3, "driven_tail": 1.3, "reflector_tail": 1.5} {
		r.Put(field, quantity.Metres(metres))
	}
	s := Setup{Built: deployment.Built{Shape: family.Design(r).Shape}, Planned: true, Given: r.Given(), Ground: "average"}
	got, err := e.Refine(t.Context(), s, nil)
	if err != nil || len(got.Solved) != 0 || got.Sentence != "The typed lengths stay as they are." {
		t.Errorf("%v: %q, %+v", err, got.Sentence, got.Solved)
	}
}

// On a band where the whip alone is long enough the coil is bridged and the whip drawn in: no coil of a nanohenry is asked for.
func TestACoilThatIsNotNeededIsBridged(t *testing.T) {
	var e Engine
	shape := antenna.Shape{Family: "loaded-whip", Variant: "ground-radials", FrequencyHz: 14.1e6, More: []float64{28.4e6, 50.2e6}}
	shape.Put("whip", quantity.Metres(2.5))
	p := family.Design(antenna.Request{Shape: shape})
	s := Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: "average"}
	for _, f := range shape.All() {
		c, says, err := e.set(t.Context(), s, Options{Coarse: true}, f)
		if err != nil || c.Lost {
			t.Fatalf("%v: %v, %s", f, err, says)
		}
		whip := c.from.Built.M("whip")
		switch {
		case c.from.Bridged && (whip > 2.5+1e-9 || !strings.Contains(says, "bridged")), !c.from.Bridged && c.SetL < family.LeastCoil:
			t.Errorf("%v: whip out %.3f m, %.3g H, %s", f, whip, c.SetL, says)
		case f == 14.1e6 && c.from.Bridged, f > 30e6 && !c.from.Bridged:
			t.Errorf("%v: %s", f, says)
		}
	}
	r, err := e.Refine(t.Context(), s, nil)
	if err != nil {
		t.Fatal(err)
	}
	req := antenna.Request{Shape: shape, Solved: r.Solved}
	table := fmt.Sprint(family.Design(req).Tables)
	if strings.Contains(table, "e-0") || !strings.Contains(table, "whip in to") {
		t.Error(table)
	}
}
