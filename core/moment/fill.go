package moment

import (
	"context"
	"math"

	"gonum.org/v1/gonum/blas/cblas128"

	"reed/core/moment/earth"
	"reed/core/numeric"
)

// Gauss-Legendre rules on 0 to 1, by their number of points.
var (
	rules                                  = [4]numeric.Rule{gauss1, gauss2, gauss3, gauss4}
	gauss1, gauss2, gauss3, gauss4, gauss8 = numeric.Legendre(1), numeric.Legendre(2), numeric.Legendre(3), numeric.Legendre(4),
		numeric.Legendre(8)
)

// moments are the double integrals over two segments of the kernel times 1, x, x' and x x', where x and
// x' run from 0 to 1 along each.
type moments struct{ g00, g10, g01, g11 complex128 }

// most is for how many frequencies the couplings are worked out at a time.
const most = earth.Most

// waves are wave numbers in 1/m, evenly apart.
type waves struct {
	first, step float64
	n           int
}

// wavesOf are those of frequencies in hertz.
func wavesOf(all []float64) waves {
	w := waves{first: 2 * math.Pi * all[0] / numeric.Light, n: len(all)}
	if len(all) > 1 {
		w.step = 2 * math.Pi * (all[1] - all[0]) / numeric.Light
	}
	return w
}

// turns is exp(-jkd) of the first, and by what it turns from each to the next.
func (w waves) turns(d float64) (first, step complex128) {
	sin, cos := math.Sincos(-w.first * d)
	first = complex(cos, sin)
	if w.n > 1 {
		sin, cos = math.Sincos(-w.step * d)
		step = complex(cos, sin)
	}
	return first, step
}

// place is a distance near which phases are worked out: exp(-jkd) there of the first wave number, and by what it turns to the
// next.
type place struct {
	waves
	d           float64
	first, step complex128
}

func (w waves) near(d float64) place {
	first, step := w.turns(d)
	return place{w, d, first, step}
}

// turns is that at a distance nearby.
func (p *place) turns(d float64) (first, step complex128) {
	off := p.d - d
	return p.first * little(p.waves.first*off), p.step * little(p.waves.step*off)
}

// little is exp(jx) of a small angle: within 1e-8 up to 0.4, and 1e-5 up to 1.
func little(x float64) complex128 {
	x2 := x * x
	return complex(1-x2/2*(1-x2/12*(1-x2/30)), x*(1-x2/6*(1-x2/20*(1-x2/42))))
}

// pair integrates exp(-jkR)/R over two segments, R with the larger radius in it (thin-wire kernel). Near
// ones have their static part integrated exactly along the source and finely along the observer.
func pair(p, q *segment, k waves, out *[most]moments) { pairOf(p, q, k, math.Max(p.a, q.a), out) }

// pairOf is that with a radius of its own.
func pairOf(p, q *segment, k waves, a float64, out *[most]moments) {
	*out = [most]moments{}
	mid := p.from.add(p.to).scale(0.5).sub(q.from.add(q.to).scale(0.5)).length()
	at := k.near(mid)
	switch {
	case mid > 8*(p.h+q.h):
		quadrature(p, q, &at, a, 2, out)
	case mid > 2.5*(p.h+q.h):
		quadrature(p, q, &at, a, 3, out)
	case mid > 1.1*(p.h+q.h):
		quadrature(p, q, &at, a, 4, out)
	default:
		// From both sides, so that the order of the wires does not matter.
		var back [most]moments
		exactly(p, q, &at, a, out)
		exactly(q, p, &at, a, &back)
		for i := range k.n {
			m, back := &out[i], &back[i]
			*m = moments{(m.g00 + back.g00) / 2, (m.g10 + back.g01) / 2, (m.g01 + back.g10) / 2, (m.g11 + back.g11) / 2}
		}
	}
}

