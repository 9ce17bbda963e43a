package circuit

import (
	"math"
	"math/cmplx"
	"math/rand/v2"
	"testing"

	"reed/core/numeric"
)

// nagaoka is the exact shape factor of a current sheet by complete elliptic integrals (Nagaoka 1909), by
// the arithmetic-geometric mean; independent of the fit that is used.
func nagaoka(d, l float64) float64 {
	k2 := d * d / (d*d + l*l)
	kc2 := 1 - k2
	a, g, sum, pow := 1.0, math.Sqrt(kc2), k2/2, 0.5
	for range 40 {
		c := (a - g) / 2
		a, g = (a+g)/2, math.Sqrt(a*g)
		pow *= 2
		sum += pow * c * c
	}
	bigK := math.Pi / 2 / a
	bigE := bigK * (1 - sum)
	k := math.Sqrt(k2)
	return 4 / (3 * math.Pi * math.Sqrt(kc2)) * (kc2/k2*(bigK-bigE) + bigE - k)
}

func TestSolenoidKnownAnswer(t *testing.T) {
	// Page of rules: 60 turns, 50 mm mean diameter, 100 mm long: 72.7 uH, K(0.5) = 0.8181 (Nagaoka 1909).
	near(t, "60 turns", Solenoid(60, 0.05, 0.1)*1e6, 72.7, 72.7*0.005)
	near(t, "K(0.5)", nagaoka(0.05, 0.1), 0.8181, 0.0001)
}

func TestSolenoidFollowsTheEllipticIntegrals(t *testing.T) {
	for _, shape := range []float64{0.02, 0.1, 0.5, 0.99, 1.01, 2, 5, 20, 80} {
		d, l := 0.05, 0.05/shape
		exact := numeric.Mu0 * 100 * math.Pi * d * d / 4 * nagaoka(d, l) / l
		near(t, "ratio to exact", Solenoid(10, d, l)/exact, 1, 2e-5)
	}
	long := Solenoid(1000, 0.01, 10) / (numeric.Mu0 * 1e6 * math.Pi * 0.01 * 0.01 / 4 / 10)
	near(t, "a long coil is mu0 N2 A/l", long, 1, 0.001)
	if Solenoid(0, 1, 1) != 0 || Solenoid(3, 0, 1) != 0 {
		t.Error("nothing wound has an inductance")
	}
}

func TestTurnsAndInductanceAreInverse(t *testing.T) {
	for _, c := range []Coil{{Former: 0.04, Wire: 0.001}, {Former: 0.025, Wire: 0.0006, Length: 0.05},
		{Former: 0.11, Wire: 0.0015, Pitch: 0.003}} {
		for _, uh := range []float64{1.5, 12, 80} {
			n, ok := c.TurnsFor(uh * 1e-6)
			c.Turns = n
			if !ok {
				t.Fatalf("no turns for %v uH on %+v", uh, c)
			}
			near(t, "inductance of the found turns", c.L()*1e6, uh, uh*1e-9)
		}
	}
	if _, ok := (Coil{Former: 0.001, Wire: 0.0005}).TurnsFor(1); ok {
		t.Error("one henry on a pencil lead")
	}
}

func TestCoilAsPortablePeopleWindIt(t *testing.T) {
	// 34 uH on 40 mm of pipe with 1 mm wire: first self-resonance of such coils lies at 13 to 25 MHz, Q at
	// 7 MHz of carefully wound ones between 200 and 500.
	c := Coil{Former: 0.04, Wire: 0.001, Pitch: 0.0013}
	c.Turns, _ = c.TurnsFor(34e-6)
	if f := c.SelfResonance(); f < 11e6 || f > 25e6 {
		t.Errorf("self-resonance at %v", f)
	}
	_, _, q, ok := c.At(7.1e6)
	if !ok || q < 150 || q > 500 {
		t.Errorf("Q %v", q)
	}
	if _, _, _, ok := c.At(c.SelfResonance() * 1.01); ok {
		t.Error("an inductor above its self-resonance")
	}
	near(t, "all turns tapped", c.Part(c.Turns), c.L(), 1e-12)
	if half := c.Part(c.Turns / 2); half < c.L()/4 || half > c.L()/2 {
		t.Errorf("half the turns have %v of %v", half, c.L())
	}
	near(t, "wire of a flat turn", Coil{Turns: 1, Former: 1, Wire: 1e-6, Length: 1e-9}.WireLength(), math.Pi, 1e-5)
	if !(Coil{Turns: 50, Former: 0.03, Wire: 0.001, Length: 0.04}).Crowded() {
		t.Error("50 turns of 1 mm on 40 mm fit")
	}
	wide, tight := Coil{Turns: 10, Former: 0.05, Wire: 0.001, Length: 0.1}, Coil{Turns: 10, Former: 0.05, Wire: 0.001, Length: 0.011}
	if wide.Crowding() > 1.1 || tight.Crowding() < 2 {
		t.Errorf("crowding: spaced %v, tight %v", wide.Crowding(), tight.Crowding())
	}
}

