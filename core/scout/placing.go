package scout

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/quantity"
	"reed/core/rigging"
	"reed/core/site"
)

// footprint holds an antenna's needs of space and supports, in its own frame: x along it, y across.
type footprint struct {
	supports []support
	wires    []run
	stakes   []antenna.Point
	fence    []antenna.Line
	feed     antenna.Point
}

// support is something that holds, so high in metres; run is a straight piece of wire or string.
type support struct {
	x, y, high float64
}

type run struct {
	from, to antenna.Point
	radiates bool
	holds    bool // what hangs on it
}

// least is the height in metres from which on a pole counts as one, and lay that up to which a wire lies on the ground.
const (
	leastPole = 1.2
	lay       = 0.15
)

func footprintOf(d antenna.Drawing) (out footprint) {
	out.feed = d.Feed
	for _, l := range d.Lines {
		switch l.Role {
		case "pole":
			if h := math.Max(l.From[2], l.To[2]); h > leastPole {
				out.supports = append(out.supports, support{l.From[0], l.From[1], h})
			}
		case "fence":
			out.fence = append(out.fence, l)
		case "string":
			out.wires = append(out.wires, run{l.From, l.To, false, false})
			out.stakes = append(out.stakes, l.To)
		case "radiator", "loop":
			out.wires = append(out.wires, run{l.From, l.To, true, true})
		default:
			out.wires = append(out.wires, run{l.From, l.To, false, true})
		}
	}
	return out
}

// holdEnds adds a support wherever a wire hangs up with nothing to hold it there: a flat wire has two, and so has every corner.
func (f *footprint) holdEnds() {
	for i, w := range f.wires {
		for end, p := range []antenna.Point{w.from, w.to} {
			other := []antenna.Point{w.to, w.from}[end]
			falls := p[2] < other[2]-0.3
			if falls && level(w.from, w.to) < joint {
				continue // it hangs straight down, free
			}
			if w.radiates && p[2] > leastPole && !f.held(p, other, i, falls) {
				f.supports = append(f.supports, support{p[0], p[1], p[2]})
			}
		}
	}
}

// joint is within how many metres two ends are one.
const joint = 0.7

// level is how far apart two points are over the ground, in metres.
func level(a, b antenna.Point) float64 { return math.Hypot(a[0]-b[0], a[1]-b[1]) }

// held reports whether the end p of a wire that comes from another point is held there: by a support, by a wire that goes up from there,
// or by one that pulls the other way. Where the wire falls to its end, a string or wire that leads on holds it too.
func (f *footprint) held(p, from antenna.Point, wire int, falls bool) bool {
	for _, s := range f.supports {
		if level(p, antenna.Point{s.x, s.y}) < joint {
			return true
		}
	}
	for i, w := range f.wires {
		for end, at := range []antenna.Point{w.from, w.to} {
			if i == wire || level(p, at) >= joint || math.Abs(p[2]-at[2]) >= joint {
				continue
			}
			on := []antenna.Point{w.to, w.from}[end]
			switch {
			case falls && level(w.from, w.to) >= joint:
				return true
			case w.holds && on[2] > at[2]+joint:
				return true
			case w.holds && on[2] > at[2]-joint && opposite(p, from, on):
				return true
			}
		}
	}
	return false
}

// opposite reports whether two wires pull at p against each other: those that meet at a corner do not.
func opposite(p, a, b antenna.Point) bool {
	la, lb := level(p, a), level(p, b)
	if la < 0.1 || lb < 0.1 {
		return false
	}
	return ((a[0]-p[0])*(b[0]-p[0])+(a[1]-p[1])*(b[1]-p[1]))/(la*lb) < -0.9
}

// spreaders is how far in metres the arms must reach from the mast that hold a beam's corners.
func (f footprint) spreaders() (out float64) {
	x, y := f.origin()
	for _, w := range f.wires {
		for _, p := range []antenna.Point{w.from, w.to} {
			out = math.Max(out, math.Hypot(p[0]-x, p[1]-y))
		}
	}
	return out
}

// pieces is how many pieces of wire and string are handled: the many sides of a round loop are one.
func (f footprint) pieces() float64 {
	n, short := 0.0, 0.0
	for _, w := range f.wires {
		if math.Hypot(level(w.from, w.to), w.from[2]-w.to[2]) < 0.6 {
			short = 1
		} else {
			n++
		}
	}
	return n + short
}

