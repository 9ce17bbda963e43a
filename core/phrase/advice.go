package phrase

import (
	"fmt"
	"math"
	"strings"

	"reed/core/quantity"
)

// Foreseen is the predicted result of the next sweep at one goal: the dip and the 95 % range in hertz, and the chance in
// per cent that it ends above what can still be folded back.
type Foreseen struct {
	F      float64    `json:"hz"`
	Now    float64    `json:"now_hz"`
	Expect float64    `json:"expect_hz"`
	Range  [2]float64 `json:"range_hz"`
	Short  float64    `json:"short_percent"`
}

// Changed is a fact that differs from when earlier sweeps were made.
type Changed struct{ Label, Was, Is string }

// End is where something that slides goes no further: what it is, what it meets, and whether it would have to be
// shorter or longer than that.
type End struct {
	Label, Meets string
	Short        bool
}

// Advice lists the changes that bring every resonance to where it should be.
type Advice struct {
	Done     bool     // nothing is to be changed
	Settled  bool     // because every resonance is where it may be
	Labels   []string // of the lengths, by action
	Actions  []Action
	Foreseen []Foreseen
	Limit    float64 // the SWR that is good enough
	Shorter  bool    // that any length is shortened
	PoleUp   bool    // it is done without lowering the pole
	Unchoked bool    // and no choke keeps the coax from taking the radials' place
	Shared   bool    // one length serves several bands
	Rough    bool    // some of the dips are known by a few readings only
	Unswept  bool    // some bands were not swept
	Several  bool    // there are several lengths, so that each is named
	Unread   bool    // no dip is known
	Withheld bool    // a change was worked out, and the model predicts another dip
	// Unmodelled is the frequency in hertz near which the model of the set-up as recorded has no dip, 0 where it has.
	Unmodelled float64
	// Winding is the share of the recorded inductance with which the model dips where the antenna does, 0 where nothing is inferred.
	Winding float64
	Planned bool      // every length comes to what was planned
	Lowest  Read      // where no dip is known: the lowest that was read
	Reads   []Read    // how dips follow from few readings
	Lost    []float64 // resonances in hertz that their own wires have no hold of
	End     *End
	Changed *Changed
}

// How a dip follows from few readings.
const (
	Taken      = "taken"       // one reading is taken for the lowest that was found
	Compared   = "compared"    // with the modelled curve
	EitherSide = "either-side" // it may lie to either side
	Unlike     = "unlike"      // the readings are like no curve of this antenna
)

// Read is how the dip of a band follows from few readings: the lowest of them, by how many, and where the dip is likely to be,
// with its 95 % range, in hertz. Next lists where to read on.
type Read struct {
	Band       string
	SWR, At    float64
	Readings   int
	How        string
	Dip        float64
	Range      [2]float64
	AsModelled bool // what the model expects of the antenna as recorded
	Next       []float64
}

// Says tells it.
func (r Read) Says() string {
	at := fmt.Sprintf("SWR %.1f at %s MHz", r.SWR, mhz(r.At, 1e3))
	near := fmt.Sprintf("near %s MHz, between %s and %s", mhz(r.Dip, 1e4), mhz(r.Range[0], 1e4), mhz(r.Range[1], 1e4))
	switch {
	case r.How == EitherSide:
		return at + " can be read on either side of the dip."
	case r.How == Unlike:
		return at + " is not what this antenna shows by the model, wherever its dip lies."
	case r.Readings > 1:
		return fmt.Sprintf("By the readings on %s and the modelled curve the dip lies %s.", r.Band, near)
	case r.AsModelled:
		return fmt.Sprintf("%s is what the model expects of this antenna as recorded: its dip lies %s.", at, near)
	}
	return fmt.Sprintf("%s is no dip by the model: that lies %s.", at, near)
}

