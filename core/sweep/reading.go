package sweep

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/numeric"
)

// Resonance is a frequency at which X is zero. Kind is "series" (X rises) or "parallel" (X falls).
type Resonance struct {
	F    float64 `json:"f"`
	R    float64 `json:"r"`
	Kind string  `json:"kind"`
}

// Width is the span around the lowest SWR in which the SWR stays under Limit. Open says that the sweep
// ends before the curve crosses the limit, so that the true width is larger.
type Width struct {
	Limit float64 `json:"limit"`
	Lo    float64 `json:"lo"`
	Hi    float64 `json:"hi"`
	Hz    float64 `json:"hz"`
	Open  bool    `json:"open"`
}

// Edge is the SWR at one end of an own segment.
type Edge struct {
	F   float64 `json:"f"`
	SWR float64 `json:"swr"`
}

// Reading holds the findings of a curve on one band.
type Reading struct {
	Band       string         `json:"band"`
	Lo         float64        `json:"lo"`
	Hi         float64        `json:"hi"`
	Own        []band.Segment `json:"own"`
	MinSWR     float64        `json:"min_swr"`
	MinAt      float64        `json:"min_at"`
	AtEdge     bool           `json:"at_edge"` // the lowest point is the last one measured
	Metered    bool           `json:"-"`       // by a radio's own meter, inside of what may be transmitted on
	Single     bool           `json:"-"`       // one reading
	Role       string         `json:"-"`       // what is known of a single reading: Searched, JustHere, or nothing
	Searched   bool           `json:"-"`       // somebody searched for the lowest SWR, and found it at MinAt
	InSWR      float64        `json:"in_swr"`  // the lowest inside the band itself, 0 when it was not measured there
	InAt       float64        `json:"in_at"`
	HasZ       bool           `json:"has_z"`
	R          float64        `json:"r"` // at the lowest SWR
	X          float64        `json:"x"`
	Resonances []Resonance    `json:"resonances"`
	Widths     []Width        `json:"widths"`
	Edges      []Edge         `json:"edges"`
	Coverage   float64        `json:"coverage"` // share in per cent of what was measured of the own segments at or under the limit
	Limit      float64        `json:"limit"`
	Measured   float64        `json:"measured"` // share in per cent of the own segments that the sweep reaches
	Missing    [][2]float64   `json:"-"`        // what of them it does not reach, in hertz
	Points     int            `json:"points"`   // measured inside the window
	Quality    []string       `json:"quality"`
}

// matched is an SWR below which a meter shows none.
const matched = 1.05

// Known reports whether enough of the own segments was measured to say what share of them is good.
func (r Reading) Known() bool { return r.Measured >= half }

// Clear reports whether the lowest SWR is a dip that one can go by: inside the sweep and low enough to be one.
func (r Reading) Clear() bool { return !r.AtEdge && r.MinSWR <= 5 }

// Window is the range of frequencies that is read for a band: half way, as a ratio, to its neighbours.
func Window(region band.Region, name string) (lo, hi float64, ok bool) {
	all := band.All(region)
	for i, b := range all {
		if b.Name != name {
			continue
		}
		lo, hi = b.Lo*0.85, b.Hi*1.15
		if i > 0 {
			lo = math.Sqrt(all[i-1].Hi * b.Lo)
		}
		if i+1 < len(all) {
			hi = math.Sqrt(b.Hi * all[i+1].Lo)
		}
		return lo, hi, true
	}
	return 0, 0, false
}

// Across is the sweep of one band that an analyser is asked for: 101 points over it and a tenth to either side, as far as the
// band is read.
func Across(region band.Region, b band.Band) (lo, hi float64, n int) {
	lo, hi, _ = Window(region, b.Name)
	return math.Max(lo, b.Lo*0.9), math.Min(hi, b.Hi*1.1), 101
}

// Everything is the overview sweep that an analyser is asked for: 1 to 60 MHz, every 50 kHz.
func Everything() (lo, hi float64, n int) { return 1e6, 60e6, 1181 }

