package sweep

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/quantity"
)

// Hidden says where a cable flatters: that the radio sees a match where the antenna has none. radio and feed are
// the same sweep at both ends of the cable. Empty where the cable hides nothing of the own segments.
func Hidden(radio, feed Curve, r Reading, cable circuit.Coax, length, watts float64, through string) string {
	worst, at := 0.0, 0.0
	lo, hi := feed.Span()
	for _, s := range r.Own {
		a, b := math.Max(s.Lo, lo), math.Min(s.Hi, hi)
		for i := range 101 {
			f := a + (b-a)*float64(i)/100
			if b > a && radio.SWR(f) <= r.Limit && feed.SWR(f) > math.Max(worst, r.Limit*1.1) {
				worst, at = feed.SWR(f), f
			}
		}
	}
	if at == 0 {
		return ""
	}
	matched := cable.MatchedLoss(at, length)
	arrive := func(swr float64) float64 {
		return watts * math.Pow(10, -circuit.TotalLoss(matched, swr)/10)
	}
	return fmt.Sprintf("It looks fine at the radio and is not: at %s MHz the radio sees SWR %.1f, the antenna has %s. %s loses the "+
		"reflected power on its way back, so the meter never sees it. Of %s, %s reach the antenna; matched it would be %s, through a cable "+
		"without loss all of it.",
		quantity.ToKHz(at), radio.SWR(at), quantity.SWR(worst), through, quantity.Watts(watts), quantity.Watts(quantity.Digits(arrive(worst), 2)),
		quantity.Watts(quantity.Digits(arrive(1), 2)))
}

// Spread is several sweeps of the same thing as one band: the lowest and highest SWR at each frequency, NaN where
// not all of them reach.
type Spread struct {
	Takes     int
	Low, High []float64
	Says      string
}

// Together makes one band of several sweeps of one set-up, as of a windy minute. Fewer than two make none.
func Together(curves []Curve, region band.Region, b band.Band, f []float64) (Spread, bool) {
	out := Spread{Low: make([]float64, len(f)), High: make([]float64, len(f))}
	var dips, best []float64
	for _, c := range curves {
		r, ok := Read(c, region, b, nil, 2)
		if !ok {
			continue
		}
		dips, best = append(dips, r.MinAt), append(best, r.MinSWR)
		for i, swr := range c.Sample(f) {
			if out.Takes == 0 {
				out.Low[i], out.High[i] = swr, swr
				continue
			}
			// A NaN of either stays one.
			out.Low[i], out.High[i] = math.Min(out.Low[i], swr), math.Max(out.High[i], swr)
		}
		out.Takes++
	}
	if out.Takes < 2 {
		return Spread{}, false
	}
	moved := slices.Max(dips) - slices.Min(dips)
	mid := (slices.Max(dips) + slices.Min(dips)) / 2
	if moved < 0.0004*mid {
		out.Says = fmt.Sprintf("%d sweeps agree: the dip stays within %.0f kHz.", out.Takes, math.Max(1, math.Ceil(moved/1e3)))
		return out, true
	}
	out.Says = fmt.Sprintf("%d sweeps: the dip moved over %.0f kHz, its SWR between %.2f and %.2f. Wind, or an end that is not tied: go "+
		"by the whole band, and change nothing for less than that.", out.Takes, math.Ceil(moved/1e3), slices.Min(best), slices.Max(best))
	return out, true
}

// Beside reads a measured dip against the computed one in words.
func Beside(m, c Reading, s Subject) string {
	off := m.MinAt/c.MinAt - 1
	khz := math.Abs(m.MinAt-c.MinAt) / 1e3
	match := fmt.Sprintf("SWR %s against %s", quantity.FineSWR(m.MinSWR), quantity.FineSWR(c.MinSWR))
	if m.HasZ && c.HasZ {
		match += fmt.Sprintf(", R %.0f against %.0f ohm", m.R, c.R)
	}
	switch {
	case m.AtEdge:
		return "The measured dip lies outside this sweep; the computed one is at " + quantity.ToKHz(c.MinAt) + " MHz."
	case c.AtEdge:
		return "The computed dip lies outside this band; the measured one is at " + quantity.ToKHz(m.MinAt) + " MHz."
	case math.Abs(off) < 0.002:
		return fmt.Sprintf("As computed: the dips lie within %.0f kHz; %s.", math.Max(1, math.Ceil(khz)), match)
	}
	way, acts := "lower", "longer"
	if off > 0 {
		way, acts = "higher", "shorter"
	}
	out := fmt.Sprintf("Measured %.0f kHz (%.1f %%) %s than computed; %s.", khz, math.Abs(off)*100, way, match)
	if (s.Trims == "" || s.Trims == "wire") && math.Abs(off) < 0.12 {
		out += fmt.Sprintf(" On this band it acts %.1f %% %s than recorded.", math.Abs(off)*100, acts)
	}
	return out
}

// Wide reports an overview: a sweep over so much that it says little of a single band.
func (s Sweep) Wide() bool {
	for i := range s.F {
		if s.gap(i) {
			return false // a list of readings on several bands
		}
	}
	return s.F[len(s.F)-1] >= 3*s.F[0]
}