func TestSkinEffectLimits(t *testing.T) {
	near(t, "depth in copper at 10 MHz, mm", SkinDepth(10e6, CopperResistivity)*1e3, 0.0209, 0.0002)
	near(t, "direct current", SkinResistance(1, 1, 0.0005, CopperResistivity), CopperResistivity/(math.Pi*0.0005*0.0005), 1e-9)
	r1, r4 := SkinResistance(5e6, 1, 0.002, CopperResistivity), SkinResistance(20e6, 1, 0.002, CopperResistivity)
	near(t, "four times the frequency doubles it", r4/r1, 2, 0.02)
}

func TestTransformerLimits(t *testing.T) {
	core, ok := CoreNamed("nizn850-36")
	if !ok {
		t.Fatal("no core")
	}
	tr := Transformer{Core: core, Primary: 2, Secondary: 14}
	near(t, "2:14", tr.Ratio(), 49, 1e-12)
	tuned := tr
	tuned.Compensated = true
	near(t, "tuned out it is its ratio", cmplx.Abs(tuned.Input(7e6, 2450)-50), 0, 1e-9)
	near(t, "and loses as much", tuned.Loss(7e6, 2450), tr.Loss(7e6, 2450), 1e-12)
	ideal := tr
	ideal.Core.Mu, ideal.Core.Relax, ideal.Core.Points = 1e9, 1e15, nil
	near(t, "an ideal one divides by 49", cmplx.Abs(ideal.Input(7e6, 2450)), 50, 0.01)
	near(t, "and loses nothing", ideal.Loss(7e6, 2450), 0, 1e-6)
	// Power by hand: the share in the core is that of the conductances.
	y := 1 / tr.Magnetising(7e6)
	near(t, "loss", tr.Loss(7e6, 2450), 10*math.Log10((real(y)+1/50.0)*50), 1e-9)
	if l := tr.Loss(7e6, 2450); l < 0.1 || l > 2 {
		t.Errorf("2:14 on a 36 mm ring loses %v dB at 7 MHz; those that are measured lose a few tenths to one and a half", l)
	}
	if !tr.MagnetisingTooLow(1.8e6, 50) {
		t.Error("two turns on mu 850 are enough for 160 m")
	}
	three := Transformer{Core: core, Primary: 3, Secondary: 21}
	if r := cmplx.Abs(three.Magnetising(3e6)) / cmplx.Abs(tr.Magnetising(3e6)); math.Abs(r-2.25) > 1e-9 {
		t.Errorf("three turns have %v times the impedance of two", r)
	}
	stacked := tr
	stacked.Stack = 2
	if stacked.Loss(7e6, 2450) >= tr.Loss(7e6, 2450) {
		t.Error("a second core makes it worse")
	}
	w, b, k := tr.Heating(7e6, 2450, 100, 0.5)
	w2, b2, _ := tr.Heating(7e6, 2450, 25, 0.5)
	near(t, "watts with power", w/w2, 4, 1e-9)
	near(t, "flux with the root of power", b/b2, 2, 1e-9)
	if w <= 0 || w >= 50 || k <= 0 {
		t.Errorf("100 W at half duty: %v W, %v K", w, k)
	}
	leaky := tr
	leaky.Leakage = 0.2e-6
	if imag(leaky.Input(28e6, 2450)) <= imag(tr.Input(28e6, 2450)) {
		t.Error("leakage adds no inductance")
	}
	leaky.Across = 100e-12
	if leaky.Input(28e6, 2450) == tr.Input(28e6, 2450) {
		t.Error("the capacitor does nothing")
	}
}

func TestMeasuredPermeabilityIsReadBetweenItsPoints(t *testing.T) {
	c := Core{Points: []MuPoint{{1e6, 800, 20}, {10e6, 400, 300}}}
	for f, want := range map[float64]complex128{1e5: complex(800, -20), 1e6: complex(800, -20), math.Sqrt(10) * 1e6: complex(600, -160),
		10e6: complex(400, -300), 50e6: complex(400, -300)} {
		if got := c.MuAt(f); cmplx.Abs(got-want) > 1e-6 {
			t.Errorf("at %v: %v, want %v", f, got, want)
		}
	}
	d := Core{Mu: 850, Relax: 5.5e6}
	if m := d.MuAt(1e3); math.Abs(real(m)-850) > 0.01 {
		t.Errorf("slow field: %v", m)
	}
	if m := d.MuAt(5.5e6); math.Abs(real(m)-1+imag(m)) > 1e-6 {
		t.Errorf("at relaxation the loss is not as large as the storage: %v", m)
	}
}

