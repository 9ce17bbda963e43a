package moment

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// Solution is the answer at one frequency.
type Solution struct {
	F        float64
	Unknowns int
	Currents []complex128    // through each source, amperes peak
	Z        complex128      // at the first source, ohms
	Input    float64         // watts that the sources give
	Metal    []float64       // watts lost in each wire's conductor
	Lost     []float64       // watts lost in each load
	Volts    []float64       // peak volts across each load
	Cable    float64         // watts lost in lines
	Screen   float64         // watts lost in screens and stakes
	ctx      context.Context // of the solve: what is worked out of it later ends with it too
	model    Model
	mesh     mesh
	points   []element
	ends     [][2]complex128 // current at both ends of each segment, in its direction
}

// ErrNoPath says that no current can flow through the source.
var ErrNoPath = errors.New("no current can flow through the source: its wire ends there")

// Solve finds the currents at f hertz.
func Solve(ctx context.Context, m Model, f float64) (*Solution, error) {
	if err := m.Check(f); err != nil {
		return nil, err
	}
	g, err := meshed(m, f)
	if err != nil {
		return nil, err
	}
	z, err := g.fill(ctx, m, f)
	if err != nil {
		return nil, err
	}
	return g.solve(ctx, m, f, z[0])
}

// solve finds the currents from the matrix of a mesh, which it uses up.
func (g mesh) solve(ctx context.Context, m Model, f float64, z [][]complex128) (*Solution, error) {
	loads := g.load(m, f, z)
	weights, v, err := g.drive(m)
	if err != nil {
		return nil, err
	}
	i, err := symmetric(ctx, z, v)
	if err != nil {
		return nil, err
	}
	s := &Solution{ctx: ctx, F: f, Unknowns: len(g.roofs), model: m, mesh: g, ends: g.currents(i)}
	s.points = s.elements(nil)
	s.tally(loads, weights, i)
	return s, nil
}

// load puts loads, contacts with the ground and lines between spots into the matrix, and returns the loads, those of
// the model first.
func (g mesh) load(m Model, f float64, z [][]complex128) []weighted {
	var loads []weighted
	for _, l := range m.Loads {
		// Each of several equal wires carries its share through a load of its own.
		loads = append(loads, weighted{g.at(m, l.Spot), l.Z(f) / complex(float64(m.Wires[l.Wire].round()), 0)})
	}
	if g.earthed {
		for _, c := range g.contacts {
			loads = append(loads, weighted{c, m.Screen.Z(m.Earth, f)})
		}
	}
	for _, l := range loads {
		l.into(z)
	}
	for _, l := range m.Lines {
		a, b := g.at(m, l.A), g.at(m, l.B)
		own, transfer := l.ports(f)
		weighted{a, own}.into(z)
		weighted{b, own}.into(z)
		for i := range a {
			for j := range b {
				if a[i] != 0 && b[j] != 0 {
					z[i][j] += transfer * complex(a[i]*b[j], 0)
					z[j][i] += transfer * complex(a[i]*b[j], 0)
				}
			}
		}
	}
	return loads
}

// drive is how each source lies over the rooftops, and what all of them apply.
func (g mesh) drive(m Model) (weights [][]float64, v []complex128, err error) {
	v = make([]complex128, len(g.roofs))
	weights = make([][]float64, len(m.Sources))
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
			return nil, nil, fmt.Errorf("source %d: %w", n, ErrNoPath)
		}
	}
	return weights, v, nil
}

// tally fills in what flows at the sources and what is lost where, from the currents i of the rooftops.
func (s *Solution) tally(loads []weighted, weights [][]float64, i []complex128) {
	m, g := s.model, s.mesh
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
	for _, l := range m.Lines {
		own, transfer := l.ports(s.F)
		a, b := through(g.at(m, l.A)), through(g.at(m, l.B))
		s.Cable += (real(own)*(sqAbs(a)+sqAbs(b)) + 2*real(transfer)*real(a*cmplx.Conj(b))) / 2
	}
	s.Metal = make([]float64, len(m.Wires))
	for n := range g.segs {
		sg := &g.segs[n]
		a, b := s.ends[n][0], s.ends[n][1]
		// The mean of |a + (b-a)x|^2.
		mean := (real(a*cmplx.Conj(a)) + real(b*cmplx.Conj(b)) + real(a*cmplx.Conj(b))) / 3
		s.Metal[sg.wire] += mean * real(m.Wires[sg.wire].metal(s.F)) * sg.h / 2 * sg.share()
	}
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
			out[h.seg][h.end()] += complex(h.sign, 0) * i[n]
		}
	}
	return out
}

