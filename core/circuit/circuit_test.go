package circuit

import (
	"math"
	"math/cmplx"
	"testing"
)

func near(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > tol {
		t.Errorf("%s = %v, want %v within %v", what, got, want, tol)
	}
}

func TestCableLossKnownAnswer(t *testing.T) {
	near(t, "1 dB matched with SWR 3", TotalLoss(1, 3), 1.50, 0.005)
	near(t, "matched load", TotalLoss(1, 1), 1, 1e-12)
	near(t, "no loss", TotalLoss(0, 5), 0, 1e-12)
}

func TestTotalLossAgreesWithPowerAlongTheLine(t *testing.T) {
	// Independent: power = V I* at both ends from the line's chain matrix with a complex propagation constant.
	for _, swr := range []float64{1.2, 3, 10} {
		for _, dB := range []float64{0.3, 2, 6} {
			alpha, theta := dB/20*math.Ln10, 1.1
			zl := complex(50*swr, 0)
			g := complex(alpha, theta)
			v1 := cmplx.Cosh(g)*zl + 50*cmplx.Sinh(g)
			i1 := cmplx.Sinh(g)*zl/50 + cmplx.Cosh(g)
			loss := 10 * math.Log10(real(v1*cmplx.Conj(i1))/real(zl))
			near(t, "total loss", TotalLoss(dB, swr), loss, 1e-9)
			near(t, "SWR at input", SWRAtInput(dB, swr), SWR(cmplx.Abs(Gamma(v1/i1, 50))), 1e-9)
		}
	}
}

func TestCableDataGoThroughTheirTwoPoints(t *testing.T) {
	want := map[string][2]float64{"RG-174": {10.8, 28}, "RG-316": {9, 28}, "RG-58": {4.6, 16}, "RG-8X": {3.3, 12}, "RG-213": {2, 7}}
	for _, c := range Cables() {
		near(t, c.ID+" at 10 MHz", c.MatchedLoss(10e6, 100), want[c.ID][0], 1e-9)
		near(t, c.ID+" at 100 MHz", c.MatchedLoss(100e6, 100), want[c.ID][1], 1e-9)
		prev := 0.0
		for f := 1.8e6; f < 60e6; f *= 1.3 {
			l := c.MatchedLoss(f, 15)
			if l <= prev {
				t.Errorf("%s: loss does not rise with frequency at %v", c.ID, f)
			}
			prev = l
		}
	}
	if _, ok := Cable("RG-0"); ok {
		t.Error("an unknown cable was found")
	}
}

func TestReferringThroughACableAndBackChangesNothing(t *testing.T) {
	c, _ := Cable("RG-58")
	g := Gamma(complex(31, -22), 50)
	in := c.AtInput(g, 14.1e6, 17.3)
	if back := c.AtLoad(in, 14.1e6, 17.3); cmplx.Abs(back-g) > 1e-12 {
		t.Errorf("%v came back as %v", g, back)
	}
	if cmplx.Abs(in) >= cmplx.Abs(g) {
		t.Error("a lossy cable has to flatter the SWR")
	}
	load := SWR(cmplx.Abs(g))
	swr, ok := SWRAtLoad(c.MatchedLoss(14.1e6, 17.3), SWR(cmplx.Abs(in)))
	near(t, "SWR carried by magnitude alone", swr, load, 1e-9)
	if _, impossible := SWRAtLoad(3, 9); !ok || impossible {
		t.Error("an SWR of 9 before 3 dB of cable is impossible")
	}
	half := c.VF * 299792458 / 14.1e6 / 2
	lossless := c
	lossless.K1, lossless.K2 = 0, 0
	if g2 := lossless.AtInput(g, 14.1e6, half); cmplx.Abs(g2-g) > 1e-9 {
		t.Error("half a wave of lossless line repeats its load")
	}
}

