package moment

import (
	"fmt"
	"math"
	"sort"

	"reed/core/circuit"
	"reed/core/numeric"
)

// segment is a piece of wire on which the current is linear.
type segment struct {
	from, to Vec
	u        Vec // unit direction
	h, a     float64
	wire     int
	induct   float64 // henries per metre, of the jacket
	// at are the points of the rules of one to four points along it, one rule after another.
	at [10]Vec
	// round are it and its equals all round, each with the same share of its current; nil where it is alone.
	round []segment
}

// points are those of a rule of so many, of at most four.
func (s *segment) points(n int) []Vec {
	first := n * (n - 1) / 2
	return s.at[first : first+n]
}

// along is a point of a rule on so many pieces, at x of the whole.
func (s *segment) along(pieces int, rule numeric.Rule, point int, x float64) Vec {
	if pieces == 1 && len(rule.X) <= len(rules) {
		return s.points(len(rule.X))[point]
	}
	return s.from.to(s.to, x)
}

// placed is a segment with its points.
func (s segment) placed() segment {
	for i, rule := range rules {
		for k, x := range rule.X {
			s.points(i + 1)[k] = s.from.to(s.to, x)
		}
	}
	return s
}

// each are it and its equals.
func (s *segment) each() []segment {
	if s.round == nil {
		return []segment{*s}
	}
	return s.round
}

// mirrored is its image in the ground.
func (s segment) mirrored() segment {
	s.from, s.to, s.u = s.from.mirrored(), s.to.mirrored(), s.u.mirrored()
	for i := range s.at {
		s.at[i] = s.at[i].mirrored()
	}
	return s
}

// share is the part of the current on each of the equals.
func (s *segment) share() float64 { return 1 / float64(max(len(s.round), 1)) }

// turned is a segment turned about the upright through a place.
func (s segment) turned(about Vec, angle float64) segment {
	sin, cos := math.Sincos(angle)
	turn := func(v Vec) Vec { return Vec{cos*v[0] - sin*v[1], sin*v[0] + cos*v[1], v[2]} }
	s.from, s.to, s.u = turn(s.from.sub(about)).add(about), turn(s.to.sub(about)).add(about), turn(s.u)
	return s.placed()
}

// half is one side of a rooftop: it peaks at one end of a segment. sign is +1 where the current goes with
// the segment's direction.
type half struct {
	seg   int
	atEnd bool // peaks at the segment's end, otherwise at its beginning
	sign  float64
}

// end is 0 for the beginning and 1 for the end.
func (h half) end() int {
	if h.atEnd {
		return 1
	}
	return 0
}

// mesh is the model cut into segments, and the rooftops over them.
type mesh struct {
	segs  []segment
	roofs [][]half
	ends  map[int][2]int // first and last segment of each wire
	// contacts are the places where current goes into the ground: what each rooftop carries there. earthed
	// says that a screen is there, so that the fields near are those over perfect ground.
	contacts [][]float64
	earthed  bool
}

// cuts places the ends of the segments of a wire as shares of its length: short towards the fixed places and
// the ends, growing by a ratio of at most two up to the longest segment, at least so many of them. smooth says of both ends that the
// wire goes on there nearly straight, so that nothing crowds.
func cuts(length, longest, shortest float64, least int, fixed []float64, smooth [2]bool) []float64 {
	marks := append([]float64{0, 1}, fixed...)
	sort.Float64s(marks)
	out := []float64{0}
	for i := 1; i < len(marks); i++ {
		a, b := marks[i-1], marks[i]
		span := (b - a) * length
		if span < near {
			continue
		}
		plain := [2]bool{i == 1 && smooth[0], i == len(marks)-1 && smooth[1]}
		n := max(least, int(math.Ceil(span/longest)))
		if plain[0] && plain[1] {
			n = int(math.Ceil(span / longest))
		}
		var steps []float64
		// From each side: shortest, twice that, and so on, while shorter than an even step.
		even := span / float64(n)
		var side []float64
		total := 0.0
		for s := math.Max(shortest, even/16); s < even*0.8 && total+s < span/3; s *= 2 {
			side, total = append(side, s), total+s
		}
		middle := span
		for _, p := range plain {
			if !p {
				middle -= total
			}
		}
		k := int(math.Max(1, math.Ceil(middle/even-1e-9)))
		if !plain[0] {
			steps = append(steps, side...)
		}
		for range k {
			steps = append(steps, middle/float64(k))
		}
		for j := len(side) - 1; j >= 0 && !plain[1]; j-- {
			steps = append(steps, side[j])
		}
		at := a
		for j, s := range steps {
			at += s / length
			if j == len(steps)-1 {
				at = b
			}
			out = append(out, at)
		}
	}
	return out
}