// gap reports whether nothing was measured between a point and the next one for so far that nothing is known there.
func (s Sweep) gap(i int) bool {
	const wide = 1.12 // a window of a band reaches about as far
	return i+1 < len(s.F) && s.F[i+1] > wide*s.F[i] && s.F[i+1]-s.F[i] > 300e3
}

// points is the range between two frequencies in which something was measured, without what lies beyond a gap at either
// side, and how many points are in it; ok is false where nothing is known.
func (c Curve) points(lo, hi float64) (from, to float64, n int, ok bool) {
	first, last := -1, -1
	for i, f := range c.s.F {
		if f >= lo && f <= hi {
			if first < 0 {
				first = i
			}
			last = i
			n++
		}
	}
	if n == 0 {
		// Between two points that lie close the curve is known all the same.
		i := sort.SearchFloat64s(c.s.F, lo)
		return lo, hi, 0, i > 0 && i < len(c.s.F) && !c.s.gap(i-1)
	}
	if first > 0 && c.s.gap(first-1) || first == 0 {
		lo = c.s.F[first]
	}
	if c.s.gap(last) || last == len(c.s.F)-1 {
		hi = c.s.F[last]
	}
	return lo, hi, n, true
}

// Measured is the range between two frequencies in which something was measured, without gaps at either side.
func (c Curve) Measured(lo, hi float64) (from, to float64, ok bool) {
	from, to, _, ok = c.points(math.Max(lo, c.s.F[0]), math.Min(hi, c.s.F[len(c.s.F)-1]))
	return from, to, ok
}

// Readings are the frequencies of single readings from one frequency to another; none of what was swept.
func (c Curve) Readings(lo, hi float64) (out []float64) {
	for _, f := range c.s.F {
		if c.metered() && f >= lo && f <= hi {
			out = append(out, f)
		}
	}
	return out
}

// most is how many readings somebody takes off a radio's own meter: an analyser that writes nothing but SWR writes more.
const most = 24

// metered reports whether a curve is read off a radio's own meter.
func (c Curve) metered() bool { return c.s.Kind == Magnitude && len(c.s.F) <= most }

// Point is one measured point: SWR, and the reflection where its phase is known. Over says that the meter was at the end of its
// scale, so that the SWR is at least that.
type Point struct {
	F, SWR float64
	Gamma  complex128
	Phase  bool
	Over   bool
}

// Points lists the measured points from one frequency to another.
func (c Curve) Points(lo, hi float64) (out []Point) {
	for i, f := range c.s.F {
		if f < lo || f > hi {
			continue
		}
		p := Point{F: f, SWR: circuit.SWR(c.s.mag(i)), Over: slices.Contains(c.s.Over, f)}
		if c.s.Kind == Complex {
			p.Gamma, p.Phase = complex(c.s.Re[i], c.s.Im[i]), true
		}
		out = append(out, p)
	}
	return out
}

// role returns the role of the reading at a frequency: Searched, JustHere, or none.
func (c Curve) role(f float64) string {
	switch {
	case slices.Contains(c.s.Lowest, f):
		return Searched
	case c.s.Here:
		return JustHere
	}
	return ""
}

// searched is where from one frequency to another somebody found the lowest SWR; ok is false where nobody searched.
func (c Curve) searched(lo, hi float64) (at float64, ok bool) {
	for _, f := range c.s.Lowest {
		if f >= lo && f <= hi && (!ok || c.Mag(f) < c.Mag(at)) {
			at, ok = f, true
		}
	}
	return at, ok
}

// reached reports whether a frequency lies in what was measured, and not in a gap.
func (c Curve) reached(f float64) bool {
	i := sort.SearchFloat64s(c.s.F, f)
	return i < len(c.s.F) && (c.s.F[i] == f || i > 0 && !c.s.gap(i-1))
}

// Alike reports whether two sweeps were asked for the same points.
func (s Sweep) Alike(o Sweep) bool {
	return len(s.F) == len(o.F) && s.F[0] == o.F[0] && s.F[len(s.F)-1] == o.F[len(o.F)-1]
}

// Dip is one place of low SWR in an overview.
type Dip struct {
	F   float64 `json:"f"`
	SWR float64 `json:"swr"`
}

// Overview draws a wide sweep at frequencies in even ratios, and lists its dips under SWR 5, in rising frequency.
// ok is false for a sweep that spans less than a factor of three.
func Overview(c Curve) (f, swr []float64, dips []Dip, ok bool) {
	if !c.s.Wide() {
		return nil, nil, nil, false
	}
	lo, hi := c.Span()
	const n = 400
	for i := range n {
		x := lo * math.Pow(hi/lo, float64(i)/(n-1))
		f, swr = append(f, x), append(swr, c.SWR(x))
	}
	grid := c.grid(lo, hi)
	for i := 1; i+1 < len(grid); i++ {
		if c.Mag(grid[i]) > c.Mag(grid[i-1]) || c.Mag(grid[i]) >= c.Mag(grid[i+1]) {
			continue
		}
		at := refineMin(c.Mag, grid[i-1], grid[i+1])
		// A wiggle in a valley is no dip of its own.
		if k := len(dips); c.SWR(at) < 5 && (k == 0 || at > dips[k-1].F*1.02) {
			dips = append(dips, Dip{at, c.SWR(at)})
		}
	}
	return f, swr, dips, true
}
