package phrase

import (
	"fmt"
	"math"
	"strings"

	"reed/core/quantity"
)

// Reason is what a sweep is judged by.
type Reason string

// The reasons.
const (
	NoSegment  Reason = "no-segment" // none of one's own in the band
	Unreached  Reason = "unreached"  // the sweep does not reach it
	Good       Reason = "good"       // under the limit all over
	Tuned      Reason = "tuned"      // not trimmed at all
	ReadOn     Reason = "read-on"    // a meter's readings still fall, and more of the segment is left
	Beyond     Reason = "beyond"     // a meter's readings still fall where one may not send
	AtEdge     Reason = "at-edge"    // the lowest point is the sweep's end
	NoDip      Reason = "no-dip"     // nothing resonates
	Slides     Reason = "slides"     // a rod is slid
	Resets     Reason = "resets"     // a setting is off
	Mismatched Reason = "mismatched" // the length is right, the match is not
	Narrow     Reason = "narrow"     // centred, but too narrow
	Rewinds    Reason = "rewinds"    // turns are off
	NoLength   Reason = "no-length"  // it is not recorded
	TooLong    Reason = "too-long"   //
	TooShort   Reason = "too-short"  //
)

// Tones by reason: good, long, short, match or unknown. Those of a slider and of turns follow their sign.
var tones = map[Reason]string{
	NoSegment: "unknown", Unreached: "unknown", Good: "good", Tuned: "match", AtEdge: "unknown",
	ReadOn: "unknown", Beyond: "unknown", NoDip: "unknown", Resets: "match",
	Mismatched: "match", Narrow: "match", NoLength: "unknown", TooLong: "long", TooShort: "short",
}

// Verdict is a judgement of a sweep. Change is the whole length that is off, in metres, negative when wire has to be
// added; Step is what to do now, never more than is likely right; the two Bounds say how sure Change is.
type Verdict struct {
	Tone     string     `json:"tone"`
	TargetHz float64    `json:"target_hz,omitempty"`
	Change   float64    `json:"change_m,omitempty"`
	Step     float64    `json:"step_m,omitempty"`
	Bounds   [2]float64 `json:"bounds_m"`
	ExpectHz float64    `json:"expect_hz,omitempty"`

	Reason   Reason       `json:"-"`
	LowSWR   float64      `json:"-"` // the lowest of the sweep, and where
	LowHz    float64      `json:"-"`
	Limit    float64      `json:"-"` // the SWR that is good enough
	Coverage float64      `json:"-"` // per cent of the own segment under it
	Legs     int          `json:"-"` // wires that are changed alike
	Loaded   bool         `json:"-"` // it moves further than by proportion
	Slider   string       `json:"-"` // what is slid
	Turns    float64      `json:"-"` // that it has, and by how many they are off
	TurnsOff float64      `json:"-"`
	TurnStep float64      `json:"-"` // turns to change now
	NoDipSWR float64      `json:"-"` // beyond which there is no dip
	Further  float64      `json:"-"` // how far one may read on with a meter
	Single   bool         `json:"-"` // one reading: the dip, as it was found
	Missing  [][2]float64 `json:"-"` // what of the own segments was not measured
	Beyond   Outside      `json:"-"` // where the dip may lie that its readings fall towards
	// In the words of the antenna's family: what mends the match, what is done at a setting, and where a dip got lost.
	Mend, Setting, Lost string `json:"-"`
}

// Outside is where a dip may lie that no reading reaches: from Near to Far in hertz, Down below the readings.
type Outside struct {
	Near, Far float64
	Down      bool
}

