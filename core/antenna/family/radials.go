package family

import (
	"fmt"
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

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

// radials fills in what was left open of a vertical's radials, and says what to expect of the match. k is
// the shortening of a wire in the air.
func radials(s *antenna.Shape, r antenna.Request, k float64, g earth.Ground) string {
	lambda := numeric.Light / r.FrequencyHz
	list, _ := antenna.Degrees(s.W("directions", ""))
	if len(list) > 0 {
		further := 0
		for i := 2; i <= mostSets; i++ {
			count, _ := setID(i)
			further += int(s.N(count, 0))
		}
		s.PutNumber(antenna.RadialsCount, float64(max(len(list)-further, 0)))
	}
	if s.Variant == "raised-radials" {
		s.Fill(antenna.FeedHeight, 2)
		s.Fill(antenna.RadialsHeight, math.Max(0.5, s.FeedHeight().M-1))
		if !radialsByBand(s, k) && !s.Said(antenna.RadialsCount) {
			s.PutNumber(antenna.RadialsCount, 4)
		}
		s.Fill(antenna.RadialsLength, k*lambda/4)
		return "about 25 to 50 ohm: level radials give the low figure, radials that slope down the high one"
	}
	if !s.Said(antenna.RadialsCount) {
		s.PutNumber(antenna.RadialsCount, 8)
	}
	s.Fill(antenna.FeedHeight, onTheGround)
	s.Fill(antenna.RadialsLength, groundRadial(s.Radials().Count)*lambda)
	loss := screenLoss(g, r.FrequencyHz, s.Radiator().M, s.Radials())
	return fmt.Sprintf("36 ohm and about %.0f ohm of loss in the ground: an SWR of exactly 1 here is a sign of loss, not of quality", loss)
}

// radialsByBand gives two raised radials of its own to every band that is not served by those of another, and reports
// whether it did: not for one band, nor where the radials were specified.
func radialsByBand(s *antenna.Shape, k float64) bool {
	second, _ := setID(2)
	if s.Said(antenna.RadialsCount) || s.Said(second) || s.M(antenna.RadialsLength) > 0 || s.W("directions", "") != "" {
		return false
	}
	var lengths []float64
	for _, f := range slices.Backward(s.All()) {
		quarter := k * numeric.Light / f / 4
		// An odd number of quarter-waves carries the current too.
		served := slices.ContainsFunc(lengths, func(l float64) bool { return math.Abs(math.Mod(l/quarter, 2)-1) < 0.1 })
		if !served && len(lengths) < mostSets {
			lengths = append(lengths, quarter)
		}
	}
	if len(lengths) < 2 {
		return false
	}
	s.PutNumber(antenna.RadialsCount, 2)
	s.Put(antenna.RadialsLength, quantity.Metres(lengths[0]))
	for i, l := range lengths[1:] {
		count, length := setID(i + 2)
		s.PutNumber(count, 2)
		s.Fill(length, l)
	}
	return true
}

// screenLoss is the loss resistance in ohms of radials on the ground under a vertical of height h.
func screenLoss(g earth.Ground, f, h float64, set antenna.WireSet) float64 {
	return math.Max(0.5, real(earth.Screen(g, f, h, set.Count, set.Length.M, 0.0005)))
}

// radialSchools lays the ways to make a counterweight for a vertical beside each other, with the share of
// the power that is left by each (36 ohm of radiation against the loss of the ground).
func radialSchools(r antenna.Request, k float64, g earth.Ground) []antenna.School {
	lambda := numeric.Light / r.FrequencyHz
	left := func(loss float64) string {
		return fmt.Sprintf("%.0f ohm lost, %.0f %% radiated", loss, 100*36/(36+loss))
	}
	ground := func(n int, l float64) string {
		return left(screenLoss(g, r.FrequencyHz, lambda/4, antenna.WireSet{Count: n, Length: quantity.Metres(l)}))
	}
	l16, l4 := groundRadial(16)*lambda, groundRadial(4)*lambda
	return []antenna.School{
		school("radials", fmt.Sprintf("16 on the ground of %s", say(r, l16)), ground(16, l16),
			fmt.Sprintf("%.0f m of wire; number counts more than length, no trimming", 16*l16)),
		school("radials", fmt.Sprintf("4 on the ground of %s", say(r, l4)), ground(4, l4), fmt.Sprintf("%.0f m of wire", 4*l4)),
		school("radials", fmt.Sprintf("2 to 4 raised of %s", say(r, k*lambda/4)), "a few ohm lost from 0.05 wavelength up",
			"must be cut to length, ends tied up, choke at the feed"),
		school("radials", "none, coax only", ground(0, 0), "the coax is the only radial: rough figure, works at low power"),
	}
}

func directionFaults(s antenna.Shape) []antenna.Fault {
	if _, ok := antenna.Degrees(s.W("directions", "")); !ok {
		return []antenna.Fault{antenna.Say("directions", "error", "%q was not understood; write directions in degrees like 0 90 200",
			s.W("directions", ""))}
	}
	return nil
}

// layRadials draws the radials from the feed point, all round or towards the directions that are given.
func layRadials(s antenna.Shape, d *antenna.Drawing) (faults []antenna.Fault) {
	r, h := s.Radials(), d.Feed[2]
	fall := h - r.Height.M
	if s.Variant != "raised-radials" {
		fall = h
	}
	if r.Count > 0 && math.Abs(fall) > r.Length.M && r.Length.M > 0 {
		path := antenna.RadialsHeight
		if s.Variant != "raised-radials" {
			path = "feed_height"
		}
		faults = append(faults, antenna.CannotReach(path, r.Length.M, h, h-fall))
		fall = math.Copysign(r.Length.M, fall)
	}
	list, _ := antenna.Degrees(s.W("directions", ""))
	before := 0 // radials of the sets before: directions are given for all sets one after the other
	for n, set := range radialSets(s) {
		length := set.Length.M
		if s.W("radials_lie", "") == heap {
			length = math.Min(length, heapRadius)
		}
		to := fall
		if s.Variant == "raised-radials" && n > 0 && length < r.Length.M {
			to *= length / r.Length.M // tied off along the others, by a longer cord
		}
		down := math.Copysign(math.Min(math.Abs(to), length), fall)
		run := math.Sqrt(math.Max(0, length*length-down*down))
		for i := range set.Count {
			a := 2*math.Pi*float64(i)/float64(set.Count) + float64(n)*setTurn
			if before+i < len(list) {
				a = list[before+i] * math.Pi / 180
			}
			d.Lines = append(d.Lines, antenna.Line{Role: "radial", From: d.Feed,
				To: antenna.Point{d.Feed[0] + run*math.Cos(a), d.Feed[1] + run*math.Sin(a), h - down}})
		}
		before += set.Count
	}
	return faults
}

const (
	onTheGround = 0.02 // metres that a foot on the ground has its feed up
	heapRadius  = 0.5  // metres that a heap of radials reaches
	setTurn     = 0.37 // radians by which each set of radials is turned from the one before
)
