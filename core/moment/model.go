// Package moment solves thin straight wires by the method of moments: mixed-potential integral equation,
// rooftop currents, Galerkin testing (Harrington 1968; junctions after Chao and Strait 1971). Lengths in
// metres, z up, ground at z = 0, time factor exp(jwt), peak values.
package moment

import (
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/moment/earth"
	"reed/core/numeric"
)

// Vec is a place or a direction.
type Vec [3]float64

func (a Vec) add(b Vec) Vec           { return Vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a Vec) sub(b Vec) Vec           { return Vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a Vec) scale(s float64) Vec     { return Vec{a[0] * s, a[1] * s, a[2] * s} }
func (a Vec) dot(b Vec) float64       { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a Vec) length() float64         { return math.Sqrt(a.dot(a)) }
func (a Vec) to(b Vec, t float64) Vec { return a.add(b.sub(a).scale(t)) }
func (a Vec) mirrored() Vec           { return Vec{a[0], a[1], -a[2]} }

// Wire is a straight wire. Resistivity is that of its metal in ohm metres, 0 for a perfect conductor.
// Jacket, when its outer radius is larger than the wire's, slows the wave.
type Wire struct {
	From, To     Vec
	Radius       float64
	Resistivity  float64
	Inductance   float64 // further henries per metre, as of a helix
	Resistance   float64 // further ohms per metre
	Permittivity float64 // of the jacket, relative
	Outer        float64 // radius of the jacket
	// Round is how many equal wires stand all round the upright through About, this one among them, and share its current
	// alike; 0 and 1 are this one alone.
	Round int
	About Vec
}

// round is how many equal wires there are.
func (w Wire) round() int { return max(w.Round, 1) }

// Spot is a place on a wire: At from 0 at its beginning to 1 at its end.
type Spot struct {
	Wire int
	At   float64
}

// Source is a voltage in series with the wire, and with others that are fed beside it: Also.
type Source struct {
	Spot
	Volts complex128
	Also  []Spot
}

// Screen is how wires that end in a real ground are earthed: so many radials of a length (m) and wire
// radius (m) lying on it under a radiator of a height (m), and the resistance in ohms of a stake. With a
// screen the fields near the wires are those over perfect ground, and what the soil takes is its impedance
// (compensation theorem, see earth.Screen). Without one the wire's own field in the soil is solved, and the
// contact is a load of the model.
type Screen struct {
	Radials      int
	Length, Wire float64
	Height       float64
	Stake        float64
}

// Z is the screen's impedance in ohms at f hertz.
func (s Screen) Z(g earth.Ground, f float64) complex128 {
	return earth.Screen(g, f, s.Height, s.Radials, s.Length, s.Wire) + complex(s.Stake, 0)
}

// Load is a lumped impedance in series with the wire, in ohms, henries and farads; C of 0 is none.
type Load struct {
	Spot
	R, L, C float64
	Shunt   bool    // R, L and C side by side instead of one after the other
	Across  float64 // farads beside all of it, as between the turns of a coil
}

// Line is a transmission line between two places, in series with the wires there: characteristic impedance in
// ohms, velocity factor, length in metres and matched loss in dB over the whole. Crossed turns one end round.
type Line struct {
	A, B              Spot
	Z0, VF            float64
	Length, MatchedDB float64
	Crossed           bool
}

// ports are the line's own and transfer impedance at f hertz (line theory).
func (l Line) ports(f float64) (own, transfer complex128) {
	// A line without any loss has no impedance matrix where it is whole half-waves long.
	g := complex(math.Max(l.MatchedDB/8.685889638, 1e-6), 2*math.Pi*f*l.Length/(l.VF*numeric.Light))
	own, transfer = complex(l.Z0, 0)*cmplx.Cosh(g)/cmplx.Sinh(g), complex(l.Z0, 0)/cmplx.Sinh(g)
	if l.Crossed {
		transfer = -transfer
	}
	return own, transfer
}