func TestTunerSettingsMatchWhenPutBackIntoTheNetwork(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	reached := map[string]int{}
	for _, kind := range []string{"L", "T", "pi"} {
		u := Unit{Kind: kind, LMin: 0.05e-6, LMax: 25e-6, CMin: 10e-12, CMax: 1500e-12, QL: 150, QC: 1000}
		for range 300 {
			z := complex(math.Exp(1+6*rng.Float64()), 2000*(rng.Float64()-0.5))
			f := 3.5e6 + rng.Float64()*25e6
			s, ok, why := u.Match(z, f)
			if !ok {
				if why == "" || s.SWR < 1 {
					t.Fatalf("%s %v at %v: not reached without a reason, %+v", kind, z, f, s)
				}
				continue
			}
			reached[kind]++
			if s.Loss < 0 || s.SWR > 1.3 || s.L < u.LMin*0.99 || s.L > u.LMax*1.01 {
				t.Fatalf("%s %v: %+v", kind, z, s)
			}
			// Independent: with perfect parts of the same size the match is exact.
			perfect := u
			perfect.QL, perfect.QC = 1e12, 1e12
			if p := perfect.settle(z, f, s.L, s.C1, s.C2); p.SWR > 1.0001 || p.Loss > 1e-6 {
				t.Fatalf("%s %v at %v: lossless parts give %+v", kind, z, f, p)
			}
		}
	}
	for _, kind := range []string{"L", "T", "pi"} {
		if reached[kind] < 60 {
			t.Errorf("%s reached only %d of 300", kind, reached[kind])
		}
	}
}

func TestTunerKnownAnswerAndRefusals(t *testing.T) {
	// 200 ohm to 50 by an L: X_L = sqrt(50(200-50)) = 86.6 ohm, X_C = 200*50/86.6 = 115.5 ohm.
	u := Unit{Kind: "L", LMax: 30e-6, CMin: 5e-12, CMax: 2000e-12, QL: 1e9, QC: 1e9}
	s, ok, _ := u.Match(200, 10e6)
	if !ok {
		t.Fatal("200 ohm was not matched")
	}
	near(t, "L in uH", s.L*1e6, 86.6025/(2*math.Pi*10), 0.001)
	near(t, "C in pF", s.C2*1e12, 1e6/(2*math.Pi*10*115.47), 0.2)
	lossy := u
	lossy.QL = 20
	if l, _, _ := lossy.Match(200, 10e6); math.Abs(l.Loss-10*math.Log10(1+math.Sqrt(3)/20)) > 0.05 {
		t.Errorf("loss with a poor coil %v dB; the loaded Q is sqrt(200/50-1)", l.Loss)
	}
	small := Unit{Kind: "L", LMax: 1e-6, CMin: 5e-12, CMax: 100e-12, QL: 100, QC: 1000}
	if s, ok, why := small.Match(3000, 3.6e6); ok || why == "" || s.SWR < 1.3 {
		t.Errorf("a small unit matched 3000 ohm on 80 m: %+v %q", s, why)
	}
	if s, ok, _ := u.Match(50, 7e6); !ok || s.Loss != 0 || s.L != 0 {
		t.Errorf("50 ohm: %+v", s)
	}
	if _, ok, _ := u.Match(complex(0, 50), 7e6); ok {
		t.Error("a pure reactance was matched")
	}
	if _, ok, why := (Unit{Kind: "ring"}).Match(500, 7e6); ok || why == "" {
		t.Error("an unknown network was used")
	}
}

func TestOpenLineKnownAnswers(t *testing.T) {
	l, ok := OpenLine("window-450")
	if !ok {
		t.Fatal("no window line")
	}
	l.K1, l.K2 = 0, 0
	quarter := l.VF * 299792458 / 14e6 / 4
	z, through := l.InputZ(50, 14e6, quarter)
	near(t, "a quarter-wave turns 50 into 450^2/50", real(z), 4050, 0.01)
	near(t, "and loses nothing", through, 1, 1e-9)
	z, _ = l.InputZ(complex(72, 40), 14e6, 2*quarter)
	if cmplx.Abs(z-complex(72, 40)) > 1e-6 {
		t.Errorf("half a wave gives %v", z)
	}
	if _, ok := OpenLine("hose"); ok {
		t.Error("an unknown line was found")
	}
	own := FromTwo("own", 75, 0.7, 5, 17, 30)
	near(t, "own cable at 10 MHz", own.MatchedLoss(10e6, 100), 5, 1e-9)
	if own.Z0 != 75 {
		t.Errorf("own cable of %v ohm", own.Z0)
	}
}

