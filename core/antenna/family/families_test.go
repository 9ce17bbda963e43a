package family

import (
	"math"
	"math/cmplx"
	"strconv"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func near(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > tol {
		t.Errorf("%s = %v, want %v within %v", what, got, want, tol)
	}
}

// wish plans a family from typed texts, as a form does.
func wish(t *testing.T, family, variant string, texts map[string]string) antenna.Plan {
	t.Helper()
	p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant}, Ground: "average", PowerW: 10},
		Typed: entry.Typed{Texts: texts}})
	if antenna.HasError(p.Faults) {
		t.Fatalf("%s %s %v: %v", family, variant, texts, p.Faults)
	}
	return p
}

func simpson(f func(float64) float64, a, b float64) float64 {
	const n = 2000
	h := (b - a) / n
	sum := f(a) + f(b)
	for i := 1; i < n; i++ {
		sum += float64(2+2*(i%2)) * f(a+h*float64(i))
	}
	return sum * h / 3
}

func TestEveryFamilyAsTypedAddsUpAndIsDrawnToItsLengths(t *testing.T) {
	for _, fam := range Families() {
		for _, v := range fam.Variants {
			text := "14.06"
			if fam.Multi {
				text = "7.1 14.06 21.1"
			}
			p := wish(t, fam.ID, v.ID, map[string]string{"for": text, "trim_percent": "2"})
			if p.Sentence == "" || p.Expect == "" || len(p.Pieces) == 0 || len(p.Schools) == 0 || len(p.Factor.Why) == 0 ||
				p.Factor.Lo >= p.Factor.Hi {
				t.Errorf("%s %s says too little: %+v", fam.ID, v.ID, p)
			}
			if fam.Group == "" || fam.Trims == "" || fam.Short == "" {
				t.Errorf("%s is not described", fam.ID)
			}
			for _, x := range p.Pieces {
				sum := x.Electrical.M + x.Trim.M
				for _, a := range x.Allowances {
					sum += a.Length.M
				}
				near(t, fam.ID+" "+x.Name+" cut", sum, x.Cut.M, 1e-9)
			}
			for i, f := range p.Fields {
				for _, g := range p.Fields[:i] {
					if f.ID == g.ID {
						t.Errorf("%s asks twice for %s", fam.ID, f.ID)
					}
				}
				if strings.ContainsAny(f.ID, ". ") || f.Label == "" {
					t.Errorf("%s has a field %q labelled %q", fam.ID, f.ID, f.Label)
				}
			}
			labelled := 0
			for _, l := range p.Drawing.Lines {
				if l.Size.M > 0 {
					labelled++
					if l.Role != "loop" && l.Role != "line" && !strings.Contains(v.ID, "inverted-v") && fam.ID != "multi-vertical" {
						near(t, fam.ID+" "+v.ID+" "+l.Role+" drawn", l.Length(), l.Size.M, 0.001+0.01*l.Size.M)
					}
				}
				if l.From[2] < -1e-6 || l.To[2] < -1e-6 {
					t.Errorf("%s %s draws %s below ground", fam.ID, v.ID, l.Role)
				}
			}
			if labelled == 0 {
				t.Errorf("%s %s draws nothing with its length", fam.ID, v.ID)
			}
			// What was planned is what is offered for recording, and closes.
			built, faults := Of(p.Shape).Filled("built", Of(p.Shape).Texts("built", false), "m")
			if len(faults) > 0 || antenna.HasError(Of(built).Check()) {
				t.Errorf("%s %s as planned cannot be recorded: %v %v", fam.ID, v.ID, faults, Of(built).Check())
			}
			if _, faults := Of(built).Layout(); len(faults) > 0 {
				t.Errorf("%s %s as planned does not close: %v", fam.ID, v.ID, faults)
			}
			near(t, fam.ID+" recorded", built.Total(), p.Shape.Total(), 0.002)
		}
	}
}

func TestFormFilledFromAPlanAsksForTheSame(t *testing.T) {
	in := map[string]string{"for": "7.1 14.06", "feed_height": "1.5", "counterpoise_length": "7 ft", "primary_turns": "3",
		"secondary_turns": "21", "knot": "5 cm", "trim_percent": "3"}
	r := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper"}},
		Typed: entry.Typed{Texts: in, Unit: "m"}}
	read, faults := Read(r)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	back := FormTexts(read, false)
	for id, want := range map[string]string{"for": "7.1 14.06", "feed_height": "1.500 m", "counterpoise_length": "7 ft",
		"primary_turns": "3", "knot": "5 cm", "trim_percent": "3"} {
		if back[id] != want {
			t.Errorf("%s came back as %q, want %q", id, back[id], want)
		}
	}
	again, _ := Read(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper"}},
		Typed: entry.Typed{Texts: back}})
	near(t, "the same plan", Design(again).Pieces[0].Cut.M, Drawn(r).Pieces[0].Cut.M, 1e-9)
	bad := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1", "feed_height": "-2 m", "primary_turns": "two"}}})
	for _, path := range []string{"feed_height", "primary_turns"} {
		if _, found := faultAt(bad.Faults, path); !found {
			t.Errorf("nothing is said at %s: %v", path, bad.Faults)
		}
	}
	one := wish(t, "dipole", "flat", map[string]string{"for": "14.06 7.1"})
	if f, found := faultAt(one.Faults, "frequency_hz"); !found || f.Severity != "ask" {
		t.Error("a second frequency for a dipole goes unsaid")
	}
}

func TestSineAndCosineIntegrals(t *testing.T) {
	for _, x := range []float64{0.2, 0.99, 1.01, 2, 6.28, 20, 60} {
		si, ci := antenna.SiCi(x)
		near(t, "Si", si, simpson(func(u float64) float64 {
			if u == 0 {
				return 1
			}
			return math.Sin(u) / u
		}, 0, x), 2e-6)
		cin := simpson(func(u float64) float64 {
			if u == 0 {
				return 0
			}
			return (1 - math.Cos(u)) / u
		}, 0, x)
		near(t, "Ci", ci, 0.5772156649+math.Log(x)-cin, 3e-6)
	}
}

