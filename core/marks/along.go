package marks

import (
	"cmp"
	"math"
	"slices"
	"sort"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/entry"
	"reed/core/numeric"
	"reed/core/quantity"
)

// found is a setting of one control for a frequency.
type found struct {
	ok     bool
	value  float64
	sd     float64 // in the control's own measure
	inside bool    // between two marks
	of     int     // marks that it rests on
	lo, hi float64 // the frequencies of the marks around it, 0 where there is none
	short  bool    // the part does not reach so far
}

// point is a mark as the law sees it. The law is that of the antenna with the mark's own other lengths.
type point struct {
	hz, at, x, u float64
	law          antenna.Law
}

// fitted is a control's law with its two constants fitted to marks.
type fitted struct {
	belief *numeric.Belief
	points []point // by rising frequency
}

// held lists the other controls' readings of a mark, by control. A length that the mark does not note is as the antenna was
// then, or as it is.
func (s Set) held(controls []family.Control, c family.Control, m Mark, shape antenna.Shape) map[string]float64 {
	out := map[string]float64{}
	for _, o := range controls {
		if o.ID == c.ID || sections(c, o) {
			continue
		}
		v, ok := reading(o, m)
		if !ok && o.Kind == entry.Length && slices.ContainsFunc(s.Marks, func(x Mark) bool { _, noted := reading(o, x); return noted }) {
			v = antenna.Or(m.Held.Built.M(o.ID), shape.M(o.ID))
			ok = v > 0 && !slices.ContainsFunc(controls, func(x family.Control) bool { return sections(o, x) })
		}
		if ok {
			out[o.ID] = v
		}
	}
	return out
}

// lawOf is the law of a control with the other controls as given, and with all of the part that exists: what the antenna has, or the
// most that a mark has of it.
func (s Set) lawOf(c family.Control, others map[string]float64, shape antenna.Shape) (antenna.Law, bool) {
	law, ok := family.Of(with(shape, others)).Law(c)
	if !ok {
		return law, false
	}
	for _, m := range s.Marks {
		if v, ok := reading(c, m); ok && v <= c.Max {
			law.Hi = math.Max(law.Hi, v)
		}
	}
	return law, true
}

// fit fits the law of a control to the marks whose other controls stand as given, or to all marks where the law holds for any.
func (s Set) fit(c family.Control, others map[string]float64, shape antenna.Shape, hz float64) (out fitted, ok bool) {
	own, ok := s.lawOf(c, others, shape)
	if !ok {
		return out, false
	}
	all := s.Used(shape)
	for _, m := range s.Marks {
		at, ok := reading(c, m)
		if !ok || own.Local && !sameBand(m.Hz, hz) {
			continue
		}
		law, beside := own, s.held(all, c, m, shape)
		if !same(beside, others) {
			if !own.Joint {
				continue
			}
			if law, ok = s.lawOf(c, beside, shape); !ok {
				continue
			}
		}
		if at < law.Lo || at > law.Most(m.Hz) {
			continue
		}
		out.points = append(out.points, point{m.Hz, at, law.Against(m.Hz), law.Of(at, m.Hz), law})
	}
	if len(out.points) == 0 {
		return out, false
	}
	slices.SortStableFunc(out.points, func(a, b point) int { return cmp.Compare(a.hz, b.hz) })
	// Regression: two constants with a Gaussian belief, updated point by point.
	out.belief = numeric.Believe(own.Mean[:], own.Spread[:])
	for _, p := range out.points {
		slope := math.Abs(p.law.Of(p.at+p.law.Read, p.hz) - p.u)
		out.belief.Learn([]float64{1, p.x}, p.u, slope*slope+p.law.Rough*p.law.Rough)
	}
	return out, true
}

