package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func dipole() Family {
	return Family{
		ID: "dipole", Name: "Half-wave dipole", Short: "dipole", Group: "fed in the middle", Trims: Wired,
		matters: []string{"pole_height", "feed_height"},
		Variants: []Variant{
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M10 12H110", Pole: "M60 12V46", Feed: [2]float64{60, 12}}},
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M12 38L60 8L108 38", Pole: "M60 8V46", Feed: [2]float64{60, 8}}},
			{ID: "sloper", Name: "sloper", Sketch: Sketch{Wire: "M22 7L104 38", Pole: "M22 7V46", Feed: [2]float64{63, 22.5}}},
			{ID: "upright", Name: "upright", Sketch: Sketch{Wire: "M60 4V40", Thin: "M60 22H84", Feed: [2]float64{60, 22}}},
		},
		Feeding: Whole, Why: "The closed form takes the ground's part from a plane-wave image and bends by rule; the solver has the real " +
			"ground under every part of the wire.",
		Practice: []Practice{{Variant: "flat", Height: 6}, {Variant: "inverted-v", Height: 7}},
		knobs:    func(antenna.Shape) []Knob { return []Knob{{Field: antenna.Radiator, Piece: "leg", Label: "each leg"}} },
		set:      setLegs, mend: mendLegs,
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{askFor(""), askBuilt("radiator", "First leg"), askBuilt("leg_b", "Second leg"), askFeed}
			if s.Variant != "upright" {
				out = append(out, askFar)
			}
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			if folds(s) {
				out = append(out, withHelp(askLength(hanging, "Ends hanging down", 20), "of each leg, straight down"))
			}
			return append(out, askPole, askBearing)
		},
		plan: planDipole, layout: layDipole, fold: foldLegs,
	}
}

// hanging is the field of how much of each leg hangs straight down.
const hanging = "ends_down"

func folds(s antenna.Shape) bool { return s.Variant == "flat" || s.Variant == "inverted-v" }

// foldLegs lets so much of each leg hang down.
func foldLegs(s antenna.Shape, m float64) (antenna.Shape, []string, bool) {
	if !folds(s) || s.M(hanging) > 0 || m > mostFolded*s.Radiator().M {
		return s, nil, false
	}
	s.Put(hanging, quantity.Metres(m))
	if s.Variant == "inverted-v" && s.FarHeight().Typed == "" {
		s.PutNumber(antenna.ApexAngle, math.Max(s.ApexAngle(), 120)) // flatter, so that the ends keep off the ground
	}
	d, faults := layDipole(s)
	for _, l := range d.Lines {
		if l.Role == "radiator" && l.To[2] < leastFolded {
			return s, nil, false
		}
	}
	return s, []string{hanging}, !antenna.HasError(faults)
}

// vFactor is how much longer legs that come together are cut than level ones as high on average, since each shields the
// other's current: by the solver 1 % at 120 degrees and 2 % at 90. What the ground below the ends takes off again is in
// that average. bend is the sine of half the angle between them.
func vFactor(apex float64) (factor, bend float64) {
	bend = math.Sin(apex * math.Pi / 360)
	return 1 + 0.01*(1-bend)/(1-math.Sin(math.Pi/3)), bend
}

// halfWaveFactor combines end effect, jacket and height for a level half-wave.
func halfWaveFactor(f, height float64, w antenna.Wire, g earth.Ground) (antenna.Factor, complex128) {
	lambda := numeric.Light / f
	half := lambda / 4
	a := w.EquivalentRadius()
	end, jacket := antenna.EndFactor(half, a), w.JacketFactor(half)
	z := antenna.OverGround(height/lambda, g, f)
	za := 120 * (math.Log(2*half/a) - 1)
	ground := 1 - 2/math.Pi*imag(z)/za
	k := end * jacket * ground
	spread := 0.015
	why := []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", end),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		fmt.Sprintf("ground %.0f cm below %.3f", height*100, ground),
	}
	if height/lambda < antenna.LeastHeight {
		spread = 0.03
		why = append(why, "very low: the ground's part is less sure")
	}
	return antenna.Factor{Value: k, Lo: k * (1 - spread), Hi: k * (1 + spread), Why: why}, z
}

