package sweep

import (
	"math"

	"reed/core/phrase"
)

// fewest is how many readings show a slope, most how many somebody takes off a radio's own meter: an analyser that
// writes nothing but SWR writes more, and can be swept wider.
const (
	fewest = 3
	most   = 24
)

// misread is by how much of itself an SWR read off a meter may be wrong: its scale is read to a tenth.
const misread = 0.06

// metered reports whether a curve is read off a radio's own meter.
func (c Curve) metered() bool { return c.s.Kind == Magnitude && len(c.s.F) <= most }

// beyond is where outside of the readings the dip may lie that they fall towards. A series resonance of 50 ohm by k, as
// sharp as q, has the SWR of k (1 + j q (f/f0 - f0/f)); every f0 counts for which some k and q are within what a meter
// shows. With none, or too few readings, the dip may be as near as the last of them.
func (c Curve) beyond(edge float64, down bool) phrase.Outside {
	out := phrase.Outside{Down: down, Near: edge, Far: edge}
	if len(c.s.F) < fewest {
		return out
	}
	seen := make([]float64, len(c.s.F))
	for i := range c.s.F {
		g := c.s.mag(i)
		seen[i] = math.Log((1 + g) / (1 - math.Min(g, 0.98)))
	}
	const steps, widest = 80, 0.12
	found := false
	for i := range steps + 1 {
		share := widest * float64(i) / steps
		f0 := edge * (1 + share)
		if down {
			f0 = edge * (1 - share)
		}
		if !c.resonatesAt(f0, seen) {
			continue
		}
		if !found {
			out.Near = f0
		}
		out.Far, found = f0, true
	}
	return out
}

// resonatesAt reports whether a resonance at f0 has the SWR that was read, whose logarithms are given.
func (c Curve) resonatesAt(f0 float64, seen []float64) bool {
	for k := 0.3; k < 3.4; k *= 1.09 {
		for q := 4.0; q < 220; q *= 1.12 {
			if c.within(f0, k, q, seen) {
				return true
			}
		}
	}
	return false
}

func (c Curve) within(f0, k, q float64, seen []float64) bool {
	for i, f := range c.s.F {
		z := complex(k, k*q*(f/f0-f0/f))
		num, den := z-1, z+1
		g := math.Sqrt((real(num)*real(num) + imag(num)*imag(num)) / (real(den)*real(den) + imag(den)*imag(den)))
		if math.Abs(math.Log((1+g)/(1-g))-seen[i]) > misread {
			return false
		}
	}
	return true
}