// setting returns the setting of a law with the fitted constants at a frequency, and its standard deviation.
func (f fitted) setting(law antenna.Law, hz float64) (value, sd float64) {
	u, v := f.belief.Says([]float64{1, law.Against(hz)})
	value = solve(law, u, hz)
	slope := math.Abs(law.Of(value+law.Read, hz)-law.Of(value, hz)) / law.Read
	return value, math.Hypot(math.Sqrt(v+law.Rough*law.Rough)/math.Max(slope, 1e-12), law.Read)
}

// left is by how much a mark differs from what the fitted law asks for there.
func (f fitted) left(p point) float64 {
	at, _ := f.setting(p.law, p.hz)
	return p.at - at
}

// along finds the setting of one control for a frequency, its range as wide as marks that are held out show.
func (s Set) along(c family.Control, others map[string]float64, shape antenna.Shape, hz float64) found {
	out := s.byLaw(c, others, shape, hz)
	const fewest = 4 // marks, from which one can be held out
	if !out.ok || out.of < fewest {
		return out
	}
	controls := s.Used(shape)
	sum, n := 0.0, 0.0
	for i, m := range s.Marks {
		at, ok := reading(c, m)
		if !ok {
			continue
		}
		rest := s
		rest.Marks = slices.Delete(slices.Clone(s.Marks), i, i+1)
		x := rest.byLaw(c, rest.held(controls, c, m, shape), shape, m.Hz)
		if x.ok && x.inside == out.inside {
			sum, n = sum+math.Pow((at-x.value)/x.sd, 2), n+1
		}
	}
	if n > 1 {
		out.sd *= math.Max(1, math.Sqrt(sum/n))
	}
	return out
}

// byLaw finds the setting of one control by its law fitted to the marks. What the law leaves over at the marks is carried on in
// proportion between them, so that a mark gives itself back.
func (s Set) byLaw(c family.Control, others map[string]float64, shape antenna.Shape, hz float64) found {
	law, ok := s.lawOf(c, others, shape)
	if !ok {
		return found{}
	}
	f, ok := s.fit(c, others, shape, hz)
	if !ok || law.Most(hz) <= law.Lo {
		return found{}
	}
	pts := f.points
	out := found{ok: true, of: len(pts)}
	out.value, out.sd = f.setting(law, hz)
	i := sort.Search(len(pts), func(i int) bool { return pts[i].hz >= hz })
	beyond := func(p point) {
		out.value += f.left(p)
		out.sd = math.Hypot(out.sd, f.left(p)) // how it goes on is not known
	}
	switch {
	case i == len(pts):
		out.lo = pts[i-1].hz
		beyond(pts[i-1])
	case i == 0 && pts[0].hz > hz:
		out.hi = pts[0].hz
		beyond(pts[0])
	case pts[i].hz == hz:
		out.lo, out.hi, out.inside = hz, hz, true
		if p := pts[i]; p.x == law.Against(hz) {
			out.value = p.at
		} else { // a mark of this frequency with another length beside it
			out.value += f.left(p)
			out.sd = math.Hypot(out.sd, f.left(p))
		}
	default:
		a, b := pts[i-1], pts[i]
		t := math.Log(hz/a.hz) / math.Log(b.hz/a.hz)
		out.lo, out.hi, out.inside = a.hz, b.hz, true
		out.value += (1-t)*f.left(a) + t*f.left(b)
		out.sd = math.Hypot(out.sd, math.Sqrt(t*(1-t))*(f.left(a)-f.left(b)))
		if !law.Joint || a.x == law.Against(a.hz) && b.x == law.Against(b.hz) {
			// What rises or falls all the way lies between two marks where they do, give or take what they are read with.
			slack := 0.05*math.Abs(a.at-b.at) + 2*law.Read
			out.value = math.Min(math.Max(out.value, math.Min(a.at, b.at)-slack), math.Max(a.at, b.at)+slack)
		}
	}
	if most := law.Most(hz); out.value > most+2*law.Read || out.value < law.Lo-2*law.Read {
		out.short, out.ok = true, false // so far the part does not go
	}
	out.value = math.Min(math.Max(out.value, law.Lo), law.Most(hz))
	return out
}

