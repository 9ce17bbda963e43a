package moment

import (
	"context"
	"math"
	"math/cmplx"
	"slices"
	"testing"

	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/internal/testsize"
)

// A second way to the same currents, which shares nothing with the first but the cut of the wires: sinusoids in place of
// triangles, their fields in closed form (Schelkunoff 1943) in place of potentials, and over a real ground the sum of
// reflected plane waves in place of Sommerfeld's integrals. It is slow, for bare and perfect wires of one thickness alone, and
// for those that are a good part of their length above the ground.
type sinusoids struct {
	mesh
	k, radius float64
}

// rises are the currents at both ends of a segment, and their slopes, of one that rises to one of them.
func (s sinusoids) rises(h float64, end int) (i, slope [2]float64) {
	sin, cos := math.Sincos(s.k * h)
	if end == 1 {
		return [2]float64{0, 1}, [2]float64{s.k / sin, s.k * cos / sin}
	}
	return [2]float64{1, 0}, [2]float64{-s.k * cos / sin, -s.k / sin}
}

// field is what such a current on a segment does at r, along a direction.
func (s sinusoids) field(sg *segment, end int, r, along Vec) complex128 {
	away := r.sub(sg.from)
	z := away.dot(sg.u)
	out := away.sub(sg.u.scale(z))
	rho := math.Sqrt(out.dot(out) + s.radius*s.radius)
	var axial, radial complex128
	current, slope := s.rises(sg.h, end)
	for e, sign := range []float64{-1, 1} {
		u := sg.h*float64(e) - z
		d := math.Hypot(rho, u)
		wave := cmplx.Exp(complex(0, -s.k*d)) * complex(sign, 0)
		axial += wave * (complex(-current[e]*u/d, 0)*complex(1/(d*d), s.k/d) - complex(slope[e]/d, 0))
		radial += wave * complex(current[e]*rho*rho/(d*d*d)-slope[e]*u/d, -s.k*current[e]*u*u/(d*d))
	}
	return complex(0, -numeric.Eta0/(4*math.Pi*s.k)) * (axial*complex(sg.u.dot(along), 0) + radial*complex(out.dot(along)/(rho*rho), 0))
}

// air is the mutual impedances of the rooftops through the air, with images in a perfect ground where it is one.
func (s sinusoids) air(image bool) [][]complex128 {
	z := square(len(s.roofs))
	rule := numeric.Legendre(14)
	for p := range s.segs {
		sp := &s.segs[p]
		var tested [2][2][]complex128 // by the ends of it and of the source: over the segments
		for _, half := range []int{0, 1} {
			for e := range 2 {
				tested[half][e] = make([]complex128, len(s.segs))
			}
		}
		for i, x0 := range rule.X {
			// Points crowd towards both ends, where the fields are steep.
			for side := range 2 {
				x, w := math.Pow(x0, 4)/2, 2*math.Pow(x0, 3)*rule.W[i]*sp.h
				if side == 1 {
					x = 1 - x
				}
				r := sp.from.to(sp.to, x)
				rise := [2]float64{math.Sin(s.k * sp.h * (1 - x)), math.Sin(s.k * sp.h * x)}
				for q := range s.segs {
					for e := range 2 {
						f := s.field(&s.segs[q], e, r, sp.u)
						if image {
							im := s.segs[q].mirrored()
							f -= s.field(&im, e, r, sp.u)
						}
						for half := range 2 {
							tested[half][e][q] -= f * complex(rise[half]*w/math.Sin(s.k*sp.h), 0)
						}
					}
				}
			}
		}
		for i, roof := range s.roofs {
			for _, a := range roof {
				if a.seg != p {
					continue
				}
				for j, other := range s.roofs {
					for _, b := range other {
						z[i][j] += tested[a.end()][b.end()][b.seg] * complex(a.sign*b.sign, 0)
					}
				}
			}
		}
	}
	return z
}