func TestReflectionDefinitions(t *testing.T) {
	z := complex(73.1, 42.5)
	if back := Impedance(Gamma(z, 50), 50); cmplx.Abs(back-z) > 1e-9 {
		t.Errorf("impedance came back as %v", back)
	}
	near(t, "SWR of 100 ohm", SWR(cmplx.Abs(Gamma(100, 50))), 2, 1e-12)
	near(t, "SWR of an open end", SWR(cmplx.Abs(Gamma(cmplx.Inf(), 50))), MaxSWR, 0)
	near(t, "return loss of SWR 2", ReturnLoss(Magnitude(2)), 9.542, 0.001)
	s := SeriesAt(7.1e6, 60, 12)
	near(t, "X at resonance", imag(s.Z(7.1e6)), 0, 1e-9)
	near(t, "Q", 2*math.Pi*7.1e6*s.L/s.R, 12, 1e-9)
}

// A shorted line shows +j Z0 tan(2 pi l / lambda), an open one -j Z0 over it (line theory): the sign says which way a
// coax turns a reading.
func TestALineTurnsTheRightWay(t *testing.T) {
	c := FromTwo("nearly lossless", 50, 0.66, 1e-4, 2e-4, 1)
	const f = 14e6
	wave := 299792458.0 / f * 0.66
	for eighths, want := range map[float64]complex128{1: complex(0, 50), 0.5: complex(0, 50*math.Tan(math.Pi/8)), 3: complex(0, -50)} {
		z, _ := c.InputZ(1e-6, f, eighths*wave/8)
		if cmplx.Abs(z-want) > 0.01*cmplx.Abs(want) {
			t.Errorf("%v eighths of a wave, shorted: %v, want %v", eighths, z, want)
		}
	}
	if z, _ := c.InputZ(1e9, f, wave/8); cmplx.Abs(z-complex(0, -50)) > 0.5 {
		t.Errorf("an eighth of a wave, open: %v", z)
	}
	back := c.AtLoad(c.AtInput(complex(0.3, 0.4), f, 3.7), f, 3.7)
	if cmplx.Abs(back-complex(0.3, 0.4)) > 1e-12 {
		t.Errorf("there and back: %v", back)
	}
}

// Of all settings that match, the one that is taken loses least: no other of a fine grid over the second capacitor that
// matches as well loses less.
func TestTheTunerTakesTheSettingThatLosesLeast(t *testing.T) {
	for _, kind := range []string{"T", "pi"} {
		u := Unit{Kind: kind, LMin: 0.05e-6, LMax: 25e-6, CMin: 15e-12, CMax: 500e-12, QL: 100, QC: 1000}
		for _, z := range []complex128{complex(12, -80), complex(200, 150), complex(25, 40), complex(600, -300)} {
			got, ok, why := u.Match(z, 7.1e6)
			if !ok {
				t.Logf("%s %v: %s", kind, z, why)
				continue
			}
			least := math.Inf(1)
			for i := range 60 {
				for j := range 60 {
					for k := range 60 {
						l := u.LMin * math.Pow(u.LMax/u.LMin, float64(i)/59)
						c1, c2 := u.CMin*math.Pow(u.CMax/u.CMin, float64(j)/59), u.CMin*math.Pow(u.CMax/u.CMin, float64(k)/59)
						if s := u.settle(z, 7.1e6, l, c1, c2); s.SWR < 1.3 {
							least = math.Min(least, s.Loss)
						}
					}
				}
			}
			if got.Loss > least*1.1+0.03 {
				t.Errorf("%s %v: %.3f dB, another setting %.3f dB", kind, z, got.Loss, least)
			}
		}
	}
}

func TestNoWindingHasNoInductance(t *testing.T) {
	for _, c := range [][3]float64{{-3, 0.02, 0.02}, {3, -0.02, 0.02}, {3, 0.02, -0.02}, {0, 1, 1}, {1, 0, 1}, {1, 1, 0}} {
		if l := Solenoid(c[0], c[1], c[2]); l != 0 {
			t.Errorf("%v: %v H", c, l)
		}
	}
}