// hung is the factor of a half-wave as it hangs, level or as a V, and its resistance in ohms.
func hung(s antenna.Shape, f float64, w antenna.Wire, g earth.Ground) (antenna.Factor, float64) {
	up, fall := s.FeedHeight().M, 0.0
	if s.Variant == "inverted-v" {
		fall = math.Cos(s.ApexAngle() * math.Pi / 360)
	}
	k, z := halfWaveFactor(f, math.Max(up-0.3*quarterWave(f)*fall, 0.3), w, g) // where the current flows
	if fall == 0 {
		return k, real(z)
	}
	v, bend := vFactor(s.ApexAngle())
	k = antenna.Factor{Value: k.Value * v, Lo: k.Lo * (v - 0.005), Hi: k.Hi * (v + 0.005),
		Why: append(k.Why, fmt.Sprintf("V of %.0f degrees %.3f", s.ApexAngle(), v))}
	// Legs that come together also lower the radiation resistance, to the sine of the half angle, squared.
	return k, real(z)*bend*bend + endsLoss((up-k.Value*quarterWave(f)*fall)*f/numeric.Light, g)
}

// endsLoss is, in ohms, what soil so many wavelengths below the ends of a V loses more than it would below a level wire as
// high on average: the highest voltage is nearest to it. By the solver, within 4 ohm for 90 to 150 degrees on 7 to 28 MHz;
// over salt water it is a third.
func endsLoss(waves float64, g earth.Ground) float64 {
	loss := 30 * math.Exp(-math.Max(waves, 0)/0.07)
	if g.Conductivity > 1 {
		loss /= 3
	}
	return loss
}

func planDipole(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	lambda := numeric.Light / r.FrequencyHz
	s := r.Shape
	if s.Variant == "upright" {
		return planUpright(r, w)
	}
	s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, 6))
	s.Fill(antenna.PoleHeight, s.FeedHeight().M)
	if s.Variant == "inverted-v" {
		s.PutNumber(antenna.ApexAngle, antenna.Or(s.ApexAngle(), 120))
	}
	k, res := hung(s, r.FrequencyHz, w, g)
	leg := settle(&k, s.Radiator().M, k.Value*lambda/4)
	s.Fill(antenna.Radiator, leg)
	s.Fill(antenna.LegB, leg)
	switch {
	case s.Variant == "inverted-v":
		s.Fill(antenna.FarHeight, math.Max(0, s.FeedHeight().M-s.Radiator().M*math.Cos(s.ApexAngle()*math.Pi/360)))
	case s.Variant == "sloper":
		s.Fill(antenna.FarHeight, math.Max(0.5, s.FeedHeight().M-s.LegB().M/2))
	default:
		s.Fill(antenna.FarHeight, s.FeedHeight().M)
	}
	return antenna.Plan{
		Shape: s, Factor: k,
		Pieces:  []antenna.Piece{piece(r, "leg", 2, leg, 1)},
		Expect:  fmt.Sprintf("about %.0f ohm at resonance, SWR near %.1f on 50 ohm coax", res, antenna.SWR50(complex(res, 0))),
		Schools: dipoleSchools(r, leg),
	}
}

func dipoleSchools(r antenna.Request, leg float64) []antenna.School {
	return []antenna.School{
		school("choke", "1:1 choke at the feed", "0.2 to 0.5 dB, some 100 g",
			"keeps the coax out of the antenna; the legs alone set the resonance"),
		school("choke", "none at low power", "no loss, no weight", "the coax becomes a third leg; the resonance moves when it is laid otherwise"),
		school("trimming", "cut", say(r, leg*0.02)+" off each leg moves it up 2 %", "cannot be undone"),
		school("trimming", "fold back and tie", "folds count about four fifths of a cut", "can be undone; the fold swings in wind"),
	}
}

