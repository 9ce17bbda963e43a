package moment

import (
	"context"
	"math"
	"math/cmplx"

	"reed/core/moment/earth"
)

// Gauss-Legendre points and weights on 0 to 1.
var (
	gauss3x = []float64{0.1127016653792583, 0.5, 0.8872983346207417}
	gauss3w = []float64{0.2777777777777778, 0.4444444444444444, 0.2777777777777778}
	gauss8x = []float64{0.01985507175123188, 0.10166676129318664, 0.2372337950418355, 0.4082826787521751, 0.5917173212478249, 0.7627662049581645, 0.8983332387068134, 0.9801449282487681}
	gauss8w = []float64{0.05061426814518813, 0.11119051722668724, 0.15685332293894363, 0.18134189168918100, 0.18134189168918100, 0.15685332293894363, 0.11119051722668724, 0.05061426814518813}
)

// moments are the double integrals over two segments of the kernel times 1, x, x' and x x', where x and
// x' run from 0 to 1 along each.
type moments struct{ g00, g10, g01, g11 complex128 }

// pair integrates exp(-jkR)/R over two segments, R with the larger radius in it (thin-wire kernel). Near
// ones have their static part integrated exactly along the source and finely along the observer.
func pair(p, q *segment, k float64) moments {
	mid := p.from.add(p.to).scale(0.5).sub(q.from.add(q.to).scale(0.5)).length()
	a := math.Max(p.a, q.a)
	if mid > 2.5*(p.h+q.h) {
		return quadrature(p, q, k, a)
	}
	// From both sides, so that the order of the wires does not matter.
	m, back := exactly(p, q, k, a), exactly(q, p, k, a)
	return moments{(m.g00 + back.g00) / 2, (m.g10 + back.g01) / 2, (m.g01 + back.g10) / 2, (m.g11 + back.g11) / 2}
}

// exactly integrates the static part in closed form along q.
func exactly(p, q *segment, k, a float64) (m moments) {
	// Points along the observer, crowded towards its ends where the static part is steep.
	for i, x0 := range gauss8x {
		for side := range 2 {
			// The halves 0 to 1/2 and 1/2 to 1, each with t^2 towards the outer end.
			x, w := x0*x0/2, gauss8w[i]*x0
			if side == 1 {
				x = 1 - x
			}
			r := p.from.to(p.to, x)
			s0 := r.sub(q.from).dot(q.u)
			d := r.sub(q.from).sub(q.u.scale(s0))
			rho := math.Sqrt(d.dot(d) + a*a)
			// Static: the integrals of 1/R and of s/R along the source.
			r1, r2 := math.Hypot(s0, rho), math.Hypot(q.h-s0, rho)
			flat := math.Asinh((q.h-s0)/rho) + math.Asinh(s0/rho)
			slope := (r2 - r1 + s0*flat) / q.h
			c0, c1 := complex(flat, 0), complex(slope, 0)
			// The rest is smooth.
			for j, y := range gauss3x {
				dist := math.Hypot(y*q.h-s0, rho)
				rest := (cmplx.Exp(complex(0, -k*dist)) - 1) / complex(dist, 0) * complex(gauss3w[j]*q.h, 0)
				c0 += rest
				c1 += rest * complex(y, 0)
			}
			c0 *= complex(w*p.h, 0)
			c1 *= complex(w*p.h, 0)
			m.g00 += c0
			m.g01 += c1
			m.g10 += c0 * complex(x, 0)
			m.g11 += c1 * complex(x, 0)
		}
	}
	return m
}

func quadrature(p, q *segment, k, a float64) (m moments) {
	for i, x := range gauss3x {
		r := p.from.to(p.to, x)
		for j, y := range gauss3x {
			d := r.sub(q.from.to(q.to, y))
			dist := math.Sqrt(d.dot(d) + a*a)
			s, c := math.Sincos(-k * dist)
			g := complex(c, s) * complex(gauss3w[i]*gauss3w[j]*p.h*q.h/dist, 0)
			m.g00 += g
			m.g10 += g * complex(x, 0)
			m.g01 += g * complex(y, 0)
			m.g11 += g * complex(x*y, 0)
		}
	}
	return m
}

// with is the integral of two linear functions, each rising to one end of its segment.
func (m moments) with(pEnd, qEnd bool) complex128 {
	switch {
	case pEnd && qEnd:
		return m.g11
	case pEnd:
		return m.g10 - m.g11
	case qEnd:
		return m.g01 - m.g11
	}
	return m.g00 - m.g10 - m.g01 + m.g11
}

func slope(h half, s *segment) float64 {
	if h.atEnd {
		return h.sign / s.h
	}
	return -h.sign / s.h
}