func TestWireAsALineKnownAnswers(t *testing.T) {
	// Carter 1932; Balanis, Antenna Theory, chapter 8: 73.13 ohm at half a wave, 199.1 at a full one.
	near(t, "half-wave", antenna.LoopResistance(math.Pi), 73.13, 0.01)
	near(t, "full wave", antenna.LoopResistance(2*math.Pi), 199.1, 0.1)
	// Short, with triangular current: 20 pi^2 (l/lambda)^2 at the feed, times sin^2(kl/2) at the maximum that is never reached.
	near(t, "short", antenna.LoopResistance(0.1), 5*0.01*0.0025, 2e-6)
	bare, _ := antenna.WireNamed("bare")
	p := wish(t, "dipole", "upright", map[string]string{"for": "14.1"})
	pvc, _ := antenna.WireNamed("pvc")
	z := antenna.CentreFed(14.1e6, p.Shape.Total(), pvc)
	near(t, "the planned dipole is resonant", imag(z), 0, 3)
	near(t, "with its resistance", real(z), 73, 4)
	if z := antenna.EndFed(14.1e6, 0.5*0.95*numeric.Light/14.1e6, bare); real(z) < 1800 || real(z) > 5000 {
		t.Errorf("a half-wave's end is %v", z)
	}
	if z := antenna.Mono(14.1e6, 0.239*numeric.Light/14.1e6, bare); real(z) < 33 || real(z) > 41 {
		t.Errorf("a quarter-wave is %v", z)
	}
}

func TestLinkedDipoleIsADipoleOnEachBand(t *testing.T) {
	p := wish(t, "linked-dipole", "flat", map[string]string{"for": "7.1 21.1 10.12 14.06", "feed_height": "7 m"})
	sum := 0.0
	for i, f := range []string{"21.1", "14.06", "10.12", "7.1"} {
		d := wish(t, "dipole", "flat", map[string]string{"for": f, "feed_height": "7 m"})
		sum += p.Pieces[i].Electrical.M
		if i > 0 {
			sum += p.Shape.M("link_gap")
		}
		near(t, "leg on "+f, sum, d.Shape.Radiator().M, 1e-9)
	}
	if len(p.Drawing.Spots) != 6 {
		t.Errorf("%d links drawn, want 3 on each side", len(p.Drawing.Spots))
	}
	close := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "linked-dipole", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "14.06 14.1"}}})
	if _, found := faultAt(close.Faults, "frequency_hz"); !found {
		t.Error("two frequencies of one band go unsaid")
	}
}

func TestDoubletThroughHalfAWaveOfLineShowsTheWire(t *testing.T) {
	line, _ := circuit.OpenLine("window-450")
	half := line.VF * numeric.Light / 14.1e6 / 2
	p := wish(t, "doublet", "flat", map[string]string{"for": "14.1", "line_length": quantity.Metric(half, 1)})
	row := p.Tables[0].Rows[0]
	w, _ := antenna.WireNamed("pvc")
	z := antenna.CentreFed(14.1e6, p.Shape.Total(), w)
	end, through := line.InputZ(z, 14.1e6, half)
	if cmplx.Abs(end-z) > 0.06*cmplx.Abs(z) || through < 0.97 {
		t.Errorf("%v through half a wave is %v", z, end)
	}
	if row[1] == "" || row[4] == "" {
		t.Errorf("row %v", row)
	}
	if p := wish(t, "doublet", "flat", map[string]string{"for": "7.1 14.1 21.1 28.5"}); len(p.Tables[0].Rows) != 4 {
		t.Error("a band is missing")
	}
}

func TestHarmonicWireSharesItsError(t *testing.T) {
	p := wish(t, "end-fed", "flat", map[string]string{"for": "7.05 14.1 28.2"})
	rows := p.Tables[0].Rows
	if rows[0][1] != "4" || rows[1][1] != "2" || rows[2][1] != "1" {
		t.Errorf("half-waves %v", rows)
	}
	if rows[0][4][1:] != rows[2][4][1:] || rows[0][4][0] == rows[2][4][0] {
		t.Errorf("the extremes are off by %s and %s, want the same on both sides", rows[0][4], rows[2][4])
	}
	alone := wish(t, "end-fed", "flat", map[string]string{"for": "7.05"})
	if p.Shape.Radiator().M <= alone.Shape.Radiator().M {
		t.Error("the compromise is not longer than the fundamental's own")
	}
	odd := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1 10.12"}}})
	if _, found := faultAt(odd.Faults, "frequency_hz"); !found {
		t.Error("10.12 MHz is taken for a harmonic of 7.1")
	}
}

func TestCoilAndTail(t *testing.T) {
	w, _ := antenna.WireNamed("bare")
	x := tailed{k: 1, a: w.Radius}
	half := 0.95 * numeric.Light / 7.1e6 / 2
	near(t, "without a coil the whole is a half-wave", x.excess(7.1e6, half/2, half/2), 0, 25)
	p := wish(t, "end-fed-loaded", "flat", map[string]string{"for": "7.1 14.1", "coil_uh": "34"})
	x = tailed{k: func() float64 { w, _ := antenna.WireNamed("pvc"); return w.JacketFactor(numeric.Light / 7.1e6 / 4) }(),
		a: func() float64 { w, _ := antenna.WireNamed("pvc"); return w.EquivalentRadius() }(), henries: 34e-6}
	near(t, "the planned one is resonant", x.excess(7.1e6, p.Shape.M("coil_at"), p.Shape.M("tail")), 0, 0.01)
	if l := p.Shape.Total(); l < 11 || l > 13 { // practice: 10 m, 34 uH and about 1.5 to 2 m
		t.Errorf("20 and 40 m with 34 uH in %v m; those that are built are 11.5 to 12.5 m", l)
	}
	larger := wish(t, "end-fed-loaded", "flat", map[string]string{"for": "7.1 14.1", "coil_uh": "50"})
	if larger.Shape.M("tail") >= p.Shape.M("tail") {
		t.Error("a larger coil does not shorten the tail")
	}
	again := wish(t, "end-fed-loaded", "flat", map[string]string{"for": "7.1 14.1"})
	if uh := again.Shape.N("coil_uh", 0); uh < 10 || uh > 120 {
		t.Errorf("usual coil %v uH", uh)
	}
	no := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed-loaded", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1 14.1", "coil_uh": "400"}}})
	if f, _ := faultAt(no.Faults, "coil_former"); !strings.Contains(f.Text, "self-resonant") {
		t.Errorf("400 uH on a pipe of 40 mm for 7 MHz: %v", no.Faults)
	}
	near(t, "coil drawn where it is", p.Drawing.Spots[0].At[0], p.Shape.M("coil_at"), 0.01)
}

func TestNonResonantWireAvoidsEveryHalfWave(t *testing.T) {
	w, _ := antenna.WireNamed("pvc")
	all := []float64{28.5e6, 21.1e6, 14.1e6, 7.1e6}
	gaps := Gaps(all, w, 9, 41)
	if len(gaps) == 0 {
		t.Fatal("no length is offered")
	}
	for _, g := range gaps {
		for l := g.From; l <= g.To; l += 0.05 {
			for _, f := range all {
				if z := antenna.EndFed(f, l, w); antenna.SWR50(z/9) > Forbidden || cmplx.Abs(z) > 9*High {
					t.Fatalf("%.2f m is offered with %v on %v", l, z, f)
				}
			}
		}
		for _, f := range all {
			half := 0.97 * w.JacketFactor(10) * numeric.Light / f / 2
			for n := 1.0; n*half < 41; n++ {
				if n < 3 && n*half > g.From && n*half < g.To {
					t.Errorf("%.2f m, %v half-waves on %v, lies in a gap", n*half, n, f)
				}
			}
		}
	}
	p := wish(t, "random-wire", "sloper", map[string]string{"for": "7.1 14.1", "radiator": "19.9"})
	if _, found := faultAt(p.Faults, "radiator"); !found {
		t.Error("a half-wave on 40 m is taken for non-resonant")
	}
}

