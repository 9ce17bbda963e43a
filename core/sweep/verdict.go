package sweep

import (
	"fmt"
	"math"

	"reed/core/deployment"
	"reed/core/quantity"
)

// Subject is the wire that a reading is of: what is trimmed, and how long it is now in metres.
type Subject struct {
	Family   string
	Length   float64 // of all that is trimmed together: both legs of a dipole
	Trims    string  // how it answers to a change of length: "wire" if empty, "loaded", "settings" or "none"
	Legs     int     // how many wires are changed alike
	Slides   bool    // a rod that is slid in and out
	Turns    float64 // of a helix, which take the place of its length
	Raised   bool    // radials in the air
	WantedHz float64 // the frequency it was cut for, 0 if none
	Imperial bool
}

// Of is the subject that a set-up is.
func Of(b deployment.Built, imperial bool) Subject {
	return Subject{Family: b.Family, Length: b.Total(), Trims: b.Trims(), Legs: b.Legs(), Slides: b.Slides(), Turns: b.N("helix_turns", 0),
		Raised: b.Variant == "raised-radials", WantedHz: b.FrequencyHz, Imperial: imperial}
}

// Verdict is a judgement in words. Tone is good, long, short, match or unknown. Change is the whole
// length that is off, in metres, negative when wire has to be added; Step is what to do now, never
// more than is likely right; the two Bounds say how sure Change is.
type Verdict struct {
	Tone     string     `json:"tone"`
	Headline string     `json:"headline"`
	Detail   string     `json:"detail"`
	TargetHz float64    `json:"target_hz,omitempty"`
	Change   float64    `json:"change_m,omitempty"`
	Step     float64    `json:"step_m,omitempty"`
	Bounds   [2]float64 `json:"bounds_m"`
	ExpectHz float64    `json:"expect_hz,omitempty"`
}

// Target is the frequency at which the lowest SWR should lie: the wanted one when it is in an own
// segment, otherwise the middle of the own segments. ok is false without any.
func (r Reading) Target(wanted float64) (hz float64, ok bool) {
	if len(r.Own) == 0 {
		return 0, false
	}
	for _, s := range r.Own {
		if wanted >= s.Lo && wanted <= s.Hi {
			return wanted, true
		}
	}
	return (r.Own[0].Lo + r.Own[len(r.Own)-1].Hi) / 2, true
}

// uncertain is the share by which the change of length may be off, since a wire near ground and other
// wires does not keep frequency times length quite constant.
const uncertain = 0.15

// noDip is the SWR above which the lowest of a sweep is taken for noise, not for a dip.
const noDip = 20.0

// loadedShare is how much of a shortening by proportion is advised at once for a loaded wire.
const loadedShare = 0.3

