package trim

import (
	"context"
	"math"
	"math/cmplx"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/sweep"
	"reed/core/twin"
)

// How well a dip is known, as the standard deviation of its logarithm.
const (
	searched = 0.002 // somebody searched for the lowest SWR
	taken    = 0.006 // one reading that is taken for the lowest
	compared = 0.010 // beyond which a dip follows by comparison with the modelled curve alone
)

// observed is the estimate of a band's dip from its readings. F is the dip in hertz, 0 where it is not known, and sure the standard
// deviation of its logarithm. Sparse says that it is known by few readings, note how it follows from them where no sweep shows it.
type observed struct {
	reading sweep.Reading
	f, sure float64
	sparse  bool
	left    bool // it is good enough as it is
	note    *phrase.Read
}

// good reports whether the band was read to be good all over one's own segments.
func (o observed) good() bool {
	const whole = 99.5
	return o.f > 0 && o.reading.Coverage >= whole && o.reading.Known()
}

// fine reports whether few readings say that the SWR is good enough where it is wanted.
func (o observed) fine(wanted, limit float64) bool {
	return o.f > 0 && o.sparse && o.reading.Single && o.reading.MinSWR <= limit && math.Abs(o.reading.MinAt/wanted-1) < 0.003
}

// observe says where the dip of a band is by the readings of one raise, wanted at a frequency in hertz. A sweep shows it; of
// single readings, and of those that fall to an edge, it follows by comparison with the modelled curve.
func (x Subject) observe(ctx context.Context, e *twin.Engine, s Swept, b band.Band, wanted float64) (observed, error) {
	var out observed
	var points []sweep.Point
	lo, hi, _ := sweep.Window(x.Region, b.Name)
	for i := len(s.Feeds) - 1; i >= 0; i-- {
		r, ok := sweep.Read(s.Feeds[i], x.Region, b, band.Own(x.Segments, b.Name), x.Limit)
		if !ok {
			continue
		}
		if !r.Metered && !r.Single && !r.AtEdge {
			return observed{reading: r, f: r.MinAt, sure: reading}, nil
		}
		if out.reading.Points == 0 {
			out.reading, out.sparse = r, true
		}
		points = append(points, s.Feeds[i].Points(lo, hi)...)
	}
	if len(points) == 0 {
		return out, nil
	}
	r := out.reading
	if r.Searched {
		out.f, out.sure = r.MinAt, searched
		return out, nil
	}
	if sure, ok := curved(points); ok && !r.AtEdge {
		out.f, out.sure = r.MinAt, sure
		return out, nil
	}
	fit, err := x.compare(ctx, e, s, thinned(points), r.Role, wanted)
	if err != nil {
		return out, err
	}
	out.note = &phrase.Read{Band: band.Said(b.Name), SWR: r.MinSWR, At: r.MinAt, Readings: len(points)}
	switch {
	case fit.role == sweep.Searched:
		out.f, out.sure, out.note.How = r.MinAt, taken, phrase.Taken
	case fit.ok && fit.split:
		out.note.How, out.note.Next = phrase.EitherSide, x.next(r, fit.dip)
	case fit.ok:
		out.f, out.sure, out.note.How = fit.dip, math.Max(fit.sure, reading), phrase.Compared
		out.note.Dip = fit.dip
		out.note.Range = [2]float64{fit.dip * math.Exp(-1.96*out.sure), fit.dip * math.Exp(1.96*out.sure)}
		out.note.AsModelled = math.Abs(math.Log(fit.dip/fit.model)) < math.Max(0.003, out.sure)
		out.note.Next = x.next(r, fit.dip)
	case r.Single || r.AtEdge:
		out.note.How = phrase.Unlike
	default:
		out.f, out.sure, out.note = r.MinAt, taken, nil
	}
	return out, nil
}

// curved is how far the lowest of a few readings may be off the dip, as a share of it, where readings to both sides are higher:
// by how far they are apart, and by how clearly they rise against the tenth that a meter is read to. ok is false otherwise.
func curved(points []sweep.Point) (sure float64, ok bool) {
	low := 0
	for i, p := range points {
		if i > 0 && p.F <= points[i-1].F {
			return 0, false // of several lists
		}
		if p.SWR < points[low].SWR {
			low = i
		}
	}
	if low == 0 || low == len(points)-1 {
		return 0, false
	}
	const tenth, least = 0.06, 0.15
	a, m, z := points[low-1], points[low], points[low+1]
	rise := math.Min(a.SWR, z.SWR) - m.SWR
	if rise < tenth/2 {
		return 0, false
	}
	apart := math.Max(m.F-a.F, z.F-m.F) / m.F
	return math.Hypot(searched, apart*math.Max(least, math.Min(1, tenth/rise))), true
}