func TestMatchingSectionGivesFiftyOhm(t *testing.T) {
	line := circuit.FromTwo("line", 300, 0.82, 0, 0, 0)
	for _, end := range []float64{2500, 4000, 8000} {
		m, ok := MatchEnd(line, 14.1e6, end)
		if !ok {
			t.Fatalf("%v ohm cannot be matched", end)
		}
		z := antenna.TapImpedance(line, 14.1e6, complex(end, 0), m)
		near(t, "resistance at the tap", real(z), 50, 1)
		near(t, "reactance at the tap", imag(z), 0, 1)
	}
	// High ratio, thin line: power conservation along a quarter-wave gives sin^2(2 pi tap / wave) = 50/R.
	high := circuit.FromTwo("line", 100, 0.82, 0, 0, 0)
	m, _ := MatchEnd(high, 14.1e6, 20000)
	wave := 0.82 * numeric.Light / 14.1e6
	near(t, "tap by power conservation", m.Tap, wave/(2*math.Pi)*math.Asin(math.Sqrt(50.0/20000)), 0.02*m.Tap+0.02)
	near(t, "section near a quarter-wave", m.Stub, wave/4, 0.01*wave)
	if _, ok := MatchEnd(circuit.FromTwo("line", 600, 0.95, 0, 0, 0), 14.1e6, 2000); ok {
		t.Error("600 ohm line turns 2000 ohm into 50: its lowest resistance is 180")
	}
	p := wish(t, "j-pole", "upright", map[string]string{"for": "14.06", "line_vf": "1"})
	slow := wish(t, "j-pole", "upright", map[string]string{"for": "14.06", "line_vf": "0.5"})
	near(t, "half the velocity halves the section", slow.Shape.M("stub")/p.Shape.M("stub"), 0.5, 0.005)
	roll := wish(t, "j-pole", "roll-up", map[string]string{"for": "14.06"})
	near(t, "one line is section, gap and radiator", roll.Pieces[0].Electrical.M,
		roll.Shape.M("stub")+roll.Shape.M("gap")+roll.Shape.Radiator().M, 1e-9)
	// Its radiator is the line's, whatever wire is in the bag.
	bare := Design(antenna.Request{Shape: antenna.Shape{Family: "j-pole", Variant: "roll-up", FrequencyHz: 14.06e6, Wire: "bare"}})
	near(t, "no wire is chosen for it", bare.Shape.Radiator().M, roll.Shape.Radiator().M, 1e-9)
	if got := roll.Factor.Value; got < 0.925 || got > 0.945 {
		t.Errorf("factor %.3f of a conductor in a web: expected 0.95 of 0.975 to 0.995", got)
	}
}

func TestLowWireOverAMirror(t *testing.T) {
	mirror := earth.Ground{Permittivity: 1, Conductivity: 1e9}
	near(t, "a quarter-wave up", Overhead(numeric.Light/14e6/4, mirror, 14e6), 10*math.Log10(4*73.1/(73.1+12.5)), 0.05)
	if a, b := Overhead(0.5, mirror, 14e6), Overhead(2, mirror, 14e6); a >= b {
		t.Errorf("half a metre up gives %v dB, two metres %v", a, b)
	}
	p := wish(t, "fence-wire", "wired", map[string]string{"for": "7.1 14.06"})
	if f, found := faultAt(p.Faults, "variant"); !found || f.Severity != "caution" {
		t.Error("a wired fence without a caution")
	}
}

func TestRadialsTowardsChosenDirections(t *testing.T) {
	p := wish(t, "vertical", "ground-radials", map[string]string{"for": "14.06", "directions": "0 90 200"})
	if p.Shape.Radials().Count != 3 {
		t.Fatalf("%d radials", p.Shape.Radials().Count)
	}
	var angles []float64
	for _, l := range p.Drawing.Lines {
		if l.Role == "radial" {
			a := math.Atan2(l.To[1], l.To[0]) * 180 / math.Pi
			angles = append(angles, math.Mod(a+360, 360))
		}
	}
	for i, want := range []float64{0, 90, 200} {
		near(t, "direction", angles[i], want, 1e-6)
	}
	bad := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "vertical", Variant: "ground-radials"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "14.06", "directions": "north"}}})
	if _, found := faultAt(bad.Faults, "directions"); !found {
		t.Error("directions in words are taken")
	}
}

func TestVerticalsOnOneFeedAreResonantTogether(t *testing.T) {
	w, _ := antenna.WireNamed("pvc")
	all := []float64{28.5e6, 14.1e6, 7.1e6}
	var alone []float64
	for _, f := range all {
		q := numeric.Light / f / 4
		alone = append(alone, antenna.EndFactor(q, w.EquivalentRadius())*w.JacketFactor(q)*q)
	}
	lengths, off := together(all, alone, w)
	for i, f := range all {
		var y complex128
		for _, l := range lengths {
			y += 1 / antenna.Mono(f, l, w)
		}
		if off[i] || math.Abs(imag(y)) > 1e-6 {
			t.Errorf("at %v the susceptance is %v", f, imag(y))
		}
	}
	one, _ := together(all[:1], alone[:1], w)
	near(t, "a single wire keeps its length", one[0], alone[0], 1e-3*alone[0])
}

func TestWhipSettings(t *testing.T) {
	p := wish(t, "whip", "ground-radials", map[string]string{"for": "14.06 28.5", "whip_full": "5.6 m", "whip_sections": "8"})
	rows := p.Tables[0].Rows
	if len(rows) != 2 || !strings.Contains(rows[0][2], "of 8") {
		t.Fatalf("%v", rows)
	}
	told := wish(t, "whip", "ground-radials", map[string]string{"for": "14.06 28.5", "whip_full": "5.6 m", "whip_radius": "8 mm"})
	near(t, "quarter-wave of a uniform rod on 20 m", told.Shape.Radiator().M, 5.33*0.965, 0.06)
	// A telescopic rod tapers, unless one says that it does not.
	near(t, "of one that tapers as usual", p.Shape.Radiator().M/told.Shape.Radiator().M, 1.035, 0.012)
	long := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "whip", Variant: "ground-radials"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1", "whip_full": "5.6 m"}}})
	if _, found := faultAt(long.Faults, "whip_full"); !found {
		t.Error("a whip too short for 40 m goes unsaid")
	}
}