// reads tells how the dips are known: which readings are taken for the lowest, and two of the others at most.
func (a Advice) reads() string {
	var out, taken []string
	others := 0
	for _, r := range a.Reads {
		switch {
		case r.How == Taken:
			taken = append(taken, fmt.Sprintf("SWR %.1f at %s MHz", r.SWR, mhz(r.At, 1e3)))
		case others < 2:
			others++
			out = append(out, r.Says())
		default:
			others++
		}
	}
	if others > 2 {
		out = append(out, fmt.Sprintf("%s more likewise.", Count(float64(others-2), "band")))
	}
	switch len(taken) {
	case 0:
	case 1:
		out = append(out, taken[0]+" is taken for the lowest you found there. If it is not, say so with the reading.")
	default:
		out = append(out, strings.Join(taken[:len(taken)-1], ", ")+" and "+taken[len(taken)-1]+
			" are taken for the lowest you found there. If one is not, say so with the reading.")
	}
	return strings.Join(out, " ")
}

// readOn says where to read next.
func (a Advice) readOn() string {
	for _, r := range a.Reads {
		var at []string
		for _, f := range r.Next {
			at = append(at, mhz(f, 1e3))
		}
		if len(at) > 0 {
			return fmt.Sprintf("Read at %s MHz next.", strings.Join(at, " and "))
		}
	}
	return "Read a few points on either side of the dip."
}

// join puts sentences together, leaving out empty ones.
func join(sentences ...string) string {
	var out []string
	for _, s := range sentences {
		if s != "" {
			out = append(out, s)
		}
	}
	return strings.Join(out, " ")
}

// Does lists what is to be done, each with its length's name where there are several.
func (a Advice) Does(units quantity.System) []string { return a.each(units, Action.Do) }

// Reason returns the change as the reason of the revision that follows it.
func (a Advice) Reason(units quantity.System) string {
	return strings.Join(a.each(units, Action.Done), "; ")
}

func (a Advice) each(units quantity.System, say func(Action, quantity.System) string) []string {
	var out []string
	for i, x := range a.Actions {
		text := say(x, units)
		if len(a.Actions) > 1 || a.Several {
			text = a.Labels[i] + ": " + text
		}
		out = append(out, text)
	}
	return out
}

// More returns further notes on the advice.
func (a Advice) More() string {
	var out []string
	if a.End == nil && len(a.Actions) > 0 {
		out = a.asides()
	}
	for _, f := range a.Lost {
		out = append(out, fmt.Sprintf("On %s MHz another wire carries the current, and its own hardly moves the dip: it is left as it is.",
			quantity.ToKHz(f)))
	}
	if a.Winding > 0 {
		than := "more"
		if a.Winding < 1 {
			than = "less"
		}
		out = append(out, fmt.Sprintf("The winding behaves as if it had %.0f %% %s inductance than recorded; this advice allows for it.",
			100*math.Abs(a.Winding-1), than))
	}
	if a.Changed != nil {
		out = append(out, fmt.Sprintf("Earlier sweeps are not counted: %s was %s then and is %s now.", a.Changed.Label, a.Changed.Was,
			a.Changed.Is))
	}
	return strings.Join(out, " ")
}

