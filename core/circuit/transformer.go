package circuit

import (
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// MuPoint is a core material's complex permeability mu' - j mu” at one frequency in hertz.
type MuPoint struct {
	F    float64 `json:"hz"`
	Real float64 `json:"real"`
	Imag float64 `json:"imag"`
}

// Core is a ring as data: initial relative permeability, the frequency in hertz at which it relaxes,
// section in m2, magnetic path in m, surface in m2. Points, when given, replace the one-pole picture.
type Core struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Mu      float64   `json:"mu"`
	Relax   float64   `json:"relax_hz"`
	Area    float64   `json:"area_m2"`
	Path    float64   `json:"path_m"`
	Surface float64   `json:"surface_m2"`
	Points  []MuPoint `json:"points,omitempty"`
}

// Ring makes a core from outer and inner diameter and height in metres.
func Ring(id, name string, mu, relax, outer, inner, height float64) Core {
	return Core{ID: id, Name: name, Mu: mu, Relax: relax, Area: (outer - inner) / 2 * height, Path: math.Pi * (outer + inner) / 2,
		Surface: math.Pi*(outer+inner)*height + math.Pi*(outer*outer-inner*inner)/2}
}

// typical is the permeability of NiZn ferrite by its initial one: values as such material commonly has, a fifth more or
// less, of no particular maker. One relaxation alone would give half as much loss again at 7 MHz.
var typical = map[float64][]MuPoint{
	850: {{1e6, 830, 45}, {2e6, 780, 110}, {3.5e6, 660, 190}, {5e6, 550, 220}, {7e6, 450, 225}, {10e6, 350, 215}, {14e6, 275, 200},
		{21e6, 200, 170}, {30e6, 155, 150}, {50e6, 100, 115}, {60e6, 85, 105}},
	250: {{1e6, 250, 2}, {5e6, 255, 6}, {10e6, 260, 25}, {14e6, 245, 60}, {20e6, 205, 100}, {30e6, 145, 120}, {50e6, 85, 110},
		{60e6, 70, 100}},
	125: {{1e6, 125, 0.6}, {5e6, 126, 1.2}, {10e6, 128, 3}, {20e6, 135, 14}, {30e6, 130, 38}, {50e6, 95, 65}, {60e6, 80, 68}},
}

// of gives a ring the typical permeability of its material.
func withTypical(c Core) Core { c.Points = typical[c.Mu]; return c }

// Cores lists typical rings by data. The relaxation follows mu times f constant, about 5 GHz for NiZn
// ferrite (Snoek 1948), 2 GHz for MnZn; where the material's own points are known they take its place.
func Cores() []Core {
	return []Core{
		withTypical(Ring("nizn850-36", "NiZn ring 36 mm, mu 850", 850, 5.5e6, 0.0355, 0.0230, 0.0127)),
		withTypical(Ring("nizn850-61", "NiZn ring 61 mm, mu 850", 850, 5.5e6, 0.0610, 0.0356, 0.0127)),
		withTypical(Ring("nizn850-23", "NiZn ring 23 mm, mu 850", 850, 5.5e6, 0.0229, 0.0137, 0.0074)),
		withTypical(Ring("nizn250-36", "NiZn ring 36 mm, mu 250", 250, 19e6, 0.0355, 0.0230, 0.0127)),
		withTypical(Ring("nizn125-36", "NiZn ring 36 mm, mu 125", 125, 45e6, 0.0355, 0.0230, 0.0127)),
		Ring("mnzn2500-36", "MnZn ring 36 mm, mu 2500", 2500, 0.8e6, 0.0355, 0.0230, 0.0127),
	}
}

// CoreNamed finds a typical ring by its ID.
func CoreNamed(id string) (Core, bool) {
	for _, c := range Cores() {
		if c.ID == id {
			return c, true
		}
	}
	return Core{}, false
}

