// Package earth describes the ground under an antenna as an electrical medium.
package earth

import (
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// Ground is a kind of soil or water: relative permittivity and conductivity in S/m.
type Ground struct {
	ID           string  `json:"id"`
	Name         string  `json:"name"`
	Permittivity float64 `json:"permittivity"`
	Conductivity float64 `json:"conductivity"`
}

// Kinds lists the presets (typical values after ITU-R P.527).
func Kinds() []Ground {
	return []Ground{
		{"sea", "Salt water or wet salt sand", 80, 4},
		{"wet", "Wet soil, marsh", 30, 0.03},
		{"average", "Average soil, loam", 13, 0.005},
		{"dry-sand", "Dry sand", 4, 0.001},
		{"rock", "Bare rock", 6, 0.0005},
		{"city", "Built-up, paved", 5, 0.001},
	}
}

// Kind finds a preset by ID.
func Kind(id string) (Ground, bool) {
	for _, g := range Kinds() {
		if g.ID == id {
			return g, true
		}
	}
	return Ground{}, false
}

// Complex is the complex relative permittivity at f hertz, time factor exp(jwt).
func (g Ground) Complex(f float64) complex128 {
	return complex(g.Permittivity, -g.Conductivity/(2*math.Pi*f*numeric.Eps0))
}

// Admittivity is sigma + jwe of the soil in S/m at f hertz.
func (g Ground) Admittivity(f float64) complex128 {
	return complex(g.Conductivity, 2*math.Pi*f*numeric.Eps0*g.Permittivity)
}

// Normal is the plane-wave reflection coefficient of the electric field at normal incidence: -1 for a
// perfect conductor (definition).
func (g Ground) Normal(f float64) complex128 {
	n := cmplx.Sqrt(g.Complex(f))
	return (1 - n) / (1 + n)
}