// chain is the reactance at the base of a loaded whip worked out with complex line transformations, which
// the design does not use.
func chain(s antenna.Shortened, f, henries float64) float64 {
	b1, b2, z1, z2 := s.Angles(f)
	z := complex(0, -z2/math.Tan(b2)) + complex(0, 2*math.Pi*f*henries)
	tan := complex(0, math.Tan(b1))
	return imag(complex(z1, 0) * (z + complex(z1, 0)*tan) / (complex(z1, 0) + z*tan))
}

func TestLoadedWhipDesignedIsResonantWhenAnalysed(t *testing.T) {
	for _, s := range []antenna.Shortened{{Lower: 0, Upper: 2.5, Radius: 0.008, Uppers: 0.003, Factor: 1},
		{Lower: 1.2, Upper: 1.8, Radius: 0.01, Uppers: 0.003, Factor: 1}, {Lower: 2.5, Upper: 1, Radius: 0.01, Uppers: 0.002, Factor: 1}} {
		for _, f := range []float64{3.6e6, 7.1e6, 14.1e6} {
			l := s.Reactance(f) / (2 * math.Pi * f)
			near(t, "reactance at the base", chain(s, f, l), 0, 1e-6*s.Reactance(f)+1e-6)
		}
	}
	full := antenna.Shortened{Lower: 0, Upper: 0.24 * numeric.Light / 7e6, Radius: 0.01, Uppers: 0.001, Factor: 1}
	if x := full.Reactance(7e6); math.Abs(x) > 40 {
		t.Errorf("a whip of a quarter-wave wants a coil of %v ohm", x)
	}
	// Triangular current: 40 pi^2 (h/lambda)^2; quarter-wave: effective height lambda/2pi, 40 ohm.
	short := antenna.Shortened{Lower: 0, Upper: 0.01 * numeric.Light / 7e6, Radius: 0.01, Uppers: 0.001, Factor: 1}
	r, _ := short.Radiation(7e6)
	near(t, "short whip", r, 40*math.Pi*math.Pi*1e-4, 0.002)
	r, _ = antenna.Shortened{Lower: 0, Upper: 0.2499 * numeric.Light / 7e6, Radius: 0.01, Uppers: 1e-9, Factor: 1}.Radiation(7e6)
	near(t, "quarter-wave", r, 40, 0.3)
	top, _ := antenna.Shortened{Lower: 1.25, Upper: 1.25, Radius: 0.01, Uppers: 0.003, Factor: 1}.Radiation(7e6)
	base, _ := antenna.Shortened{Lower: 0, Upper: 2.5, Radius: 0.01, Uppers: 0.003, Factor: 1}.Radiation(7e6)
	if top < 1.5*base || top > 4*base {
		t.Errorf("half way up radiates %v, at the base %v", top, base)
	}
}

func TestLoadedWhipTapsRiseWithWavelengthAndAPairRadiatesTwice(t *testing.T) {
	p := wish(t, "loaded-whip", "ground-radials", map[string]string{"for": "7.1 10.12 14.06", "whip": "2.5 m", "mast": "0.5 m"})
	last := 0.0
	for _, m := range p.Strips[0].Marks {
		if m.MM <= last {
			t.Errorf("taps %v", p.Strips[0].Marks)
		}
		last = m.MM
	}
	// The lowest band takes nearly all of the coil: a few turns are left, should it want more than was worked out.
	if left := 1 - last/p.Strips[0].MM; left < 0.02 || left > 0.09 {
		t.Errorf("%.3f of the coil is left beyond the lowest band's tap", left)
	}
	where, volts := Of(p.Shape).Hot(40)
	_, less := Of(p.Shape).Hot(10)
	if where == "" || volts < 300 || math.Abs(volts/less-2) > 0.01 {
		t.Errorf("%v V at 40 W, %v at 10", volts, less)
	}
	pair := wish(t, "whip-pair", "flat", map[string]string{"for": "14.06", "whip": "2.5 m", "mast": "0.5 m"})
	one := wish(t, "loaded-whip", "ground-radials", map[string]string{"for": "14.06", "whip": "2.5 m", "mast": "0.5 m"})
	near(t, "same coil", pair.Shape.M("coil_length"), one.Shape.M("coil_length"), 1e-9)
}

// A band of a linked dipole is a dipole as high that hangs in the same way: as long, and of the same resistance.
func TestLinkedBandHasADipolesResistance(t *testing.T) {
	for _, texts := range []map[string]string{{"feed_height": "7.5", "apex_angle": "96"}, {"feed_height": "5", "apex_angle": "140"}} {
		texts["for"] = "10.12 18.1"
		linked := wish(t, "linked-dipole", "inverted-v", texts)
		for _, row := range linked.Tables[0].Rows {
			texts["for"] = row[0]
			alone := wish(t, "dipole", "inverted-v", texts)
			ohm, _, _ := strings.Cut(row[3], ",")
			if row[1] != say(antenna.Request{}, alone.Shape.Radiator().M) || !strings.HasPrefix(alone.Expect, "about "+ohm+" at") {
				t.Errorf("%v MHz: leg of %v, %v; a dipole's of %.3f, %v", row[0], row[1], row[3], alone.Shape.Radiator().M, alone.Expect)
			}
		}
	}
}

func TestHelixKnownAnswers(t *testing.T) {
	lambda := numeric.Light / 14.06e6
	w, _ := antenna.WireNamed("bare")
	for _, d := range []float64{0.02, 0.05} {
		n := HelixTurns(2.2, d, lambda, w)
		near(t, "turns give the velocity back", HelixFactor(n, d, 2.2, w), 4*2.2/lambda, 1e-9)
	}
	near(t, "a straight wire is not slowed", HelixFactor(0, 0.03, 2, w), 1, 1e-12)
	if HelixTurns(6, 0.03, lambda, w) != 0 {
		t.Error("a helix longer than a quarter-wave")
	}
	// (25.3 h/lambda)^2 of Kandoian and Sichak against the area under a sinusoid: 160 pi^2 (2h/pi/lambda)^2.
	near(t, "radiation resistance", math.Pow(25.3, 2), 160*math.Pi*math.Pi*4/(math.Pi*math.Pi), 0.2)
	longer := wish(t, "helix", "ground-radials", map[string]string{"for": "14.06", "radiator": "3.5 m"})
	short := wish(t, "helix", "ground-radials", map[string]string{"for": "14.06", "radiator": "1.5 m"})
	if longer.Shape.N("helix_turns", 0) >= short.Shape.N("helix_turns", 0) {
		t.Error("a longer winding takes more turns")
	}
}