// element is a point of current: moment in ampere metres along a direction.
type element struct {
	at, u Vec
	c     complex128
}

// elements are two points to a segment, which is ample for segments that are short against a wave, of the
// wires that are wanted, nil meaning all.
func (s *Solution) elements(wires []bool) []element {
	out := make([]element, 0, 2*len(s.mesh.segs))
	for n := range s.mesh.segs {
		sg := &s.mesh.segs[n]
		if wires != nil && !wires[sg.wire] {
			continue
		}
		from, to := s.ends[n][0], s.ends[n][1]
		for _, one := range sg.each() {
			for j, x := range gauss2.X {
				out = append(out, element{one.from.to(one.to, x), one.u,
					(from + (to-from)*complex(x, 0)) * complex(gauss2.W[j]*sg.h*sg.share(), 0)})
			}
		}
	}
	return out
}

// Far is the far field in volts times exp(jkr): towards an elevation and an azimuth in radians, along
// falling elevation and along rising azimuth.
func (s *Solution) Far(elevation, azimuth float64) (theta, phi complex128) {
	return s.far(s.points, elevation, azimuth)
}

func (s *Solution) far(points []element, elevation, azimuth float64) (theta, phi complex128) {
	return s.ring(points, elevation).toward(azimuth)
}

// ring holds the far-field terms of one elevation for every azimuth.
type ring struct {
	s             *Solution
	points        []element
	se, ce        float64
	lift          []complex128 // by point, what its height turns
	upright, flat complex128   // how a ground reflects a plane wave, against a perfect one (Fresnel)
}

func (s *Solution) ring(points []element, elevation float64) *ring {
	g := &ring{s: s, points: points, lift: make([]complex128, len(points)), upright: 1, flat: 1}
	g.se, g.ce = math.Sincos(elevation)
	k := 2 * math.Pi * s.F / numeric.Light
	for n := range points {
		sin, cos := math.Sincos(k * g.se * points[n].at[2])
		g.lift[n] = complex(cos, sin)
	}
	if s.model.Ground == Real {
		n2, se := s.model.Earth.Complex(s.F), complex(g.se, 0)
		under := cmplx.Sqrt(n2 - complex(g.ce*g.ce, 0))
		g.upright = (n2*se - under) / (n2*se + under)
		g.flat = (under - se) / (under + se)
	}
	return g
}

// toward is the far field to an azimuth.
func (g *ring) toward(azimuth float64) (theta, phi complex128) {
	k := 2 * math.Pi * g.s.F / numeric.Light
	sa, ca := math.Sincos(azimuth)
	x, y := k*g.ce*ca, k*g.ce*sa
	tx, ty, tz, px, py := g.se*ca, g.se*sa, -g.ce, -sa, ca
	mirror := g.s.model.mirror()
	// Level and upright currents apart, each direct and from the image, whose level part runs against it.
	var level, standing, levelImage, standingImage, across, acrossImage complex128
	for n := range g.points {
		p := &g.points[n]
		sin, cos := math.Sincos(x*p.at[0] + y*p.at[1])
		lift, turned := g.lift[n], p.c*complex(cos, sin)
		c := turned * lift
		a, b, up := complex(p.u[0]*tx+p.u[1]*ty, 0), complex(p.u[0]*px+p.u[1]*py, 0), complex(p.u[2]*tz, 0)
		standing += up * c
		level += a * c
		across += b * c
		if mirror {
			c := turned * complex(real(lift), -imag(lift))
			standingImage += up * c
			levelImage += a * c
			acrossImage += b * c
		}
	}
	factor := complex(0, -k*numeric.Eta0/(4*math.Pi))
	return (level + standing + (standingImage-levelImage)*g.upright) * factor, (across - acrossImage*g.flat) * factor
}

// Gain is the power towards a direction over that of an isotropic radiator with the same input, as a
// ratio.
func (s *Solution) Gain(elevation, azimuth float64) float64 {
	return s.ring(s.points, elevation).gain(azimuth)
}