// exactly integrates the static part in closed form along q.
func exactly(p, q *segment, k *place, a float64, out *[most]moments) {
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
			var c0, c1 [most]complex128
			for n := range k.n {
				c0[n], c1[n] = complex(flat, 0), complex(slope, 0)
			}
			// The rest is smooth.
			for j, y := range gauss3.X {
				dist := math.Sqrt((y*q.h-s0)*(y*q.h-s0) + rho2)
				e, step := k.turns(dist)
				w := complex(gauss3.W[j]*q.h/dist, 0)
				for n := range k.n {
					rest := (e - 1) * w
					e *= step
					c0[n] += rest
					c1[n] += rest * complex(y, 0)
				}
			}
			for n := range k.n {
				m := &out[n]
				c0, c1 := c0[n]*complex(w*p.h, 0), c1[n]*complex(w*p.h, 0)
				m.g00 += c0
				m.g01 += c1
				m.g10 += c0 * complex(x, 0)
				m.g11 += c1 * complex(x, 0)
			}
		}
	}
}

// quadrature integrates by a rule of so many points along both.
func quadrature(p, q *segment, k *place, a float64, n int, out *[most]moments) {
	rule, from, to := &rules[n-1], q.points(n), p.points(n)
	for i, r := range to {
		for j := range from {
			d := r.sub(from[j])
			dist := math.Sqrt(d.dot(d) + a*a)
			g, step := k.turns(dist)
			g *= complex(rule.W[i]*rule.W[j]*p.h*q.h/dist, 0)
			for n := range k.n {
				out[n].take(g, rule.X[i], rule.X[j])
				g *= step
			}
		}
	}
}

// take adds a kernel at x and y along both.
func (m *moments) take(g complex128, x, y float64) {
	m.g00 += g
	m.g10 += g * complex(x, 0)
	m.g01 += g * complex(y, 0)
	m.g11 += g * complex(x*y, 0)
}

func (m moments) times(c complex128) moments {
	return moments{m.g00 * c, m.g10 * c, m.g01 * c, m.g11 * c}
}

func (m *moments) add(b moments) {
	m.g00, m.g10, m.g01, m.g11 = m.g00+b.g00, m.g10+b.g10, m.g01+b.g01, m.g11+b.g11
}

// coupling holds the interaction of two segments: the moments of the vector potential, directions and
// ground counted, and the integral of the scalar potential.
type coupling struct {
	vector moments
	charge complex128
}

// ends are the mutual impedances of currents that rise to the beginning or the end of either segment.
func (c *coupling) ends(inductive, capacitive complex128) [2][2]complex128 {
	v, charge := c.vector.times(inductive), c.charge*capacitive
	begin, end := v.g10-v.g11, v.g01-v.g11
	return [2][2]complex128{{v.g00 - v.g10 - end + charge, end - charge}, {begin - charge, v.g11 + charge}}
}