func TestRectangleClosesAndReflects(t *testing.T) {
	p := wish(t, "rectangle", "level", map[string]string{"for": "28.5", "depth_waves": "0.14"})
	s := p.Shape
	near(t, "driven element", s.M("width")+2*s.M("driven_tail"), s.Radiator().M, 1e-9)
	near(t, "depth", s.M("driven_tail")+s.M("reflector_tail")+s.M("tip_gap"), 0.14*numeric.Light/28.5e6, 1e-9)
	if s.M("reflector_tail") <= s.M("driven_tail") {
		t.Error("the reflector is not longer")
	}
	if !strings.Contains(p.Provisional, "Provisional") {
		t.Error("it does not say that it is provisional")
	}
	far := reflect(4, 40)
	near(t, "a reflector far off changes nothing", far.R, 73.1, 3)
	if b := reflect(0.13, 40); b.FrontBack < 6 || b.R > 60 {
		t.Errorf("two elements 0.13 waves apart: %+v", b)
	}
}

func TestSmallLoopKnownAnswers(t *testing.T) {
	l := Ring{Around: math.Pi, Tube: 0.005}
	// Neumann's integral between the axis and a filament on the surface, for a ring of 1 m diameter and 10 mm conductor.
	const n = 200000
	sum, r := 0.0, 0.5
	for i := range n {
		a := (float64(i) + 0.5) * 2 * math.Pi / n
		sum += math.Cos(a) / math.Sqrt(r*r+(r-l.Tube)*(r-l.Tube)-2*r*(r-l.Tube)*math.Cos(a))
	}
	neumann := numeric.Mu0 / 2 * r * (r - l.Tube) * sum * 2 * math.Pi / n
	near(t, "inductance in uH", l.L()*1e6, neumann*1e6, 0.02)
	tenth := numeric.Light / (10 * math.Pi) // the circumference is a tenth of a wave
	near(t, "radiation resistance at a tenth of a wave", l.Radiation(tenth), 0.019739, 1e-5)
	f := 10e6
	near(t, "resonant", l.Tuned(l.Capacitance(f)), f, 1)
	// Where it is small against the wave it is an inductance.
	near(t, "resonant at a fortieth of a wave", 1/(2*math.Pi*math.Sqrt(l.L()*l.Capacitance(f/4))), f/4, 0.01*f/4)
	amps, volts := l.at(f, 25)
	near(t, "power in the resistances", amps*amps*(l.Radiation(f)+l.Loss(f)), 25, 1e-9)
	near(t, "voltage", volts, amps*math.Cos(l.angle(f))*l.Reactance(f)*math.Sqrt2, 1e-6)
	if thick := (Ring{Around: math.Pi, Tube: 0.01}); thick.Efficiency(f) <= l.Efficiency(f) {
		t.Error("a thicker conductor is not better")
	}
	p := wish(t, "small-loop", "upright", map[string]string{"for": "7.1 14.06", "radiator": "3.14 m", "c_volts": "500"})
	if _, found := faultAt(p.Faults, "c_volts"); !found {
		t.Errorf("10 W on a capacitor of 500 V: %v", p.Faults)
	}
}

func TestPerfectGroundScreenLimits(t *testing.T) {
	average, _ := earth.Kind("average")
	sea, _ := earth.Kind("sea")
	loss := func(g earth.Ground, n int, l float64) float64 {
		return real(earth.Screen(g, 7.1e6, 10.5, n, l, 0.0005))
	}
	last := loss(average, 0, 0)
	for _, n := range []int{2, 4, 8, 16, 32} {
		x := loss(average, n, 10.5)
		if x >= last {
			t.Errorf("%d radials lose %v, fewer lose %v", n, x, last)
		}
		last = x
	}
	if loss(sea, 8, 10.5) > 3 || loss(average, 8, 10.5) < 8 || loss(average, 8, 10.5) > 30 {
		t.Errorf("8 radials: sea %v, average soil %v; measured ones over soil lose some 10 to 25 ohm", loss(sea, 8, 10.5), loss(average, 8, 10.5))
	}
	mirror := earth.Ground{Permittivity: 1, Conductivity: 1e9}
	near(t, "a mirror loses nothing", loss(mirror, 4, 5), 0, 0.01)
}

// resonances finds where the reactance of a wire, as an open line, passes through zero between two frequencies.
func resonance(z func(f float64) complex128, lo, hi float64) float64 {
	f, ok := numeric.Bisect(func(f float64) float64 { return imag(z(f)) }, lo, hi, 0)
	if !ok {
		return 0
	}
	return f
}

func TestDesignedForAFrequencyItIsResonantThere(t *testing.T) {
	for _, mhz := range []string{"3.6", "7.1", "14.06", "28.5"} {
		for _, wire := range []string{"pvc", "pe", "bare"} {
			w, _ := antenna.WireNamed(wire)
			plan := func(family, variant string) antenna.Plan {
				p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant, Wire: wire}},
					Typed: entry.Typed{Texts: map[string]string{"for": mhz}}})
				if p.Shape.FrequencyHz == 0 || len(p.Pieces) == 0 {
					t.Fatalf("%s for %s: %v", family, mhz, p.Faults)
				}
				return p
			}
			up := plan("dipole", "upright")
			f := up.Shape.FrequencyHz
			got := resonance(func(f float64) complex128 { return antenna.CentreFed(f, up.Shape.Total(), w) }, 0.9*f, 1.1*f)
			near(t, "upright dipole of "+wire, got/f, 1, 0.003)
			v := plan("vertical", "ground-radials")
			got = resonance(func(f float64) complex128 { return antenna.Mono(f, v.Shape.Radiator().M, w) }, 0.9*f, 1.1*f)
			near(t, "vertical of "+wire, got/f, 1, 0.003)
			// The end of a half-wave is highest, and without reactance, at its frequency.
			e := plan("end-fed", "flat")
			got = resonance(func(f float64) complex128 { return antenna.EndFed(f, e.Shape.Radiator().M, w) }, 0.95*f, 1.05*f)
			near(t, "end-fed of "+wire, got/f, 1, 0.012)
			high := cmplx.Abs(antenna.EndFed(got, e.Shape.Radiator().M, w))
			if cmplx.Abs(antenna.EndFed(0.97*f, e.Shape.Radiator().M, w)) > high ||
				cmplx.Abs(antenna.EndFed(1.03*f, e.Shape.Radiator().M, w)) > high {
				t.Errorf("the end is not highest at resonance")
			}
			c := plan("end-fed-loaded", "flat")
			x := tailed{k: w.JacketFactor(numeric.Light / f / 4), a: w.EquivalentRadius(), henries: c.Shape.N("coil_uh", 0) * 1e-6}
			if at, ok := numeric.Bisect(func(f float64) float64 { return x.excess(f, c.Shape.M("coil_at"), c.Shape.M("tail")) }, 0.97*f, 1.03*f,
				0); !ok || math.Abs(at/f-1) > 1e-3 {
				t.Errorf("coil and tail of %s for %s: resonant at %v", wire, mhz, at)
			}
			l := plan("small-loop", "upright")
			near(t, "loop", ring(l.Shape).Tuned(ring(l.Shape).Capacitance(f)), f, 1)
		}
	}
}