// high is how high the tallest support stands, in metres.
func (f footprint) high() (out float64) {
	for _, s := range f.supports {
		out = math.Max(out, s.high)
	}
	return out
}

// origin is the point that is put at a station: the foot of the tallest support, or the feed.
func (f footprint) origin() (x, y float64) {
	x, y = f.feed[0], f.feed[1]
	best := 0.0
	for _, s := range f.supports {
		if s.high > best {
			x, y, best = s.x, s.y, s.high
		}
	}
	return x, y
}

// long reports whether it has a direction: it is longer than it is wide, or the other way round.
func (f footprint) long() bool {
	a, b := f.sizes()
	return a > 1.3*b || b > 1.3*a
}

// square is the ground in square metres that it takes: its length by its width, a metre at least.
func (f footprint) square() float64 {
	a, b := f.sizes()
	return math.Max(1, a) * math.Max(1, b)
}

// sizes are how long and how wide it is, in metres.
func (f footprint) sizes() (long, wide float64) {
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for _, w := range f.wires {
		for _, p := range []antenna.Point{w.from, w.to} {
			for i := range lo {
				lo[i], hi[i] = math.Min(lo[i], p[i]), math.Max(hi[i], p[i])
			}
		}
	}
	if math.IsInf(lo[0], 1) {
		return 0, 0
	}
	return hi[0] - lo[0], hi[1] - lo[1]
}

// Placement is where an antenna stands: the foot of its pole, or its feed, and the bearing of its long axis.
type Placement struct {
	At       site.Spot `json:"at"`
	Says     string    `json:"says"`
	Bearing  float64   `json:"bearing"`
	Support  string    `json:"support"` // what holds it: pole, or the name of what stands there
	Poles    int       `json:"poles"`
	Stakes   int       `json:"stakes"`
	Lines    []Laid    `json:"lines"`
	Feed     site.Spot `json:"feed"`
	FallM    float64   `json:"fall_m"` // the greatest distance from the feed within which anything may fall
	Clear    float64   `json:"clear_m"`
	LowEnds  int       `json:"low_ends"`
	Warnings []string  `json:"warnings,omitempty"`
	// Falls are where what stands may come down, wires and all.
	Falls []Circle `json:"falls"`
	// SagM is how far the longest level wire hangs through in the middle.
	SagM  float64 `json:"sag_m"`
	spare float64 // metres by which the nearest overhead line is beyond reach and margin
}

// Circle is so many metres about a spot.
type Circle struct {
	At site.Spot `json:"at"`
	M  float64   `json:"m"`
}

// Laid is a line of the antenna on the site: both ends, and their heights in metres.
type Laid struct {
	Role  string    `json:"role"`
	From  site.Spot `json:"from"`
	To    site.Spot `json:"to"`
	FromM float64   `json:"from_m"`
	ToM   float64   `json:"to_m"`
}

// Obstacles, in the order in which they are looked at.
const (
	tooSmall   = "space"
	underLine  = "power-line"
	noHolder   = "holder"
	noStakes   = "stakes"
	overPath   = "path"
	inWater    = "water"
	inBuilding = "building"
	inClosed   = "closed"
	noFence    = "fence"
)

// Margins of power lines: a tenth of what may fall, and three metres, since its wires sag and sway and spark across.
const (
	lineShare  = 1.1
	lineMargin = 3.0
	beyond     = 12.0 // metres of string from a wire's end to what holds it
	beside     = 1.0  // metres by which it may hang beside its line
	strapped   = 0.7  // metres from a thing to what is strapped to it
)

// laying is one try: a station, a bearing, and what came of it.
type laying struct {
	at      site.Spot
	bearing float64
	holder  int // thing that holds the first support, -1 for a pole
	value   float64
	cause   string
	lack    float64 // metres by which it fails
}

// ground is a site made ready for many tries.
type ground struct {
	m                                                          site.Map
	wet                                                        bool // the outing meets high water
	poles                                                      int
	limited                                                    bool // by a bag
	units                                                      quantity.System
	lo, hi                                                     site.Spot
	areas, lines, houses, paths, wets, fences, holders, straps []site.Thing
	closed                                                     []site.Thing // where nothing may stand or be tied
	metal                                                      []site.Thing
	foot                                                       *site.Spot // where the first support has to stand
}

