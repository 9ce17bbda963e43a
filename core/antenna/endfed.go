package antenna

import (
	"fmt"
	"math"

	"reed/core/moment/earth"
	"reed/core/quantity"
)

func endFed() Family {
	return Family{
		ID: "end-fed", Name: "End-fed half-wave", Short: "end-fed",
		Variants: []Variant{{"sloper", "sloper"}, {"flat", "flat"}, {"inverted-v", "inverted V"}, {"upright", "upright"}},
		plan:     planEndFed, layout: layEndFed,
	}
}

// EndResistance is the range in ohms in which a half-wave wire's end resistance usually lies.
var EndResistance = [2]float64{1800, 5000}

func planEndFed(r Request, w Wire, g earth.Ground) Plan {
	lambda := Light / r.FrequencyHz
	n := r.HalfWaves
	if n < 1 {
		n = 1
	}
	jacket := w.JacketFactor(float64(n) * lambda / 4)
	// n half-waves, of which only the two ends are shortened: (n-0.05) k c/2f.
	length := (float64(n) - 0.05) * jacket * lambda / 2
	whole := (float64(n) - 0.05) / float64(n) * jacket
	k := Factor{Value: whole, Lo: whole * 0.97, Hi: whole * 1.04, Why: []string{
		fmt.Sprintf("ends: %d half-wave less 0.05", n),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		"transformer and counterpoise move an end-fed wire by several per cent: cut long",
	}}
	s := r.Shape
	s.Radiator = lengthOr(s.Radiator, length)
	s.FeedHeight = lengthOr(s.FeedHeight, 1)
	switch {
	case s.Variant == "flat":
		s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
		s.FarHeight = lengthOr(s.FarHeight, s.FeedHeight.M)
	case s.Variant == "upright":
		s.FarHeight = lengthOr(s.FarHeight, s.FeedHeight.M+s.Radiator.M)
		s.PoleHeight = lengthOr(s.PoleHeight, s.FarHeight.M)
	case s.Variant == "inverted-v":
		s.PoleHeight = lengthOr(s.PoleHeight, 6)
		s.FarHeight = lengthOr(s.FarHeight, 1)
	default:
		s.PoleHeight = lengthOr(s.PoleHeight, or(s.FarHeight.M, 6))
		s.FarHeight = lengthOr(s.FarHeight, s.PoleHeight.M)
	}
	if s.Primary == 0 && s.Secondary == 0 {
		s.Primary, s.Secondary = 2, 14
	}
	if s.Counterpoise.Count == 0 {
		s.Counterpoise.Count = 1
	}
	counterpoise := 0.05 * lambda
	s.Counterpoise.Length = lengthOr(s.Counterpoise.Length, counterpoise)
	ratio := math.Pow(float64(s.Secondary)/float64(s.Primary), 2)
	return Plan{
		Shape: s, Factor: k,
		Pieces: []Piece{piece(r, "radiator", 1, length, 2), piece(r, "counterpoise", s.Counterpoise.Count, s.Counterpoise.Length.M, 1)},
		Expect: fmt.Sprintf("an end of %.0f to %.0f ohm; through %s the radio sees %.0f to %.0f ohm", EndResistance[0], EndResistance[1], s.Ratio(), EndResistance[0]/ratio, EndResistance[1]/ratio),
		Schools: []string{
			fmt.Sprintf("Short counterpoise: 0.05 of the wavelength, %s.", quantity.Metric(counterpoise, 10)),
			fmt.Sprintf("Coax as counterpoise: no extra wire, choke at the radio end, at least %s of coax.", quantity.Metric(counterpoise, 10)),
			"Choke at the feed with a counterpoise: the coax stays cold, the match depends on the counterpoise.",
		},
	}
}

func layEndFed(s Shape) (Drawing, []Fault) {
	l, h, far, top := s.Radiator.M, s.FeedHeight.M, s.FarHeight.M, s.PoleHeight.M
	var faults []Fault
	feed := Point{0, 0, h}
	d := Drawing{Feed: feed}
	switch s.Variant {
	case "inverted-v":
		half := l / 2
		up, down := top-h, top-far
		if math.Abs(up) > half {
			faults = append(faults, mutualFault("pole_height", half, h, top))
			up = math.Copysign(half, up)
		}
		if math.Abs(down) > half {
			faults = append(faults, mutualFault("far_height", half, top, far))
			down = math.Copysign(half, down)
		}
		apex := Point{math.Sqrt(half*half - up*up), 0, h + up}
		end := Point{apex[0] + math.Sqrt(half*half-down*down), 0, apex[2] - down}
		d.Lines = append(d.Lines, pole(apex[0], apex[2]), Line{"radiator", feed, apex}, Line{"radiator", apex, end}, tie(apex, end))
	default:
		rise := far - h
		if s.Variant == "upright" && l > 0 {
			rise = l
			if s.FarHeight.Typed != "" && math.Abs(far-h-l) > 0.05*l+0.2 {
				faults = append(faults, Fault{"far_height", "ask", fmt.Sprintf("an upright wire of %s from %s ends %s up, not %s; which is wrong?",
					quantity.Metric(l, 10), quantity.Metric(h, 10), quantity.Metric(h+l, 10), quantity.Metric(far, 10))})
			}
		}
		if math.Abs(rise) > l+1e-9 {
			faults = append(faults, mutualFault("far_height", l, h, far))
			rise = math.Copysign(l, rise)
		}
		end := Point{math.Sqrt(math.Max(0, l*l-rise*rise)), 0, h + rise}
		d.Lines = append(d.Lines, pole(end[0], math.Max(end[2], top)), Line{"radiator", feed, end})
	}
	if c := s.Counterpoise; c.Count > 0 && c.Length.M > 0 {
		fall := math.Min(math.Max(h-c.Height.M, 0), c.Length.M)
		d.Lines = append(d.Lines, Line{"counterpoise", feed, Point{-math.Sqrt(c.Length.M*c.Length.M - fall*fall), 0, h - fall}})
	}
	return d, faults
}