func TestThickerIsShorterAndJacketedIsShorter(t *testing.T) {
	length := func(family, variant, wire string) float64 {
		return Design(antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant, Wire: wire, FrequencyHz: 7.1e6}}).Shape.Radiator().M
	}
	for _, f := range [][2]string{{"dipole", "flat"}, {"vertical", "raised-radials"}, {"end-fed", "flat"}, {"j-pole", "upright"},
		{"rectangle", "level"}, {"multi-vertical", "ground-radials"}} {
		if pvc, bare := length(f[0], f[1], "pvc"), length(f[0], f[1], "bare"); pvc >= bare || pvc < 0.92*bare {
			t.Errorf("%s: %v m of PVC, %v m bare", f[0], pvc, bare)
		}
	}
	thin, thick := wish(t, "whip", "ground-radials", map[string]string{"for": "28.5", "whip_radius": "3 mm"}),
		wish(t, "whip", "ground-radials", map[string]string{"for": "28.5", "whip_radius": "25 mm"})
	if thick.Shape.Radiator().M >= thin.Shape.Radiator().M {
		t.Error("a thicker whip is not shorter")
	}
	own := antenna.Wire{Radius: 0.0004, Outer: 0.0008, Permittivity: 3, Factor: 0.93}
	learned := Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "upright", FrequencyHz: 7.1e6, WireData: &own}})
	own.Factor = 0
	computed := Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "upright", FrequencyHz: 7.1e6, WireData: &own}})
	if learned.Shape.Radiator().M >= computed.Shape.Radiator().M {
		t.Error("what was learned of the wire is not used")
	}
}

func TestImpossibleWishesAreToldNotComputed(t *testing.T) {
	for _, c := range []struct {
		family, variant, path string
		texts                 map[string]string
	}{
		{"helix", "ground-radials", "radiator", map[string]string{"for": "28.5", "radiator": "5 m"}},
		{"helix", "ground-radials", "helix_diameter", map[string]string{"for": "3.6", "radiator": "0.6 m", "helix_diameter": "15"}},
		{"rectangle", "level", "tip_gap", map[string]string{"for": "28.5", "tip_gap": "1.3 m"}},
		{"small-loop", "upright", "tube", map[string]string{"for": "14.06", "radiator": "0.3 m", "tube": "40"}},
		{"small-loop", "upright", "radiator", map[string]string{"for": "28.5", "radiator": "6 m"}},
		{"small-loop", "upright", "c_max", map[string]string{"for": "3.6", "c_max": "50"}},
		{"loaded-whip", "ground-radials", "coil_length", map[string]string{"for": "3.6", "coil_length": "10"}},
		{"loaded-whip", "ground-radials", "whip", map[string]string{"for": "28.5", "whip": "4 m"}},
		{"random-wire", "flat", "room", map[string]string{"for": "3.6 5.35 7.1 10.12 14.1 18.1 21.1 28.5", "room": "8 m"}},
		{"multi-vertical", "ground-radials", "frequency_hz", map[string]string{"for": "14.06 14.3"}},
		{"doublet", "flat", "line_length", map[string]string{"for": "7.1", "feed_height": "12 m", "line_length": "4 m"}},
		{"j-pole", "upright", "tap", map[string]string{"for": "14.06", "tap": "6 m"}},
		{"j-pole", "sloper", "far_height", map[string]string{"for": "28.5", "far_height": "15 m"}},
		{"linked-dipole", "flat", "for", map[string]string{"for": ""}},
		{"whip", "ground-radials", "directions", map[string]string{"for": "28.5", "directions": "downhill"}},
		{"dipole", "upright", "feed_height", map[string]string{"for": "7.1", "feed_height": "3 m"}},
	} {
		p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: c.family, Variant: c.variant}, PowerW: 10},
			Typed: entry.Typed{Texts: c.texts}})
		if f, found := faultAt(p.Faults, c.path); !found || f.Text == "" {
			t.Errorf("%s %v: %v, want something at %s", c.family, c.texts, p.Faults, c.path)
		}
	}
}

func TestUsualValuesAreShownWhereNothingWasTyped(t *testing.T) {
	p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "loaded-whip", Variant: "ground-radials"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1", "whip": "3 m"}}})
	for _, f := range p.Fields {
		switch f.ID {
		case "coil_former", "coil_wire", "feed_height", "radials_count", "radials_length":
			if f.Usual == "" {
				t.Errorf("%s: what is taken is not said", f.ID)
			}
		case "whip":
			if f.Usual != "" {
				t.Errorf("%s was typed, yet %q is said to be taken", f.ID, f.Usual)
			}
		case "for":
			if f.Seen != "7.100 MHz" {
				t.Errorf("for was understood as %q", f.Seen)
			}
		}
	}
	feet := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "7.1"}, Unit: "ft"}})
	if !strings.Contains(feet.Sentence, "'") || !strings.Contains(feet.WireSays, "'") {
		t.Errorf("who types feet reads %q, %q", feet.Sentence, feet.WireSays)
	}
}

func TestImpedancesAreWrittenPlainly(t *testing.T) {
	for want, z := range map[string]complex128{"620 -j1300 ohm": complex(622, -1291), "73 +j0 ohm": complex(73.1, 0.3),
		"4.8 +j12 ohm": complex(4.84, 11.9), "6000 +j780 ohm": complex(6020, 781)} {
		if got := ohms(z); got != want {
			t.Errorf("%v is written %q, want %q", z, got, want)
		}
	}
}

func BenchmarkFamilies(b *testing.B) {
	for _, fam := range Families() {
		text := "14.06"
		if fam.Multi {
			text = "7.1 10.12 14.06 21.1 28.5"
		}
		b.Run(fam.ID, func(b *testing.B) {
			for b.Loop() {
				Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: fam.ID, Variant: fam.Variants[0].ID}, PowerW: 10},
					Typed: entry.Typed{Texts: map[string]string{"for": text}}})
			}
		})
	}
}

// Every bound of every field, at its edge: taken there, and refused just beyond.
func TestEveryFieldIsTakenUpToItsBoundsAndNotBeyond(t *testing.T) {
	for _, fam := range Families() {
		for _, v := range fam.Variants {
			for _, stage := range []string{"plan", "built"} {
				s := antenna.Shape{Family: fam.ID, Variant: v.ID, FrequencyHz: 7.1e6, More: []float64{14.1e6, 21.1e6}}
				for _, f := range Of(s).Fields(stage) {
					for _, x := range edgesOf(f) {
						values, faults := entry.Read([]entry.Field{f}, map[string]string{f.ID: x.text}, "m")
						if antenna.HasError(faults) == x.taken {
							t.Errorf("%s %s %s: %q is taken: %v, want %v", fam.ID, v.ID, f.ID, x.text, !antenna.HasError(faults), x.taken)
						}
						// The same value from elsewhere than a form.
						shape := s
						shape.Take(values)
						if _, refused := faultAt(Of(shape).outside(nil), f.ID); refused == x.taken && !x.never {
							t.Errorf("%s %s %s: a stored %q is refused: %v", fam.ID, v.ID, f.ID, x.text, refused)
						}
					}
				}
			}
		}
	}
}