// both finds the setting of a control at its end and of a length with it, where the control alone does not reach a frequency: the
// least of a coil with the whip drawn in, or all of the coil with the whip pulled out.
func (s Set) both(c, length family.Control, shape antenna.Shape, hz float64) (out choice, ok bool) {
	closest, ok := s.closest(hz)
	if !ok {
		return out, false
	}
	law, ok := s.lawOf(c, s.held(s.Used(shape), c, closest, shape), shape)
	if !ok || !law.Joint {
		return out, false
	}
	f, ok := s.fit(c, s.held(s.Used(shape), c, closest, shape), shape, hz)
	reach, known := s.lawOf(length, nil, shape)
	if !ok || !known {
		return out, false
	}
	// How much more inductance the law asks for with the length at m than the control has at its end.
	over := func(m, end float64) float64 {
		l, ok := s.lawOf(c, map[string]float64{length.ID: m}, shape)
		if !ok {
			return math.NaN()
		}
		u, _ := f.belief.Says([]float64{1, l.Against(hz)})
		return u - l.Of(end, hz)
	}
	most := math.Min(reach.Hi, c.Max*100)
	for _, end := range []float64{law.Lo, law.Hi} {
		m, found := numeric.Bisect(func(m float64) float64 { return over(m, end) }, reach.Lo, most, 0)
		if !found || math.IsNaN(over(m, end)) {
			continue
		}
		const step = 0.01
		slope := math.Abs(over(m+step, end)-over(m, end)) / step
		l, _ := s.lawOf(c, map[string]float64{length.ID: m}, shape)
		_, v := f.belief.Says([]float64{1, l.Against(hz)})
		sd := math.Hypot(math.Min(math.Sqrt(v+l.Rough*l.Rough)/math.Max(slope, 1e-9), 0.1*m), reach.Read)
		out = choice{how: "beyond", moved: length.ID, values: map[string]float64{c.ID: end, length.ID: m}, sd: sd, of: len(f.points),
			lo: f.points[0].hz, hi: f.points[len(f.points)-1].hz, mark: closest}
		if end == law.Lo {
			out.values[c.ID] = 0
		}
		if hz > out.hi {
			out.lo = 0
		} else if hz < out.lo {
			out.hi = 0
		}
		return out, true
	}
	return out, false
}

// with puts readings of lengths into the shape, so that a law sees them.
func with(shape antenna.Shape, readings map[string]float64) antenna.Shape {
	for _, c := range family.Of(shape).Controls() {
		if v, ok := readings[c.ID]; ok && c.Kind == entry.Length {
			shape = shape.With(c.ID, quantity.Metres(v))
		}
	}
	return shape
}

// sameBand reports whether two frequencies are so near that a dial's law may be taken as even.
func sameBand(a, b float64) bool { return math.Abs(math.Log(a/b)) < 0.06 }

// same reports whether other controls stand alike, to what is read off a dial or a tape.
func same(a, b map[string]float64) bool {
	if len(a) != len(b) {
		return false
	}
	for k, v := range a {
		w, ok := b[k]
		if !ok || math.Abs(v-w) > 0.004*math.Max(math.Abs(v), 1e-9)+1e-9 {
			return false
		}
	}
	return true
}

// solve inverts a law by bisection: the setting whose Of is u, or the end that comes nearest to it.
func solve(law antenna.Law, u, hz float64) float64 {
	off := func(at float64) float64 { return law.Of(at, hz) - u }
	most := law.Most(hz)
	if at, ok := numeric.Bisect(off, law.Lo, most, 0); ok {
		return at
	}
	if math.Abs(off(law.Lo)) < math.Abs(off(most)) {
		return law.Lo
	}
	return most * 1.2 // further than it goes
}