// Judge turns a reading into what to do. The length rule is that frequency times length stays constant,
// which holds for a plain wire; of a shortening, four fifths are advised first, since wire that is cut
// off does not come back.
func Judge(r Reading, s Subject) Verdict {
	target, ok := r.Target(s.WantedHz)
	if !ok {
		return Verdict{Tone: "unknown", Headline: "None of your segments is in this band.",
			Detail: fmt.Sprintf("Lowest SWR %.1f at %s MHz. Choose segments in Settings to have it judged.", r.MinSWR, quantity.MHz(r.MinAt))}
	}
	v := Verdict{TargetHz: target}
	lowest := fmt.Sprintf("Lowest SWR %.1f at %s MHz", r.MinSWR, quantity.MHz(round(r.MinAt, 1e3)))
	switch {
	case r.Measured < 1:
		v.Tone, v.Headline = "unknown", "This sweep does not reach your segment."
		v.Detail = lowest + ". Sweep again over the whole band."
		return v
	case r.Coverage >= 99.5:
		v.Tone, v.Headline = "good", "Leave it."
		v.Detail = fmt.Sprintf("%s; under %.3g over your whole segment.", lowest, r.Limit)
		return v
	}
	v.Change = s.Length * (1 - r.MinAt/target)
	v.Bounds = [2]float64{v.Change * (1 - uncertain), v.Change * (1 + uncertain)}
	off := math.Abs(r.MinAt-target) / target
	inside := false
	for _, seg := range r.Own {
		inside = inside || r.MinAt >= seg.Lo && r.MinAt <= seg.Hi
	}
	switch {
	case s.Trims == "none":
		v.Tone, v.Headline = "match", "This antenna is tuned, not trimmed."
		v.Detail = fmt.Sprintf("%s. Its length is chosen between the resonances: set the tuner, and note what it shows.", lowest)
		v.Change, v.Bounds = 0, [2]float64{}
	case r.AtEdge:
		v.Tone, v.Headline = "unknown", "The lowest point is at the end of the sweep."
		v.Detail = lowest + ". The dip lies further out: sweep wider before you change anything."
		v.Change, v.Bounds = 0, [2]float64{}
	case r.MinSWR > noDip:
		v.Tone, v.Headline = "unknown", "No dip in this sweep."
		v.Detail = fmt.Sprintf("The SWR is over %.0f throughout: nothing resonates here, or nothing is connected. Sweep wider; look at plug and feed.", noDip)
		if s.Family == "small-loop" {
			v.Detail = fmt.Sprintf("The SWR is over %.0f throughout: the loop is tuned elsewhere. Turn the dial until the noise peaks, then sweep again.", noDip)
		}
		v.Change, v.Bounds = 0, [2]float64{}
	case s.Slides && s.Length > 0 && off >= 0.003 && !inside:
		v.Tone, v.Step, v.ExpectHz = "long", v.Change, target
		word := "in"
		if v.Change < 0 {
			v.Tone, word = "short", "out"
		}
		v.Headline = fmt.Sprintf("Slide the whip %s by %s, then sweep again.", word, s.print(math.Abs(v.Change), 0.01))
		v.Detail = fmt.Sprintf("%s; you want %s. By proportion of its length; mark it when you find it.", lowest, quantity.MHz(round(target, 1e3)))
	case s.Trims == "settings" && off >= 0.003:
		way := "below: shorten the whip, or take turns out of the coil"
		switch above := r.MinAt > target; {
		case s.Family == "small-loop" && above:
			way = "above: turn the dial to more capacitance"
		case s.Family == "small-loop":
			way = "below: turn the dial to less capacitance"
		case above:
			way = "above: lengthen the whip, or put turns in"
		}
		v.Tone, v.Headline = "match", "Change the setting, not the wire."
		v.Detail = fmt.Sprintf("%s; you want %s. It lies %.1f %% %s. Small steps, and note the setting that you find.", lowest, quantity.MHz(round(target, 1e3)), off*100, way)
		if r.MinSWR > r.Limit {
			v.Detail += " " + matchHint(r, s)
		}
		v.Change, v.Bounds = 0, [2]float64{}
	case r.MinSWR > r.Limit && (inside || off < 0.005):
		v.Tone, v.Headline = "match", "The length is right, the match is not."
		v.Detail = fmt.Sprintf("%s, over your limit of %.3g. %s", lowest, r.Limit, matchHint(r, s))
		v.Change, v.Bounds = 0, [2]float64{}
	case inside && off < 0.003:
		v.Tone, v.Headline = "match", "Centred, but too narrow for your segment."
		v.Detail = fmt.Sprintf("%s; %.0f %% of your segment is under %.3g. Trimming would only move the good part; a tuner or a narrower segment helps.", lowest, r.Coverage, r.Limit)
		v.Change, v.Bounds = 0, [2]float64{}
	case s.Family == "helix" && s.Turns > 0:
		off := s.Turns * (1 - r.MinAt/target)
		by := fmt.Sprintf("%s; you want %s. By proportion of its %.0f turns", lowest, quantity.MHz(round(target, 1e3)), s.Turns)
		if off > 0 {
			v.Tone, v.Headline = "long", fmt.Sprintf("About %.0f turns too many. Take off %.0f, then sweep again.", math.Ceil(off), math.Max(1, math.Floor(off*loadedShare)))
			v.Detail = by + "; a helix moves further than that, so a third first."
		} else {
			v.Tone, v.Headline = "short", fmt.Sprintf("About %.0f turns too few. Wind on %.0f, then sweep again.", math.Ceil(-off), math.Max(1, math.Round(-off)))
			v.Detail = by + "."
		}
		v.Change, v.Bounds = 0, [2]float64{}
	case s.Length <= 0:
		v.Tone, v.Headline = "unknown", "Its length is not recorded."
		v.Detail = lowest + ". Record the radiator in Raise, then the change can be computed."
	case v.Change > 0:
		v.Tone = "long"
		v.Step = v.Change * 0.8
		if s.Trims == "loaded" {
			v.Step = v.Change * loadedShare
		}
		v.ExpectHz = r.MinAt * s.Length / (s.Length - v.Step)
		v.Headline = fmt.Sprintf("%s too long. Fold back %s, then sweep again.", s.print(v.Change, 0.01), s.each(v.Step))
		v.Detail = fmt.Sprintf("%s; you want %s. The whole change is %s to %s; %s first, so that it stays long enough. Expect the dip near %s MHz.",
			lowest, quantity.MHz(round(target, 1e3)), s.print(v.Bounds[0], 0.01), s.print(v.Bounds[1], 0.01), s.share(), quantity.MHz(round(v.ExpectHz, 1e4)))
	default:
		v.Tone = "short"
		v.Step = v.Change
		v.ExpectHz = target
		v.Headline = fmt.Sprintf("%s too short. Add %s, then sweep again.", s.print(-v.Change, 0.01), s.each(-v.Step))
		v.Detail = fmt.Sprintf("%s; you want %s. Between %s and %s are missing. Unfold what is folded back before you splice.",
			lowest, quantity.MHz(round(target, 1e3)), s.print(-v.Bounds[0], 0.01), s.print(-v.Bounds[1], 0.01))
	}
	return v
}