type edge struct {
	text         string
	taken, never bool // never: no value can be stored of it
}

func edgesOf(f entry.Field) (out []edge) {
	number := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	switch f.Kind {
	case entry.Length, entry.Size:
		if f.Max > 0 {
			out = append(out, edge{number(f.Max) + " m", true, false}, edge{number(f.Max*1.002) + " m", false, false})
		}
		if f.Min > 0 {
			out = append(out, edge{number(f.Min) + " m", true, false}, edge{number(f.Min*0.998) + " m", false, false})
		}
	case entry.Amount:
		if f.Max > 0 {
			out = append(out, edge{number(f.Max), true, false}, edge{number(f.Max * 1.002), false, false})
		}
		if f.Min > 0 {
			out = append(out, edge{number(f.Min), true, false}, edge{number(f.Min * 0.998), false, false})
		}
	case entry.Count:
		out = append(out, edge{number(f.Max), true, false}, edge{number(f.Max + 1), false, false}, edge{"-1", false, true},
			edge{"1.5", false, true})
	}
	return out
}

func TestBoundsOfAShapeAtTheirEdges(t *testing.T) {
	good := antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: 7.1e6, Wire: "pvc"}.With(antenna.Radiator,
		quantity.Metres(10)).With(antenna.LegB, quantity.Metres(10))
	// Ways to hang it of whose fields these are none, so that no bound of a field stands in for the shape's own.
	flat := func(f func(*antenna.Shape)) func(*antenna.Shape) {
		return func(s *antenna.Shape) { s.Variant = "flat"; f(s) }
	}
	up := func(f func(*antenna.Shape)) func(*antenna.Shape) {
		return func(s *antenna.Shape) {
			s.Family = "vertical"
			s.Variant = "ground-radials"
			s.Put(antenna.LegB, quantity.Length{})
			f(s)
		}
	}
	more := func(n int) (out []float64) {
		for i := range n {
			out = append(out, 7e6+float64(i))
		}
		return out
	}
	for name, c := range map[string]struct {
		path        string
		inside, out func(*antenna.Shape)
	}{
		"lowest frequency": {"frequency_hz", func(s *antenna.Shape) { s.FrequencyHz = 1.8e6 },
			func(s *antenna.Shape) { s.FrequencyHz = 1.799e6 }},
		"highest frequency": {"frequency_hz", func(s *antenna.Shape) { s.FrequencyHz = 54e6 },
			func(s *antenna.Shape) { s.FrequencyHz = 54.01e6 }},
		"no number":   {"frequency_hz", func(*antenna.Shape) {}, func(s *antenna.Shape) { s.FrequencyHz = math.NaN() }},
		"frequencies": {"frequency_hz", func(s *antenna.Shape) { s.More = more(15) }, func(s *antenna.Shape) { s.More = more(16) }},
		"radials": {"radials_count", func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, 240) },
			func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, 241) }},
		"no radials": {"radials_count", func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, 0) },
			func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, -1) }},
		"turns": {"primary_turns", func(s *antenna.Shape) { s.PutNumber(antenna.PrimaryTurns, 240) },
			func(s *antenna.Shape) { s.PutNumber(antenna.PrimaryTurns, 241) }},
		"longest wire": {"radiator", func(s *antenna.Shape) { s.Put(antenna.Radiator, quantity.Metres(2000)) },
			func(s *antenna.Shape) { s.Put(antenna.Radiator, quantity.Metres(2000.5)) }},
		"widest angle": {"apex_angle", flat(func(s *antenna.Shape) { s.PutNumber(antenna.ApexAngle, 180) }),
			flat(func(s *antenna.Shape) { s.PutNumber(antenna.ApexAngle, 180.5) })},
		"narrowest angle": {"apex_angle", flat(func(s *antenna.Shape) { s.PutNumber(antenna.ApexAngle, 30) }),
			flat(func(s *antenna.Shape) { s.PutNumber(antenna.ApexAngle, 29.5) })},
		"bearing": {"bearing", up(func(s *antenna.Shape) { s.PutNumber(antenna.Bearing, 360) }),
			up(func(s *antenna.Shape) { s.PutNumber(antenna.Bearing, 360.5) })},
		"bearing below": {"bearing", up(func(s *antenna.Shape) { s.PutNumber(antenna.Bearing, 0) }),
			up(func(s *antenna.Shape) { s.PutNumber(antenna.Bearing, -0.5) })},
	} {
		in, out := good, good
		c.inside(&in)
		c.out(&out)
		if f, bad := faultAt(Of(in).Check(), c.path); bad && f.Severity == "error" {
			t.Errorf("%s: refused at its edge: %s", name, f.Text)
		}
		if f, bad := faultAt(Of(out).Check(), c.path); !bad || f.Severity != "error" {
			t.Errorf("%s: taken beyond its edge", name)
		}
		if d, _ := Of(out).Layout(); len(d.Lines) > 0 {
			t.Errorf("%s: laid out all the same", name)
		}
	}
	for percent, want := range map[float64]bool{0: false, 20: false, 20.5: true, -0.5: true} {
		if _, bad := faultAt(Design(antenna.Request{Shape: good, TrimPercent: percent}).Faults, "trim_percent"); bad != want {
			t.Errorf("%v %% to trim is refused: %v", percent, bad)
		}
	}
}

func TestAVOpenedFlatIsAFlatDipole(t *testing.T) {
	for _, high := range []float64{4, 7, 12} {
		at := func(variant string) antenna.Shape {
			s := antenna.Shape{Family: "dipole", Variant: variant, FrequencyHz: 7.1e6}
			s.Put(antenna.FeedHeight, quantity.Metres(high))
			if variant == "inverted-v" {
				s.PutNumber(antenna.ApexAngle, 180)
			}
			return Design(antenna.Request{Shape: s}).Shape
		}
		flat, v := at("flat").Radiator().M, at("inverted-v").Radiator().M
		// Legs that meet straight shorten by nothing but the V's own factor, which is told for 120 degrees as one.
		factor, _ := vFactor(180)
		if off := v/(flat*factor) - 1; math.Abs(off) > 1e-6 {
			t.Errorf("%g m up: %.4f m flat, %.4f m as a V of 180 degrees", high, flat, v)
		}
	}
}