// fill makes the symmetrical matrix of the rooftops' mutual impedances, without lumped elements.
func (g mesh) fill(ctx context.Context, m Model, f float64) ([][]complex128, error) {
	n := len(g.roofs)
	k := 2 * math.Pi * f / light
	w := 2 * math.Pi * f
	z := make([][]complex128, n)
	for i := range z {
		z[i] = make([]complex128, n)
	}
	// Which half-rooftops lie on each segment.
	type on struct {
		roof int
		half half
	}
	onSeg := make([][]on, len(g.segs))
	for i, r := range g.roofs {
		for _, h := range r {
			onSeg[h.seg] = append(onSeg[h.seg], on{i, h})
		}
	}
	inductive := complex(0, k*eta0/(4*math.Pi))
	capacitive := complex(0, -eta0/(4*math.Pi*k))
	table, err := g.ground(ctx, m, f)
	if err != nil {
		return nil, err
	}
	type entry struct {
		i, j int
		v    complex128
	}
	// Added up in the order of the segments, so that the same model gives the same bits.
	all := make([][]entry, len(g.segs))
	err = earth.Share(ctx, len(g.segs), func(p int) {
		var found []entry
		sp := &g.segs[p]
		for q := p; q < len(g.segs); q++ {
			sq := &g.segs[q]
			put := func(v moments, dot, image float64) {
				for _, a := range onSeg[p] {
					for _, b := range onSeg[q] {
						x := inductive*complex(dot*a.half.sign*b.half.sign, 0)*v.with(a.half.atEnd, b.half.atEnd) +
							capacitive*complex(image*slope(a.half, sp)*slope(b.half, sq), 0)*v.g00
						found = append(found, entry{a.roof, b.roof, x})
						if p != q {
							found = append(found, entry{b.roof, a.roof, x})
						}
					}
				}
			}
			put(pair(sp, sq, k), sp.u.dot(sq.u), 1)
			if m.Ground == Perfect {
				im := *sq
				im.from, im.to, im.u = sq.from.mirrored(), sq.to.mirrored(), sq.u.mirrored()
				// The image's current runs against the mirrored direction, its charge is opposite.
				put(pair(sp, &im, k), -sp.u.dot(im.u), -1)
			}
			if table != nil {
				vector, charge := overGround(table, sp, sq)
				for _, a := range onSeg[p] {
					for _, b := range onSeg[q] {
						x := inductive*complex(a.half.sign*b.half.sign, 0)*vector.with(a.half.atEnd, b.half.atEnd) +
							capacitive*complex(slope(a.half, sp)*slope(b.half, sq), 0)*charge
						found = append(found, entry{a.roof, b.roof, x})
						if p != q {
							found = append(found, entry{b.roof, a.roof, x})
						}
					}
				}
			}
			if p == q && (sp.resist > 0 || sp.induct > 0) {
				along := complex(sp.resist, w*sp.induct) * complex(sp.h, 0)
				for _, a := range onSeg[p] {
					for _, b := range onSeg[p] {
						share := 1.0 / 6
						if a.half.atEnd == b.half.atEnd {
							share = 1.0 / 3
						}
						found = append(found, entry{a.roof, b.roof, along * complex(share*a.half.sign*b.half.sign, 0)})
					}
				}
			}
		}
		all[p] = found
	})
	if err != nil {
		return nil, err
	}
	for _, found := range all {
		for _, e := range found {
			z[e.i][e.j] += e.v
		}
	}
	return z, nil
}

// ground is the table of what a real ground adds between any two places of the mesh, nil without one.
func (g mesh) ground(ctx context.Context, m Model, f float64) (*earth.Table, error) {
	if m.Ground != Real {
		return nil, nil
	}
	var lo, hi Vec
	low := math.Inf(1)
	for i, s := range g.segs {
		for _, p := range []Vec{s.from, s.to} {
			for k := range p {
				if i == 0 {
					lo[k], hi[k] = math.Min(p[k], s.from[k]), math.Max(p[k], s.from[k])
				}
				lo[k], hi[k] = math.Min(lo[k], p[k]), math.Max(hi[k], p[k])
			}
			low = math.Min(low, p[2])
		}
	}
	far := math.Hypot(math.Hypot(hi[0]-lo[0], hi[1]-lo[1]), 2*hi[2])
	return m.Earth.At(f).Fill(ctx, 2*low*0.95, math.Max(far*1.05, 2.2*low))
}

// overGround integrates what a real ground adds over two segments: the vector potential along p of the
// current along q, and the scalar potential. Where the image is nearer than the segments are long, they
// are taken in pieces.
func overGround(t *earth.Table, p, q *segment) (vector moments, charge complex128) {
	image := (p.from[2] + p.to[2] + q.from[2] + q.to[2]) / 2
	d := p.from.add(p.to).sub(q.from).sub(q.to).scale(0.5)
	apart := math.Sqrt(d[0]*d[0] + d[1]*d[1] + image*image)
	cut := func(h float64) int { return min(12, max(1, int(math.Ceil(h/apart*1.5)))) }
	np, nq := cut(p.h), cut(q.h)
	level := p.u[0]*q.u[0] + p.u[1]*q.u[1]
	for i := range np {
		for a, x0 := range gauss3x {
			x := (float64(i) + x0) / float64(np)
			r := p.from.to(p.to, x)
			for j := range nq {
				for b, y0 := range gauss3x {
					y := (float64(j) + y0) / float64(nq)
					s := q.from.to(q.to, y)
					dx, dy := r[0]-s[0], r[1]-s[1]
					rho := math.Hypot(dx, dy)
					k := t.At(rho, r[2]+s[2])
					w := complex(gauss3w[a]*gauss3w[b]*p.h*q.h/float64(np*nq), 0)
					v := complex(level, 0)*k.XX + complex(p.u[2]*q.u[2], 0)*k.ZZ
					if rho > 0 {
						cross := p.u[2]*(q.u[0]*dx+q.u[1]*dy) - (p.u[0]*dx+p.u[1]*dy)*q.u[2]
						v += complex(cross/rho, 0) * k.ZX
					}
					v *= w
					vector.g00 += v
					vector.g10 += v * complex(x, 0)
					vector.g01 += v * complex(y, 0)
					vector.g11 += v * complex(x*y, 0)
					charge += k.Charge * w
				}
			}
		}
	}
	return vector, charge
}