// metal is the impedance of the metal in ohms per metre at f hertz: the resistance of its skin, and the reactance of the
// field inside of it.
func (w Wire) metal(f float64) complex128 {
	if w.Resistivity <= 0 {
		return complex(w.Resistance, 0)
	}
	return complex(w.Resistance, 0) + circuit.InternalImpedance(f, w.Radius, w.Resistivity)
}

// smooth reports of both ends of a wire whether just one other goes on there, within 25 degrees, with no
// source or load at the joint.
func (m Model) smooth(i int) (out [2]bool) {
	w := m.Wires[i]
	along := w.To.sub(w.From)
	for end, at := range []Vec{w.From, w.To} {
		others := 0
		straight := false
		for k, o := range m.Wires {
			if k == i {
				continue
			}
			way := o.To.sub(o.From)
			switch {
			case o.From.sub(at).length() < near:
				if end == 0 {
					way = way.scale(-1)
				}
			case o.To.sub(at).length() < near:
				if end == 1 {
					way = way.scale(-1)
				}
			default:
				continue
			}
			others++
			straight = way.dot(along) > 0.906*way.length()*along.length() && o.Radius == w.Radius
		}
		out[end] = others == 1 && straight && w.round() == 1
		for _, s := range m.spots() {
			if m.Wires[s.Wire].From.to(m.Wires[s.Wire].To, s.At).sub(at).length() < near {
				out[end] = false
			}
		}
	}
	return out
}

func (m Model) density() float64 {
	if m.Density <= 0 {
		return 60
	}
	return m.Density
}

// MostUnknowns is how large a case is solved: so many take about 3 s and 300 MB for one band on two cores.
const MostUnknowns = 1200

// TooLarge says that a case has more unknowns than are solved.
type TooLarge struct{ Unknowns int }

func (e *TooLarge) Error() string {
	return fmt.Sprintf("these wires make about %d unknowns, and at most %d are solved: take fewer or shorter wires, or a lower frequency",
		e.Unknowns, MostUnknowns)
}

// about is how many unknowns a model has at f hertz and a density, roughly.
func (m Model) about(f, density float64) (total float64) {
	for _, w := range m.Wires {
		total += w.To.sub(w.From).length()*f/numeric.Light*density + 2
	}
	return total
}

// meshed cuts a model that was checked, when it is not too large: what it will have is counted before anything is cut.
func meshed(m Model, f float64) (mesh, error) {
	total := m.about(f, m.density())
	if total > 1.5*MostUnknowns {
		return mesh{}, &TooLarge{int(math.Min(total, 1e9))}
	}
	g := build(m, f)
	switch n := len(g.roofs); {
	case n == 0:
		return mesh{}, ErrNoPath
	case n > MostUnknowns:
		return mesh{}, &TooLarge{n}
	}
	return g, nil
}

// build cuts the model for a frequency.
func build(m Model, f float64) mesh {
	g := mesh{ends: map[int][2]int{}}
	var tips []tip
	for i, w := range m.Wires {
		first, last := g.cut(m, f, i)
		g.ends[i] = [2]int{first, last}
		tips = append(tips, tip{w.From, first, false}, tip{w.To, last, true})
	}
	g.join(m, tips)
	return g
}

// tip is an end of a wire.
type tip struct {
	at    Vec
	seg   int
	atEnd bool
}

// into is the half of a rooftop whose current flows into the node at a tip, out the one that flows away from it.
func (t tip) into() half {
	if t.atEnd {
		return half{t.seg, true, 1}
	}
	return half{t.seg, false, -1}
}

func (t tip) out() half { h := t.into(); h.sign = -h.sign; return h }