// Z is the load's impedance at f hertz.
func (l Load) Z(f float64) complex128 {
	w := 2 * math.Pi * f
	z := l.own(w)
	if l.Across > 0 {
		z /= 1 + complex(0, w*l.Across)*z
	}
	return z
}

// own is the impedance without what lies across, at w radians a second.
func (l Load) own(w float64) complex128 {
	if l.Shunt {
		y := complex(0, w*l.C)
		if l.R > 0 {
			y += complex(1/l.R, 0)
		}
		if l.L > 0 {
			y += 1 / complex(0, w*l.L)
		}
		if y == 0 {
			return 0
		}
		return 1 / y
	}
	z := complex(l.R, w*l.L)
	if l.C > 0 {
		z += complex(0, -1/(w*l.C))
	}
	return z
}

// Grounds that are solved.
const (
	Free    = "free"
	Perfect = "perfect"
	Real    = "real"
)

// Model is the input of the solver. Density is the number of segments to a wavelength, 0 meaning 60; segments are
// made shorter towards ends, bends, sources and loads.
type Model struct {
	Wires   []Wire
	Sources []Source
	Loads   []Load
	Lines   []Line
	Ground  string
	Earth   earth.Ground  // when the ground is real
	Screen  *Screen       // of the earthed ends over a real ground
	Tables  *earth.Tables // of real grounds, kept from case to case; nil computes them for this one
	Density float64
}

// mirror reports whether there is an image below the ground.
func (m Model) mirror() bool { return m.Ground == Perfect || m.Ground == Real }

// WireError names the wire that cannot be solved, counted from 0, and says why.
type WireError struct {
	Wire int
	Why  string
}

func (e *WireError) Error() string { return fmt.Sprintf("wire %d: %s", e.Wire, e.Why) }

func wireError(i int, format string, args ...any) error {
	return &WireError{i, fmt.Sprintf(format, args...)}
}

// near is the distance in metres at which ends are one node.
const near = 1e-4

// Check says whether the model can be solved at f hertz: lengths, radii, sources and loads on wires, no
// wire below ground, no crossing without a common end.
func (m Model) Check(f float64) error {
	if !(f > 1e4 && f < 1e9) {
		return fmt.Errorf("%g Hz found; expected 10 kHz to 1 GHz", f)
	}
	if m.Ground != Free && !m.mirror() && m.Ground != "" {
		return fmt.Errorf("%q is not a ground that is solved here; expected free, perfect or real", m.Ground)
	}
	if m.Ground == Real && !(m.Earth.Permittivity >= 1 && m.Earth.Conductivity >= 0) {
		return fmt.Errorf("a ground of permittivity %g and conductivity %g S/m cannot be", m.Earth.Permittivity, m.Earth.Conductivity)
	}
	if len(m.Wires) == 0 {
		return fmt.Errorf("there is no wire")
	}
	if len(m.Sources) == 0 {
		return fmt.Errorf("there is no source")
	}
	for i, w := range m.Wires {
		if err := m.checkWire(i, w, f); err != nil {
			return err
		}
		for k := range i {
			if why := collide(m.Wires[k], w); why != "" {
				return wireError(i, "it %s wire %d", why, k)
			}
		}
	}
	for i, s := range m.Sources {
		for _, at := range append([]Spot{s.Spot}, s.Also...) {
			if at.Wire < 0 || at.Wire >= len(m.Wires) || !(at.At >= 0 && at.At <= 1) {
				return fmt.Errorf("source %d is on no wire", i)
			}
		}
	}
	for i, l := range m.Loads {
		if l.Wire < 0 || l.Wire >= len(m.Wires) || !(l.At >= 0 && l.At <= 1) {
			return fmt.Errorf("load %d is on no wire", i)
		}
		if !(l.R >= 0 && l.L >= 0 && l.C >= 0 && l.Across >= 0 && !cmplx.IsInf(l.Z(f)) && !cmplx.IsNaN(l.Z(f))) {
			return fmt.Errorf("load %d is negative or no number", i)
		}
	}
	for i, l := range m.Lines {
		for _, at := range []Spot{l.A, l.B} {
			if at.Wire < 0 || at.Wire >= len(m.Wires) || !(at.At >= 0 && at.At <= 1) {
				return fmt.Errorf("line %d ends on no wire", i)
			}
		}
		if !(l.Z0 > 0 && l.VF > 0 && l.VF <= 1 && l.Length > 0 && l.MatchedDB >= 0) {
			return fmt.Errorf("line %d of %g ohm, velocity factor %g and %g m cannot be", i, l.Z0, l.VF, l.Length)
		}
	}
	return nil
}

