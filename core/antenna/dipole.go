package antenna

import (
	"fmt"
	"math"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func dipole() Family {
	return Family{
		ID: "dipole", Name: "Half-wave dipole", Short: "dipole", Group: "balanced", Trims: "wire",
		Variants: []Variant{{"flat", "flat"}, {"inverted-v", "inverted V"}, {"sloper", "sloper"}, {"upright", "upright"}},
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{askFor(""), askBuilt("radiator", "First leg"), askBuilt("leg_b", "Second leg"), askFeed}
			if s.Variant != "upright" {
				out = append(out, askFar)
			}
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			return append(out, askPole, askBearing)
		},
		plan: planDipole, layout: layDipole,
	}
}

// vFactor is how much shorter legs that come together are cut: the charges of both ends lie nearer to
// each other; practice cuts 1 to 3 % shorter. bend is the sine of half the angle between them.
func vFactor(apex float64) (factor, bend float64) {
	bend = math.Sin(apex * math.Pi / 360)
	return 1 - 0.02*(1-bend)/(1-math.Sin(math.Pi/3)), bend
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
	if s.Variant == "upright" {
		return planUpright(r, w)
	}
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
		// Legs that come together also lower the radiation resistance, to the sine of the half angle, squared.
		var v float64
		v, bend = vFactor(s.ApexAngle)
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
		Pieces:  []Piece{piece(r, "leg", 2, leg, 1)},
		Expect:  fmt.Sprintf("about %.0f ohm at resonance, SWR near %.1f on 50 ohm coax", res, math.Max(res/50, 50/res)),
		Schools: dipoleSchools(r, leg),
	}
}

func dipoleSchools(r Request, leg float64) []School {
	return []School{
		{"choke", "1:1 choke at the feed", "0.2 to 0.5 dB, some 100 g", "keeps the coax out of the antenna; the legs alone set the resonance"},
		{"choke", "none at low power", "no loss, no weight", "the coax becomes a third leg; the resonance moves when it is laid otherwise"},
		{"trimming", "cut", r.say(leg*0.02) + " off each leg moves it up 2 %", "cannot be undone"},
		{"trimming", "fold back and tie", "folds count about four fifths of a cut", "can be undone; the fold swings in wind"},
	}
}

// planUpright is the dipole that stands: hardly any image current to shift it, its low end close to soil.
func planUpright(r Request, w Wire) Plan {
	s := r.Shape
	lambda := Light / r.FrequencyHz
	end, jacket := endFactor(lambda/4, w.EquivalentRadius()), w.JacketFactor(lambda/4)
	k := Factor{Value: end * jacket, Lo: end * jacket * 0.98, Hi: end * jacket * 1.02, Why: []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", end), fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		"the low end near the soil may ask for 1 or 2 % less"}}
	leg := k.Value * lambda / 4
	s.Radiator, s.LegB = lengthOr(s.Radiator, leg), lengthOr(s.LegB, leg)
	s.FeedHeight = lengthOr(s.FeedHeight, s.LegB.M+0.5)
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M+s.Radiator.M)
	return Plan{Shape: s, Factor: k, Pieces: []Piece{piece(r, "leg", 2, leg, 1)},
		Expect: "about 70 to 95 ohm at resonance; lead the coax away level for a quarter-wave, or choke it", Schools: dipoleSchools(r, leg)}
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
				faults = append(faults, fault("far_height", "ask", fmt.Sprintf("legs of %s at %.0f degrees would end %s up, not %s; which of the three is wrong?",
					quantity.Metric(a, 10), s.ApexAngle, quantity.Metric(math.Max(0, by), 10), quantity.Metric(far, 10))))
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
		faults = append(faults, fault("far_height", "error", fmt.Sprintf("legs of %s at this angle would end %s below the ground; raise the feed or open the angle",
			quantity.Metric(a, 10), quantity.Metric(drop-h, 10))))
	}
	feed := Point{0, 0, h}
	d := Drawing{Feed: feed}
	if s.Variant == "upright" {
		if h-b < -0.01 {
			faults = append(faults, fault("feed_height", "error", fmt.Sprintf("the lower leg of %s would end %s below the ground: raise the feed point",
				quantity.Metric(b, 10), quantity.Metric(b-h, 10))))
		}
		d.Lines = []Line{pole(0, math.Max(h+a, s.PoleHeight.M)), {Role: "radiator", From: feed, To: Point{0, 0, h + a}, Size: quantity.Metres(a)},
			{Role: "radiator", From: feed, To: Point{0, 0, h - b}, Size: quantity.Metres(b)}}
		return d, faults
	}
	left, right := end(a, drop, -1), end(b, drop, 1)
	if s.Variant == "sloper" {
		left = end(a, -drop, -1)
		if left[2] < -0.01 {
			faults = append(faults, fault("feed_height", "error", fmt.Sprintf("the upper leg would end %s below the ground: the feed is too low for a far end of %s",
				quantity.Metric(-left[2], 10), quantity.Metric(far, 10))))
		}
		d.Lines = append(d.Lines, pole(left[0], math.Max(left[2], s.PoleHeight.M)))
	} else {
		d.Lines = append(d.Lines, pole(0, math.Max(h, s.PoleHeight.M)), tie(feed, left))
	}
	d.Lines = append(d.Lines, tie(feed, right), Line{Role: "radiator", From: feed, To: left, Size: quantity.Metres(a)}, Line{Role: "radiator", From: feed, To: right, Size: quantity.Metres(b)})
	return d, faults
}