// cut parts a wire into segments with a rooftop over every two, and returns its first and last one.
func (g *mesh) cut(m Model, f float64, i int) (first, last int) {
	w := m.Wires[i]
	density := m.density()
	length := w.To.sub(w.From).length()
	var fixed []float64
	for _, s := range m.spots() {
		if s.Wire == i && s.At > 1e-9 && s.At < 1-1e-9 {
			fixed = append(fixed, s.At)
		}
	}
	a := w.Radius
	induct := 0.0
	if w.Permittivity > 1 && w.Outer > w.Radius {
		// The jacket: capacitance of the equivalent radius, inductance of the conductor (Wait 1955).
		a = w.Radius * math.Pow(w.Outer/w.Radius, 1-1/w.Permittivity)
		induct = numeric.Mu0 / (2 * math.Pi) * math.Log(a/w.Radius)
	}
	induct += w.Inductance
	list := cuts(length, numeric.Light/f/density, 4*a, max(2, int(density/10)), fixed, m.smooth(i))
	first = len(g.segs)
	for k := 1; k < len(list); k++ {
		p, q := w.From.to(w.To, list[k-1]), w.From.to(w.To, list[k])
		h := q.sub(p).length()
		g.segs = append(g.segs, segment{from: p, to: q, u: q.sub(p).scale(1 / h), h: h, a: a, wire: i, induct: induct}.placed())
		n := len(g.segs) - 1
		if w.round() > 1 {
			var all []segment
			for c := range w.round() {
				all = append(all, g.segs[n].turned(w.About, 2*math.Pi*float64(c)/float64(w.round())))
			}
			g.segs[n].round = all
		}
		if k > 1 {
			g.roofs = append(g.roofs, []half{{n - 1, true, 1}, {n, false, 1}})
		}
	}
	return first, len(g.segs) - 1
}

// join lays the rooftops over junctions: one from the first wire's end to each other one, and one into a perfect ground.
func (g *mesh) join(m Model, tips []tip) {
	used := make([]bool, len(tips))
	var earthed [][]int
	for i, t := range tips {
		if used[i] {
			continue
		}
		joined := []tip{t}
		for k := i + 1; k < len(tips); k++ {
			if !used[k] && tips[k].at.sub(t.at).length() < near {
				used[k] = true
				joined = append(joined, tips[k])
			}
		}
		if m.mirror() && math.Abs(t.at[2]) < near {
			earthed = append(earthed, []int{len(g.roofs), len(g.roofs) + len(joined)})
			for _, j := range joined {
				g.roofs = append(g.roofs, []half{j.into()})
			}
			continue
		}
		for _, j := range joined[1:] {
			g.roofs = append(g.roofs, []half{joined[0].into(), j.out()})
		}
	}
	for _, span := range earthed {
		c := make([]float64, len(g.roofs))
		for r := span[0]; r < span[1]; r++ {
			c[r] = 1
		}
		g.contacts = append(g.contacts, c)
	}
	g.earthed = m.Ground == Real && m.Screen != nil && len(earthed) > 0
}

// spots lists every place on a wire that has to be a node.
func (m Model) spots() (out []Spot) {
	for _, s := range m.Sources {
		out = append(append(out, s.Spot), s.Also...)
	}
	for _, l := range m.Loads {
		out = append(out, l.Spot)
	}
	for _, l := range m.Lines {
		out = append(out, l.A, l.B)
	}
	return out
}

// at is the half-rooftops' weights of a series element at a spot: what each rooftop carries through it,
// counted with the wire's direction. It sits in the segment that begins there, or at the last one's end.
func (g mesh) at(m Model, s Spot) []float64 {
	w := m.Wires[s.Wire]
	place := w.From.to(w.To, s.At)
	seg, atEnd := g.ends[s.Wire][1], true
	for k := g.ends[s.Wire][0]; k <= g.ends[s.Wire][1]; k++ {
		if g.segs[k].from.sub(place).length() < near {
			seg, atEnd = k, false
			break
		}
	}
	out := make([]float64, len(g.roofs))
	for i, r := range g.roofs {
		for _, h := range r {
			if h.seg == seg && h.atEnd == atEnd {
				out[i] += h.sign
			}
		}
	}
	return out
}
