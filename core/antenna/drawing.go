package antenna

import (
	"fmt"
	"math"

	"reed/core/quantity"
)

// Point is a place in metres: x along the antenna, y across, z up.
type Point [3]float64

// Line is one straight run in the drawing. Role is radiator, counterpoise, radial, line (of a feeder),
// loop, pole, string or fence. Size, when given, is the length that it is labelled with.
type Line struct {
	Role string          `json:"role"`
	From Point           `json:"from"`
	To   Point           `json:"to"`
	Size quantity.Length `json:"size,omitzero"`
}

// Length is the length in metres.
func (l Line) Length() float64 { return distance(l.From, l.To) }

func distance(a, b Point) float64 {
	return math.Sqrt(math.Pow(b[0]-a[0], 2) + math.Pow(b[1]-a[1], 2) + math.Pow(b[2]-a[2], 2))
}

// Spot is a thing at a place: coil, link, tap, capacitor, gap.
type Spot struct {
	Kind string `json:"kind"`
	At   Point  `json:"at"`
	Text string `json:"text,omitempty"`
}

// Drawing is a layout in space. View says from where it shows best: "side" or "top".
type Drawing struct {
	Lines []Line `json:"lines"`
	Feed  Point  `json:"feed"`
	Spots []Spot `json:"spots,omitempty"`
	View  string `json:"view,omitempty"`
}

// along is the place a distance from the beginning of the lines of a role, taken one behind the other.
func (d Drawing) along(role string, m float64) Point {
	var last Point
	for _, l := range d.Lines {
		if l.Role != role {
			continue
		}
		n := l.Length()
		if m <= n && n > 0 {
			return between(l.From, l.To, m/n)
		}
		m, last = m-n, l.To
	}
	return last
}

func between(a, b Point, t float64) Point {
	return Point{a[0] + t*(b[0]-a[0]), a[1] + t*(b[1]-a[1]), a[2] + t*(b[2]-a[2])}
}

func mutualFault(path string, length, from, to float64) Fault {
	say := func(m float64) string { return quantity.Metric(m, 10) }
	low, high := math.Min(from, to), math.Max(from, to)
	text := fmt.Sprintf("a wire of %s cannot reach from %s to %s up. One of the three is wrong: the wire is at least %s, or its upper end at most %s up, or its lower at least %s",
		say(length), say(from), say(to), say(high-low), say(low+length), say(high-length))
	return fault(path, "error", text)
}

func pole(x, height float64) Line {
	return Line{Role: "pole", From: Point{x, 0, 0}, To: Point{x, 0, height}}
}

// tie is the string from a wire's end down to a stake: it goes on in the wire's direction when that
// points down, and otherwise slopes down at 45 degrees.
func tie(from, end Point) Line {
	dx, dz := end[0]-from[0], end[2]-from[2]
	run := end[2]
	if dz < -1e-6 && math.Abs(dx/dz) < 3 {
		run = end[2] * math.Abs(dx/dz)
	}
	return Line{Role: "string", From: end, To: Point{end[0] + math.Copysign(run, dx), end[1], 0}}
}