// next lists where one reads on, in hertz: about where the dip is likely to be, in one's own segments.
func (x Subject) next(r sweep.Reading, dip float64) (out []float64) {
	for _, share := range []float64{-0.004, 0.004} {
		best, far := 0.0, math.Inf(1)
		for _, s := range r.Own {
			f := math.Max(s.Lo, math.Min(s.Hi, dip*(1+share)))
			if off := math.Abs(f - dip*(1+share)); off < far {
				best, far = math.Round(f/5e3)*5e3, off
			}
		}
		if best > 0 && math.Abs(best/r.MinAt-1) > 5e-4 && (len(out) == 0 || math.Abs(best/out[0]-1) > 5e-4) {
			out = append(out, best)
		}
	}
	return out
}

// thinned leaves out points of a sweep that has more than are needed to compare it.
func thinned(points []sweep.Point) []sweep.Point {
	const enough = 24
	if len(points) <= enough {
		return points
	}
	var out []sweep.Point
	for i := range enough {
		out = append(out, points[i*(len(points)-1)/(enough-1)])
	}
	return out
}

// fitted is a modelled curve moved in frequency until it agrees with what was read. ok is false where it agrees nowhere, split
// says that it agrees in two places.
type fitted struct {
	role      string
	dip, sure float64
	model     float64 // the dip before it was moved
	split, ok bool
}

// What is not known of an antenna that is built as recorded, as standard deviations of logarithms: where its dip is, mostly and
// sometimes, for plain wires and for loaded ones, and the resistance.
const (
	mostly, sometimes       = 0.011, 0.04
	loaded                  = 2.2 // times as much
	oftener                 = 0.75
	resistance              = 0.22
	independent             = 6   // readings of one curve that count as such
	poor                    = 9.0 // misfit squared beyond which a curve is another
	likelyLowest            = 0.6 // that a single reading of which nothing is known is the lowest that was found
	atWanted                = 0.5 // that one which is not was read where it is wanted
	steps                   = 161
	plainReach, loadedReach = 0.12, 0.24
)

var (
	// Of the impedance, in standard deviations of its logarithm.
	scales = []float64{-2.2, -1.6, -1.1, -0.7, -0.35, 0, 0.35, 0.7, 1.1, 1.6, 2.2}
	// Of how broad the dip is against the model.
	widths = []struct{ share, weight float64 }{{0.45, 0.03}, {0.65, 0.08}, {0.82, 0.2}, {1, 0.38}, {1.22, 0.2}, {1.55, 0.08}, {2.2, 0.03}}
	// In series, as shares of the resistance at the dip; of coils and rods more.
	losses = []struct{ share, weight float64 }{{-0.3, 0.08}, {-0.15, 0.14}, {0, 0.3}, {0.12, 0.18}, {0.3, 0.12}, {0.6, 0.1}, {1.2, 0.08}}
)

// compare moves the modelled curve of a set-up until it agrees with readings.
func (x Subject) compare(ctx context.Context, e *twin.Engine, s Swept, points []sweep.Point, role string, wanted float64) (fitted, error) {
	reach, wide := plainReach, 1.0
	if family.Of(s.Built.Shape).Trims() != family.Wired {
		reach, wide = loadedReach, loaded
	}
	lo, hi := wanted, wanted
	for _, p := range points {
		lo, hi = math.Min(lo, p.F), math.Max(hi, p.F)
	}
	z, err := e.Curve(ctx, twin.Setup{Built: s.Built, Ground: x.Ground}, lo*(1-1.4*reach), hi*(1+1.4*reach))
	if ctx.Err() != nil {
		return fitted{}, ctx.Err()
	}
	if err != nil {
		return lone(points, role), nil // of what cannot be solved nothing is compared
	}
	from, to := neighbours(s.Built.All(), wanted)
	dip, ok := deepest(z, math.Max(from, lo*(1-reach)), math.Min(to, hi*(1+reach)))
	if !ok {
		return lone(points, role), nil
	}
	m := likeness{z: z, dip: dip, r: real(z(dip)), points: points, wide: wide, reach: reach}
	here, evidence, best := m.asRead(hi/lo, wanted)
	if len(points) == 1 && role != sweep.JustHere {
		if lowest := m.asLowest(points[0]); likelyLowest*lowest >= (1-likelyLowest)*evidence {
			return fitted{role: sweep.Searched, model: dip}, nil
		}
	}
	here.role, here.model = sweep.JustHere, dip
	here.ok = best/math.Min(independent, float64(len(points))) < poor
	return here, nil
}

// neighbours are half way, as a ratio, from one frequency of an antenna to those beside it: beyond them the dips of other wires are.
func neighbours(all []float64, f float64) (from, to float64) {
	from, to = 0, math.Inf(1)
	for _, g := range all {
		switch half := math.Sqrt(f * g); {
		case g < f*0.98:
			from = math.Max(from, half)
		case g > f*1.02:
			to = math.Min(to, half)
		}
	}
	return from, to
}

// lone returns the dip by readings alone where no model can be compared: one that may be the lowest is taken for it.
func lone(points []sweep.Point, role string) fitted {
	if len(points) == 1 && role != sweep.JustHere {
		return fitted{role: sweep.Searched}
	}
	return fitted{}
}