// Read reads a curve for one band. own are the operator's segments in it, limit the SWR that is good
// enough. ok is false when the sweep has no point in the band's window.
func Read(c Curve, region band.Region, b band.Band, own []band.Segment, limit float64) (r Reading, ok bool) {
	wlo, whi, ok := Window(region, b.Name)
	lo, hi := c.Span()
	lo, hi = math.Max(lo, wlo), math.Min(hi, whi)
	if !ok || hi < lo {
		return Reading{}, false
	}
	r = Reading{Band: b.Name, Lo: b.Lo, Hi: b.Hi, Own: own, Limit: limit, HasZ: c.im != nil}
	if lo, hi, r.Points, ok = c.points(lo, hi); !ok {
		return Reading{}, false // it was read on other bands
	}
	grid := c.grid(lo, hi)
	r.MinAt = c.lowest(grid)
	r.MinSWR = c.SWR(r.MinAt)
	r.AtEdge = r.Points > 0 && (r.MinAt-lo < (hi-lo)*1e-3 || hi-r.MinAt < (hi-lo)*1e-3)
	r.Metered, r.Single = c.metered(), r.Points == 1
	if r.Metered && r.Points > 1 && math.Min(r.MinAt-lo, hi-r.MinAt) < c.step(r.MinAt)/20 {
		// Between so few readings no dip of that breadth is seen: the curve drawn through them overshoots.
		r.AtEdge = true
	}
	if at, ok := c.searched(lo, hi); ok {
		r.MinAt, r.MinSWR, r.AtEdge, r.Searched = at, c.SWR(at), false, true
	}
	if r.Single {
		r.AtEdge, r.Role = false, c.role(r.MinAt)
	}
	if r.MinSWR <= matched {
		r.AtEdge = false // nothing lies lower
	}
	if a, z := math.Max(lo, b.Lo), math.Min(hi, b.Hi); a <= z {
		r.InAt = math.Min(math.Max(r.MinAt, a), z)
		for _, f := range c.grid(a, z) {
			if c.Mag(f) < c.Mag(r.InAt) {
				r.InAt = f
			}
		}
		r.InSWR = c.SWR(r.InAt)
	}
	if g, has := c.Gamma(r.MinAt); has {
		z := circuit.Impedance(g, Reference)
		r.R, r.X = real(z), imag(z)
	}
	r.Resonances = c.resonances(grid)
	for _, l := range []float64{1.5, 2, 3} {
		if r.MinSWR < l {
			r.Widths = append(r.Widths, c.width(r.MinAt, l, grid))
		}
	}
	r.cover(c, lo, hi)
	r.judgeQuality(c)
	return r, true
}

