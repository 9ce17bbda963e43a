package moment

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
)

// Solution is the answer at one frequency.
type Solution struct {
	F        float64
	Unknowns int
	Currents []complex128 // through each source, amperes peak
	Z        complex128   // at the first source, ohms
	Input    float64      // watts that the sources give
	Metal    []float64    // watts lost in each wire's conductor
	Lost     []float64    // watts lost in each load
	Volts    []float64    // peak volts across each load
	Screen   float64      // watts lost in screens and stakes
	model    Model
	mesh     mesh
	i        []complex128
	ends     [][2]complex128 // current at both ends of each segment, in its direction
}

// ErrNoPath says that no current can flow through the source.
var ErrNoPath = errors.New("no current can flow through the source: its wire ends there")

// Solve finds the currents at f hertz.
func Solve(ctx context.Context, m Model, f float64) (*Solution, error) {
	if err := m.Check(f); err != nil {
		return nil, err
	}
	g := build(m, f)
	if len(g.roofs) == 0 {
		return nil, ErrNoPath
	}
	z, err := g.fill(ctx, m, f)
	if err != nil {
		return nil, err
	}
	var loads []weighted
	for _, l := range m.Loads {
		loads = append(loads, weighted{g.at(m, l.Spot), l.Z(f)})
	}
	if g.earthed {
		for _, c := range g.contacts {
			loads = append(loads, weighted{c, m.Screen.Z(m.Earth, f)})
		}
	}
	for _, l := range loads {
		l.into(z)
	}
	v := make([]complex128, len(g.roofs))
	weights := make([][]float64, len(m.Sources))
	for n, s := range m.Sources {
		weights[n] = g.at(m, s.Spot)
		for _, spot := range s.Also {
			for i, a := range g.at(m, spot) {
				weights[n][i] += a
			}
		}
		path := false
		for i, a := range weights[n] {
			v[i] += s.Volts * complex(a, 0)
			path = path || a != 0
		}
		if !path {
			return nil, fmt.Errorf("source %d: %w", n, ErrNoPath)
		}
	}
	i, err := symmetric(ctx, z, v)
	if err != nil {
		return nil, err
	}
	s := &Solution{F: f, Unknowns: len(g.roofs), model: m, mesh: g, i: i, ends: g.currents(i)}
	through := func(at []float64) (sum complex128) {
		for n, a := range at {
			sum += complex(a, 0) * i[n]
		}
		return sum
	}
	for n, src := range m.Sources {
		c := through(weights[n])
		s.Currents = append(s.Currents, c)
		s.Input += real(src.Volts*cmplx.Conj(c)) / 2
	}
	s.Z = m.Sources[0].Volts / s.Currents[0]
	for n, l := range loads {
		c := through(l.at)
		if lost := sqAbs(c) * real(l.z) / 2; n < len(m.Loads) {
			s.Lost = append(s.Lost, lost)
			s.Volts = append(s.Volts, cmplx.Abs(c*l.z))
		} else {
			s.Screen += lost
		}
	}
	s.Metal = make([]float64, len(m.Wires))
	for n := range g.segs {
		sg := &g.segs[n]
		a, b := s.ends[n][0], s.ends[n][1]
		// The mean of |a + (b-a)x|^2.
		mean := (real(a*cmplx.Conj(a)) + real(b*cmplx.Conj(b)) + real(a*cmplx.Conj(b))) / 3
		s.Metal[sg.wire] += mean * sg.resist * sg.h / 2
	}
	return s, nil
}

// weighted is an impedance in series with the currents of several rooftops.
type weighted struct {
	at []float64
	z  complex128
}

func (l weighted) into(z [][]complex128) {
	for i, a := range l.at {
		if a == 0 {
			continue
		}
		for j, b := range l.at {
			if b != 0 {
				z[i][j] += l.z * complex(a*b, 0)
			}
		}
	}
}