func square(n int) [][]complex128 {
	z := make([][]complex128, n)
	for i := range z {
		z[i] = make([]complex128, n)
	}
	return z
}

// spectrum is what every rooftop sends into, or hears from, a plane wave: along its level part across the wave, and along
// that in its plane, going down and up.
func (s sinusoids) spectrum(kr, kz complex128, cos, sin, sign float64) (across, down, up []complex128) {
	k := complex(s.k, 0)
	across, down, up = make([]complex128, len(s.roofs)), make([]complex128, len(s.roofs)), make([]complex128, len(s.roofs))
	for i, roof := range s.roofs {
		for _, h := range roof {
			sg := &s.segs[h.seg]
			level := sg.u[0]*cos + sg.u[1]*sin
			q := complex(sign*level, 0)*kr + kz*complex(sg.u[2], 0)
			from, l := sg.from, sg.h
			if !h.atEnd {
				from, q = sg.to, -q
			}
			phase := complex(sign*(from[0]*cos+from[1]*sin), 0)*kr + kz*complex(from[2], 0)
			end := cmplx.Exp(-1i * q * complex(l, 0))
			rise := (k - end*(k*complex(math.Cos(s.k*l), 0)+1i*q*complex(math.Sin(s.k*l), 0))) / ((k*k - q*q) * complex(math.Sin(s.k*l), 0))
			rise *= cmplx.Exp(-1i*phase) * complex(h.sign, 0)
			across[i] += rise * complex(sg.u[1]*cos-sg.u[0]*sin, 0)
			upright := kr * complex(sg.u[2], 0)
			down[i] += rise * (-kz*complex(level, 0) - upright) / k
			up[i] += rise * (kz*complex(level, 0) - upright) / k
		}
	}
	return across, down, up
}

// reflected adds what comes back from a real ground: every plane wave by Fresnel's coefficients, over a path that keeps clear
// of the wave that travels level.
func (s sinusoids) reflected(z [][]complex128, n2 complex128, lowest, wide float64) {
	k := complex(s.k, 0)
	soil := k * cmplx.Sqrt(n2)
	decays := func(v complex128) complex128 {
		if r := cmplx.Sqrt(v); imag(r) > 0 {
			return -r
		} else {
			return r
		}
	}
	wave := func(kr, weight complex128) {
		kz, under := decays(k*k-kr*kr), decays(soil*soil-kr*kr)
		level, upright := (kz-under)/(kz+under), (n2*kz-under)/(n2*kz+under)
		turns := int(2 * (cmplx.Abs(kr)*wide + 12))
		factor := complex(s.k*numeric.Eta0/(8*math.Pi*math.Pi)*2*math.Pi/float64(turns), 0) * kr / kz * weight
		for n := range turns {
			sin, cos := math.Sincos(2 * math.Pi * float64(n) / float64(turns))
			heard, _, up := s.spectrum(kr, kz, cos, sin, 1)
			sent, down, _ := s.spectrum(kr, kz, cos, sin, -1)
			for i := range z {
				a, b := factor*level*heard[i], factor*upright*up[i]
				for j := range z {
					z[i][j] += a*sent[j] + b*down[j]
				}
			}
		}
	}
	rule := numeric.Legendre(24)
	part := func(n int, at func(t float64) (kr, slope complex128)) {
		for i := range n {
			for m, x := range rule.X {
				kr, slope := at((float64(i) + x) / float64(n))
				wave(kr, slope*complex(rule.W[m]/float64(n), 0))
			}
		}
	}
	far, high := math.Min(1.3*real(soil), 4*s.k), math.Min(0.6*s.k, 2/wide)
	part(3, func(t float64) (kr, slope complex128) {
		sin, cos := math.Sincos(math.Pi * (1 - t))
		return complex(far/2*(1+cos), high*sin), complex(far/2*math.Pi*sin, -high*math.Pi*cos)
	})
	most := far + 7/lowest
	part(1+int((most-far)*wide/20), func(t float64) (kr, slope complex128) {
		return complex(far+(most-far)*t, 0), complex(most-far, 0)
	})
}