// MuAt is the relative permeability mu' - j mu” at f hertz: between measured points linearly over the
// logarithm of frequency, otherwise 1 + (mu-1)/(1 + j f/relax) (Debye).
func (c Core) MuAt(f float64) complex128 {
	if n := len(c.Points); n > 0 {
		if f <= c.Points[0].F {
			return complex(c.Points[0].Real, -c.Points[0].Imag)
		}
		for i := 1; i < n; i++ {
			if p, q := c.Points[i-1], c.Points[i]; f <= q.F {
				t := math.Log(f/p.F) / math.Log(q.F/p.F)
				return complex(p.Real+t*(q.Real-p.Real), -p.Imag-t*(q.Imag-p.Imag))
			}
		}
		return complex(c.Points[n-1].Real, -c.Points[n-1].Imag)
	}
	return 1 + complex(c.Mu-1, 0)/complex(1, f/c.Relax)
}

// Transformer is a winding on a core. Leakage is the inductance in henries in series on the primary,
// Across a capacitor in farads over the primary. Stack is how many cores lie on each other, 0 meaning 1.
type Transformer struct {
	Core               Core
	Stack              int
	Primary, Secondary float64
	Leakage, Across    float64
	// Compensated says that what the core takes is tuned out of the impedance, as its builder does: its loss stays.
	Compensated bool
}

// Ratio is the impedance ratio secondary to primary.
func (t Transformer) Ratio() float64 { return math.Pow(t.Secondary/t.Primary, 2) }

func (t Transformer) stack() float64 { return math.Max(1, float64(t.Stack)) }

// Magnetising is the impedance in ohms of the primary with nothing on the secondary:
// j omega mu0 mu N^2 A/l, loss included.
func (t Transformer) Magnetising(f float64) complex128 {
	return complex(0, 2*math.Pi*f*numeric.Mu0*t.Primary*t.Primary*t.Core.Area*t.stack()/t.Core.Path) * t.Core.MuAt(f)
}

// Input is the impedance in ohms into the primary with a load on the secondary.
func (t Transformer) Input(f float64, load complex128) complex128 {
	core := 1 / t.Magnetising(f)
	if t.Compensated {
		core = 0
	}
	z := 1/(core+complex(t.Ratio(), 0)/load) + complex(0, 2*math.Pi*f*t.Leakage)
	if t.Across > 0 {
		z = 1 / (1/z + complex(0, 2*math.Pi*f*t.Across))
	}
	return z
}

// Loss is the part in dB of the power going in that heats the core, with a load on the secondary.
func (t Transformer) Loss(f float64, load complex128) float64 {
	core, out := real(1/t.Magnetising(f)), real(complex(t.Ratio(), 0)/load)
	if out <= 0 {
		return math.Inf(1)
	}
	return 10 * math.Log10((core+out)/out)
}

// Heating returns the core's load at a power in watts going in, averaged by a duty from 0 to 1: the watts
// in it, the peak flux density in tesla, and the rise in kelvin by the usual rule for still air
// (milliwatts per square centimetre to the power 0.833), whose error is a factor of 1.5.
func (t Transformer) Heating(f float64, load complex128, powerW, duty float64) (watts, tesla, kelvin float64) {
	lossy := math.Pow(10, -t.Loss(f, load)/10)
	watts = powerW * duty * (1 - lossy)
	y := 1/t.Magnetising(f) + complex(t.Ratio(), 0)/load
	v := math.Sqrt(2 * powerW / math.Max(real(y), 1e-12))
	tesla = v / (2 * math.Pi * f * t.Primary * t.Core.Area * t.stack())
	kelvin = math.Pow(watts*1000/(t.Core.Surface*t.stack()*1e4), 0.833)
	return watts, tesla, kelvin
}

// MagnetisingTooLow reports whether the primary has too few turns for f: its reactance is under four
// times the source, so that it shunts the load.
func (t Transformer) MagnetisingTooLow(f, source float64) bool {
	return cmplx.Abs(t.Magnetising(f)) < 4*source
}