// checkWire says what of one wire cannot be solved.
func (m Model) checkWire(i int, w Wire, f float64) error {
	l := w.To.sub(w.From).length()
	switch {
	case math.IsNaN(l) || math.IsInf(l, 0) || l > 1e4:
		return wireError(i, "its ends are not points")
	case l < 2*near:
		return wireError(i, "it has no length")
	case !(w.Radius > 0):
		return wireError(i, "its radius is missing")
	case w.Radius > l/4:
		return wireError(i, "a radius of %.4g m is too large for a wire of %.4g m", w.Radius, l)
	case w.Radius > 0.01*numeric.Light/f:
		return wireError(i, "a radius of %.4g m is not thin against a wave of %.4g m", w.Radius, numeric.Light/f)
	case w.Resistivity < 0:
		return wireError(i, "its resistivity is negative")
	case w.Round < 0 || w.Round > 1000:
		return wireError(i, "%d of it cannot be", w.Round)
	case m.mirror() && (w.From[2] < -near || w.To[2] < -near):
		return wireError(i, "it goes below the ground")
	case m.mirror() && w.From[2] < near && w.To[2] < near:
		return wireError(i, "it lies in the ground")
	case m.mirror() && low(w) > near && low(w) < w.Radius:
		return wireError(i, "it dips into the ground: %.4g m up is less than its radius", low(w))
	}
	return nil
}

// low is the height of a wire's lower end.
func low(w Wire) float64 { return math.Min(w.From[2], w.To[2]) }

// collide says how two wires meet elsewhere than at a common end.
func collide(a, b Wire) string {
	u, v, w := a.To.sub(a.From), b.To.sub(b.From), a.From.sub(b.From)
	uu, uv, vv, uw, vw := u.dot(u), u.dot(v), v.dot(v), u.dot(w), v.dot(w)
	det := uu*vv - uv*uv
	touch := a.Radius + b.Radius
	ends := func(p, q Vec) bool { return p.sub(q).length() < near }
	joined := ends(a.From, b.From) || ends(a.From, b.To) || ends(a.To, b.From) || ends(a.To, b.To)
	if det < 1e-9*uu*vv { // parallel
		t0, t1 := -uw/uu, (-uw+uv)/uu
		lo, hi := math.Max(0, math.Min(t0, t1)), math.Min(1, math.Max(t0, t1))
		gap := w.add(u.scale(-uw / uu)).length()
		if gap < touch && (hi-lo)*math.Sqrt(uu) > touch && !(joined && (hi-lo)*math.Sqrt(uu) < 2*near) {
			return "lies on"
		}
		return ""
	}
	// The nearest points of two segments: along the lines, then clamped from each side in turn.
	s := math.Max(0, math.Min(1, (uv*vw-vv*uw)/det))
	t := math.Max(0, math.Min(1, (s*uv+vw)/vv))
	s = math.Max(0, math.Min(1, (t*uv-uw)/uu))
	p, q := a.From.to(a.To, s), b.From.to(b.To, t)
	if p.sub(q).length() >= touch || joined && (s < 1e-6 || s > 1-1e-6 || t < 1e-6 || t > 1-1e-6) {
		return ""
	}
	return "crosses"
}