// Words says an advice.
func (a Advice) Words(units quantity.System) Words {
	says := a.Does(units)
	switch {
	case a.Unread && a.Lowest.SWR == 0:
		return Words{"Nothing was read on the bands that it was cut for.", "Read one of them: then it can be said what to change."}
	case a.Unread:
		return Words{"Read more before you change anything.", join(a.reads(), a.readOn())}
	case a.Unmodelled > 0:
		return Words{fmt.Sprintf("No change is advised: as recorded, it has no dip near %s MHz by the model.", mhz(a.Unmodelled, 1e3)),
			join(a.reads(), "Check the record in Raise: lengths, transformer, counterpoise.")}
	case a.Withheld:
		return Words{"No change is advised: the model predicts a different result.",
			join(a.at(), "Look at what may be the cause, and sweep again before you cut.")}
	case a.End != nil && len(says) == 0:
		return Words{Sentence(a.End.Label) + " at its end: change the winding, then sweep again.", a.End.says()}
	case len(says) == 0 && a.Shared && !a.Settled:
		return Words{"No change needed: no length suits all of these bands better.", a.stands()}
	case len(says) == 0 && a.Rough && !a.Settled:
		return Words{"Take a few more readings before you change anything.",
			join(a.reads(), a.at(), "By so few readings it may be right already.", a.readOn())}
	case len(says) == 0:
		return Words{"No change needed: every resonance is where it should be.", join(a.reads(), a.stands())}
	}
	out := Words{Headline: Sentence(strings.Join(says, " and ")) + ", then sweep again."}
	if len(says) > 2 {
		out.Headline = fmt.Sprintf("Change %d wires in one raise, then sweep again.", len(says))
	}
	if a.Planned {
		out.Headline = "Make it as planned: " + strings.ToLower(out.Headline[:1]) + out.Headline[1:]
	}
	if a.End != nil {
		out.Detail = a.End.says()
		return out
	}
	out.Detail = join(a.reads(), a.expects(), a.chance())
	return out
}

// expects says what the next sweep should show.
func (a Advice) expects() string {
	var out []string
	for _, f := range a.Foreseen {
		out = append(out, fmt.Sprintf("the dip near %s MHz, between %s and %s", mhz(f.Expect, 1e3), mhz(f.Range[0], 1e3), mhz(f.Range[1], 1e3)))
	}
	if len(out) > 3 {
		out = append(out[:2], fmt.Sprintf("%d more as listed", len(a.Foreseen)-2))
	}
	return fmt.Sprintf("Expect %s; outside of that something else is wrong.", strings.Join(out, "; "))
}

// chance says how likely it ends too short, and what takes that back.
func (a Advice) chance() string {
	worst := 0.0
	for _, f := range a.Foreseen {
		worst = max(worst, f.Short)
	}
	chance := "under 1 in 100"
	if worst >= 1 {
		chance = fmt.Sprintf("%.0f in 100", worst)
	}
	switch first := a.Actions[0]; {
	case first.Verb == SlideIn || first.Verb == PullOut:
		return "Mark it when you find it."
	case a.Shorter && first.Turns > 0:
		return fmt.Sprintf("The chance of cutting too short: %s. Let the end hang before you cut it off.", chance)
	case a.Shorter:
		return fmt.Sprintf("The chance of cutting too short: %s. Fold and tie before you cut.", chance)
	}
	return fmt.Sprintf("The risk that it is too short still: %s. What is too much can be taken back.", chance)
}

func (a Advice) asides() (out []string) {
	for _, x := range []struct {
		when bool
		says string
	}{
		{a.PoleUp, "The pole stays up."},
		{a.PoleUp && a.Unchoked, "With no choke at the feed the coax becomes a radial as these leave a quarter-wave."},
		{a.Shared, "One length serves all these bands: this is the compromise between them."},
		{a.Unswept, "Bands that were not swept are left as they are: sweep them too."},
	} {
		if x.when {
			out = append(out, x.says)
		}
	}
	return out
}

// at says where the resonances are.
func (a Advice) at() string {
	var at []string
	for _, f := range a.Foreseen {
		at = append(at, fmt.Sprintf("%s for %s MHz", quantity.ToKHz(f.Now), quantity.ToKHz(f.F)))
	}
	return fmt.Sprintf("The dip is at %s.", strings.Join(at, ", "))
}

// stands says where the resonances are when nothing is to be changed.
func (a Advice) stands() string {
	return fmt.Sprintf("%s What is left over SWR %.3g is the match or the band's width, not the length.", a.at(), a.Limit)
}

// says what is left to do where something goes no further.
func (e End) says() string {
	if e.Short {
		return fmt.Sprintf("The %s goes no further in: it meets %s. What is left has to come off the winding: a turn or two, then sweep again.",
			e.Label, e.Meets)
	}
	return fmt.Sprintf("The %s goes no further out. What is left has to be wound on: a turn or two more, then sweep again.", e.Label)
}
