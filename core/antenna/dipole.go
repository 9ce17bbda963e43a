package antenna

import (
	"fmt"
	"math"

	"reed/core/moment/earth"
	"reed/core/quantity"
)

func dipole() Family {
	return Family{
		ID: "dipole", Name: "Half-wave dipole", Short: "dipole",
		Variants: []Variant{{"flat", "flat"}, {"inverted-v", "inverted V"}, {"sloper", "sloper"}},
		plan:     planDipole, layout: layDipole,
	}
}

// halfWaveFactor combines end effect, jacket and height for a level half-wave.
func halfWaveFactor(f, height float64, w Wire, g earth.Ground) (Factor, complex128) {
	lambda := Light / f
	half := lambda / 4
	a := w.EquivalentRadius()
	end, jacket := endFactor(half, a), w.JacketFactor(half)
	z := overGround(height/lambda, g, f)
	za := 120 * (math.Log(2*half/a) - 1)
	ground := 1 - 2/math.Pi*imag(z)/za
	k := end * jacket * ground
	spread := 0.015
	why := []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", end),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		fmt.Sprintf("ground %.0f cm below %.3f", height*100, ground),
	}
	if height/lambda < lowest {
		spread = 0.03
		why = append(why, "very low: the ground's part is less sure")
	}
	return Factor{Value: k, Lo: k * (1 - spread), Hi: k * (1 + spread), Why: why}, z
}

func planDipole(r Request, w Wire, g earth.Ground) Plan {
	lambda := Light / r.FrequencyHz
	s := r.Shape
	s.FeedHeight = lengthOr(s.FeedHeight, or(s.PoleHeight.M, 6))
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
	mean := s.FeedHeight.M
	if s.Variant == "inverted-v" {
		s.ApexAngle = or(s.ApexAngle, 120)
		mean -= lambda / 8 * math.Cos(s.ApexAngle*math.Pi/360)
	}
	k, z := halfWaveFactor(r.FrequencyHz, math.Max(mean, 0.3), w, g)
	bend := 1.0
	if s.Variant == "inverted-v" {
		// Legs that come together lower the radiation resistance (to the sine of the half angle, squared) and
		// bring the charges of both ends nearer to each other; practice cuts 1 to 3 % shorter.
		bend = math.Sin(s.ApexAngle * math.Pi / 360)
		v := 1 - 0.02*(1-bend)/(1-math.Sin(math.Pi/3))
		k = Factor{Value: k.Value * v, Lo: k.Lo * (v - 0.005), Hi: k.Hi * (v + 0.005), Why: append(k.Why, fmt.Sprintf("V of %.0f degrees %.3f", s.ApexAngle, v))}
	}
	leg := k.Value * lambda / 4
	s.Radiator, s.LegB = lengthOr(s.Radiator, leg), lengthOr(s.LegB, leg)
	switch {
	case s.Variant == "inverted-v":
		s.FarHeight = lengthOr(s.FarHeight, math.Max(0, s.FeedHeight.M-s.Radiator.M*math.Cos(s.ApexAngle*math.Pi/360)))
	case s.Variant == "sloper":
		s.FarHeight = lengthOr(s.FarHeight, math.Max(0.5, s.FeedHeight.M-s.LegB.M/2))
	default:
		s.FarHeight = lengthOr(s.FarHeight, s.FeedHeight.M)
	}
	res := real(z) * bend * bend
	return Plan{
		Shape: s, Factor: k,
		Pieces: []Piece{piece(r, "leg", 2, leg, 1)},
		Expect: fmt.Sprintf("about %.0f ohm at resonance, SWR near %.1f on 50 ohm coax", res, math.Max(res/50, 50/res)),
		Schools: []string{
			"Choke at the feed keeps the coax out of the antenna; many leave it out at low power.",
			"Fold the ends back and tie before you cut: it can be undone.",
		},
	}
}

func layDipole(s Shape) (Drawing, []Fault) {
	h, far, a, b := s.FeedHeight.M, s.FarHeight.M, s.Radiator.M, s.LegB.M
	if b == 0 {
		b = a
	}
	var faults []Fault
	end := func(leg, drop, side float64) Point {
		run := math.Sqrt(math.Max(0, leg*leg-drop*drop))
		return Point{side * run, 0, h - drop}
	}
	drop := 0.0
	switch s.Variant {
	case "inverted-v":
		drop = a * math.Cos(s.ApexAngle*math.Pi/360)
		if s.FarHeight.Typed != "" || s.ApexAngle == 0 {
			drop = h - far
		}
		if s.ApexAngle != 0 && s.FarHeight.Typed != "" && a > 0 {
			if by := h - a*math.Cos(s.ApexAngle*math.Pi/360); math.Abs(by-far) > 0.05*a+0.2 {
				faults = append(faults, Fault{"far_height", "ask", fmt.Sprintf("legs of %s at %.0f degrees would end %s up, not %s; which of the three is wrong?",
					quantity.Metric(a, 10), s.ApexAngle, quantity.Metric(math.Max(0, by), 10), quantity.Metric(far, 10))})
			}
		}
	case "sloper":
		drop = h - far
	}
	if math.Abs(drop) > math.Min(a, b)+1e-9 {
		faults = append(faults, mutualFault("far_height", math.Min(a, b), h, far))
		drop = math.Copysign(math.Min(a, b), drop)
	}
	if h-drop < -0.01 {
		faults = append(faults, Fault{"far_height", "error", fmt.Sprintf("legs of %s at this angle would end %s below the ground; raise the feed or open the angle",
			quantity.Metric(a, 10), quantity.Metric(drop-h, 10))})
	}
	feed := Point{0, 0, h}
	d := Drawing{Feed: feed}
	left, right := end(a, drop, -1), end(b, drop, 1)
	if s.Variant == "sloper" {
		left = end(a, -drop, -1)
		if left[2] < -0.01 {
			faults = append(faults, Fault{"feed_height", "error", fmt.Sprintf("the upper leg would end %s below the ground: the feed is too low for a far end of %s",
				quantity.Metric(-left[2], 10), quantity.Metric(far, 10))})
		}
		d.Lines = append(d.Lines, pole(left[0], math.Max(left[2], s.PoleHeight.M)))
	} else {
		d.Lines = append(d.Lines, pole(0, math.Max(h, s.PoleHeight.M)), tie(feed, left))
	}
	d.Lines = append(d.Lines, tie(feed, right), Line{"radiator", feed, left}, Line{"radiator", feed, right})
	return d, faults
}