// planUpright is the dipole that stands: hardly any image current to shift it, its low end close to soil.
func planUpright(r antenna.Request, w antenna.Wire) antenna.Plan {
	s := r.Shape
	lambda := numeric.Light / r.FrequencyHz
	end, jacket := antenna.EndFactor(lambda/4, w.EquivalentRadius()), w.JacketFactor(lambda/4)
	k := antenna.Factor{Value: end * jacket, Lo: end * jacket * 0.98, Hi: end * jacket * 1.02, Why: []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", end), fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		"the low end near the soil may ask for 1 or 2 % less"}}
	leg := settle(&k, s.Radiator().M, k.Value*lambda/4)
	s.Fill(antenna.Radiator, leg)
	s.Fill(antenna.LegB, leg)
	s.Fill(antenna.FeedHeight, s.LegB().M+0.5)
	s.Fill(antenna.PoleHeight, s.FeedHeight().M+s.Radiator().M)
	return antenna.Plan{Shape: s, Factor: k, Pieces: []antenna.Piece{piece(r, "leg", 2, leg, 1)},
		Expect: "about 70 to 95 ohm at resonance; lead the coax away level for a quarter-wave, or choke it", Schools: dipoleSchools(r, leg)}
}

func layDipole(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	h, far, a, b := s.FeedHeight().M, s.FarHeight().M, s.Radiator().M, s.LegB().M
	if b == 0 {
		b = a
	}
	var faults []antenna.Fault
	end := func(leg, drop, side float64) antenna.Point {
		run := math.Sqrt(math.Max(0, leg*leg-drop*drop))
		return antenna.Point{side * run, 0, h - drop}
	}
	drop, tail := 0.0, 0.0
	if folds(s) {
		tail = math.Min(s.M(hanging), math.Min(a, b))
	}
	switch s.Variant {
	case "inverted-v":
		drop = (a - tail) * math.Cos(s.ApexAngle()*math.Pi/360)
		if s.FarHeight().Typed != "" || s.ApexAngle() == 0 {
			drop = h - far
		}
		if s.ApexAngle() != 0 && s.FarHeight().Typed != "" && a > 0 {
			if by := h - a*math.Cos(s.ApexAngle()*math.Pi/360); math.Abs(by-far) > 0.05*a+0.2 {
				faults = append(faults, antenna.Say("far_height", "ask",
					"legs of %s at %.0f degrees would end %s up, not %s; which of the three is wrong?",
					quantity.Long(a), s.ApexAngle(), quantity.Long(math.Max(0, by)), quantity.Long(far)))
			}
		}
	case "sloper":
		drop = h - far
	case "flat":
		if s.FarHeight().Typed != "" {
			drop = h - far
		}
	}
	second := drop
	if l := s.Sizes[secondEnd]; !l.IsZero() {
		second = h - l.M
	}
	if math.Abs(drop) > math.Min(a, b)-tail+1e-9 {
		faults = append(faults, antenna.CannotReach("far_height", math.Min(a, b), h, far))
		drop = math.Copysign(math.Min(a, b)-tail, drop)
	}
	if h-drop < -0.01 {
		faults = append(faults, antenna.Say("far_height", "error",
			"legs of %s at this angle would end %s below the ground; raise the feed or open the angle",
			quantity.Long(a), quantity.Long(drop-h)))
	}
	feed := antenna.Point{0, 0, h}
	d := antenna.Drawing{Feed: feed}
	if s.Variant == "upright" {
		if h-b < -0.01 {
			faults = append(faults, antenna.Say("feed_height", "error", "the lower leg of %s would end %s below the ground: raise the feed point",
				quantity.Long(b), quantity.Long(b-h)))
		}
		d.Lines = []antenna.Line{antenna.Pole(0, math.Max(h+a, s.PoleHeight().M)),
			{Role: "radiator", From: feed, To: antenna.Point{0, 0, h + a}, Size: quantity.Metres(a)},
			{Role: "radiator", From: feed, To: antenna.Point{0, 0, h - b}, Size: quantity.Metres(b)}}
		return d, faults
	}
	if math.Abs(second) > b-tail+1e-9 {
		faults = append(faults, antenna.CannotReach(secondEnd, b, h, h-second))
		second = math.Copysign(b-tail, second)
	}
	left, right := end(a-tail, drop, -1), end(b-tail, second, 1)
	if s.Variant == "sloper" {
		left = end(a, -drop, -1)
		if left[2] < -0.01 {
			faults = append(faults, antenna.Say("feed_height", "error",
				"the upper leg would end %s below the ground: the feed is too low for a far end of %s",
				quantity.Long(-left[2]), quantity.Long(far)))
		}
		d.Lines = append(d.Lines, antenna.Pole(left[0], math.Max(left[2], s.PoleHeight().M)))
	} else {
		d.Lines = append(d.Lines, antenna.Pole(0, math.Max(h, s.PoleHeight().M)), antenna.Tie(feed, left))
	}
	d.Lines = append(d.Lines, antenna.Tie(feed, right), antenna.Line{Role: "radiator", From: feed, To: left, Size: quantity.Metres(a)},
		antenna.Line{Role: "radiator", From: feed, To: right, Size: quantity.Metres(b)})
	if tail > 0 {
		for _, corner := range []antenna.Point{left, right} {
			d.Lines = append(d.Lines, antenna.Line{Role: "radiator", From: corner, To: antenna.Point{corner[0], 0, corner[2] - tail}})
		}
		if low := left[2] - tail; low < 0.1 {
			faults = append(faults, antenna.Say(hanging, "error", "ends of %s would hang to %s below the ground", quantity.Long(tail),
				quantity.Long(-low)))
		}
	}
	return d, faults
}