// each says a change of the whole length as what is done at each end.
func (s Subject) each(m float64) string {
	if s.Family == "dipole" || s.Legs == 2 {
		return s.print(m/2, 0.01) + " on each leg"
	}
	return s.print(m, 0.01)
}

// share says how much of a shortening is advised at once. A loaded wire moves two or three times as far
// for the same length, so less of it.
func (s Subject) share() string {
	if s.Trims == "loaded" {
		return "a third (a loaded wire moves two or three times as far as a plain one)"
	}
	return "four fifths"
}

func (s Subject) print(m, step float64) string {
	if s.Imperial {
		return quantity.Imperial(m, 8)
	}
	return quantity.Metric(math.Max(round(m, step), step), 10)
}

func round(v, step float64) float64 { return math.Round(v/step) * step }

// matchHint says what brings the resistance at the lowest SWR to 50 ohm, in the way of the antenna's kind.
func matchHint(r Reading, s Subject) string {
	if !r.HasZ {
		return "Only SWR was measured; R and X would tell which way."
	}
	is := fmt.Sprintf("R is %.0f ohm", r.R)
	low, high := r.R < 33, r.R > 75
	// A transformer's ratio of impedances, as far as one winds it.
	ratio := fmt.Sprintf("1:%.0f", Reference/math.Max(r.R, 1))
	if r.R > Reference {
		ratio = fmt.Sprintf("%.0f:1", r.R/Reference)
	}
	switch s.Family {
	case "end-fed", "end-fed-loaded":
		if high {
			return is + " at the radio's side: a higher transformer ratio or a longer counterpoise brings it down."
		}
		return is + " at the radio's side: a lower transformer ratio brings it up."
	case "vertical", "multi-vertical", "whip":
		switch {
		case low:
			return is + ": slope raised radials further down, or accept it; it is low loss, not a fault."
		case s.Raised && high:
			return is + ": raised radials of about a half-wave feed it so; cut a pair to a quarter-wave of this band."
		case s.Raised:
			return is + ": slope the radials less."
		}
		return is + ": more radials lower the loss in the ground."
	case "loaded-whip", "whip-pair", "helix":
		if low && r.R > 0 {
			return fmt.Sprintf("%s: a coil of %.2g uH across the feed, with the whip set a little shorter, or a transformer of about %s brings it to 50.", is, hairpin(r)*1e6, ratio)
		}
		return is + ": that much is mostly loss in coil and ground; more radials lower it."
	case "small-loop":
		return is + ": turn the coupling loop, or bend it to another size."
	case "j-pole":
		if high {
			return is + ": move the tap towards the shorted end."
		}
		return is + ": move the tap away from the shorted end."
	case "dipole", "linked-dipole":
		if low {
			return is + ": raise it, or open the angle between the legs."
		}
		return is + ": an inverted V or a 1:1 choke with a match brings it down."
	case "rectangle":
		return is + ": width and gap set the match; look whether both are as planned."
	}
	return is + ": a tuner, or a transformer of about " + ratio + ", brings it to 50."
}

// hairpin is the inductance in henries across the feed of an antenna set a little short, so that its capacitance
// and the coil together lift its resistance to 50 ohm: an L section, X = 50/Q with Q = sqrt(50/R - 1).
func hairpin(r Reading) float64 {
	q := math.Sqrt(Reference/r.R - 1)
	return Reference / q / (2 * math.Pi * r.MinAt)
}