// sorted puts the site's things by what they matter for.
func (g *ground) sorted() {
	m := g.m
	g.areas, g.lines, g.houses, g.paths = m.Of(site.Area), m.Of(site.PowerLine), m.Of(site.Building), m.Of(site.Path)
	g.wets, g.fences = m.Of(site.Wet), m.Of(site.Fence)
	for _, t := range m.Things {
		k, _ := site.KindNamed(t.Kind)
		if t.IsMetal() {
			g.metal = append(g.metal, t)
		}
		if k.Closed {
			g.closed = append(g.closed, t)
		}
		switch {
		case t.Kind == site.Tree && m.Rules.NoTrees:
		case k.Holds:
			g.holders = append(g.holders, t)
		case k.Straps:
			g.straps = append(g.straps, t)
		}
	}
}

// world puts a point of the antenna's frame on the site.
func (l laying) world(f footprint, p antenna.Point) site.Spot {
	x0, y0 := f.origin()
	return l.at.Toward(l.bearing, p[0]-x0).Toward(l.bearing-90, p[1]-y0)
}

// try looks whether a laying fits; cause says why it does not, and lack by how many metres.
func (g ground) try(x *candidate, l laying) laying {
	l.cause = ""
	fail := func(cause string, lack float64) bool {
		if l.cause == "" && lack > 0 {
			l.cause, l.lack = cause, lack
		}
		return l.cause != ""
	}
	if len(x.foot.fence) > 0 && fail(noFence, g.fenceLack(x, l)) {
		return l
	}
	if fail(tooSmall, g.outside(x, l)) || fail(underLine, g.underLine(x, l)) || fail(inBuilding, g.inBuilding(x, l)) {
		return l
	}
	if g.wet && fail(inWater, standsIn(g.wets, x, l)) || fail(inClosed, standsIn(g.closed, x, l)) {
		return l
	}
	if fail(noHolder, g.unheld(x, &l)) || fail(noStakes, g.unstaked(x, l)) || fail(overPath, g.overPath(x, l)) {
		return l
	}
	return l
}

// points are all places of it that touch or hang over the ground.
func (x *candidate) points() (out []antenna.Point) {
	for _, s := range x.foot.supports {
		out = append(out, antenna.Point{s.x, s.y, s.high})
	}
	for _, w := range x.foot.wires {
		out = append(out, w.from, w.to)
	}
	return append(out, x.foot.feed)
}

// outside is how far it reaches out of the usable area.
func (g ground) outside(x *candidate, l laying) (most float64) {
	for _, p := range x.points() {
		most = math.Max(most, g.m.Outside(l.world(x.foot, p)))
	}
	if most > 0 {
		return most
	}
	for _, a := range g.areas {
		for _, w := range x.foot.wires {
			from, to := l.world(x.foot, w.from), l.world(x.foot, w.to)
			for i := range a.Points {
				if _, ok := site.Cross(from, to, a.Points[i], a.Points[(i+1)%len(a.Points)]); ok && !g.m.Allows(mid(from, to)) {
					return math.Max(0.1, g.m.Outside(mid(from, to))) // over a bight of the edge
				}
			}
		}
	}
	return 0
}

func mid(a, b site.Spot) site.Spot { return site.Spot{(a[0] + b[0]) / 2, (a[1] + b[1]) / 2} }

// reach is how far from its foot a support may bring something down: itself, or the longest wire that hangs on it.
func (x *candidate) reach(s support) float64 {
	out := s.high
	for _, w := range x.foot.wires {
		for i, p := range []antenna.Point{w.from, w.to} {
			if math.Hypot(p[0]-s.x, p[1]-s.y) < 0.5 && p[2] > lay {
				other := []antenna.Point{w.to, w.from}[i]
				out = math.Max(out, math.Sqrt(math.Pow(p[0]-other[0], 2)+math.Pow(p[1]-other[1], 2)+math.Pow(p[2]-other[2], 2)))
			}
		}
	}
	return out
}

// underLine is how much nearer an overhead line is than it may be: whatever stands falls its height to any side, and a
// wire that comes loose swings its length about what still holds it.
func (g ground) underLine(x *candidate, l laying) float64 { return math.Max(0, -g.spare(x, l)) }