// Axis is the frequencies in hertz at which one band is drawn: the band, half as much again on both
// sides, and as far as the dips lie. The dips themselves are among them, however narrow they are.
func Axis(b band.Band, dips ...float64) []float64 {
	margin := math.Max((b.Hi-b.Lo)*0.5, b.Lo*0.008)
	lo, hi := b.Lo-margin, b.Hi+margin
	for _, d := range dips {
		lo, hi = math.Min(lo, d-margin/2), math.Max(hi, d+margin/2)
	}
	const n = 181
	out := make([]float64, n)
	step := (hi - lo) / (n - 1)
	for i := range out {
		out[i] = lo + step*float64(i)
	}
	for _, d := range dips {
		out = append(out, d-step/4, d, d+step/4)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// grid is fine enough that no dip between two measured points is stepped over.
func (c Curve) grid(lo, hi float64) []float64 {
	out := []float64{lo}
	const fine = 8
	for i := 1; i < len(c.s.F); i++ {
		a, b := c.s.F[i-1], c.s.F[i]
		for k := range fine {
			if f := a + (b-a)*float64(k)/fine; f > lo && f < hi {
				out = append(out, f)
			}
		}
	}
	if hi > lo {
		out = append(out, hi)
	}
	return out
}

// lowest is where a curve reflects least.
func (c Curve) lowest(grid []float64) float64 {
	best := 0
	for i, f := range grid {
		if c.Mag(f) < c.Mag(grid[best]) {
			best = i
		}
	}
	at := refineMin(c.Mag, grid[max(best-1, 0)], grid[min(best+1, len(grid)-1)])
	if c.Mag(grid[best]) < c.Mag(at) {
		at = grid[best]
	}
	return at
}

// Dip is where a curve reflects least between two frequencies, and the span about it in which its reflection stays
// under half way from there to all.
func (c Curve) Dip(lo, hi float64) (at float64, w Width) {
	grid := c.grid(lo, hi)
	at = c.lowest(grid)
	return at, c.width(at, circuit.SWR((1+c.Mag(at))/2), grid)
}

// refineMin is the lowest value between two frequencies, to the hertz.
func refineMin(f func(float64) float64, a, b float64) float64 {
	at, _ := numeric.Golden(func(x float64) (float64, error) { return f(x), nil }, a, b, 1)
	return at
}

// cross is the frequency between two at which f changes sign, to half a hertz.
func cross(f func(float64) float64, a, b float64) float64 {
	at, _ := numeric.Bisect(f, a, b, 0.5)
	return at
}

func (c Curve) resonances(grid []float64) []Resonance {
	if c.im == nil {
		return nil
	}
	var out []Resonance
	// The sign of X is that of the imaginary part of the reflection, which stays finite.
	for i := 1; i < len(grid); i++ {
		a, b := c.im.Predict(grid[i-1]), c.im.Predict(grid[i])
		if (a < 0) == (b < 0) {
			continue
		}
		f := cross(c.im.Predict, grid[i-1], grid[i])
		g, _ := c.Gamma(f)
		kind := "series"
		if a > 0 {
			kind = "parallel"
		}
		out = append(out, Resonance{F: f, R: real(circuit.Impedance(g, Reference)), Kind: kind})
	}
	return out
}

func (c Curve) width(at, limit float64, grid []float64) Width {
	w := Width{Limit: limit, Lo: grid[0], Hi: grid[len(grid)-1]}
	over := func(f float64) float64 { return c.Mag(f) - circuit.Magnitude(limit) }
	openLo, openHi := true, true
	prev := at
	for i := len(grid) - 1; i >= 0; i-- {
		if grid[i] < at {
			if over(grid[i]) >= 0 {
				w.Lo, openLo = cross(over, grid[i], prev), false
				break
			}
			prev = grid[i]
		}
	}
	prev = at
	for _, f := range grid {
		if f > at {
			if over(f) >= 0 {
				w.Hi, openHi = cross(over, prev, f), false
				break
			}
			prev = f
		}
	}
	w.Hz, w.Open = w.Hi-w.Lo, openLo || openHi
	return w
}

func (r *Reading) cover(c Curve, lo, hi float64) {
	var total, reached, good float64
	for _, s := range r.Own {
		total += s.Hi - s.Lo
		r.Edges = append(r.Edges, edgeAt(c, s.Lo, lo, hi)...)
		r.Edges = append(r.Edges, edgeAt(c, s.Hi, lo, hi)...)
		a, b := math.Max(s.Lo, lo), math.Min(s.Hi, hi)
		if b <= a {
			r.Missing = append(r.Missing, [2]float64{s.Lo, s.Hi})
			continue
		}
		for _, gap := range [][2]float64{{s.Lo, a}, {b, s.Hi}} {
			if gap[1]-gap[0] > 1 {
				r.Missing = append(r.Missing, gap)
			}
		}
		reached += b - a
		const n = 500
		step := (b - a) / n
		for i := range n {
			f := a + (float64(i)+0.5)*step
			if c.SWR(f) <= r.Limit {
				good += step
			}
		}
	}
	if total > 0 {
		r.Measured = 100 * reached / total
	}
	if reached > 0 {
		// What was not measured is not bad: it is named instead.
		r.Coverage = math.Min(100, 100*good/reached)
	}
}

func edgeAt(c Curve, f, lo, hi float64) []Edge {
	if f < lo-1 || f > hi+1 {
		return nil
	}
	return []Edge{{F: f, SWR: c.SWR(f)}}
}

func (r *Reading) judgeQuality(c Curve) {
	over := 0.0
	for i := range c.s.F {
		over = math.Max(over, c.s.mag(i))
	}
	switch {
	case over > 1.05:
		r.Quality = append(r.Quality, fmt.Sprintf("reflection of %.2f is more than all: calibrate the analyser and sweep again", over))
	case over > 1.001:
		r.Quality = append(r.Quality, "a few points reflect a little more than all: noise, or an old calibration")
	}
	if c.s.Kind == Unsigned {
		r.Quality = append(r.Quality, "X has no sign here: it cannot tell too long from too short, the lowest SWR can")
	}
	if r.Single {
		r.Quality = append(r.Quality, "one reading: it says nothing of how wide the dip is")
	} else if r.Points < 5 {
		r.Quality = append(r.Quality, fmt.Sprintf("only %d points near this band: the dip may lie between them", r.Points))
	} else {
		for _, w := range r.Widths {
			if w.Limit == 2 && !w.Open && w.Hz < 3*c.step(r.MinAt) {
				r.Quality = append(r.Quality, "the dip is narrower than three steps of this sweep: sweep this band alone")
			}
		}
		if n := c.noise(); n > 0.01 {
			r.Quality = append(r.Quality, fmt.Sprintf("readings scatter by %.3f in reflection: repeat the sweep", n))
		}
	}
	if r.Measured >= 1 && r.Measured < 99.5 && len(r.Own) > 0 {
		r.Quality = append(r.Quality, fmt.Sprintf("the sweep reaches %.0f %% of your segment", r.Measured))
	}
}

// step is the distance between the two measured points around f.
func (c Curve) step(f float64) float64 {
	i := sort.SearchFloat64s(c.s.F, f)
	i = min(max(i, 1), len(c.s.F)-1)
	return c.s.F[i] - c.s.F[i-1]
}

// noise estimates the scatter of single points from third differences, which a smooth curve hardly has.
func (c Curve) noise() float64 {
	var d []float64
	y := c.s.Re
	for i := 3; i < len(y); i++ {
		d = append(d, math.Abs(y[i]-3*y[i-1]+3*y[i-2]-y[i-3]))
	}
	if len(d) < 8 {
		return 0
	}
	sort.Float64s(d)
	return 1.4826 * d[len(d)/2] / math.Sqrt(20)
}