// fill makes the symmetrical matrices of the rooftops' mutual impedances, without lumped elements, at frequencies evenly
// apart: as many at a time as their sums may take memory.
func (g mesh) fill(ctx context.Context, m Model, all ...float64) ([][][]complex128, error) {
	const large = 500 // segments
	if len(all) > 1 && len(g.segs) > large {
		var out [][][]complex128
		for _, f := range all {
			one, err := g.fill(ctx, m, f)
			if err != nil {
				return nil, err
			}
			out = append(out, one...)
		}
		return out, nil
	}
	// First every pair of segments once, then every rooftop from what its segments do to all: no two write to one place,
	// and the same model gives the same bits.
	sums, err := g.sums(ctx, m, all)
	if err != nil {
		return nil, err
	}
	out := make([][][]complex128, len(all))
	for i := range all {
		if out[i], err = g.rooftops(ctx, sums, i); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// sums are, by segment and frequency, what currents that rise to either of its ends do to the rooftops from the first on
// that is not wholly on segments before it: their parts there, and half of that on itself.
type sums []struct {
	first int
	by    [most][2][]complex128
}

// peak is a rooftop with a half on a segment: whether its current runs against that.
type peak struct {
	roof    int
	against bool
}

// peaks are the rooftops that peak at the beginning and the end of each segment.
func (g mesh) peaks() [][2][]peak {
	out := make([][2][]peak, len(g.segs))
	for i, r := range g.roofs {
		for _, h := range r {
			end := &out[h.seg][h.end()]
			*end = append(*end, peak{i, h.sign < 0})
		}
	}
	return out
}

// rooftops makes the matrix of a frequency from the sums of the segments. What two rooftops do to each other is what the
// segments of each do to those behind them of the other.
func (g mesh) rooftops(ctx context.Context, from sums, f int) ([][]complex128, error) {
	n := len(g.roofs)
	z := make([][]complex128, n)
	store := make([]complex128, n*n)
	for i := range z {
		z[i] = store[i*n : (i+1)*n]
	}
	if err := numeric.Share(ctx, n, func(i int) {
		for _, h := range g.roofs[i] {
			s := &from[h.seg]
			put(z[i][s.first:], s.by[f][h.end()], h.sign < 0)
		}
	}); err != nil {
		return nil, err
	}
	for i := range z {
		for j := range i {
			both := z[i][j] + z[j][i]
			z[i][j], z[j][i] = both, both
		}
		z[i][i] *= 2
	}
	return z, nil
}

// put adds numbers or takes them away.
func put(to, from []complex128, away bool) {
	by := complex128(1)
	if away {
		by = -1
	}
	cblas128.Axpy(by, cblas128.Vector{N: len(from), Inc: 1, Data: from}, cblas128.Vector{N: len(from), Inc: 1, Data: to})
}

// sums couples every segment with itself and those behind it, with what the ground adds, at all frequencies.
func (g mesh) sums(ctx context.Context, m Model, all []float64) (sums, error) {
	table, err := m.table(ctx, all...)
	if err != nil {
		return nil, err
	}
	even, err := g.evens(ctx, wavesOf(all))
	if err != nil {
		return nil, err
	}
	segs, peaks, own := len(g.segs), g.peaks(), g.own(m, all)
	var inductive, capacitive [most]complex128
	for i, f := range all {
		k := 2 * math.Pi * f / numeric.Light
		inductive[i], capacitive[i] = complex(0, k*numeric.Eta0/(4*math.Pi)), complex(0, -numeric.Eta0/(4*math.Pi*k))
	}
	out := make(sums, segs)
	first := len(g.roofs)
	for p := segs - 1; p >= 0; p-- {
		for _, end := range peaks[p] {
			for _, at := range end {
				first = min(first, at.roof)
			}
		}
		out[p].first = first
	}
	return out, numeric.Share(ctx, segs, func(p int) {
		c := coupler{table, m.Ground == Perfect || g.earthed, wavesOf(all), new(earth.Kernels)}
		sp, alike, to := &g.segs[p], even[p], &out[p]
		n := len(g.roofs) - to.first
		store := make([]complex128, len(all)*2*n)
		for i := range all {
			to.by[i] = [2][]complex128{store[2*i*n : (2*i+1)*n], store[(2*i+1)*n : (2*i+2)*n]}
		}
		var both [most]coupling
		for q := p; q < segs; q++ {
			if q%256 == 0 && ctx.Err() != nil {
				return
			}
			var direct *[most]moments
			if q-p < len(alike) {
				direct = &alike[q-p]
			}
			sq := &g.segs[q]
			c.coupled(sp, sq, direct, &both)
			scale := complex(1/(sp.h*sq.h), 0)
			for i := range all {
				e := both[i].ends(inductive[i], capacitive[i]*scale)
				if p == q {
					o := own[i][p] / 6
					e = [2][2]complex128{{e[0][0]/2 + o, (e[0][1] + o) / 2}, {(e[1][0] + o) / 2, e[1][1]/2 + o}}
				}
				for b, ends := range peaks[q] {
					for _, at := range ends {
						j := at.roof - to.first
						if at.against {
							to.by[i][0][j] -= e[0][b]
							to.by[i][1][j] -= e[1][b]
						} else {
							to.by[i][0][j] += e[0][b]
							to.by[i][1][j] += e[1][b]
						}
					}
				}
			}
		}
	})
}

// own is the impedance of every segment's metal and jacket in ohms, for the share of current that it carries, by frequency.
func (g mesh) own(m Model, all []float64) [][]complex128 {
	out := make([][]complex128, len(all))
	for n, f := range all {
		out[n] = make([]complex128, len(g.segs))
		metal := make([]complex128, len(m.Wires))
		for i, w := range m.Wires {
			metal[i] = w.metal(f)
		}
		for i := range g.segs {
			sg := &g.segs[i]
			out[n][i] = (metal[sg.wire] + complex(0, 2*math.Pi*f*sg.induct)) * complex(sg.h*sg.share(), 0)
		}
	}
	return out
}

// evens are, by segment, what it does through the air to itself and those behind it on a wire that is cut evenly from there
// on: that depends on how far apart they are alone, and is worked out once for all.
func (g mesh) evens(ctx context.Context, k waves) ([][][most]moments, error) {
	out := make([][][most]moments, len(g.segs))
	type span struct{ from, to int }
	var spans []span
	for n := 0; n < len(g.segs); {
		end := n + 1
		for a := &g.segs[n]; end < len(g.segs) && a.round == nil; end++ {
			if b := &g.segs[end]; b.wire != a.wire || math.Abs(b.h-a.h) > 1e-9*a.h {
				break
			}
		}
		if end-n > 2 {
			spans = append(spans, span{n, end})
		}
		n = end
	}
	for _, s := range spans {
		apart := make([][most]moments, s.to-s.from)
		err := numeric.Share(ctx, len(apart), func(i int) { pair(&g.segs[s.from], &g.segs[s.from+i], k, &apart[i]) })
		if err != nil {
			return nil, err
		}
		for p := s.from; p < s.to; p++ {
			out[p] = apart[:s.to-p]
		}
	}
	return out, nil
}

// coupler couples segments at some frequencies: over what a real ground adds, or with images in a perfect one.
type coupler struct {
	table  *earth.Table // nil without
	images bool
	k      waves
	read   *earth.Kernels // room to read the table in
}

// coupled is the coupling of two segments with all their equals, with what they do through the air where that is known. Of
// as many equals as the other has it is enough to take one of them.
func (c coupler) coupled(p, q *segment, direct *[most]moments, out *[most]coupling) {
	*out = [most]coupling{}
	if p.round == nil && q.round == nil {
		c.couple(p, q, direct, out)
		return
	}
	ps, qs := p.each(), q.each()
	share := p.share() * q.share()
	if len(ps) == len(qs) {
		ps, share = ps[:1], q.share()
	}
	for i := range ps {
		for j := range qs {
			c.couple(&ps[i], &qs[j], nil, out)
		}
	}
	for i := range c.k.n {
		out[i] = coupling{out[i].vector.times(complex(share, 0)), out[i].charge * complex(share, 0)}
	}
}

// couple adds the coupling of one segment with one other.
func (c coupler) couple(p, q *segment, direct *[most]moments, out *[most]coupling) {
	var v [most]moments
	if direct == nil {
		pair(p, q, c.k, &v)
		direct = &v
	}
	along := complex(p.u.dot(q.u), 0)
	for i := range c.k.n {
		out[i].vector.add(direct[i].times(along))
		out[i].charge += direct[i].g00
	}
	switch {
	case c.images:
		im := q.mirrored()
		// The image's current runs against the mirrored direction, its charge is opposite.
		pair(p, &im, c.k, &v)
		against := complex(-p.u.dot(im.u), 0)
		for i := range c.k.n {
			out[i].vector.add(v[i].times(against))
			out[i].charge -= v[i].g00
		}
	case c.table != nil:
		c.overGround(p, q, out)
	}
}

// table returns the table of a real ground at frequencies in hertz, nil without one.
func (m Model) table(ctx context.Context, all ...float64) (*earth.Table, error) {
	switch {
	case m.Ground != Real:
		return nil, nil
	case m.Tables != nil:
		return m.Tables.At(ctx, m.Earth, all...)
	}
	return m.Earth.Table(ctx, all...)
}

// overGround integrates what a real ground adds over two segments: the vector potential along p of the
// current along q, and the scalar potential. Far from the image one or two points do. Where it is nearer, what the
// ground does at rest is an image and integrated as one, and the rest of it is smooth.
func (c coupler) overGround(p, q *segment, out *[most]coupling) {
	image := (p.from[2] + p.to[2] + q.from[2] + q.to[2]) / 2
	d := p.from.add(p.to).sub(q.from).sub(q.to).scale(0.5)
	apart := math.Sqrt(d[0]*d[0] + d[1]*d[1] + image*image)
	t := c.table
	g := crossing{t: t, k: c.k, kernels: c.read, p: p, q: q, along: p.u[0]*q.u[0] + p.u[1]*q.u[1], upright: p.u[2] * q.u[2],
		level: p.u[2] == 0 && q.u[2] == 0, out: out}
	g.tilted = p.u[2]*math.Hypot(q.u[0], q.u[1]) != 0 || q.u[2]*math.Hypot(p.u[0], p.u[1]) != 0
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
	longest := math.Max(p.h, q.h)
	if apart > 3*longest {
		g.over(px, qx, 1, 1, whole)
		return
	}
	// The rest changes over a wavelength in the soil, which may be shorter than a segment.
	steep := t.Soil() / 2.5
	if apart > longest {
		steep /= 3
	}
	smooth := func(h float64) int { return min(12, max(1, int(math.Ceil(h*steep)))) }
	g.over(px, qx, smooth(p.h), smooth(q.h), rest)
	im := q.mirrored()
	var v [most]moments
	pairOf(p, &im, c.k, 0, &v)
	for i, still := range t.Still() {
		v := v[i].times(still)
		out[i].vector.add(v.times(complex(2*g.upright, 0)))
		out[i].charge -= v.g00
	}
	if g.tilted {
		pieces := func(h float64) int { return min(12, max(1, int(math.Ceil(h/apart*1.5)))) }
		g.over(gauss3, gauss3, pieces(p.h), pieces(q.h), tilt)
	}
}

// crossing is two segments over a ground, and what is summed of it between them.
type crossing struct {
	t              *earth.Table
	k              waves
	p, q           *segment
	along, upright float64 // products of their directions, level and upright parts
	level          bool    // both lie level
	tilted         bool    // that one's level part meets the other's upright one
	kernels        *earth.Kernels
	out            *[most]coupling
}

// Which kernels are summed: all of them, all but what they are at rest, or what ZX is at rest.
const (
	whole = iota
	rest
	tilt
)

// read reads kernels at a horizontal distance and a sum of heights.
func (g *crossing) read(which int, rho, height float64) {
	switch which {
	case whole:
		g.t.All(rho, height, g.level, g.kernels)
	case rest:
		g.t.Rest(rho, height, g.level, g.kernels)
	case tilt:
		r := math.Sqrt(rho*rho + height*height)
		e, step := g.k.turns(r)
		e *= complex(-rho/(r+height)/r, 0)
		for i, still := range g.t.Still() {
			g.kernels.At[i] = earth.Kernel{ZX: still * e}
			e *= step
		}
	}
}

// over adds kernels by a rule on so many pieces of each.
func (g *crossing) over(px, qx numeric.Rule, np, nq, which int) {
	p, q := g.p, g.q
	for i := range np {
		for a, x0 := range px.X {
			x := (float64(i) + x0) / float64(np)
			r := p.along(np, px, a, x)
			for j := range nq {
				for b, y0 := range qx.X {
					y := (float64(j) + y0) / float64(nq)
					s := q.along(nq, qx, b, y)
					dx, dy := r[0]-s[0], r[1]-s[1]
					rho := math.Sqrt(dx*dx + dy*dy)
					g.read(which, rho, r[2]+s[2])
					w := px.W[a] * qx.W[b] * p.h * q.h / float64(np*nq)
					cross := 0.0
					if rho > 0 && g.tilted {
						cross = w * (p.u[2]*(q.u[0]*dx+q.u[1]*dy) - (p.u[0]*dx+p.u[1]*dy)*q.u[2]) / rho
					}
					along, upright := complex(w*g.along, 0), complex(w*g.upright, 0)
					for n := range g.k.n {
						k, out := &g.kernels.At[n], &g.out[n]
						v := along * k.XX
						if !g.level {
							v += upright*k.ZZ + complex(cross, 0)*k.ZX
						}
						out.vector.take(v, x, y)
						out.charge += k.Charge * complex(w, 0)
					}
				}
			}
		}
	}
}