// spare is by how many metres every overhead line is farther than it has to be from whatever of a laying may fall or swing there;
// negative where one is too near, without bound where there is none.
func (g ground) spare(x *candidate, l laying) float64 {
	least := math.Inf(1)
	for _, t := range g.lines {
		near := func(p antenna.Point, reach float64) {
			least = math.Min(least, t.Apart(l.world(x.foot, p))-lineShare*reach-lineMargin)
		}
		for _, s := range x.foot.supports {
			near(antenna.Point{s.x, s.y}, x.reach(s))
		}
		for _, w := range x.foot.wires {
			near(w.from, w.from[2])
			near(w.to, w.to[2])
			from, to := l.world(x.foot, w.from), l.world(x.foot, w.to)
			for i := 1; i < len(t.Points); i++ {
				high := math.Max(w.from[2], w.to[2])
				least = math.Min(least, site.Between(from, to, t.Points[i-1], t.Points[i])-lineShare*high-lineMargin)
			}
		}
		near(x.foot.feed, x.foot.feed[2])
	}
	return least
}

func (g ground) inBuilding(x *candidate, l laying) float64 {
	for _, t := range g.houses {
		for _, p := range x.points() {
			if site.Contains(t.Points, l.world(x.foot, p)) {
				return 1
			}
		}
		for _, w := range x.foot.wires {
			from, to := l.world(x.foot, w.from), l.world(x.foot, w.to)
			for i := range t.Points {
				if share, ok := site.Cross(from, to, t.Points[i], t.Points[(i+1)%len(t.Points)]); ok &&
					antenna.Between(w.from, w.to, share)[2] < t.Height()+1 {
					return 1
				}
			}
		}
	}
	return 0
}

// standsIn is above 0 where something stands or is tied within one of some areas.
func standsIn(areas []site.Thing, x *candidate, l laying) float64 {
	in := func(p antenna.Point) bool {
		for _, t := range areas {
			if site.Contains(t.Points, l.world(x.foot, p)) {
				return true
			}
		}
		return false
	}
	for _, s := range x.foot.supports {
		if in(antenna.Point{s.x, s.y}) {
			return 1
		}
	}
	for _, p := range append([]antenna.Point{x.foot.feed}, x.foot.stakes...) {
		if in(p) {
			return 1
		}
	}
	return 0
}

// unheld is how much height its supports lack where they stand. The first stands at the station.
func (g ground) unheld(x *candidate, l *laying) (most float64) {
	poles := 0
	for i, s := range x.foot.supports {
		held, first := g.heldAt(x, *l, i)
		if held >= s.high-1e-6 {
			continue
		}
		if poles++; first && x.tree > 0 || g.limited && poles > g.poles {
			most = math.Max(most, s.high-held)
		}
	}
	return most
}

// heldAt returns up to which height in metres the site itself holds a support of an antenna, and whether it is the first one, which
// stands at the station.
func (g ground) heldAt(x *candidate, l laying, i int) (held float64, first bool) {
	s := x.foot.supports[i]
	held = g.holds(l.world(x.foot, antenna.Point{s.x, s.y}))
	ox, oy := x.foot.origin()
	first = math.Hypot(s.x-ox, s.y-oy) < 0.01
	switch {
	case !first:
		held = math.Max(held, g.holdsBeyond(l, x.foot, i))
	case l.holder >= 0:
		held = math.Max(held, g.m.Things[l.holder].Height()-treeSlack)
	}
	return held, first
}

// polesOf is the number of supports that are poles.
func (g ground) polesOf(x *candidate, l laying) (n int) {
	for i, s := range x.foot.supports {
		if held, _ := g.heldAt(x, l, i); held < s.high-1e-6 {
			n++
		}
	}
	return n
}

// holds is how high something at a spot can be tied to what stands there.
func (g ground) holds(at site.Spot) (high float64) {
	for _, t := range g.holders {
		if t.Apart(at) <= beside {
			high = math.Max(high, t.Height()-treeSlack)
		}
	}
	return high
}

// holdsBeyond is how high what stands on a line beyond a support can hold it by a string.
func (g ground) holdsBeyond(l laying, f footprint, i int) (high float64) {
	at := l.world(f, antenna.Point{f.supports[i].x, f.supports[i].y})
	way := math.Atan2(at[0]-l.at[0], at[1]-l.at[1]) * 180 / math.Pi
	for _, t := range g.holders {
		off := site.Spot{t.Points[0][0] - at[0], t.Points[0][1] - at[1]}
		m, b := math.Hypot(off[0], off[1]), math.Atan2(off[0], off[1])*180/math.Pi
		turn := (b - way) * math.Pi / 180
		if along := m * math.Cos(turn); along >= -beside && along <= beyond && math.Abs(m*math.Sin(turn)) <= beside+0.1*math.Max(along, 0) {
			high = math.Max(high, t.Height()-treeSlack)
		}
	}
	return high
}

