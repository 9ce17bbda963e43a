package antenna

import (
	"math"
	"slices"
	"strings"

	"reed/core/entry"
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
	// Places are where fields of the shape are drawn, and Handles the heights that can be taken and moved there.
	Places  map[string]Point `json:"places,omitempty"`
	Handles []Handle         `json:"handles,omitempty"`
}

// Handle is a height of a field that can be moved in the drawing.
type Handle struct {
	Field string `json:"field"`
	At    Point  `json:"at"`
	Label string `json:"label"`
}

// place is where a field of the shape is drawn: the feed, the end farthest from it, or the middle of a line. A length
// that is of nothing else is one of the radiator.
func (d Drawing) place(f entry.Field) (Point, bool) {
	role := ""
	switch {
	case f.ID == FeedHeight:
		return d.Feed, true
	case f.ID == FarHeight:
		var end Point
		far := -1.0
		for _, l := range d.Lines {
			for _, p := range []Point{l.From, l.To} {
				if m := distance(p, d.Feed); l.Role == "radiator" && m > far {
					end, far = p, m
				}
			}
		}
		return end, far >= 0
	case f.ID == PoleHeight:
		role = "pole"
	case strings.HasPrefix(f.ID, "counterpoise"):
		role = "counterpoise"
	case strings.HasPrefix(f.ID, "radials"):
		role = "radial"
	case strings.HasPrefix(f.ID, "line"):
		role = "line"
	case f.Kind == entry.Length:
		role = "radiator"
	}
	for _, l := range d.Lines {
		if l.Role == role {
			return Between(l.From, l.To, 0.5), true
		}
	}
	return Point{}, false
}

// Marked is the drawing with the places of fields. From the side the feed and the far end can be moved where a plan
// asks for their heights, but for an end straight above its beginning: that goes by the wire's length.
func (d Drawing) Marked(fields, planned []entry.Field) Drawing {
	d.Places, d.Handles = map[string]Point{}, nil
	for _, f := range fields {
		if p, ok := d.place(f); ok {
			d.Places[f.ID] = p
		}
	}
	asked := func(id string) bool {
		return slices.ContainsFunc(planned, func(f entry.Field) bool { return f.ID == id })
	}
	if d.View == "top" {
		return d
	}
	if asked(FeedHeight) {
		d.Handles = append(d.Handles, Handle{FeedHeight, d.Feed, "Drag the feed point up or down"})
	}
	for _, l := range slices.Backward(d.Lines) {
		if l.Role == "radiator" {
			if asked(FarHeight) && math.Hypot(l.To[0]-l.From[0], l.To[1]-l.From[1]) > 0.01 {
				d.Handles = append(d.Handles, Handle{FarHeight, l.To, "Drag the far end up or down"})
			}
			break
		}
	}
	return d
}

// Along is the place a distance from the beginning of the lines of a role, taken one behind the other.
func (d Drawing) Along(role string, m float64) Point {
	var last Point
	for _, l := range d.Lines {
		if l.Role != role {
			continue
		}
		n := l.Length()
		if m <= n && n > 0 {
			return Between(l.From, l.To, m/n)
		}
		m, last = m-n, l.To
	}
	return last
}

// Between is the place a share of the way from one point to another.
func Between(a, b Point, t float64) Point {
	return Point{a[0] + t*(b[0]-a[0]), a[1] + t*(b[1]-a[1]), a[2] + t*(b[2]-a[2])}
}

// CannotReach is the fault of a wire that is shorter than the heights of its ends are apart, with the way out of it for
// each of the three.
func CannotReach(path string, length, from, to float64) Fault {
	say := quantity.Long
	low, high := math.Min(from, to), math.Max(from, to)
	return Say(path, "error", "a wire of %s cannot reach from %s to %s up. One of the three is wrong: the wire is at least %s, or its "+
		"upper end at most %s up, or its lower at least %s",
		say(length), say(from), say(to), say(high-low), say(low+length), say(high-length))
}

// Pole is an upright of a height in metres, so far along the antenna.
func Pole(x, height float64) Line {
	return Line{Role: "pole", From: Point{x, 0, 0}, To: Point{x, 0, height}}
}

// Tie is the string from a wire's end down to a stake: it goes on in the wire's direction when that
// points down, and otherwise slopes down at 45 degrees.
func Tie(from, end Point) Line {
	dx, dz := end[0]-from[0], end[2]-from[2]
	run := end[2]
	if dz < -1e-6 && math.Abs(dx/dz) < 3 {
		run = end[2] * math.Abs(dx/dz)
	}
	return Line{Role: "string", From: end, To: Point{end[0] + math.Copysign(run, dx), end[1], 0}}
}

// Keep are the lines that are good.
func Keep(lines []Line, good func(Line) bool) (out []Line) {
	for _, l := range lines {
		if good(l) {
			out = append(out, l)
		}
	}
	return out
}
