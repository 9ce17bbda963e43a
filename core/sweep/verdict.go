package sweep

import (
	"math"

	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/phrase"
)

// Subject is the wire that a reading is of: what is trimmed, and how long it is now in metres.
type Subject struct {
	Family   string
	Length   float64 // of all that is trimmed together: both legs of a dipole
	Trims    string  // how it answers to a change of length: "wire" if empty, "loaded", "settings" or "none"
	Legs     int     // how many wires are changed alike
	Slider   string  // what is slid in and out, if anything is
	Turns    float64 // of a winding, which take the place of its length
	Raised   bool    // radials in the air
	WantedHz float64 // the frequency it was cut for, 0 if none
}

// Of is the subject that a set-up is.
func Of(b deployment.Built) Subject {
	slider, _ := family.Of(b.Shape).Slider()
	return Subject{Family: b.Family, Length: b.Total(), Trims: family.Of(b.Shape).Trims(), Legs: b.Legs(), Slider: slider.Label,
		Turns:  turns(b),
		Raised: b.Raised(), WantedHz: b.FrequencyHz}
}

// turns are those of a winding that is trimmed in place of a length, 0 without.
func turns(b deployment.Built) float64 {
	for _, k := range family.Of(b.Shape).Knobs() {
		if k.Turns() {
			return k.Length(b.Shape)
		}
	}
	return 0
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

// least is the shortest change in metres that is worth the way to the antenna.
const least = 0.02

// whole is the coverage in per cent from which a segment is good throughout.
const whole = 99.5

// half is the share in per cent of the own segments that has to be measured before they are called good.
const half = 50

// centred is by what share a single dip may lie off the target and be left as it is.
const centred = 0.005

// loadedShare is how much of a shortening by proportion is advised at once for a loaded wire.
const loadedShare = 0.3

// judged is a reading beside what it is of. Off is how far the dip lies from the target, as a share of it, Inside that
// it lies in an own segment.
type judged struct {
	Reading
	of     Subject
	off    float64
	inside bool
}

// cut reports whether a length of wire or a rod is what is changed.
func (s Subject) cut() bool {
	return s.Length > 0 && s.Turns == 0 && (s.Trims == "" || s.Trims == family.Wired || s.Trims == family.Loaded)
}

// further is how far one may read on where the readings still fall: the end of the own segments on that side, in hertz,
// 0 when they end there. A kilohertz or two more or less is no further.
func (x judged) further() float64 {
	const near = 0.001
	for _, s := range x.Own {
		if x.Beyond.Down && s.Lo < x.MinAt*(1-near) && s.Hi > x.MinAt*(1-near) {
			return s.Lo
		}
		if !x.Beyond.Down && s.Hi > x.MinAt*(1+near) && s.Lo < x.MinAt*(1+near) {
			return s.Hi
		}
	}
	return 0
}

// rules say what a sweep is judged by: the first that applies. They go from what makes the others void (no segment, no
// measurement, nothing to trim, no dip) over what is no matter of length (setting, match, width) to the length.
var rules = []struct {
	reason phrase.Reason
	when   func(x judged) bool
}{
	{phrase.NoSegment, func(x judged) bool { return len(x.Own) == 0 }},
	{phrase.Good, func(x judged) bool { return x.Single && x.MinSWR <= x.Limit && x.off < centred }},
	{phrase.Unreached, func(x judged) bool { return x.Measured < 1 && !x.Single }},
	{phrase.Good, func(x judged) bool { return x.Coverage >= whole && x.Measured >= half }},
	{phrase.Tuned, func(x judged) bool { return x.of.Trims == family.NoTrim }},
	{phrase.ReadOn, func(x judged) bool { return x.Reading.AtEdge && x.Metered && x.further() > 0 }},
	{phrase.Beyond, func(x judged) bool { return x.Reading.AtEdge && x.Metered && x.of.cut() }},
	{phrase.AtEdge, func(x judged) bool { return x.Reading.AtEdge }},
	{phrase.NoDip, func(x judged) bool { return x.MinSWR > noDip }},
	{phrase.Slides, func(x judged) bool { return x.of.Slider != "" && x.of.Length > 0 && x.off >= 0.003 && !x.inside }},
	{phrase.Resets, func(x judged) bool { return x.of.Trims == family.Settings && x.off >= 0.003 }},
	{phrase.Mismatched, func(x judged) bool { return x.MinSWR > x.Limit && (x.inside || x.off < 0.005) }},
	{phrase.Narrow, func(x judged) bool { return x.inside && x.off < 0.003 }},
	{phrase.Rewinds, func(x judged) bool { return x.of.Turns > 0 }},
	{phrase.NoLength, func(x judged) bool { return x.of.Length <= 0 }},
	{phrase.TooLong, func(x judged) bool { target, _ := x.Target(x.of.WantedHz); return x.MinAt < target }},
	{phrase.TooShort, func(judged) bool { return true }},
}

// Judge turns a reading into what to do. The length rule is that frequency times length stays constant,
// which holds for a plain wire; of a shortening, four fifths are advised first, since wire that is cut
// off does not come back.
func Judge(r Reading, s Subject) phrase.Verdict {
	kind, _ := family.Named(s.Family)
	v := phrase.Verdict{LowSWR: r.MinSWR, LowHz: r.MinAt, Limit: r.Limit, Coverage: r.Coverage, Legs: s.Legs, Loaded: s.Trims == family.Loaded,
		Slider: s.Slider, Turns: s.Turns, NoDipSWR: noDip, Mend: matchHint(r, s), Lost: kind.Tuning.Lost, Setting: kind.Tuning.Below}
	x := judged{Reading: r, of: s}
	if target, ok := r.Target(s.WantedHz); ok {
		v.TargetHz, x.off = target, math.Abs(r.MinAt-target)/target
		if r.MinAt > target {
			v.Setting = kind.Tuning.Above
		}
	}
	v.Further, v.Missing, v.Single = x.further(), r.Missing, r.Single
	for _, seg := range r.Own {
		x.inside = x.inside || r.MinAt >= seg.Lo && r.MinAt <= seg.Hi
	}
	for _, rule := range rules {
		if rule.when(x) {
			return change(v, r, s, rule.reason).Judged(rule.reason)
		}
	}
	return v // the last rule always applies
}

// change works out by how much a length or a winding is off, where that is the reason.
func change(v phrase.Verdict, r Reading, s Subject, reason phrase.Reason) phrase.Verdict {
	by := 1 - v.LowHz/v.TargetHz
	length := func(step float64) {
		v.Change = s.Length * by
		v.Bounds = [2]float64{v.Change * (1 - uncertain), v.Change * (1 + uncertain)}
		v.Step = v.Change * step
		v.ExpectHz = v.LowHz * s.Length / (s.Length - v.Step)
	}
	switch reason {
	case phrase.Slides, phrase.TooShort:
		length(1)
		v.ExpectHz = v.TargetHz
	case phrase.TooLong:
		step := 0.8
		if v.Loaded {
			step = loadedShare
		}
		length(step)
	case phrase.Beyond:
		// By the nearest dip that the readings allow, so that it can be done again; where that is as good as the wanted
		// frequency, by the middle.
		v.Beyond = r.Beyond
		at := r.Beyond.Near
		if math.Abs(at/v.TargetHz-1) < 0.003 {
			at = (at + r.Beyond.Far) / 2
		}
		by = 1 - at/v.TargetHz
		step := 1.0
		if by > 0 {
			step = 0.8
			if v.Loaded {
				step = loadedShare
			}
		}
		length(step)
		if math.Abs(v.Step) < least || (by > 0) != r.Beyond.Down {
			v.Change, v.Step = 0, 0
		}
		v.ExpectHz = at * s.Length / (s.Length - v.Step)
	case phrase.Rewinds:
		v.TurnsOff = s.Turns * by
		v.TurnStep = math.Max(1, math.Round(-v.TurnsOff))
		if v.TurnsOff > 0 {
			v.TurnStep = math.Max(1, math.Floor(v.TurnsOff*loadedShare))
		}
	}
	return v
}

// matchHint says what brings the resistance at the lowest SWR to 50 ohm, in the way of the antenna's kind.
func matchHint(r Reading, s Subject) string {
	if !r.HasZ {
		return "Only SWR was measured; R and X would tell which way."
	}
	kind, _ := family.Named(s.Family)
	return kind.Mend(family.Match{R: r.R, Hz: r.MinAt, Raised: s.Raised})
}