func TestAFrequencyThatIsNotReadIsSaidOnce(t *testing.T) {
	for text, says := range map[string]string{"40/20": "no amateur band", "near forty": "was not understood", "": "this is missing"} {
		p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper"}},
			Typed: entry.Typed{Texts: map[string]string{"for": text}}})
		if len(p.Faults) != 1 || p.Faults[0].Path != "for" || !strings.Contains(p.Faults[0].Text, says) {
			t.Errorf("%q: %v", text, p.Faults)
		}
	}
}

func TestAPlanSaysInWhichBandsItsFrequenciesLie(t *testing.T) {
	p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "20m 7.05 27.2"}}})
	if got := strings.Join(p.Fields[0].Bands, ","); p.Fields[0].ID != "for" || got != "20m,40m," {
		t.Errorf("%s: %q", p.Fields[0].ID, got)
	}
}

// A helix with taps: a quarter of the wave on each band, the bridged part as a rod; fewer turns for a higher band, and the
// model's winding begins where the clip sits.
func TestAHelixIsTappedForItsHigherBands(t *testing.T) {
	p := wish(t, "helix", "ground-radials", map[string]string{"for": "5.36 18.1 10.12", "radiator": "2.2 m", "helix_diameter": "35"})
	s := p.Shape
	whole, ten, eighteen := s.N("helix_turns", 0), s.N("helix_turns_2", 0), s.N("helix_turns_1", 0)
	if !(whole > ten && ten > eighteen && eighteen > 0) {
		t.Fatalf("%.1f turns, %.1f on 10 MHz, %.1f on 18", whole, ten, eighteen)
	}
	e := Of(s).Electrics(18.1e6)
	near(t, "rod below the clip", e.SpreadFrom, 2.2*(1-eighteen/whole), 1e-6)
	near(t, "rod below all turns", Of(s).Electrics(5.36e6).SpreadFrom, 0, 1e-9)
	if near := HelixTap(whole, 2.2, 0.037, 299792458/5.6e6, s.Conductor()); near >= whole || near < 0.8*whole {
		t.Errorf("%.1f of %.1f turns serve a band 4 %% higher", near, whole)
	}
	long := wish(t, "helix", "ground-radials", map[string]string{"for": "7.1 50.2", "radiator": "2.2 m"})
	if f, found := faultAt(long.Faults, "for"); !found || f.Severity == "error" {
		t.Error("a rod longer than a quarter-wave is offered a tap")
	}
	if n := len(Of(s).Knobs()); n != 3 {
		t.Errorf("%d windings to trim for three bands", n)
	}
}

// A wire at hand is wound whole: its length fixes the turns, which the solver leaves. Turns taken off the top are missing on every
// band, and a higher band that uses more turns than a lower one is asked about.
func TestAHelixIsWoundOfTheWireAtHand(t *testing.T) {
	p := wish(t, "helix", "ground-radials", map[string]string{"for": "7.1 14.06", "radiator": "2 m", "helix_wire": "14 m"})
	if got := wound(p.Shape, p.Shape.N("helix_turns", 0)); math.Abs(got-14) > 0.02 {
		t.Errorf("%.0f turns take %.2f m", p.Shape.N("helix_turns", 0), got)
	}
	r := antenna.Request{Shape: antenna.Shape{Family: "helix", Variant: "ground-radials", FrequencyHz: 14.06e6, More: []float64{7.1e6}},
		Solved: []antenna.Solved{{Piece: "helix wire", Field: "helix_turns", Size: quantity.Metres(200)}}}
	r.Put(antenna.Radiator, quantity.Metres(2))
	r.Put("helix_wire", quantity.Metres(14))
	if got := Design(r).Shape.N("helix_turns", 0); got != p.Shape.N("helix_turns", 0) {
		t.Errorf("the solver's turns, %v, replace those of the wire, %v", got, p.Shape.N("helix_turns", 0))
	}
	s := p.Shape
	whole, used := s.N("helix_turns", 0), s.N(tapID(0), 0)
	knobs := knobsHelix(s)
	after := knobs[len(knobs)-1].Set(s, whole-3)
	if after.N("helix_turns", 0) != whole-3 || math.Abs(after.N(tapID(0), 0)-(used-3)) > 1e-9 {
		t.Errorf("3 of %v turns off leave %v in use of %v", whole, after.N(tapID(0), 0), used)
	}
	if f := tapFaults(after); len(f) != 0 {
		t.Errorf("%v", f)
	}
	if f := tapFaults(s.WithNumber(tapID(0), whole+1)); len(f) != 1 || f[0].Path != tapID(0) {
		t.Errorf("%v", f)
	}
}

// The ends of a doublet may hang at different heights: each leg is as long as typed and ends where it was typed.
func TestADoubletsEndsHangAtTheirOwnHeights(t *testing.T) {
	p := wish(t, "doublet", "flat", map[string]string{"for": "7.1", "radiator": "10 m", "leg_b": "10 m", "feed_height": "8 m",
		"far_height": "5 m", "far_height_2": "2.5 m"})
	if antenna.HasError(p.Faults) {
		t.Fatal(p.Faults)
	}
	var ends []float64
	for _, l := range p.Drawing.Lines {
		if l.Role == "radiator" {
			ends = append(ends, l.To[2])
			if math.Abs(l.Length()-10) > 1e-6 {
				t.Errorf("a leg is %.3f m long", l.Length())
			}
		}
	}
	if len(ends) != 2 || math.Abs(ends[0]-5) > 1e-6 || math.Abs(ends[1]-2.5) > 1e-6 {
		t.Errorf("ends at %v", ends)
	}
	short := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "doublet", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "28.4", "radiator": "2 m", "leg_b": "2 m", "feed_height": "8 m",
			"far_height_2": "1 m"}}})
	if !strings.Contains(faultTexts(short.Faults), "reach") {
		t.Errorf("a leg of 2 m from 8 m down to 1 m: %v", short.Faults)
	}
}

// Every place of a J stands on one tape, and its two figures add up to the whole.
func TestAJIsMeasuredAlongOneTape(t *testing.T) {
	for _, variant := range []string{"roll-up", "upright"} {
		p := wish(t, "j-pole", variant, map[string]string{"for": "28.4"})
		var table antenna.Table
		for _, x := range p.Tables {
			if x.Title == "Along one tape" {
				table = x
			}
		}
		last, whole := -1.0, 0.0
		for _, row := range table.Rows {
			a, err := quantity.Typed(row[1], "m")
			b, err2 := quantity.Typed(row[2], "m")
			if err != nil || err2 != nil {
				t.Fatal(row, err, err2)
			}
			if whole == 0 {
				whole = b.M
			}
			if a.M <= last || math.Abs(a.M+b.M-whole) > 0.011 {
				t.Errorf("%s: %v after %v, whole %v", variant, row, last, whole)
			}
			last = a.M
		}
		if len(table.Rows) < 4 {
			t.Errorf("%s: %+v", variant, table)
		}
	}
}