// Judged makes a verdict of its reason.
func (v Verdict) Judged(reason Reason) Verdict {
	v.Reason, v.Tone = reason, tones[reason]
	off := v.Change
	if reason == Rewinds {
		off = v.TurnsOff
	}
	if v.Tone == "" {
		v.Tone = "long"
		if off < 0 {
			v.Tone = "short"
		}
	}
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
func (v Verdict) Words(units quantity.System) Words {
	lowest := fmt.Sprintf("Lowest SWR %.1f at %s MHz", v.LowSWR, mhz(v.LowHz, 1e3))
	want := fmt.Sprintf("%s; you want %s", lowest, mhz(v.TargetHz, 1e3))
	switch v.Reason {
	case NoSegment:
		return Words{"None of your segments is in this band.", lowest + ". Choose segments in Settings to have it judged."}
	case Unreached:
		return Words{"This sweep does not reach your segment.", lowest + ". Sweep again over the whole band."}
	case Good:
		return Words{"Leave it.", v.good(lowest)}
	case Tuned:
		return Words{"This antenna is tuned, not trimmed.",
			lowest + ". Its length is chosen between the resonances: set the tuner, and note what it shows."}
	case ReadOn:
		return Words{fmt.Sprintf("Read on to %s MHz.", mhz(v.Further, 1e3)),
			lowest + ", the last reading. It falls on, and up to there you may send."}
	case Beyond:
		return v.beyond(lowest, units)
	case AtEdge:
		return Words{"The lowest point is at the end of the sweep.",
			lowest + ". The dip lies further out: sweep wider before you change anything."}
	case NoDip:
		return Words{"No dip in this sweep.", v.lost()}
	case Resets:
		return Words{"Change the setting, not the wire.", v.reset(want)}
	case Mismatched:
		return Words{"The length is right, the match is not.", fmt.Sprintf("%s, over your limit of %.3g. %s", lowest, v.Limit, v.Mend)}
	case Narrow:
		return Words{"Centred, but too narrow for your segment.",
			fmt.Sprintf("%s; %.0f %% of your segment is under %.3g. Trimming would only move the good part; a tuner or a narrower segment helps.",
				lowest, v.Coverage, v.Limit)}
	case NoLength:
		return Words{"Its length is not recorded.", lowest + ". Record the radiator in Raise, then the change can be computed."}
	case Rewinds:
		return v.rewind(want)
	}
	return v.change(want, units)
}

// good says over what the match is good, and what of it was not measured.
func (v Verdict) good(lowest string) string {
	if v.Single {
		return lowest + ", where you want it. How wide it is, a few readings to either side would tell."
	}
	if len(v.Missing) == 0 {
		return fmt.Sprintf("%s; under %.3g over your whole segment.", lowest, v.Limit)
	}
	var gaps []string
	for _, gap := range v.Missing {
		gaps = append(gaps, mhz(gap[0], 1e3)+" to "+mhz(gap[1], 1e3))
	}
	return fmt.Sprintf("%s; under %.3g over all that was measured. Not measured: %s MHz.", lowest, v.Limit, strings.Join(gaps, ", "))
}

func (v Verdict) lost() string {
	if v.Lost != "" {
		return fmt.Sprintf("The SWR is over %.0f throughout: %s.", v.NoDipSWR, v.Lost)
	}
	return fmt.Sprintf("The SWR is over %.0f throughout: nothing resonates here, or nothing is connected. Sweep wider; look at plug and "+
		"feed.", v.NoDipSWR)
}

func (v Verdict) reset(want string) string {
	way := "below"
	if v.LowHz > v.TargetHz {
		way = "above"
	}
	out := fmt.Sprintf("%s. It lies %.1f %% %s: %s. Small steps, and note the setting that you find.", want,
		100*math.Abs(v.LowHz-v.TargetHz)/v.TargetHz, way, v.Setting)
	if v.LowSWR > v.Limit {
		out += " " + v.Mend
	}
	return out
}

func (v Verdict) rewind(want string) Words {
	detail := fmt.Sprintf("%s. By proportion of its %s", want, Count(math.Round(v.Turns), "turn"))
	if v.TurnsOff > 0 {
		return Words{fmt.Sprintf("About %s too many. Take off %.0f, then sweep again.", Count(math.Ceil(v.TurnsOff), "turn"), v.TurnStep),
			detail + "; a winding moves it further than that, so a third first."}
	}
	return Words{fmt.Sprintf("About %s too few. Wind on %.0f, then sweep again.", Count(math.Ceil(-v.TurnsOff), "turn"), v.TurnStep),
		detail + "."}
}

// Action is what is to be done about a length now, and whether there is anything.
func (v Verdict) Action() (a Action, ok bool) {
	a = Action{Piece: v.Slider, Metres: math.Abs(v.Step) / math.Max(float64(v.Legs), 1), Legs: v.Legs, StepMM: 10}
	switch {
	case v.Step == 0:
		return a, false
	case v.Slider != "" && v.Step > 0:
		a.Verb = SlideIn
	case v.Slider != "":
		a.Verb = PullOut
	case v.Step > 0:
		a.Verb = Fold
	default:
		a.Verb = Add
	}
	return a, true
}

// beyond says what is changed for a dip that no reading reaches.
func (v Verdict) beyond(lowest string, units quantity.System) Words {
	side, way := "above", "too short"
	if v.Beyond.Down {
		side, way = "below", "too long"
	}
	near, far := mhz(v.Beyond.Near, 1e3), mhz(v.Beyond.Far, 1e3)
	slope := fmt.Sprintf("between %s and %s MHz", near, far)
	if near == far {
		slope = side + " that"
	}
	out := Words{Headline: fmt.Sprintf("It is %s: the dip lies %s what you may send on.", way, side)}
	out.Detail = fmt.Sprintf("%s, the last reading; by their slope the dip lies %s. Do not send outside your segment to find it.",
		lowest, slope)
	if a, ok := v.Action(); ok {
		out.Headline = Sentence(a.Do(units)) + ", then read the meter again."
		out.Detail = fmt.Sprintf("It is %s. %s This goes by the nearest of them, so that it can be done again.", way, out.Detail)
	}
	return out
}

// change says a length that is off.
func (v Verdict) change(want string, units quantity.System) Words {
	a, _ := v.Action()
	do := Sentence(a.Do(units)) + ", then sweep again."
	amount := func(m float64) string { return units.Amount(math.Abs(m), 10) }
	switch v.Reason {
	case Slides:
		return Words{do, want + ". By proportion of its length; mark it when you find it."}
	case TooShort:
		return Words{fmt.Sprintf("%s too short. %s", amount(v.Change), do),
			fmt.Sprintf("%s. Between %s and %s are missing. Unfold what is folded back before you splice.", want, amount(v.Bounds[0]),
				amount(v.Bounds[1]))}
	}
	first := "four fifths"
	if v.Loaded {
		first = "a third (a loaded wire moves two or three times as far as a plain one)"
	}
	return Words{fmt.Sprintf("%s too long. %s", amount(v.Change), do),
		fmt.Sprintf("%s. The whole change is %s to %s; %s first, so that it stays long enough. Expect the dip near %s MHz.", want,
			amount(v.Bounds[0]), amount(v.Bounds[1]), first, mhz(v.ExpectHz, 1e4))}
}