// gain is that to an azimuth.
func (g *ring) gain(azimuth float64) float64 {
	t, p := g.toward(azimuth)
	return 4 * math.Pi * (sqAbs(t) + sqAbs(p)) / (2 * numeric.Eta0) / g.s.Input
}

// Average is the mean gain over the directions into which it radiates (the upper half over a ground),
// against what a lossless antenna has there: 1 when power is conserved. Losses, also those in a real ground,
// lower it. Once the solve's context has ended it is not worked out: look at the context before it is used.
func (s *Solution) Average() float64 { return s.sky(nil) }

// Sky is the share of the input that some wires' currents would send to the sky if they were alone with
// their images. The shares of all wires add up to Average only where they do not interfere.
func (s *Solution) Sky(wires []bool) float64 { return s.sky(wires) }

func (s *Solution) sky(wires []bool) float64 {
	points := s.elements(wires)
	// As many directions as the currents' spread can make lobes.
	var lo, hi Vec
	for i, p := range points {
		for k := range lo {
			if i == 0 {
				lo[k], hi[k] = p.at[k], p.at[k]
			}
			lo[k], hi[k] = math.Min(lo[k], p.at[k]), math.Max(hi[k], p.at[k])
		}
	}
	if s.model.mirror() {
		lo[2] = -hi[2]
	}
	order := 2*math.Pi*s.F/numeric.Light*hi.sub(lo).length()/2 + 6
	na, ne := int(2*order)+2, int(order/2)+3
	bottom, full := -1.0, 2.0
	if s.model.mirror() {
		bottom, full = 0, 1
	}
	sums := make([]float64, ne)
	// Even steps in the sine of elevation are even steps of the sphere's surface.
	_ = numeric.Share(s.ctx, ne, func(i int) {
		for j, x := range gauss3.X {
			if s.ctx.Err() != nil {
				return
			}
			ring := s.ring(points, math.Asin(bottom+full*(float64(i)+x)/float64(ne)))
			for a := range na {
				t, p := ring.toward(2 * math.Pi * float64(a) / float64(na))
				sums[i] += (sqAbs(t) + sqAbs(p)) * gauss3.W[j]
			}
		}
	})
	sum := 0.0
	for _, v := range sums {
		sum += v
	}
	sum *= 4 * math.Pi / (2 * numeric.Eta0) / s.Input / float64(ne*na)
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
	return 1 - (lost+s.Screen+s.Cable)/s.Input
}

// EndVolts is the highest peak voltage in volts at a free end: of the standing wave on its wire, from the current's
// maximum, how far that lies from the end, and the wire's average characteristic impedance 60 (ln(2h/a) - 1)
// (Schelkunoff 1941). Good to a fifth.
func (s *Solution) EndVolts() float64 {
	worst := 0.0
	for i, w := range s.model.Wires {
		first, last := s.mesh.ends[i][0], s.mesh.ends[i][1]
		for _, back := range []bool{false, true} {
			most, at, gone, end := 0.0, 0.0, 0.0, 0.0
			for n := first; n <= last; n++ {
				k, near, far := n, 0, 1
				if back {
					k, near, far = first+last-n, 1, 0
				}
				if n == first {
					end = sqAbs(s.ends[k][near])
				}
				if gone += s.mesh.segs[k].h; sqAbs(s.ends[k][far]) > most {
					most, at = sqAbs(s.ends[k][far]), gone
				}
			}
			if most == 0 || end >= 1e-12*most {
				continue // it goes on there
			}
			// Nearer to the end than a quarter-wave the wave still rises.
			rise := math.Sin(math.Min(2*math.Pi*s.F/numeric.Light*at, math.Pi/2))
			h := w.To.sub(w.From).length()
			worst = math.Max(worst, math.Sqrt(most)/float64(w.round())/rise*60*math.Max(1, math.Log(2*h/w.Radius)-1))
		}
	}
	return worst
}

// Most is the highest peak current in amperes on some wires.
func (s *Solution) Most(wires []bool) float64 {
	top := 0.0
	for n, sg := range s.mesh.segs {
		if wires[sg.wire] {
			top = math.Max(top, math.Max(sqAbs(s.ends[n][0]), sqAbs(s.ends[n][1]))*sg.share()*sg.share())
		}
	}
	return math.Sqrt(top)
}