// impedance is that of a model's first source, by sinusoids.
func impedance(t *testing.T, m Model, f float64) complex128 {
	t.Helper()
	if err := m.Check(f); err != nil {
		t.Fatal(err)
	}
	g := build(m, f)
	s := sinusoids{g, 2 * math.Pi * f / numeric.Light, m.Wires[0].Radius}
	z := s.air(m.Ground == Perfect)
	if m.Ground == Real {
		lowest, wide := math.Inf(1), 0.0
		for _, sg := range g.segs {
			lowest = math.Min(lowest, math.Min(sg.from[2], sg.to[2]))
			for _, other := range g.segs {
				wide = math.Max(wide, math.Hypot(sg.from[0]-other.to[0], sg.from[1]-other.to[1]))
			}
		}
		s.reflected(z, m.Earth.Complex(f), lowest, wide+1)
	}
	for _, l := range g.load(m, f, square(len(z))) {
		l.into(z)
	}
	_, v, err := g.drive(m)
	if err != nil {
		t.Fatal(err)
	}
	i, err := eliminate(context.Background(), z, append([]complex128(nil), v...))
	if err != nil {
		t.Fatal(err)
	}
	var current complex128
	for n := range i {
		current += i[n] * v[n]
	}
	return m.Sources[0].Volts * m.Sources[0].Volts / current
}

// Triangles with potentials and sinusoids with fields agree, each as far as it has converged.
func TestSinusoidsAndPlaneWavesAgree(t *testing.T) {
	testsize.SkipIfShort(t, "solves fine meshes")
	compareWithSinusoids(t, "low over four radials", "sloping, fed at its end", "loaded over two radials")
}

func TestLongSinusoidsAndPlaneWavesAgree(t *testing.T) {
	if testsize.Long(t, 9) < 9 {
		compareWithSinusoids(t, "level in free space")
		return
	}
	compareWithSinusoids(t)
}

