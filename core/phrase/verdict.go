package phrase

import (
	"fmt"
	"math"
	"strings"

	"reed/core/quantity"
)

// Reason is a finding on a sweep.
type Reason string

// The reasons.
const (
	NoSegment  Reason = "no-segment" // none of one's own in the band
	Unreached  Reason = "unreached"  // the sweep does not reach it
	Good       Reason = "good"       // under the limit all over
	Alone      Reason = "alone"      // one reading, not known to be the lowest
	Tuned      Reason = "tuned"      // not trimmed at all
	AtEdge     Reason = "at-edge"    // the lowest point is the sweep's end
	NoDip      Reason = "no-dip"     // nothing resonates
	Resets     Reason = "resets"     // a setting is off
	Mismatched Reason = "mismatched" // the dip is where it may be, the match is not
	Narrow     Reason = "narrow"     // centred, but too narrow
	Inside     Reason = "inside"     // the dip is where it may be, the rest is not known or not good
	Off        Reason = "off"        // the dip lies elsewhere
)

// Tones by reason.
var tones = map[Reason]string{
	NoSegment: "unknown", Unreached: "unknown", Good: "good", Alone: "unknown", Tuned: "match", AtEdge: "unknown", NoDip: "unknown",
	Resets: "match", Mismatched: "match", Narrow: "match", Inside: "match", Off: "off",
}

// Verdict is a judgement of a sweep: what it shows, not what to do.
type Verdict struct {
	Tone     string  `json:"tone"` // good, off, match or unknown
	TargetHz float64 `json:"target_hz,omitempty"`

	Reason   Reason       `json:"-"`
	LowSWR   float64      `json:"-"` // the lowest of the sweep, and where
	LowHz    float64      `json:"-"`
	Limit    float64      `json:"-"` // the SWR that is good enough
	Coverage float64      `json:"-"` // per cent of what was measured of the own segment under it
	Measured float64      `json:"-"` // per cent of the own segment that was measured
	NoDipSWR float64      `json:"-"` // beyond which there is no dip
	Searched bool         `json:"-"` // the lowest, as somebody found it
	Metered  bool         `json:"-"` // read off a radio's meter, which may not send everywhere
	Missing  [][2]float64 `json:"-"` // what of the own segments was not measured
	// In the words of the antenna's family: what mends the match, what is done at a setting, and where a dip got lost.
	Mend, Setting, Lost string `json:"-"`
}

// Judged makes a verdict of its reason.
func (v Verdict) Judged(reason Reason) Verdict {
	v.Reason, v.Tone = reason, tones[reason]
	return v
}

// Told is a verdict with its words.
type Told struct {
	Verdict
	Words
}

// Told puts a verdict into words.
func (v Verdict) Told(units quantity.System) Told { return Told{v, v.Words(units)} }

// Words says a verdict.
func (v Verdict) Words(quantity.System) Words {
	lowest := fmt.Sprintf("Lowest SWR %.1f at %s MHz", v.LowSWR, mhz(v.LowHz, 1e3))
	want := fmt.Sprintf("%s; you want %s", lowest, mhz(v.TargetHz, 1e3))
	switch v.Reason {
	case NoSegment:
		return Words{"None of your segments is in this band.", lowest + ". Choose segments in Settings to have it judged."}
	case Unreached:
		return Words{"This sweep does not reach your segment.", lowest + ". Sweep again over the whole band."}
	case Good:
		return Words{"No change needed.", v.good(lowest)}
	case Alone:
		return Words{fmt.Sprintf("One reading: SWR %.1f at %s MHz.", v.LowSWR, mhz(v.LowHz, 1e3)),
			"By itself it does not say where the dip is. Say whether it is the lowest you found, or read two more to either side."}
	case Tuned:
		return Words{"This antenna is tuned, not trimmed.",
			lowest + ". Its length is chosen between the resonances: set the tuner, and note what it shows."}
	case AtEdge:
		return Words{"The SWR still falls at the end of what was read.", v.falls(lowest)}
	case NoDip:
		return Words{"No dip in this sweep.", v.lost()}
	case Resets:
		return Words{"Change the setting, not the wire.", v.reset(want)}
	case Mismatched:
		return Words{"The dip is where you want it, the match is not.", fmt.Sprintf("%s, over your limit of %.3g. %s", lowest, v.Limit, v.Mend)}
	case Narrow:
		return Words{"Centred, but too narrow for your segment.",
			fmt.Sprintf("%s; %s is under %.3g. Trimming would only move the good part; a tuner or a narrower segment helps.",
				lowest, v.share(), v.Limit)}
	case Inside:
		return Words{"The dip lies in your segment.", v.inside(lowest)}
	}
	return Words{fmt.Sprintf("The dip lies %.0f kHz %s what you want.", math.Abs(v.LowHz-v.TargetHz)/1e3, v.side()), want + "."}
}

// side says on which side of the wanted frequency the lowest SWR lies.
func (v Verdict) side() string {
	if v.LowHz > v.TargetHz {
		return "above"
	}
	return "below"
}

// share is how much of the segment is good, of what was measured of it.
func (v Verdict) share() string {
	const all = 99.5
	if v.Measured < all {
		return fmt.Sprintf("%.0f %% of the %.0f %% that was measured", v.Coverage, v.Measured)
	}
	return fmt.Sprintf("%.0f %% of your segment", v.Coverage)
}

// inside says how much of the segment is known.
func (v Verdict) inside(lowest string) string {
	if v.Measured < 1 {
		return lowest + ". Beside it nothing was read: a few readings to either side tell how wide it is."
	}
	return fmt.Sprintf("%s; %s is under %.3g.%s", lowest, v.share(), v.Limit, v.gaps())
}

// falls says where to look for a dip that was not reached.
func (v Verdict) falls(lowest string) string {
	if v.Metered {
		return lowest + ", the last reading. Read on as far as you may send; the model says where the dip is likely to be."
	}
	return lowest + ". The dip lies further out: sweep wider."
}

// good says over what the match is good, and what of it was not measured.
func (v Verdict) good(lowest string) string {
	if len(v.Missing) == 0 {
		return fmt.Sprintf("%s; under %.3g over your whole segment.", lowest, v.Limit)
	}
	return fmt.Sprintf("%s; under %.3g over all that was measured.%s", lowest, v.Limit, v.gaps())
}

// gaps lists what was not measured.
func (v Verdict) gaps() string {
	var gaps []string
	for _, gap := range v.Missing {
		gaps = append(gaps, mhz(gap[0], 1e3)+" to "+mhz(gap[1], 1e3))
	}
	if len(gaps) == 0 {
		return ""
	}
	return " Not measured: " + strings.Join(gaps, ", ") + " MHz."
}

func (v Verdict) lost() string {
	if v.Lost != "" {
		return fmt.Sprintf("The SWR is over %.0f throughout: %s.", v.NoDipSWR, v.Lost)
	}
	return fmt.Sprintf("The SWR is over %.0f throughout: nothing resonates here, or nothing is connected. Sweep wider; look at plug and "+
		"feed.", v.NoDipSWR)
}

func (v Verdict) reset(want string) string {
	out := fmt.Sprintf("%s. It lies %.1f %% %s: %s. Small steps, and note the setting that you find.", want,
		100*math.Abs(v.LowHz-v.TargetHz)/v.TargetHz, v.side(), v.Setting)
	if v.LowSWR > v.Limit {
		out += " " + v.Mend
	}
	return out
}
