package sweep

import (
	"math"

	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/phrase"
)

// Subject is the antenna that a reading is of. What is changed about it, and by how much, is the advisor's word (package trim).
type Subject struct {
	Family   string
	Trims    string  // how it answers to a change of length: "wire" if empty, "loaded", "settings" or "none"
	Raised   bool    // radials in the air
	WantedHz float64 // the frequency that the reading's band was cut for, 0 if none
}

// Of is the subject that a set-up is on a frequency in hertz.
func Of(b deployment.Built, hz float64) Subject {
	trims := family.Of(b.Shape).Trims()
	if _, slides := family.Of(b.Shape).Slider(); slides {
		trims = family.Loaded // what is slid has a length that is worked out
	}
	return Subject{Family: b.Family, Trims: trims, Raised: b.Raised(), WantedHz: b.Wanted(hz)}
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

// noDip is the SWR above which the lowest of a sweep is taken for noise, not for a dip.
const noDip = 20.0

// whole is the coverage in per cent from which a segment is good throughout.
const whole = 99.5

// half is the share in per cent of the own segments that has to be measured before anything is said of all of them.
const half = 50

// judged is a reading beside what it is of. Off is how far the dip lies from the target, as a share of it, Inside that
// it lies in an own segment.
type judged struct {
	Reading
	of     Subject
	off    float64
	inside bool
}

// rules say what a sweep is judged by: the first that applies. They go from what makes the others void (no segment, no
// measurement, nothing to trim, no dip) over what is no matter of length (setting, match, width) to where the dip lies.
var rules = []struct {
	reason phrase.Reason
	when   func(x judged) bool
}{
	{phrase.NoSegment, func(x judged) bool { return len(x.Own) == 0 }},
	{phrase.Good, func(x judged) bool { return x.Coverage >= whole && x.Known() }},
	{phrase.Alone, func(x judged) bool { return x.Single && !x.Searched }},
	{phrase.Unreached, func(x judged) bool { return x.Measured < 1 && !x.Searched && x.AtEdge }},
	{phrase.Tuned, func(x judged) bool { return x.of.Trims == family.NoTrim }},
	{phrase.AtEdge, func(x judged) bool { return x.AtEdge }},
	{phrase.NoDip, func(x judged) bool { return x.MinSWR > noDip }},
	{phrase.Resets, func(x judged) bool { return x.of.Trims == family.Settings && x.off >= 0.003 }},
	{phrase.Mismatched, func(x judged) bool { return x.MinSWR > x.Limit && (x.inside || x.off < 0.005) }},
	{phrase.Narrow, func(x judged) bool { return x.inside && x.off < 0.003 && x.Known() }},
	{phrase.Inside, func(x judged) bool { return x.inside || x.off < 0.003 }},
	{phrase.Off, func(judged) bool { return true }},
}

// Judge says what a reading shows. What to do about it is not its word: that follows from all readings of an antenna and from its
// model.
func Judge(r Reading, s Subject) phrase.Verdict {
	kind, _ := family.Named(s.Family)
	v := phrase.Verdict{LowSWR: r.MinSWR, LowHz: r.MinAt, Limit: r.Limit, Coverage: r.Coverage, Measured: r.Measured, NoDipSWR: noDip,
		Mend: matchHint(r, s), Lost: kind.Tuning.Lost, Setting: kind.Tuning.Below, Missing: r.Missing, Searched: r.Searched,
		Metered: r.Metered}
	x := judged{Reading: r, of: s}
	if target, ok := r.Target(s.WantedHz); ok {
		v.TargetHz, x.off = target, math.Abs(r.MinAt-target)/target
		if r.MinAt > target {
			v.Setting = kind.Tuning.Above
		}
	}
	for _, seg := range r.Own {
		x.inside = x.inside || r.MinAt >= seg.Lo && r.MinAt <= seg.Hi
	}
	for _, rule := range rules {
		if rule.when(x) {
			return v.Judged(rule.reason)
		}
	}
	return v // the last rule always applies
}

// matchHint says what brings the resistance at the lowest SWR to 50 ohm, in the way of the antenna's kind.
func matchHint(r Reading, s Subject) string {
	if !r.HasZ {
		return "Only SWR was measured; R and X would tell which way."
	}
	kind, _ := family.Named(s.Family)
	return kind.Mend(family.Match{R: r.R, Hz: r.MinAt, Raised: s.Raised})
}
