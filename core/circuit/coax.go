package circuit

import (
	"fmt"
	"math"
	"math/cmplx"
	"sort"

	"reed/core/numeric"
)

// Coax is a cable type as data: matched loss K1*sqrt(f)+K2*f in dB per 100 m with f in MHz.
type Coax struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Z0     float64 `json:"z0"`
	VF     float64 `json:"vf"`
	K1     float64 `json:"k1"`
	K2     float64 `json:"k2"`
	Grams  float64 `json:"grams_per_m"`
	Source string  `json:"source"`
}

// fromTwo makes a Coax from its loss in dB per 100 m at 10 and at 100 MHz.
func fromTwo(id string, vf, at10, at100, grams float64) Coax {
	// at10 = k1*sqrt(10)+k2*10, at100 = k1*10+k2*100
	k2 := (at100 - at10*math.Sqrt(10)) / (100 - 10*math.Sqrt(10))
	return Coax{ID: id, Name: id, Z0: 50, VF: vf, K1: (at10 - 10*k2) / math.Sqrt(10), K2: k2, Grams: grams,
		Source: fmt.Sprintf("typical: %.4g dB at 10 MHz and %.4g dB at 100 MHz per 100 m", at10, at100)}
}

// Cables lists the common 50 ohm types with typical data, by name.
func Cables() []Coax {
	c := []Coax{
		fromTwo("RG-174", 0.66, 10.8, 28, 12), fromTwo("RG-316", 0.695, 9, 28, 18), fromTwo("RG-58", 0.66, 4.6, 16, 37),
		fromTwo("RG-8X", 0.8, 3.3, 12, 52), fromTwo("RG-213", 0.66, 2, 7, 150),
	}
	sort.Slice(c, func(i, j int) bool { return c[i].ID < c[j].ID })
	return c
}

// Cable finds a type by its ID.
func Cable(id string) (Coax, bool) {
	for _, c := range Cables() {
		if c.ID == id {
			return c, true
		}
	}
	return Coax{}, false
}

// MatchedLoss is the loss in dB of length metres at f hertz with a matched load.
func (c Coax) MatchedLoss(f, length float64) float64 {
	mhz := f / 1e6
	return math.Max(0, c.K1*math.Sqrt(mhz)+c.K2*mhz) * length / 100
}

// TotalLoss is the exact loss in dB of a line with the given matched loss (dB) and SWR at its load: the
// power into the line over the power out of it, for a line with real characteristic impedance.
// Known answer: 1 dB matched, SWR 3 gives 1.50 dB.
func TotalLoss(matched, loadSWR float64) float64 {
	a := math.Pow(10, matched/10)
	g2 := math.Pow(Magnitude(loadSWR), 2)
	return 10 * math.Log10((a*a-g2)/(a*(1-g2)))
}

// SWRAtInput is the SWR seen into a line with matched loss (dB) from the SWR at its load.
func SWRAtInput(matched, loadSWR float64) float64 {
	return SWR(Magnitude(loadSWR) * math.Pow(10, -matched/10))
}

// SWRAtLoad is the inverse of SWRAtInput. ok is false when no passive load gives that reading, which
// says that the cable data or the reading is off; the answer is then MaxSWR.
func SWRAtLoad(matched, inputSWR float64) (swr float64, ok bool) {
	g := Magnitude(inputSWR) * math.Pow(10, matched/10)
	return SWR(g), g < 1
}

// OpenLines lists balanced lines with typical data, by impedance.
func OpenLines() []Coax {
	line := func(id, name string, z0, vf, at10, at100, grams float64) Coax {
		c := fromTwo(id, vf, at10, at100, grams)
		c.Name, c.Z0 = name, z0
		return c
	}
	return []Coax{
		line("pvc-twin", "PVC twin flex, 2 x 0.5 mm2", 110, 0.68, 6.5, 36, 24),
		line("twin-300", "twin lead 300 ohm", 300, 0.82, 0.7, 2.8, 20),
		line("window-450", "window line 450 ohm", 450, 0.91, 0.25, 1.1, 34),
		line("ladder-600", "open ladder 600 ohm", 600, 0.95, 0.13, 0.46, 40),
	}
}

// OpenLine finds a balanced line by its ID.
func OpenLine(id string) (Coax, bool) {
	for _, c := range OpenLines() {
		if c.ID == id {
			return c, true
		}
	}
	return Coax{}, false
}

// FromTwo makes a line from its loss in dB per 100 m at 10 and at 100 MHz, as data sheets give it.
func FromTwo(id string, z0, vf, at10, at100, grams float64) Coax {
	c := fromTwo(id, vf, at10, at100, grams)
	c.Z0 = z0
	return c
}

// InputZ is the impedance in ohms into length metres of the line with a load at its end, and Through the
// share of the power going in that reaches that load.
func (c Coax) InputZ(load complex128, f, length float64) (z complex128, through float64) {
	g := Gamma(load, c.Z0)
	z = Impedance(c.AtInput(g, f, length), c.Z0)
	return z, math.Pow(10, -TotalLoss(c.MatchedLoss(f, length), SWR(cmplx.Abs(g)))/10)
}

// turn is the round-trip factor of the reflection coefficient along length metres at f.
func (c Coax) turn(f, length float64) complex128 {
	mag := math.Pow(10, -c.MatchedLoss(f, length)/10)
	return cmplx.Rect(mag, -4*math.Pi*f*length/(c.VF*numeric.Light))
}

// AtInput carries a reflection coefficient (against the cable's Z0) from the load to the input.
func (c Coax) AtInput(gammaLoad complex128, f, length float64) complex128 {
	return gammaLoad * c.turn(f, length)
}

// AtLoad carries a reflection coefficient (against the cable's Z0) from the input to the load.
func (c Coax) AtLoad(gammaIn complex128, f, length float64) complex128 {
	return gammaIn / c.turn(f, length)
}