// currents spreads the rooftops over the ends of the segments.
func (g mesh) currents(i []complex128) [][2]complex128 {
	out := make([][2]complex128, len(g.segs))
	for n, r := range g.roofs {
		for _, h := range r {
			end := 0
			if h.atEnd {
				end = 1
			}
			out[h.seg][end] += complex(h.sign, 0) * i[n]
		}
	}
	return out
}

// Far is the far field in volts times exp(jkr): towards an elevation and an azimuth in radians, along
// falling elevation and along rising azimuth.
func (s *Solution) Far(elevation, azimuth float64) (theta, phi complex128) {
	k := 2 * math.Pi * s.F / light
	se, ce := math.Sincos(elevation)
	sa, ca := math.Sincos(azimuth)
	r := Vec{ce * ca, ce * sa, se}
	th, ph := Vec{se * ca, se * sa, -ce}, Vec{-sa, ca, 0}
	factor := complex(0, -k*eta0/(4*math.Pi))
	// How a real ground reflects a plane wave, against a perfect one (Fresnel).
	upright, flat := complex128(1), complex128(1)
	if s.model.Ground == Real {
		n2 := s.model.Earth.Complex(s.F)
		under := cmplx.Sqrt(n2 - complex(ce*ce, 0))
		upright = (n2*complex(se, 0) - under) / (n2*complex(se, 0) + under)
		flat = (under - complex(se, 0)) / (under + complex(se, 0))
	}
	add := func(seg *segment, u Vec, a, b Vec, from, to complex128, sign float64) {
		for j, x := range gauss3x {
			p := a.to(b, x)
			c := (from + (to-from)*complex(x, 0)) * cmplx.Exp(complex(0, k*r.dot(p))) * complex(gauss3w[j]*seg.h*sign, 0) * factor
			theta += c * complex(u.dot(th), 0)
			phi += c * complex(u.dot(ph), 0)
		}
	}
	for n := range s.mesh.segs {
		sg := &s.mesh.segs[n]
		from, to := s.ends[n][0], s.ends[n][1]
		add(sg, sg.u, sg.from, sg.to, from, to, 1)
		if s.model.mirror() {
			below, level := theta, phi
			theta, phi = 0, 0
			add(sg, sg.u.mirrored(), sg.from.mirrored(), sg.to.mirrored(), from, to, -1)
			theta, phi = below+theta*upright, level+phi*flat
		}
	}
	return theta, phi
}

// Gain is the power towards a direction over that of an isotropic radiator with the same input, as a
// ratio.
func (s *Solution) Gain(elevation, azimuth float64) float64 {
	t, p := s.Far(elevation, azimuth)
	return 4 * math.Pi * (real(t*cmplx.Conj(t)) + real(p*cmplx.Conj(p))) / (2 * eta0) / s.Input
}

// Average is the mean gain over the directions into which it radiates (the upper half over a perfect
// ground), against what a lossless antenna has there: 1 when power is conserved. Losses, also those in a real
// ground, lower it.
func (s *Solution) Average() float64 {
	const ne, na = 48, 48
	lo, full := -1.0, 2.0
	if s.model.mirror() {
		lo, full = 0, 1
	}
	sum := 0.0
	// Even steps in the sine of elevation are even steps of the sphere's surface.
	for i := range ne {
		for j, x := range gauss3x {
			sin := lo + full*(float64(i)+x)/ne
			for a := range na {
				sum += s.Gain(math.Asin(sin), 2*math.Pi*float64(a)/na) * gauss3w[j] / ne / na
			}
		}
	}
	if s.model.mirror() {
		return sum / 2
	}
	return sum
}

// Radiated is the share of the input that is not lost in metal and loads.
func (s *Solution) Radiated() float64 {
	lost := 0.0
	for _, w := range s.Metal {
		lost += w
	}
	for _, w := range s.Lost {
		lost += w
	}
	return 1 - lost/s.Input
}