// compareWithSinusoids solves some of the cases, or all if none is named, by both methods.
func compareWithSinusoids(t *testing.T, only ...string) {
	t.Helper()
	soil := func(permittivity, conductivity float64) Model {
		return Model{Ground: Real, Earth: earth.Ground{Permittivity: permittivity, Conductivity: conductivity}}
	}
	wires := func(m Model, radius float64, ends ...[2]Vec) Model {
		for _, e := range ends {
			m.Wires = append(m.Wires, Wire{From: e[0], To: e[1], Radius: radius})
		}
		m.Sources = []Source{{Volts: 1}}
		return m
	}
	fedAt := func(m Model, wire int, at float64) Model {
		m.Sources[0].Spot = Spot{Wire: wire, At: at}
		return m
	}
	loaded := wires(soil(13, 0.005), 0.003, [2]Vec{{0, 0, 1.4}, {0, 0, 4.1}}, [2]Vec{{0, 0, 1.4}, {2.6, 0, 1}},
		[2]Vec{{0, 0, 1.4}, {-2.6, 0, 1}})
	loaded.Loads = []Load{{Spot: Spot{Wire: 0, At: 0.4}, R: 2, L: 6e-6}}
	cases := map[string]struct {
		m Model
		f float64
	}{
		"low over four radials": {wires(soil(5, 0.001), 0.001, [2]Vec{{0, 0, 0.15}, {0, 0, 2.6}}, [2]Vec{{0, 0, 0.15}, {1.4, 0, 0.15}},
			[2]Vec{{0, 0, 0.15}, {-1.4, 0, 0.15}}, [2]Vec{{0, 0, 0.15}, {0, 1.4, 0.15}}, [2]Vec{{0, 0, 0.15}, {0, -1.4, 0.15}}), 28.4e6},
		"level in free space":     {fedAt(wires(Model{}, 0.001, [2]Vec{{-5, 0, 0}, {5, 0, 0}}), 0, 0.5), 14.1e6},
		"bent over perfect metal": {wires(Model{Ground: Perfect}, 0.0008, [2]Vec{{0, 0, 6}, {4, 0, 3}}, [2]Vec{{0, 0, 6}, {-4, 1, 3.5}}), 14.3e6},
		"level over dry sand":     {fedAt(wires(soil(3, 0.0005), 0.001, [2]Vec{{-5, 0, 1}, {5, 0, 1}}), 0, 0.5), 14.1e6},
		"level over the sea":      {fedAt(wires(soil(81, 5), 0.001, [2]Vec{{-3.4, 0, 1.2}, {3.4, 0, 1.2}}), 0, 0.5), 21.1e6},
		"sloping, fed at its end": {wires(soil(5, 0.002), 0.0005, [2]Vec{{0, 0, 1}, {8, 3, 6}}, [2]Vec{{0, 0, 1}, {-2, 0, 0.6}}), 14.06e6},
		"a loop upright": {wires(soil(13, 0.005), 0.001, [2]Vec{{0, 0, 3}, {2.7, 0, 3}}, [2]Vec{{2.7, 0, 3}, {2.7, 0, 8.4}},
			[2]Vec{{2.7, 0, 8.4}, {-2.7, 0, 8.4}}, [2]Vec{{-2.7, 0, 8.4}, {-2.7, 0, 3}}, [2]Vec{{-2.7, 0, 3}, {0, 0, 3}}), 14.1e6},
		"loaded over two radials": {loaded, 14.1e6},
		"beside each other": {fedAt(wires(soil(13, 0.005), 0.002, [2]Vec{{-2.45, 0, 3}, {2.45, 0, 3}},
			[2]Vec{{-2.55, -1.5, 3}, {2.55, -1.5, 3}}), 0, 0.5), 28.4e6},
	}
	const fine, cut = 120, 64 // segments to a wavelength, of the first and of the second
	first := func(m Model, f float64) complex128 {
		m.Density = fine
		s, err := Solve(t.Context(), m, f)
		if err != nil {
			t.Fatal(err)
		}
		return s.Z
	}
	second := func(m Model, f float64) complex128 {
		m.Density = cut
		return impedance(t, m, f)
	}
	for name, c := range cases {
		if len(only) > 0 && !slices.Contains(only, name) {
			continue
		}
		a, b := first(c.m, c.f), second(c.m, c.f)
		off := cmplx.Abs(a-b) / cmplx.Abs(b)
		t.Logf("%-24s %.2f ohm, by sinusoids %.2f: %.2f %%", name, a, b, 100*off)
		if off > 0.006 {
			t.Errorf("%s: %v ohm, by sinusoids %v", name, a, b)
		}
	}
	for _, name := range []string{"level over dry sand", "a loop upright"} {
		if len(only) > 0 && !slices.Contains(only, name) {
			continue
		}
		c := cases[name]
		resonance := func(z func(Model, float64) complex128) float64 {
			f, _, err := numeric.Secant(func(f float64) (float64, error) { return imag(z(c.m, f)), nil }, c.f, c.f*1.03, 4,
				func(_, f float64) float64 { return f }, func(_, x float64) bool { return math.Abs(x) < 0.01 })
			if err != nil {
				t.Fatal(err)
			}
			return f
		}
		a, b := resonance(first), resonance(second)
		t.Logf("%-24s resonant at %.4f MHz, by sinusoids %.4f: %.3f %%", name, a/1e6, b/1e6, 100*(a/b-1))
		if math.Abs(a/b-1) > 0.0006 {
			t.Errorf("%s: resonant at %v Hz, by sinusoids %v", name, a, b)
		}
	}
}
