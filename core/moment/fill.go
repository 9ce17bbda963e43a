package moment

import (
	"context"
	"math"

	"reed/core/moment/earth"
	"reed/core/numeric"
)

// Gauss-Legendre rules on 0 to 1, by their number of points.
var (
	gauss1, gauss2, gauss3, gauss4, gauss8 = numeric.Legendre(1), numeric.Legendre(2), numeric.Legendre(3), numeric.Legendre(4),
		numeric.Legendre(8)
)

// moments are the double integrals over two segments of the kernel times 1, x, x' and x x', where x and
// x' run from 0 to 1 along each.
type moments struct{ g00, g10, g01, g11 complex128 }

// pair integrates exp(-jkR)/R over two segments, R with the larger radius in it (thin-wire kernel). Near
// ones have their static part integrated exactly along the source and finely along the observer.
func pair(p, q *segment, k float64) moments { return pairOf(p, q, k, math.Max(p.a, q.a)) }

// pairOf is that with a radius of its own.
func pairOf(p, q *segment, k, a float64) moments {
	mid := p.from.add(p.to).scale(0.5).sub(q.from.add(q.to).scale(0.5)).length()
	switch {
	case mid > 8*(p.h+q.h):
		return quadrature(p, q, k, a, gauss2.X, gauss2.W)
	case mid > 2.5*(p.h+q.h):
		return quadrature(p, q, k, a, gauss3.X, gauss3.W)
	case mid > 1.1*(p.h+q.h):
		return quadrature(p, q, k, a, gauss4.X, gauss4.W)
	}
	// From both sides, so that the order of the wires does not matter.
	m, back := exactly(p, q, k, a), exactly(q, p, k, a)
	return moments{(m.g00 + back.g00) / 2, (m.g10 + back.g01) / 2, (m.g01 + back.g10) / 2, (m.g11 + back.g11) / 2}
}