func TestBudgetAddsUp(t *testing.T) {
	b := Budget(10, []Stage{{Name: "tuner", DB: 1}, {Name: "coax", DB: 2}, {Name: "none", DB: 0}})
	near(t, "watts left", b[2].Watts, 10*math.Pow(10, -0.3), 1e-9)
	near(t, "watts after the first", b[0].Watts, 7.943, 0.001)
	near(t, "whole", SumDB(b), 3, 1e-12)
}

func BenchmarkTunerMatch(b *testing.B) {
	u := Unit{Kind: "T", LMin: 0.1e-6, LMax: 25e-6, CMin: 15e-12, CMax: 250e-12, QL: 150, QC: 1000}
	for b.Loop() {
		u.Match(complex(480, -900), 7.1e6)
	}
}

// Inside a wire the field has its own share: at low frequencies the textbook's mu0/8pi henries a metre, under a thin skin
// as many ohms of reactance as of resistance, and between them what the series of the Bessel functions gives.
func TestInternalImpedanceOfAWire(t *testing.T) {
	const a = 0.0008
	low := InternalImpedance(50, a, CopperResistivity)
	near(t, "resistance at 50 Hz", real(low), CopperResistivity/(math.Pi*a*a), 1e-3)
	near(t, "inductance at 50 Hz", imag(low)/(2*math.Pi*50), numeric.Mu0/(8*math.Pi), 1e-3)
	for _, f := range []float64{3.6e6, 14e6, 50e6} {
		z, depth := InternalImpedance(f, a, CopperResistivity), SkinDepth(f, CopperResistivity)
		near(t, "under a thin skin", imag(z), CopperResistivity/(2*math.Pi*a*depth), 0.01)
		if r := real(z) / imag(z); r < 1 || r > 1.05 {
			t.Errorf("at %g MHz R/X is %.4f", f/1e6, r)
		}
	}
	for _, f := range []float64{3e3, 2e4, 1.5e5} {
		z := complex(1, -1) * complex(a/SkinDepth(f, CopperResistivity), 0)
		j0, j1, term := complex128(0), complex128(0), complex128(1)
		for m := range 60 {
			j0 += term
			j1 += term * z / complex(2*float64(m+1), 0)
			term *= -z * z / complex(4*float64(m+1)*float64(m+1), 0)
		}
		want := z / complex(a, 0) * complex(CopperResistivity/(2*math.Pi*a), 0) * j0 / j1
		if got := InternalImpedance(f, a, CopperResistivity); cmplx.Abs(got/want-1) > 1e-9 {
			t.Errorf("at %g kHz %v, by series %v", f/1e3, got, want)
		}
	}
	// Where the formula changes there is no step.
	edge := CopperResistivity / (math.Pi * numeric.Mu0) * (40 / a) * (40 / a)
	if below, above := InternalImpedance(edge*0.9999, a, CopperResistivity), InternalImpedance(edge*1.0001, a, CopperResistivity); cmplx.Abs(
		above/below-1) > 2e-4 {
		t.Errorf("%v below and %v above", below, above)
	}
}

// The typical materials behave as their kind does: a storage that falls and a loss that rises to about the same and falls
// with it, whole transformers a few tenths of a decibel to a decibel and a half on the bands they are used on.
func TestTypicalFerritesLoseWhatIsMeasured(t *testing.T) {
	for _, c := range Cores() {
		if len(c.Points) == 0 {
			continue
		}
		near(t, c.Name+" at low frequency", real(c.MuAt(1e6)), c.Mu, 0.05*c.Mu)
		for f := 1e6; f < 60e6; f *= 1.1 {
			mu := c.MuAt(f)
			if real(mu) < 20 || -imag(mu) <= 0 || -imag(mu) > 1.5*real(mu) {
				t.Errorf("%s at %.1f MHz: %v", c.Name, f/1e6, mu)
			}
		}
	}
	core, _ := CoreNamed("nizn850-36")
	for turns, f := range map[[2]float64]float64{{2, 14}: 10.1e6, {3, 21}: 7.1e6, {3, 24}: 5.36e6} {
		tr := Transformer{Core: core, Primary: turns[0], Secondary: turns[1]}
		if l := tr.Loss(f, complex(50*tr.Ratio(), 0)); l < 0.2 || l > 1.2 {
			t.Errorf("%v on %s loses %.2f dB at %.1f MHz", turns, core.Name, l, f/1e6)
		}
	}
}
