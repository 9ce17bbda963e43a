package twin

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/moment"
	"reed/core/numeric"
)

// wound is a helix with every turn as a polygon of sixteen sides, from the ground up.
func wound(turns, length, d float64, w antenna.Wire) moment.Model {
	const sides = 16
	m := moment.Model{Ground: moment.Perfect, Sources: []moment.Source{{Volts: 1}}, Density: 20}
	r := d / 2 * math.Sqrt(math.Pi/(sides/2*math.Sin(2*math.Pi/sides))) // of the circle's area
	at := moment.Vec{}
	for i := range int(turns*sides) + 1 {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / sides)
		next := moment.Vec{r * cos, r * sin, 0.02 + (length-0.02)*float64(i)/(turns*sides)}
		m.Wires = append(m.Wires, moment.Wire{From: at, To: next, Radius: w.Radius})
		at = next
	}
	return m
}

func TestAHelixAsARodIsTheWindingItself(t *testing.T) {
	w, _ := antenna.WireNamed("bare")
	for _, c := range []struct{ turns, length, d, f float64 }{{20, 2, 0.08, 14e6}, {12, 3, 0.12, 10e6}, {25, 1.5, 0.06, 18e6}} {
		z := func(m moment.Model) float64 {
			x, err := moment.Solve(t.Context(), m, c.f)
			if err != nil {
				t.Fatal(err)
			}
			return imag(x.Z)
		}
		rod := func(turns float64) float64 {
			radius, henries := family.HelixRod(turns/c.length, c.d, w)
			return z(moment.Model{Ground: moment.Perfect, Sources: []moment.Source{{Volts: 1}}, Density: 40,
				Wires: []moment.Wire{{To: moment.Vec{0, 0, c.length}, Radius: radius, Inductance: henries}}})
		}
		truth := z(wound(c.turns, c.length, c.d, w))
		turns, ok := numeric.Bisect(func(n float64) float64 { return rod(n) - truth }, c.turns*0.7, c.turns*1.3, 0)
		if !ok || math.Abs(turns/c.turns-1) > 0.035 {
			t.Errorf("%v: %.1f ohm wound, as much as a rod of %.2f turns", c, truth, turns)
		}
	}
}

// ringOf is a loop of 24 sides in free space, fed opposite a capacitor.
func ringOf(around, tube, farads float64) moment.Model {
	const n = 24
	m := moment.Model{Ground: moment.Free, Sources: []moment.Source{{Volts: 1}}, Density: 40}
	r := around / n / (2 * math.Sin(math.Pi/n))
	at := func(i int) moment.Vec {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / n)
		return moment.Vec{r * cos, r * sin, 0}
	}
	for i := range n {
		m.Wires = append(m.Wires, moment.Wire{From: at(i), To: at(i + 1), Radius: tube})
	}
	m.Loads = []moment.Load{{Spot: moment.Spot{Wire: n / 2}, C: farads}}
	return m
}

func TestALoopAsALineIsTheRingItself(t *testing.T) {
	for _, c := range []struct{ around, tube, f float64 }{{4, 0.006, 10e6}, {4, 0.006, 18e6}, {3, 0.004, 28e6}} {
		l := family.Ring{Around: c.around, Tube: c.tube}
		z := func(farads float64) complex128 {
			x, err := moment.Solve(t.Context(), ringOf(c.around, c.tube, farads), c.f)
			if err != nil {
				t.Fatal(err)
			}
			return x.Z
		}
		form := l.Capacitance(c.f)
		solved, ok := numeric.Bisect(func(farads float64) float64 { return imag(z(farads)) }, form*0.7, form*1.4, 0)
		if !ok || math.Abs(solved/form-1) > 0.03 {
			t.Errorf("%v: %.2f pF by the line, %.2f solved", c, form*1e12, solved*1e12)
		}
		if r := real(z(solved)); math.Abs(r/l.Radiation(c.f)-1) > 0.05 {
			t.Errorf("%v: %.4f ohm by the form, %.4f solved", c, l.Radiation(c.f), r)
		}
	}
}
