package site

import "math"

// sides are the straight parts through points, closed again where they are an area's edge.
func sides(points []Spot, closed bool) (out [][2]Spot) {
	for i := 1; i < len(points); i++ {
		out = append(out, [2]Spot{points[i-1], points[i]})
	}
	if n := len(points); closed && n > 2 {
		out = append(out, [2]Spot{points[n-1], points[0]})
	}
	return out
}

// Contains reports whether a spot lies within an edge, by counting crossings of a ray to the east.
func Contains(edge []Spot, p Spot) bool {
	in := false
	for i, b := range edge {
		a := edge[(i+len(edge)-1)%len(edge)]
		if (a[1] > p[1]) != (b[1] > p[1]) && p[0] < a[0]+(p[1]-a[1])/(b[1]-a[1])*(b[0]-a[0]) {
			in = !in
		}
	}
	return in
}

// apart is the distance in metres of a spot from a straight part.
func apart(p, a, b Spot) float64 {
	dx, dy := b[0]-a[0], b[1]-a[1]
	t := 0.0
	if l := dx*dx + dy*dy; l > 0 {
		t = math.Max(0, math.Min(1, ((p[0]-a[0])*dx+(p[1]-a[1])*dy)/l))
	}
	return p.From(Spot{a[0] + t*dx, a[1] + t*dy})
}

// Cross reports whether two straight parts cross, and what share of the first lies before that.
func Cross(a, b, c, d Spot) (share float64, ok bool) {
	r, s := Spot{b[0] - a[0], b[1] - a[1]}, Spot{d[0] - c[0], d[1] - c[1]}
	det := r[0]*s[1] - r[1]*s[0]
	if math.Abs(det) < 1e-12 {
		return 0, false
	}
	t := ((c[0]-a[0])*s[1] - (c[1]-a[1])*s[0]) / det
	u := ((c[0]-a[0])*r[1] - (c[1]-a[1])*r[0]) / det
	return t, t > 1e-9 && t < 1-1e-9 && u > 1e-9 && u < 1-1e-9
}

// Between is the least distance in metres of two straight parts.
func Between(a, b, c, d Spot) float64 {
	if _, ok := Cross(a, b, c, d); ok {
		return 0
	}
	return math.Min(math.Min(apart(a, c, d), apart(b, c, d)), math.Min(apart(c, a, b), apart(d, a, b)))
}

// crossesItself reports whether an edge does, and at which of its sides, counted from 0.
func crossesItself(edge []Spot) (int, bool) {
	all := sides(edge, true)
	for i := range all {
		for j := i + 2; j < len(all); j++ {
			if _, ok := Cross(all[i][0], all[i][1], all[j][0], all[j][1]); ok {
				return j, true
			}
		}
	}
	return 0, false
}

// square returns the area inside an edge, in square metres.
func square(edge []Spot) float64 {
	sum := 0.0
	for _, s := range sides(edge, true) {
		sum += s[0][0]*s[1][1] - s[1][0]*s[0][1]
	}
	return math.Abs(sum) / 2
}