// exactly integrates the static part in closed form along q.
func exactly(p, q *segment, k, a float64) (m moments) {
	// Points along the observer, crowded towards its ends where the static part is steep.
	for i, x0 := range gauss8.X {
		for side := range 2 {
			// The halves 0 to 1/2 and 1/2 to 1, each with t^2 towards the outer end.
			x, w := x0*x0/2, gauss8.W[i]*x0
			if side == 1 {
				x = 1 - x
			}
			r := p.from.to(p.to, x)
			s0 := r.sub(q.from).dot(q.u)
			d := r.sub(q.from).sub(q.u.scale(s0))
			rho := math.Sqrt(d.dot(d) + a*a)
			// Static: the integrals of 1/R and of s/R along the source.
			rho2 := rho * rho
			r1, r2 := math.Sqrt(s0*s0+rho2), math.Sqrt((q.h-s0)*(q.h-s0)+rho2)
			var flat float64 // asinh((h-s0)/rho) + asinh(s0/rho), written so that nothing cancels
			switch {
			case s0 < 0:
				flat = math.Log((r2 + q.h - s0) / (r1 - s0))
			case s0 > q.h:
				flat = math.Log((r1 + s0) / (r2 + s0 - q.h))
			default:
				flat = math.Log((r2 + q.h - s0) * (r1 + s0) / rho2)
			}
			slope := (r2 - r1 + s0*flat) / q.h
			c0, c1 := complex(flat, 0), complex(slope, 0)
			// The rest is smooth.
			for j, y := range gauss3.X {
				dist := math.Sqrt((y*q.h-s0)*(y*q.h-s0) + rho2)
				sin, cos := math.Sincos(k * dist)
				w := gauss3.W[j] * q.h / dist
				rest := complex((cos-1)*w, -sin*w)
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

func quadrature(p, q *segment, k, a float64, x, w []float64) (m moments) {
	for i, s := range x {
		r := p.from.to(p.to, s)
		for j, t := range x {
			d := r.sub(q.from.to(q.to, t))
			dist := math.Sqrt(d.dot(d) + a*a)
			sin, cos := math.Sincos(-k * dist)
			g := complex(cos, sin) * complex(w[i]*w[j]*p.h*q.h/dist, 0)
			m.g00 += g
			m.g10 += g * complex(s, 0)
			m.g01 += g * complex(t, 0)
			m.g11 += g * complex(s*t, 0)
		}
	}
	return m
}

func (m moments) times(c complex128) moments {
	return moments{m.g00 * c, m.g10 * c, m.g01 * c, m.g11 * c}
}

func (m *moments) add(b moments) {
	m.g00, m.g10, m.g01, m.g11 = m.g00+b.g00, m.g10+b.g10, m.g01+b.g01, m.g11+b.g11
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

// coupling is what two segments do to each other: the moments of the vector potential, directions and
// ground counted, and the integral of the scalar potential.
type coupling struct {
	vector moments
	charge complex128
}

// turned is the coupling seen from the other segment.
func (c coupling) turned() coupling {
	c.vector.g10, c.vector.g01 = c.vector.g01, c.vector.g10
	return c
}

// fill makes the symmetrical matrix of the rooftops' mutual impedances, without lumped elements.
func (g mesh) fill(ctx context.Context, m Model, f float64) ([][]complex128, error) {
	n, k := len(g.roofs), 2*math.Pi*f/numeric.Light
	// First every pair of segments once, then every pair of rooftops from theirs: no two write to one place,
	// and the same model gives the same bits.
	pairs, err := g.pairs(ctx, m, f, k)
	if err != nil {
		return nil, err
	}
	own := make([]complex128, len(g.segs)) // impedance of a segment's metal and jacket, in ohms a metre
	for i, sg := range g.segs {
		own[i] = m.Wires[sg.wire].metal(f) + complex(0, 2*math.Pi*f*sg.induct)
	}
	inductive := complex(0, k*numeric.Eta0/(4*math.Pi))
	capacitive := complex(0, -numeric.Eta0/(4*math.Pi*k))
	z := make([][]complex128, n)
	store := make([]complex128, n*n)
	for i := range z {
		z[i] = store[i*n : (i+1)*n]
	}
	err = numeric.Share(ctx, n, func(i int) {
		for j := 0; j <= i; j++ {
			var sum complex128
			for _, a := range g.roofs[i] {
				for _, b := range g.roofs[j] {
					c := between(pairs, a.seg, b.seg)
					sa, sb := &g.segs[a.seg], &g.segs[b.seg]
					sum += inductive*complex(a.sign*b.sign, 0)*c.vector.with(a.atEnd, b.atEnd) +
						capacitive*complex(slope(a, sa)*slope(b, sb), 0)*c.charge
					if a.seg == b.seg && own[a.seg] != 0 {
						share := 1.0 / 6
						if a.atEnd == b.atEnd {
							share = 1.0 / 3
						}
						sum += own[a.seg] * complex(sa.h*share*a.sign*b.sign*sa.share(), 0)
					}
				}
			}
			z[i][j] = sum
		}
	})
	if err != nil {
		return nil, err
	}
	for i := range z {
		for j := range i {
			z[j][i] = z[i][j]
		}
	}
	return z, nil
}

// between is the coupling of two segments, of which each pair is kept once.
func between(pairs [][]coupling, a, b int) coupling {
	if a <= b {
		return pairs[a][b-a]
	}
	return pairs[b][a-b].turned()
}

// pairs couples every segment with itself and those behind it, with what the ground adds.
func (g mesh) pairs(ctx context.Context, m Model, f, k float64) ([][]coupling, error) {
	table, err := m.table(ctx, f)
	if err != nil {
		return nil, err
	}
	segs := len(g.segs)
	pairs := make([][]coupling, segs)
	return pairs, numeric.Share(ctx, segs, func(p int) {
		sp := &g.segs[p]
		row := make([]coupling, segs-p)
		for q := p; q < segs; q++ {
			if q%256 == 0 && ctx.Err() != nil {
				return
			}
			row[q-p] = g.coupled(table, m.Ground, sp, &g.segs[q], k)
		}
		pairs[p] = row
	})
}

// coupled is the coupling of two segments with all their equals. Of as many equals as the other has it is enough to
// take one of them.
func (g mesh) coupled(table *earth.Table, ground string, p, q *segment, k float64) coupling {
	if p.round == nil && q.round == nil {
		return g.couple(table, ground, p, q, k)
	}
	ps, qs := p.each(), q.each()
	share := p.share() * q.share()
	if len(ps) == len(qs) {
		ps, share = ps[:1], q.share()
	}
	var sum coupling
	for i := range ps {
		for j := range qs {
			c := g.couple(table, ground, &ps[i], &qs[j], k)
			sum.vector.add(c.vector)
			sum.charge += c.charge
		}
	}
	return coupling{sum.vector.times(complex(share, 0)), sum.charge * complex(share, 0)}
}

// couple is the coupling of one segment with one other.
func (g mesh) couple(table *earth.Table, ground string, p, q *segment, k float64) coupling {
	v := pair(p, q, k)
	c := coupling{v.times(complex(p.u.dot(q.u), 0)), v.g00}
	switch {
	case ground == Perfect || g.earthed:
		im := *q
		im.from, im.to, im.u = q.from.mirrored(), q.to.mirrored(), q.u.mirrored()
		// The image's current runs against the mirrored direction, its charge is opposite.
		v = pair(p, &im, k)
		c.vector.add(v.times(complex(-p.u.dot(im.u), 0)))
		c.charge -= v.g00
	case table != nil:
		v, charge := overGround(table, p, q, k)
		c.vector.add(v)
		c.charge += charge
	}
	return c
}

// table is what a real ground adds at f hertz, nil without one.
func (m Model) table(ctx context.Context, f float64) (*earth.Table, error) {
	switch {
	case m.Ground != Real:
		return nil, nil
	case m.Tables != nil:
		return m.Tables.At(ctx, m.Earth, f)
	}
	return m.Earth.At(f).Table(ctx)
}

// overGround integrates what a real ground adds over two segments: the vector potential along p of the
// current along q, and the scalar potential. Far from the image one or two points do. Where it is nearer, what the
// ground does at rest is an image and integrated as one, and the rest of it is smooth.
func overGround(t *earth.Table, p, q *segment, k float64) (vector moments, charge complex128) {
	image := (p.from[2] + p.to[2] + q.from[2] + q.to[2]) / 2
	d := p.from.add(p.to).sub(q.from).sub(q.to).scale(0.5)
	apart := math.Sqrt(d[0]*d[0] + d[1]*d[1] + image*image)
	g := pairing{p: p, q: q, level: p.u[0]*q.u[0] + p.u[1]*q.u[1], upright: p.u[2] * q.u[2],
		tilted: p.u[2]*math.Hypot(q.u[0], q.u[1]) != 0 || q.u[2]*math.Hypot(p.u[0], p.u[1]) != 0}
	points := func(h float64) numeric.Rule {
		switch {
		case apart > 10*h:
			return gauss1
		case apart > 3*h:
			return gauss2
		}
		return gauss3
	}
	px, qx := points(p.h), points(q.h)
	if apart > 3*math.Max(p.h, q.h) {
		g.over(px, qx, 1, 1, t.At)
		return g.vector, g.charge
	}
	// The rest changes over a wavelength in the soil, which may be shorter than a segment.
	steep := t.Soil() / 2.5
	if apart > math.Max(p.h, q.h) {
		steep /= 3
	}
	smooth := func(h float64) int { return min(12, max(1, int(math.Ceil(h*steep)))) }
	g.over(px, qx, smooth(p.h), smooth(q.h), t.Rest)
	im := *q
	im.from, im.to, im.u = q.from.mirrored(), q.to.mirrored(), q.u.mirrored()
	still := pairOf(p, &im, k, 0).times(t.Still())
	g.vector.add(still.times(complex(2*g.upright, 0)))
	g.charge -= still.g00
	if g.tilted {
		pieces := func(h float64) int { return min(12, max(1, int(math.Ceil(h/apart*1.5)))) }
		g.over(gauss3, gauss3, pieces(p.h), pieces(q.h), func(rho, height float64) earth.Kernel {
			r := math.Sqrt(rho*rho + height*height)
			sin, cos := math.Sincos(-k * r)
			return earth.Kernel{ZX: -t.Still() * complex(rho/(r+height), 0) * complex(cos/r, sin/r)}
		})
	}
	return g.vector, g.charge
}

// pairing is two segments over a ground, and what is summed of it between them.
type pairing struct {
	p, q           *segment
	level, upright float64 // products of their directions
	tilted         bool    // that one's level part meets the other's upright one
	vector         moments
	charge         complex128
}

// over adds a kernel by a rule on so many pieces of each.
func (g *pairing) over(px, qx numeric.Rule, np, nq int, kernel func(rho, height float64) earth.Kernel) {
	p, q := g.p, g.q
	for i := range np {
		for a, x0 := range px.X {
			x := (float64(i) + x0) / float64(np)
			r := p.from.to(p.to, x)
			for j := range nq {
				for b, y0 := range qx.X {
					y := (float64(j) + y0) / float64(nq)
					s := q.from.to(q.to, y)
					dx, dy := r[0]-s[0], r[1]-s[1]
					rho := math.Sqrt(dx*dx + dy*dy)
					k := kernel(rho, r[2]+s[2])
					w := complex(px.W[a]*qx.W[b]*p.h*q.h/float64(np*nq), 0)
					v := complex(g.level, 0)*k.XX + complex(g.upright, 0)*k.ZZ
					if rho > 0 && g.tilted {
						cross := p.u[2]*(q.u[0]*dx+q.u[1]*dy) - (p.u[0]*dx+p.u[1]*dy)*q.u[2]
						v += complex(cross/rho, 0) * k.ZX
					}
					v *= w
					g.vector.g00 += v
					g.vector.g10 += v * complex(x, 0)
					g.vector.g01 += v * complex(y, 0)
					g.vector.g11 += v * complex(x*y, 0)
					g.charge += k.Charge * w
				}
			}
		}
	}
}
