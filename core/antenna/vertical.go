package antenna

import (
	"fmt"
	"math"

	"reed/core/moment/earth"
	"reed/core/quantity"
)

func vertical() Family {
	return Family{
		ID: "vertical", Name: "Quarter-wave vertical", Short: "vertical",
		Variants: []Variant{{"ground-radials", "radials on the ground"}, {"raised-radials", "raised radials"}},
		plan:     planVertical, layout: layVertical,
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
	raised := s.Variant == "raised-radials"
	s.Radiator = lengthOr(s.Radiator, k*lambda/4)
	var radial float64
	var expect string
	if raised {
		if s.Radials.Count == 0 {
			s.Radials.Count = 4
		}
		s.FeedHeight = lengthOr(s.FeedHeight, 2)
		s.Radials.Height = lengthOr(s.Radials.Height, math.Max(0.5, s.FeedHeight.M-1))
		radial = k * lambda / 4
		expect = "about 25 to 50 ohm: level radials give the low figure, radials that slope down the high one"
	} else {
		if s.Radials.Count == 0 {
			s.Radials.Count = 8
		}
		s.FeedHeight = lengthOr(s.FeedHeight, 0.1)
		radial = groundRadial(s.Radials.Count) * lambda
		expect = "36 ohm and the loss of the ground: an SWR of exactly 1 here is a sign of loss, not of quality"
	}
	s.Radials.Length = lengthOr(s.Radials.Length, radial)
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M+s.Radiator.M)
	pieces := []Piece{piece(r, "radiator", 1, k*lambda/4, 1)}
	pieces = append(pieces, piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1))
	return Plan{
		Shape: s, Factor: f, Pieces: pieces, Expect: expect,
		Schools: []string{
			fmt.Sprintf("Many on the ground: %d radials of %s; their length is not critical, their number is.", 16, quantity.Metric(groundRadial(16)*lambda, 10)),
			fmt.Sprintf("Few raised and tuned: 2 to 4 of %s, ends tied up, choke at the feed.", quantity.Metric(k*lambda/4, 10)),
			"None, coax only: works at low power, loses most over dry ground.",
		},
	}
}

func layVertical(s Shape) (Drawing, []Fault) {
	h := s.FeedHeight.M
	feed, top := Point{0, 0, h}, Point{0, 0, h + s.Radiator.M}
	var faults []Fault
	if p := s.PoleHeight.M; p > 0 && s.PoleHeight.Typed != "" && top[2] > p+0.3 {
		faults = append(faults, Fault{"pole_height", "ask", fmt.Sprintf("the radiator ends %s up, above the pole of %s; is its top folded, or a length wrong?",
			quantity.Metric(top[2], 10), quantity.Metric(p, 10))})
	}
	d := Drawing{Feed: feed, Lines: []Line{pole(0, math.Max(top[2], s.PoleHeight.M)), {"radiator", feed, top}}}
	r := s.Radials
	fall := h - r.Height.M
	if s.Variant == "ground-radials" {
		fall = h
	}
	if r.Count > 0 && math.Abs(fall) > r.Length.M && r.Length.M > 0 {
		faults = append(faults, mutualFault("radials.height", r.Length.M, h, r.Height.M))
		fall = math.Copysign(r.Length.M, fall)
	}
	run := math.Sqrt(math.Max(0, r.Length.M*r.Length.M-fall*fall))
	for i := range r.Count {
		a := 2 * math.Pi * float64(i) / float64(r.Count)
		d.Lines = append(d.Lines, Line{"radial", feed, Point{run * math.Cos(a), run * math.Sin(a), h - fall}})
	}
	return d, faults
}