// tied reports whether something stands so near that a string, or a pole's foot, can be tied to it.
func (g ground) tied(at site.Spot, within float64) bool {
	near := func(t site.Thing) bool { return t.Apart(at) <= within }
	return slices.ContainsFunc(g.holders, near) || slices.ContainsFunc(g.straps, near)
}

// staked are the places that need a stake, guyed the poles that nothing holds.
func (g ground) staked(x *candidate, l laying) (stakes, guyed int) {
	for _, p := range x.foot.stakes {
		if !g.tied(l.world(x.foot, p), beside) {
			stakes++
		}
	}
	for i, s := range x.foot.supports {
		at := l.world(x.foot, antenna.Point{s.x, s.y})
		if held, _ := g.heldAt(x, l, i); held < s.high-1e-6 && !g.tied(at, strapped) {
			guyed++
		}
	}
	return stakes, guyed
}

func (g ground) unstaked(x *candidate, l laying) float64 {
	if !g.m.Rules.NoStakes {
		return 0
	}
	stakes, guyed := g.staked(x, l)
	return float64(stakes + guyed)
}

// overPath is how much too low something hangs over a path.
func (g ground) overPath(x *candidate, l laying) (most float64) {
	for _, t := range g.paths {
		half := t.Wide / 2
		if half == 0 {
			k, _ := site.KindNamed(site.Path)
			half = k.Wide / 2
		}
		for _, w := range x.foot.wires {
			// Sampled, since a path has a width.
			for share := 0.0; share <= 1; share += 0.05 {
				p := antenna.Between(w.from, w.to, share)
				if t.Apart(l.world(x.foot, p)) <= half {
					most = math.Max(most, rigging.HeadClearance-(p[2]-4*share*(1-share)*x.sag(w)))
				}
			}
		}
		for _, s := range x.foot.supports {
			if t.Apart(l.world(x.foot, antenna.Point{s.x, s.y})) <= half {
				most = math.Max(most, rigging.HeadClearance)
			}
		}
	}
	return most
}

// pull is the force in newtons that a thin wire is tied with by hand.
const pull = 30.0

// sag is how far a wire hangs through in the middle, in metres; what stands upright does not.
func (x *candidate) sag(w run) float64 {
	if !w.radiates {
		return 0
	}
	return rigging.Sag(math.Hypot(w.to[0]-w.from[0], w.to[1]-w.from[1]), x.built.Conductor().Grams, pull)
}

// fenceLack is how much of a wire along a fence has none beside it.
func (g ground) fenceLack(x *candidate, l laying) float64 {
	most := 0.0
	for _, f := range x.foot.fence {
		for _, p := range []antenna.Point{f.From, antenna.Between(f.From, f.To, 0.5), f.To} {
			least := math.Inf(1)
			for _, t := range g.fences {
				least = math.Min(least, t.Apart(l.world(x.foot, p)))
			}
			most = math.Max(most, least-beside)
		}
	}
	return math.Min(most, 1e4)
}

// stations are where the first support or the feed may stand: a grid over the area, and what holds or can be strapped to.
func (g ground) stations(x *candidate) (out []laying) {
	add := func(at site.Spot, holder int) { out = append(out, laying{at: at, holder: holder}) }
	if g.foot != nil {
		for i, t := range g.m.Things {
			if k, _ := site.KindNamed(t.Kind); k.Holds && t.Apart(*g.foot) <= beside && (t.Kind != site.Tree || !g.m.Rules.NoTrees) {
				add(t.Points[0], i)
			}
		}
		if x.tree == 0 {
			add(*g.foot, -1)
		}
		return out
	}
	for i, t := range g.m.Things {
		k, _ := site.KindNamed(t.Kind)
		switch {
		case t.Kind == site.Tree && g.m.Rules.NoTrees:
		case k.Holds:
			add(t.Points[0], i)
			add(t.Points[0].Toward(0, 0.5), -1)
		case k.Straps:
			for j, p := range t.Points {
				add(p, -1)
				if j > 0 {
					add(mid(t.Points[j-1], p), -1)
				}
			}
		}
	}
	if x.tree > 0 {
		return out
	}
	const n = 9
	for i := range n {
		for j := range n {
			at := site.Spot{g.lo[0] + (g.hi[0]-g.lo[0])*(float64(i)+0.5)/n, g.lo[1] + (g.hi[1]-g.lo[1])*(float64(j)+0.5)/n}
			if g.m.Allows(at) {
				add(at, -1)
			}
		}
	}
	return out
}

