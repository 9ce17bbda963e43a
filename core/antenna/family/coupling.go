package family

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mathext"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Coupling is the small loop that feeds a ring: an ellipse in its plane, opposite the capacitor and inside it. Across is its
// size along the ring and Tall that towards the middle, Wire its conductor's radius, Apart how far it stays from the ring's
// centre line, all in metres.
type Coupling struct{ Across, Tall, Wire, Apart float64 }

const (
	couplingWire  = 0.0015 // radius in metres of what coupling loops are bent from
	couplingApart = 0.01   // what jacket and ties keep between it and the ring's conductor
)

func askCoupling() []entry.Field {
	return []entry.Field{withHelp(askLength("coupling", "Coupling loop", 2), "across; squeezed for 50 ohm if left empty"),
		withHelp(askLength("coupling_tall", "its height", 2), "if it is squeezed flat or tall; round if left empty")}
}

// coupling is the recorded one, ok false when none is.
func coupling(s antenna.Shape) (c Coupling, ok bool) {
	across := s.M("coupling")
	if across <= 0 {
		return c, false
	}
	return Coupling{Across: across, Tall: antenna.Or(s.M("coupling_tall"), across), Wire: couplingWire,
		Apart: ring(s).Tube + couplingApart}, true
}

// Round is how long its conductor is in metres (Ramanujan 1914).
func (c Coupling) Round() float64 {
	a, b := c.Across/2, c.Tall/2
	return math.Pi * (3*(a+b) - math.Sqrt((3*a+b)*(a+3*b)))
}

// Own is its inductance in henries: mu0 P/2pi (ln(2P/a) - ln(P^2/A) + 0.079) of a loop of round P and area A, exact for a
// circle (Grover 1946).
func (c Coupling) Own() float64 {
	p := c.Round()
	area := math.Pi * c.Across * c.Tall / 4
	return numeric.Mu0 * p / (2 * math.Pi) * math.Max(math.Log(2*p/c.Wire)-math.Log(p*p/area)+0.079, 0.1)
}

// Mutual returns its mutual inductance with a ring in henries: the ring's vector potential, in complete elliptic integrals (Maxwell
// 1873), summed along it.
func (c Coupling) Mutual(around float64) float64 {
	radius := around / (2 * math.Pi)
	middle := radius - c.Apart - c.Tall/2 // from the ring's centre
	const n = 360
	flux := 0.0
	at := func(i int) (x, y float64) {
		a := 2 * math.Pi * float64(i) / n
		return c.Across / 2 * math.Cos(a), middle + c.Tall/2*math.Sin(a)
	}
	x, y := at(0)
	for i := 1; i <= n; i++ {
		nx, ny := at(i)
		mx, my := (x+nx)/2, (y+ny)/2
		if rho := math.Hypot(mx, my); rho > 0 {
			// Its potential runs round the centre: (-my, mx)/rho.
			flux += potential(radius, math.Min(rho, radius-c.Apart/2)) * (-my*(nx-x) + mx*(ny-y)) / rho
		}
		x, y = nx, ny
	}
	return math.Abs(flux)
}

// potential is the vector potential in Wb/m for one ampere in a ring, in its plane and so far from its centre.
func potential(radius, rho float64) float64 {
	m := 4 * radius * rho / math.Pow(radius+rho, 2)
	return numeric.Mu0 / math.Pi * math.Sqrt(radius/(rho*m)) * ((1-m/2)*mathext.CompleteK(m) - mathext.CompleteE(m))
}

// Transforms is the resistance in ohms that it shows of a ring of so many ohms at f hertz.
func (c Coupling) Transforms(around, f, ohms float64) float64 {
	return math.Pow(2*math.Pi*f*c.Mutual(around), 2) / ohms
}

// couplingFor is the round coupling loop that makes 50 ohm of a ring at f hertz.
func couplingFor(l Ring, f float64) Coupling {
	of := func(across float64) Coupling {
		return Coupling{across, across, couplingWire, l.Tube + couplingApart}
	}
	most := l.Around/math.Pi - 2*(l.Tube+couplingApart)
	across, _ := numeric.Bisect(func(v float64) float64 {
		return of(v).Transforms(l.Around, f, l.Radiation(f)+l.Loss(f)) - 50
	}, 0.01*most, 0.9*most, 1e-4)
	return of(across)
}

// couplingFigures say what coupling loop to bend, or what the one at hand does.
func couplingFigures(r antenna.Request, s antenna.Shape, l Ring) []phrase.Figure {
	all := s.All()
	if c, ok := coupling(s); ok {
		out := make([]phrase.Figure, 0, len(all))
		for _, f := range all {
			ohms := c.Transforms(l.Around, f, l.Radiation(f)+l.Loss(f))
			swr := antenna.SWR50(antenna.Link{Mutual: c.Mutual(l.Around), Own: c.Own()}.Seen(f, complex(l.Radiation(f)+l.Loss(f), 0),
				l.Radiation(f)+l.Loss(f)))
			says := "lowest SWR %.1f; squeeze it flatter for less, rounder for more"
			if ohms < 50 {
				says = "lowest SWR %.1f; a larger one, or one nearer to the tube, for more"
			}
			out = append(out, estimate("The radio sees on "+quantity.ToKHz(f)+" MHz", fmt.Sprintf("%.0f ohm", two(ohms)), fmt.Sprintf(says, swr)))
		}
		return out
	}
	high := couplingFor(l, all[0])
	out := []phrase.Figure{figure("Coupling loop", say(r, high.Across)+" across",
		fmt.Sprintf("round, for 50 ohm on %s MHz and %s from the tube; losses of ground and joints want a larger one, squeezing makes "+
			"it smaller", quantity.ToKHz(all[0]), fine(r, couplingApart)))}
	if low := couplingFor(l, all[len(all)-1]); len(all) > 1 {
		out = append(out, figure("On "+quantity.ToKHz(all[len(all)-1])+" MHz", say(r, low.Across)+" across", "squeeze it between the two"))
	}
	return out
}
