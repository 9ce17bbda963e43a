package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// mostBends is how many bends a wire may have.
const mostBends = 8

// bendID are the fields of a bend: how far out from the feed, how far aside of that line and how high it is.
func bendID(i int) (out, aside, height string) {
	return fmt.Sprintf("bend_%d_out", i), fmt.Sprintf("bend_%d_aside", i), fmt.Sprintf("bend_%d_height", i)
}

// askBends are the bends of a wire's course, as many as there are and one more.
func askBends(s antenna.Shape) (fields []entry.Field) {
	for i := 1; i <= mostBends; i++ {
		out, aside, height := bendID(i)
		fields = append(fields, withHelp(askLength(out, fmt.Sprintf("Bend %d out", i), 200),
			"along the ground from the feed; what is left of the wire goes on level"))
		if !bent(s, i) {
			break
		}
		fields = append(fields, withHelp(entry.Field{ID: aside, Label: "and aside", Kind: entry.Length, Max: 200},
			"to the left of the first stretch"),
			askLength(height, "its height", highest))
	}
	return fields
}

// bent reports whether there is a bend of a number.
func bent(s antenna.Shape, i int) bool {
	out, _, height := bendID(i)
	return s.Sizes[out].Typed != "" || s.M(out) > 0 || s.M(height) > 0
}

// course are the runs of a wire of a length from its feed over its bends; what is left goes on level, the way that it went. ok is false
// where it has no bends.
func course(s antenna.Shape, feed antenna.Point, length float64) (lines []antenna.Line, faults []antenna.Fault, ok bool) {
	if !bent(s, 1) {
		return nil, nil, false
	}
	at, left := feed, length
	run := func(to antenna.Point) {
		if far := math.Sqrt(math.Pow(to[0]-at[0], 2) + math.Pow(to[1]-at[1], 2) + math.Pow(to[2]-at[2], 2)); far > left {
			to = antenna.Between(at, to, left/far)
		}
		l := antenna.Line{Role: "radiator", From: at, To: to}
		if l.Length() > 0.01 {
			lines, left, at = append(lines, l), left-l.Length(), to
		}
	}
	for i := 1; i <= mostBends && bent(s, i); i++ {
		out, aside, height := bendID(i)
		if left < 0.02 {
			faults = append(faults, antenna.Say(out, "ask", "a wire of %s does not reach bend %d: it ends before", quantity.Long(length), i))
			break
		}
		up := at[2]
		if l := s.Sizes[height]; l.Typed != "" || l.M > 0 {
			up = l.M
		}
		run(antenna.Point{feed[0] + s.M(out), feed[1] + s.M(aside), up})
	}
	if left > 0.02 && len(lines) > 0 {
		last := lines[len(lines)-1]
		dx, dy := last.To[0]-last.From[0], last.To[1]-last.From[1]
		if math.Hypot(dx, dy) < 1e-6 {
			dx = 1
		}
		to := antenna.Point{at[0] + dx/math.Hypot(dx, dy)*left, at[1] + dy/math.Hypot(dx, dy)*left, at[2]}
		lines = append(lines, antenna.Line{Role: "radiator", From: at, To: to})
	}
	if len(lines) > 0 {
		lines[0].Size = quantity.Metres(length)
	}
	return lines, faults, len(lines) > 0
}

// foldEnd lets the last metres of a straight wire hang down from where they begin.
func foldEnd(s antenna.Shape, m float64) (antenna.Shape, []string, bool) {
	d, _ := layEndFed(s)
	var wire []antenna.Line
	for _, l := range d.Lines {
		if l.Role == "radiator" {
			wire = append(wire, l)
		}
	}
	if len(wire) != 1 || bent(s, 1) || m > mostFolded*wire[0].Length() || math.Abs(wire[0].To[0]-wire[0].From[0]) < 0.3*wire[0].Length() {
		return s, nil, false
	}
	corner := antenna.Between(wire[0].From, wire[0].To, 1-m/wire[0].Length())
	low := corner[2] - m
	if low < leastFolded {
		return s, nil, false
	}
	var fields []string
	for i, height := range []float64{corner[2], low} {
		out, _, up := bendID(i + 1)
		s.Put(out, quantity.Metres(corner[0]-d.Feed[0]))
		s.Put(up, quantity.Metres(height))
		fields = append(fields, out, up)
	}
	return s, fields, true
}

// mostFolded is the share of a wire that is let hang: its end carries little current, but what is nearer to the middle does.
// leastFolded is how far up in metres it ends, where nobody touches it with his hat on.
const (
	mostFolded  = 0.3
	leastFolded = 2.5
)

// masts are poles below the highest bend of a course, which nothing else holds up.
func masts(lines []antenna.Line) (out []antenna.Line) {
	var top antenna.Point
	for _, l := range lines[:len(lines)-1] {
		if l.To[2] > top[2] {
			top = l.To
		}
	}
	if top[2] > 0 {
		out = append(out, antenna.Line{Role: "pole", From: antenna.Point{top[0], top[1], 0}, To: top})
	}
	return out
}
