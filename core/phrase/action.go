package phrase

import (
	"fmt"
	"math"
	"strings"

	"reed/core/quantity"
)

// Verb is the kind of a change of a length.
type Verb string

// The verbs.
const (
	Fold    Verb = "fold" // back, and tie
	Add     Verb = "add"
	SlideIn Verb = "slide-in"
	PullOut Verb = "pull-out"
	TakeOff Verb = "take-off" // turns
	WindOn  Verb = "wind-on"
)

// forms are a verb as one tells it, as one records it, and in one word for a button.
var forms = map[Verb]struct {
	do, done func(piece, much string) string
	name     string
}{
	Fold: {plain("fold back"), plain("folded back"), "Folded"},
	Add:  {plain("add"), plain("added"), "Added"},
	SlideIn: {func(p, m string) string { return "slide the " + p + " in by " + m },
		func(p, m string) string { return p + " slid in by " + m }, "Changed"},
	PullOut: {func(p, m string) string { return "pull the " + p + " out by " + m },
		func(p, m string) string { return p + " pulled out by " + m }, "Changed"},
	TakeOff: {plain("take off"), plain("took off"), "Changed"},
	WindOn: {func(_, m string) string { return "wind on " + m + " more" }, func(_, m string) string { return "wound on " + m + " more" },
		"Changed"},
}

func plain(verb string) func(piece, much string) string {
	return func(_, much string) string { return verb + " " + much }
}

// Part is a share of a change that falls on one length of its own.
type Part struct {
	Metres float64
	On     string // "each driven tail"
}

// Action is one change of a length: Metres, or Turns, of each of the Legs, never negative. Piece is the piece that is changed, To
// its new length in metres, 0 where that is not shown. StepMM is the step to which the change is rounded, 5 mm when 0.
type Action struct {
	Verb    Verb
	Piece   string
	Metres  float64
	Turns   float64
	Legs    int
	Radials bool
	To      float64
	Parts   []Part
	StepMM  int
}

// Do tells it as advice: "fold back 35 cm on each leg".
func (a Action) Do(units quantity.System) string {
	return a.say(func(v Verb) func(piece, much string) string { return forms[v].do }, units)
}

// Done tells it as what was done: "folded back 35 cm on each leg".
func (a Action) Done(units quantity.System) string {
	return a.say(func(v Verb) func(piece, much string) string { return forms[v].done }, units)
}

// Name is the verb as one word of what was done, for a button.
func (a Action) Name() string { return forms[a.Verb].name }

func (a Action) say(form func(Verb) func(piece, much string) string, units quantity.System) string {
	step := a.StepMM
	if step == 0 {
		step = 5
	}
	if len(a.Parts) > 0 {
		return a.parts(form, step, units)
	}
	much := units.Amount(a.Metres, step)
	if a.Turns > 0 {
		much = Count(a.Turns, "turn")
	}
	out := form(a.Verb)(a.Piece, much)
	if a.Turns == 0 {
		out += a.each()
	}
	if a.To > 0 {
		out += ", to " + units.Exact(a.To)
	}
	return out
}

// parts tells a change that falls on several lengths: what gets shorter, then what gets longer, and nothing of what stays.
func (a Action) parts(form func(Verb) func(piece, much string) string, step int, units quantity.System) string {
	var says []string
	for _, way := range []struct {
		verb Verb
		sign float64
	}{{Fold, -1}, {Add, 1}} {
		var on []string
		for _, p := range a.Parts {
			if p.Metres*way.sign*1000 >= float64(step)/2 {
				on = append(on, units.Amount(math.Abs(p.Metres), step)+" on "+p.On)
			}
		}
		if len(on) > 0 {
			says = append(says, form(way.verb)(a.Piece, strings.Join(on, " and ")))
		}
	}
	return strings.Join(says, ", and ")
}

// each says on what it is done alike.
func (a Action) each() string {
	switch {
	case a.Radials && a.Legs > 1:
		return fmt.Sprintf(" on each of the %d radials", a.Legs)
	case a.Radials:
		return " on the radial"
	case a.Legs == 2 && (a.Verb == SlideIn || a.Verb == PullOut):
		return " on each side"
	case a.Legs == 2:
		return " on each leg"
	}
	return ""
}