// deepest is the deepest dip of a modelled curve between two frequencies; what is lower than its surroundings by next to nothing is
// none.
func deepest(z func(float64) complex128, lo, hi float64) (at float64, ok bool) {
	const n, about = 400, 4
	match := func(f float64) float64 { return sq(cmplx.Abs(circuit.Gamma(z(f), sweep.Reference))) }
	h := (hi - lo) / n
	for i := about; i <= n-about; i++ {
		f := lo + h*float64(i)
		m := match(f)
		if m <= match(f-h) && m < match(f+h) && m < match(f-about*h) && m < match(f+about*h) && (!ok || m < match(at)) {
			at, ok = f, true
		}
	}
	if ok {
		at = numeric.Vertex(match, at, h)
	}
	return at, ok
}

// likeness compares a modelled curve that dips at dip, with a resistance of r there, with points.
type likeness struct {
	z           func(float64) complex128
	dip, r      float64
	points      []sweep.Point
	wide, reach float64
}

// before is the density of the dip's shift, in logarithms, before anything was read.
func (m likeness) before(t float64) float64 {
	bell := func(sd float64) float64 { return math.Exp(-t*t/(2*sd*sd)) / sd / math.Sqrt(2*math.Pi) }
	return oftener*bell(mostly*m.wide) + (1-oftener)*bell(sometimes*m.wide)
}

// asRead is the shift of the curve with which it agrees with all points; evidence is how likely they are then, as a density per
// logarithm of frequency for single ones, and best the least sum of squares.
func (m likeness) asRead(spread, wanted float64) (out fitted, evidence, best float64) {
	posterior := make([]float64, steps)
	best = math.Inf(1)
	width := 2 * m.reach / (steps - 1)
	at := func(i int) float64 { return -m.reach + width*float64(i) }
	moved := make([]complex128, len(m.points))
	for i := range posterior {
		t := at(i)
		for _, w := range widths {
			for k, p := range m.points {
				moved[k] = m.z(m.dip + (p.F*math.Exp(-t)-m.dip)/w.share)
			}
			likely, least := m.likely(moved)
			posterior[i] += w.weight * likely
			best = math.Min(best, least)
		}
		posterior[i] *= m.before(t) * width
		evidence += posterior[i]
	}
	if evidence <= 0 {
		return out, 0, best
	}
	mean, square := 0.0, 0.0
	for i, p := range posterior {
		mean += p / evidence * at(i)
	}
	for i, p := range posterior {
		square += p / evidence * sq(at(i)-mean)
	}
	out.dip, out.sure, out.split = m.dip*math.Exp(mean), math.Sqrt(square), m.split(posterior, evidence, at)
	// Where one that is no dip is read: where it is wanted, or anywhere in a band.
	const somewhere = 0.03
	where := (1 - atWanted) / somewhere
	if math.Abs(m.points[0].F/wanted-1) < 0.0015 {
		where += atWanted / 0.003
	}
	return out, evidence * where, best
}

// split reports whether the dip may well lie to either side of a single reading. at is the shift of each cell of its density.
func (m likeness) split(p []float64, total float64, at func(int) float64) bool {
	if len(m.points) > 1 {
		return false
	}
	const unlikely, beside = 0.15, 0.004
	below, above := 0.0, 0.0
	for i := range p {
		switch off := math.Log(m.dip/m.points[0].F) + at(i); {
		case off < -beside:
			below += p[i]
		case off > beside:
			above += p[i]
		}
	}
	return math.Min(below, above) > unlikely*total
}

// asLowest is how likely a reading is as the lowest that somebody found.
func (m likeness) asLowest(p sweep.Point) float64 {
	likely, _ := m.likely([]complex128{m.z(m.dip)})
	return likely * m.before(math.Log(p.F/m.dip))
}

// likely is how likely the readings are beside impedances whose scale and loss are not known, and the least misfit of all.
func (m likeness) likely(z []complex128) (sum, least float64) {
	least = math.Inf(1)
	for _, n := range scales {
		for _, l := range losses {
			off := m.misfit(z, math.Exp(n*resistance), m.wide*l.share*m.r)
			least = math.Min(least, off)
			sum += math.Exp(-off/2) * math.Exp(-n*n/2) * l.weight
		}
	}
	return sum, least
}

// misfit is how far readings are off a curve of which the impedances are scaled and have a resistance added, as a sum of squares
// in standard deviations.
func (m likeness) misfit(z []complex128, scale, series float64) float64 {
	sum := 0.0
	for i, p := range m.points {
		at := z[i]*complex(scale, 0) + complex(series, 0)
		if real(at) <= 0 {
			return 1e6
		}
		g := circuit.Gamma(at, sweep.Reference)
		swr := circuit.SWR(cmplx.Abs(g))
		off := math.Log(math.Min(swr, 60)/p.SWR) / (0.03 + 0.015*p.SWR)
		if p.Over {
			off = math.Min(off, 0)
		}
		sum += off * off
		if p.Phase {
			const sd = 0.25 // of the reflection, whose phase the leads turn
			sum += sq(cmplx.Abs(g-p.Gamma) / sd)
		}
	}
	return sum * math.Min(1, independent/float64(len(m.points)))
}