// bearings are those that are tried from a station: steps of the compass, and towards whatever may hold the other end.
func (g ground) bearings(l laying) (out []float64) {
	for b := 0.0; b < 360; b += 10 {
		out = append(out, b)
	}
	for _, t := range g.m.Things {
		k, _ := site.KindNamed(t.Kind)
		if !k.Holds && !k.Straps || t.Apart(l.at) < 1 {
			continue
		}
		for _, p := range t.Points {
			b := math.Atan2(p[0]-l.at[0], p[1]-l.at[1]) * 180 / math.Pi
			out = append(out, b, b+180)
		}
	}
	return out
}

// turns is the number of bearings that are tried.
const turns = 72

// sought is the result of a search: the best placing by bearing, or the one that fails by least.
type sought struct {
	by    [turns]*laying
	fails laying
	fits  bool
}

// search tries a candidate at stations and bearings, in steps, and keeps the best of each bearing by taste alone.
func (g ground) search(ctx context.Context, x *candidate) (out sought) {
	fails := map[string]laying{}
	for _, s := range g.stations(x) {
		if ctx.Err() != nil {
			return out
		}
		for _, b := range g.bearings(s) {
			s.bearing = math.Mod(b+720, 360)
			l := g.try(x, s)
			if l.cause != "" {
				if f, ok := fails[l.cause]; !ok || l.lack < f.lack {
					fails[l.cause] = l
				}
				continue
			}
			l.value, out.fits = g.taste(x, l), true
			if at := &out.by[turn(l.bearing)]; *at == nil || l.value > (*at).value {
				*at = &l
			}
		}
	}
	// The reason given is the last obstacle: the one that remains where all others are out of the way.
	for _, cause := range []string{overPath, noStakes, noHolder, inWater, inClosed, inBuilding, underLine, tooSmall, noFence} {
		if f, ok := fails[cause]; ok {
			out.fails = f
			return out
		}
	}
	out.fails.cause = noHolder // there is no station at all
	return out
}

func turn(bearing float64) int { return int(math.Round(bearing/360*turns)) % turns }

// best returns the placing of the highest value, moved in halving steps while it improves; value is the worth of a bearing
// in decibels.
func (g ground) best(x *candidate, s sought, value func(turn int) float64) laying {
	var best laying
	best.value = math.Inf(-1)
	look := func(l laying) {
		if l = g.try(x, l); l.cause == "" {
			if l.value = value(turn(l.bearing)) + g.taste(x, l); l.value > best.value {
				best = l
			}
		}
	}
	for _, l := range s.by {
		if l != nil {
			look(*l)
		}
	}
	step, by := math.Max(g.hi[0]-g.lo[0], g.hi[1]-g.lo[1])/18, 5.0
	for range 4 {
		at := best
		for _, d := range [][3]float64{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}} {
			l := at
			if (l.holder >= 0 || g.foot != nil) && d[2] == 0 {
				continue
			}
			l.at = site.Spot{l.at[0] + d[0]*step, l.at[1] + d[1]*step}
			l.bearing = math.Mod(l.bearing+d[2]*by+360, 360)
			look(l)
		}
		step, by = step/2, by/2
	}
	return best
}

// taste prefers, among layings that send alike, those clear of metal, paths and the edge.
func (g ground) taste(x *candidate, l laying) float64 {
	out := 0.0
	for _, t := range g.metal {
		for _, w := range x.foot.wires {
			if w.radiates {
				d := math.Min(t.Apart(l.world(x.foot, w.from)), t.Apart(l.world(x.foot, w.to)))
				out -= math.Max(0, 1-d/3)
			}
		}
	}
	for _, t := range g.lines {
		out += math.Min(0.3, 0.01*t.Apart(l.at))
	}
	stakes, guyed := g.staked(x, l)
	return out - 0.05*float64(stakes+guyed)
}

