package antenna

import (
	"fmt"
	"math"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

var radialVariants = []Variant{{"ground-radials", "radials on the ground"}, {"raised-radials", "raised radials"}}

func vertical() Family {
	return Family{
		ID: "vertical", Name: "Quarter-wave vertical", Short: "vertical", Group: "upright", Trims: "wire",
		Variants: radialVariants,
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{askFor(""), askBuilt("radiator", "Radiator"), askFeed, askPole}
			return append(out, append(askRadials(s.Variant == "raised-radials"), askBearing)...)
		},
		plan: planVertical, layout: layVertical,
	}
}

// groundRadial is the length in wavelengths beyond which n radials on the ground gain little (after the
// optimum-length curves of Stanley 1976).
func groundRadial(n int) float64 {
	switch {
	case n <= 4:
		return 0.10
	case n <= 8:
		return 0.12
	case n <= 16:
		return 0.15
	case n <= 24:
		return 0.18
	}
	return 0.22
}

func planVertical(r Request, w Wire, g earth.Ground) Plan {
	lambda := Light / r.FrequencyHz
	half := lambda / 4
	k := endFactor(half, w.EquivalentRadius()) * w.JacketFactor(half)
	f := Factor{Value: k, Lo: k * 0.975, Hi: k * 1.025, Why: []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", endFactor(half, w.EquivalentRadius())),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, w.JacketFactor(half)),
		"the pole and the radials move it by a few per cent",
	}}
	s := r.Shape
	s.Radiator = lengthOr(s.Radiator, k*lambda/4)
	expect := s.radials(r, k, g)
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M+s.Radiator.M)
	pieces := []Piece{piece(r, "radiator", 1, k*lambda/4, 1), piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1)}
	return Plan{Shape: s, Factor: f, Pieces: pieces, Expect: expect, Schools: radialSchools(r, k, g), Faults: s.directionFaults()}
}

// radials fills in what was left open of a vertical's radials, and says what to expect of the match. k is
// the shortening of a wire in the air.
func (s *Shape) radials(r Request, k float64, g earth.Ground) string {
	lambda := Light / r.FrequencyHz
	list, _ := degrees(s.W("directions", ""))
	if len(list) > 0 {
		s.Radials.Count = len(list)
	}
	if s.Variant == "raised-radials" {
		if s.Radials.Count == 0 {
			s.Radials.Count = 4
		}
		s.FeedHeight = lengthOr(s.FeedHeight, 2)
		s.Radials.Height = lengthOr(s.Radials.Height, math.Max(0.5, s.FeedHeight.M-1))
		s.Radials.Length = lengthOr(s.Radials.Length, k*lambda/4)
		return "about 25 to 50 ohm: level radials give the low figure, radials that slope down the high one"
	}
	if s.Radials.Count == 0 {
		s.Radials.Count = 8
	}
	s.FeedHeight = lengthOr(s.FeedHeight, 0.1)
	s.Radials.Length = lengthOr(s.Radials.Length, groundRadial(s.Radials.Count)*lambda)
	loss := screenLoss(g, r.FrequencyHz, s.Radiator.M, s.Radials)
	return fmt.Sprintf("36 ohm and about %.0f ohm of loss in the ground: an SWR of exactly 1 here is a sign of loss, not of quality", loss)
}

// screenLoss is the loss resistance in ohms of radials on the ground under a vertical of height h.
func screenLoss(g earth.Ground, f, h float64, set WireSet) float64 {
	return math.Max(0.5, real(earth.Screen(g, f, h, set.Count, set.Length.M, 0.0005)))
}

// radialSchools lays the ways to make a counterweight for a vertical beside each other, with the share of
// the power that is left by each (36 ohm of radiation against the loss of the ground).
func radialSchools(r Request, k float64, g earth.Ground) []School {
	lambda := Light / r.FrequencyHz
	left := func(loss float64) string {
		return fmt.Sprintf("%.0f ohm lost, %.0f %% radiated", loss, 100*36/(36+loss))
	}
	ground := func(n int, l float64) string {
		return left(screenLoss(g, r.FrequencyHz, lambda/4, WireSet{Count: n, Length: quantity.Metres(l)}))
	}
	l16, l4 := groundRadial(16)*lambda, groundRadial(4)*lambda
	return []School{
		{"radials", fmt.Sprintf("16 on the ground of %s", r.say(l16)), ground(16, l16), fmt.Sprintf("%.0f m of wire; number counts more than length, no trimming", 16*l16)},
		{"radials", fmt.Sprintf("4 on the ground of %s", r.say(l4)), ground(4, l4), fmt.Sprintf("%.0f m of wire", 4*l4)},
		{"radials", fmt.Sprintf("2 to 4 raised of %s", r.say(k*lambda/4)), "a few ohm lost from 0.05 wavelength up", "must be cut to length, ends tied up, choke at the feed"},
		{"radials", "none, coax only", ground(0, 0), "the coax is the only radial: rough figure, works at low power"},
	}
}

func (s Shape) directionFaults() []Fault {
	if _, ok := degrees(s.W("directions", "")); !ok {
		return []Fault{fault("directions", "error", fmt.Sprintf("%q was not understood; write directions in degrees like 0 90 200", s.W("directions", "")))}
	}
	return nil
}

func layVertical(s Shape) (Drawing, []Fault) {
	h := s.FeedHeight.M
	feed, top := Point{0, 0, h}, Point{0, 0, h + s.Radiator.M}
	var faults []Fault
	if p := s.PoleHeight.M; p > 0 && s.PoleHeight.Typed != "" && top[2] > p+0.3 {
		faults = append(faults, fault("pole_height", "ask", fmt.Sprintf("the radiator ends %s up, above the pole of %s; is its top folded, or a length wrong?",
			quantity.Metric(top[2], 10), quantity.Metric(p, 10))))
	}
	d := Drawing{Feed: feed, Lines: []Line{pole(0, math.Max(top[2], s.PoleHeight.M)), {Role: "radiator", From: feed, To: top, Size: quantity.Metres(s.Radiator.M)}}}
	return d, append(faults, s.layRadials(&d)...)
}

// layRadials draws the radials from the feed point, all round or towards the directions that are given.
func (s Shape) layRadials(d *Drawing) (faults []Fault) {
	r, h := s.Radials, d.Feed[2]
	fall := h - r.Height.M
	if s.Variant != "raised-radials" {
		fall = h
	}
	if r.Count > 0 && math.Abs(fall) > r.Length.M && r.Length.M > 0 {
		path := "radials.height"
		if s.Variant != "raised-radials" {
			path = "feed_height"
		}
		faults = append(faults, mutualFault(path, r.Length.M, h, h-fall))
		fall = math.Copysign(r.Length.M, fall)
	}
	run := math.Sqrt(math.Max(0, r.Length.M*r.Length.M-fall*fall))
	list, _ := degrees(s.W("directions", ""))
	for i := range r.Count {
		a := 2 * math.Pi * float64(i) / float64(r.Count)
		if i < len(list) {
			a = list[i] * math.Pi / 180
		}
		d.Lines = append(d.Lines, Line{Role: "radial", From: d.Feed, To: Point{d.Feed[0] + run*math.Cos(a), d.Feed[1] + run*math.Sin(a), h - fall}})
	}
	return faults
}