// placed is a laying in full.
func (g ground) placed(x *candidate, l laying) *Placement {
	p := &Placement{At: l.at, Falls: []Circle{}, Bearing: math.Round(l.bearing), Support: "pole", Feed: l.world(x.foot, x.foot.feed),
		FallM:   rigging.FallRadius(x.drawing),
		LowEnds: rigging.LowEnds(x.drawing), Clear: math.Inf(1)}
	for _, line := range x.drawing.Lines {
		p.Lines = append(p.Lines, Laid{line.Role, l.world(x.foot, line.From), l.world(x.foot, line.To), line.From[2], line.To[2]})
	}
	switch {
	case l.holder >= 0:
		p.Support = g.m.Things[l.holder].Says()
	case len(x.foot.supports) == 0:
		p.Support = ""
	default:
		for _, t := range g.m.Things {
			k, _ := site.KindNamed(t.Kind)
			if (k.Straps || k.Holds) && t.Apart(l.at) <= strapped {
				p.Support = "pole strapped to the " + t.Says()
			}
		}
	}
	p.Poles = g.polesOf(x, l)
	for _, s := range x.foot.supports {
		p.Falls = append(p.Falls, Circle{l.world(x.foot, antenna.Point{s.x, s.y}), math.Ceil(lineShare*x.reach(s)*10) / 10})
	}
	for _, w := range x.foot.wires {
		p.SagM = math.Max(p.SagM, math.Round(100*x.sag(w))/100)
	}
	stakes, guyed := g.staked(x, l)
	p.Stakes = stakes + 3*guyed
	for _, t := range g.lines {
		p.Clear = math.Min(p.Clear, t.Apart(l.at))
	}
	if math.IsInf(p.Clear, 1) {
		p.Clear = 0
	} else {
		p.spare = g.spare(x, l)
	}
	m, b := l.at.Polar()
	where := "here"
	if m > 0.5 {
		where = fmt.Sprintf("%s at %s", g.units.Whole(m), degrees(b))
		if m < 3 {
			where = fmt.Sprintf("%s at %s", g.units.Rough(m), degrees(b))
		}
	}
	p.Says = "foot " + where
	if x.foot.long() {
		p.Says += ", along " + degrees(l.bearing)
	}
	if p.SagM >= 0.05 {
		p.Warnings = append(p.Warnings, fmt.Sprintf("hangs through %s in the middle, tied with %.0f N", g.units.Rough(p.SagM), pull))
	}
	if p.LowEnds > 0 {
		p.Warnings = append(p.Warnings, fmt.Sprintf("%d low ends or feeds below %s: flag them", p.LowEnds, g.units.Rough(rigging.HeadClearance)))
	}
	return p
}

// stands says in a sentence what is in the way and what would help.
func (g ground) stands(x *candidate, l laying) string {
	long := func(m float64) string { return g.units.Long(math.Ceil(m*10) / 10) }
	switch l.cause {
	case underLine:
		where := "wherever it stands"
		if g.foot != nil {
			where = "where you put its pole"
		}
		return fmt.Sprintf("%s too near to the overhead line, %s: what stands may fall its height and a loose wire swings its "+
			"length, and %s are kept beyond that", long(l.lack), where, g.units.Rough(lineMargin))
	case tooSmall:
		return fmt.Sprintf("%s short of room: the usable area ends there", long(l.lack))
	case noHolder:
		if x.tree > 0 {
			return fmt.Sprintf("no tree or post is high enough where it would fit: %s are lacking", long(l.lack))
		}
		if g.poles == 0 {
			return fmt.Sprintf("it needs a %s pole, which is not in the bag", g.units.Long(x.foot.high()))
		}
		return fmt.Sprintf("it needs %d supports, and there are only %d poles in the bag: %s of height are missing", len(x.foot.supports),
			g.poles, long(l.lack))
	case noStakes:
		return fmt.Sprintf("no stakes are allowed, and %.0f of its poles and ends have nothing else to be tied to", l.lack)
	case overPath:
		return fmt.Sprintf("it would hang over the path %s too low", long(l.lack))
	case inWater:
		return "it would stand where high water comes while you are there"
	case inClosed:
		var names []string
		for _, t := range g.closed {
			if !slices.Contains(names, t.Says()) {
				names = append(names, t.Says())
			}
		}
		return "a pole, an end or the feed would be in the " + strings.Join(names, " or ")
	case inBuilding:
		return "a building stands where it would hang"
	case noFence:
		return "there is no fence long enough"
	}
	return ""
}
