package phrase

import (
	"regexp"
	"strings"
	"testing"

	"reed/core/quantity"
)

func TestActionsAreToldAndRecordedInTheReadersUnits(t *testing.T) {
	for _, c := range []struct {
		action   Action
		do, done string
	}{
		{Action{Verb: Fold, Metres: 0.352}, "fold back 35.0 cm", "folded back 35.0 cm"},
		{Action{Verb: Fold, Metres: 0.352, Legs: 2, StepMM: 10}, "fold back 35 cm on each leg", "folded back 35 cm on each leg"},
		{Action{Verb: Add, Metres: 0.001, Legs: 1}, "add 5 mm", "added 5 mm"},
		{Action{Verb: Fold, Metres: 0.1, Legs: 3, Radials: true}, "fold back 10.0 cm on each of the 3 radials",
			"folded back 10.0 cm on each of the 3 radials"},
		{Action{Verb: Fold, Metres: 0.1, Legs: 1, Radials: true}, "fold back 10.0 cm on the radial", "folded back 10.0 cm on the radial"},
		{Action{Verb: SlideIn, Piece: "tip", Metres: 0.05, Legs: 2, To: 0.81}, "slide the tip in by 50 mm on each side, to 81.0 cm",
			"tip slid in by 50 mm on each side, to 81.0 cm"},
		{Action{Verb: PullOut, Piece: "whip", Metres: 0.12, Legs: 1}, "pull the whip out by 12.0 cm", "whip pulled out by 12.0 cm"},
		{Action{Verb: TakeOff, Turns: 1}, "take off 1 turn", "took off 1 turn"},
		{Action{Verb: WindOn, Turns: 2.5}, "wind on 2.5 turns more", "wound on 2.5 turns more"},
		{Action{Verb: Fold, Metres: 0.2, Legs: 1, Parts: []Part{{-0.05, "each driven tail"}, {0.06, "each reflector tail"}}},
			"fold back 50 mm on each driven tail, and add 60 mm on each reflector tail",
			"folded back 50 mm on each driven tail, and added 60 mm on each reflector tail"},
	} {
		if got := c.action.Do(quantity.SI); got != c.do {
			t.Errorf("told %q, want %q", got, c.do)
		}
		if got := c.action.Done(quantity.SI); got != c.done {
			t.Errorf("recorded %q, want %q", got, c.done)
		}
	}
	if got := (Action{Verb: Fold, Metres: 0.3048, Legs: 2}).Do(quantity.FeetInches); got != `fold back 1' 0" on each leg` {
		t.Errorf("in feet: %q", got)
	}
}

// clumsy is what no sentence may hold: one of several, a negative nothing, a number that is none.
var clumsy = regexp.MustCompile(`\b1 (turns|legs|radials|sweeps)\b|-0 |NaN|Inf|%!|  |\.\.|undefined`)

func TestEveryVerdictHasItsWords(t *testing.T) {
	seen := map[string]Reason{}
	for reason := range tones {
		sayable(t, seen, Verdict{TargetHz: 7.1e6, LowHz: 7.0e6, LowSWR: 2.4, Limit: 1.5, NoDipSWR: 20, Coverage: 40, Measured: 36,
			Mend: "R is 20 ohm: raise it.", Setting: "turn it"}.Judged(reason))
	}
	// What was not read is unknown.
	little := Verdict{TargetHz: 7.1e6, LowHz: 7.1e6, LowSWR: 1.3, Limit: 1.5, Coverage: 100, Measured: 36,
		Missing: [][2]float64{{7.0e6, 7.08e6}}}.Judged(Inside).Words(quantity.SI)
	if !strings.Contains(little.Detail, "100 % of the 36 % that was measured") ||
		!strings.Contains(little.Detail, "Not measured: 7.000 to 7.080") {
		t.Error(little.Detail)
	}
	none := Verdict{TargetHz: 7.1e6, LowHz: 7.1e6, LowSWR: 1.3, Limit: 1.5}.Judged(Inside).Words(quantity.SI)
	if strings.Contains(none.Detail, "%") || !strings.Contains(none.Detail, "nothing was read") {
		t.Error(none.Detail)
	}
}

func sayable(t *testing.T, seen map[string]Reason, v Verdict) {
	t.Helper()
	for _, units := range []quantity.System{quantity.SI, quantity.FeetInches} {
		w := v.Words(units)
		if w.Headline == "" || w.Detail == "" || clumsy.MatchString(w.Headline+" "+w.Detail) ||
			strings.ToUpper(w.Headline[:1]) != w.Headline[:1] {
			t.Errorf("%s: %q %q", v.Reason, w.Headline, w.Detail)
		}
		if units == quantity.FeetInches && regexp.MustCompile(`\d (m|cm|mm)\b`).MatchString(w.Headline+w.Detail) {
			t.Errorf("%s speaks metres to who thinks in feet: %q %q", v.Reason, w.Headline, w.Detail)
		}
		if was, ok := seen[w.Headline]; ok && was != v.Reason {
			t.Errorf("%s and %s have the same headline %q", was, v.Reason, w.Headline)
		}
		seen[w.Headline] = v.Reason
	}
}

func TestAnAdviceSaysWhatToDoAndWhatToExpect(t *testing.T) {
	fold := Action{Verb: Fold, Metres: 0.25, Legs: 2}
	dip := Foreseen{F: 14.06e6, Now: 13.9e6, Expect: 14.05e6, Range: [2]float64{14.004e6, 14.1e6}, Short: 3}
	one := Advice{Labels: []string{"each leg"}, Actions: []Action{fold}, Foreseen: []Foreseen{dip}, Shorter: true, Limit: 1.5}
	w := one.Words(quantity.SI)
	if w.Headline != "Fold back 25.0 cm on each leg, then sweep again." ||
		!strings.Contains(w.Detail, "Expect the dip near 14.050 MHz, between 14.004 and 14.100") || // as the table beside it
		!strings.Contains(w.Detail, "too short: 3 in 100. Fold and tie") {
		t.Errorf("%+v", w)
	}
	two := one
	two.Labels, two.Actions, two.Shared, two.Unswept = []string{"wire for 7.1 MHz", "wire for 14.06 MHz"}, []Action{fold, fold}, true, true
	if w := two.Words(quantity.SI); !strings.HasPrefix(w.Headline, "Wire for 7.1 MHz: fold back") ||
		!strings.Contains(two.More(), "compromise") || !strings.Contains(two.More(), "sweep them too") {
		t.Errorf("%+v", w)
	}
	if got := two.Reason(quantity.SI); got != "wire for 7.1 MHz: folded back 25.0 cm on each leg; wire for 14.06 MHz: folded back 25.0 "+
		"cm on each leg" {
		t.Error(got)
	}
	many := two
	many.Labels, many.Actions, many.Foreseen = append(two.Labels, "x"), append(two.Actions, fold), []Foreseen{dip, dip, dip, dip}
	if w := many.Words(quantity.SI); !strings.HasPrefix(w.Headline, "Change 3 wires") || !strings.Contains(w.Detail, "2 more as listed") {
		t.Errorf("%+v", w)
	}
	lost := one
	lost.Lost = []float64{21.2e6}
	if more := lost.More(); !strings.Contains(more, "On 21.200 MHz another wire carries the current") {
		t.Error(more)
	}
	low := one
	low.PoleUp, low.Unchoked, low.Changed = true, true, &Changed{"feed point", "3.00 m", "7.00 m"}
	if more := low.More(); !strings.Contains(more, "The pole stays up. With no choke") ||
		!strings.HasSuffix(more, "feed point was 3.00 m then and is 7.00 m now.") {
		t.Error(more)
	}
	high := one
	high.Unchoked = true
	if more := high.More(); strings.Contains(more, "choke") {
		t.Errorf("of the radiator the choke says nothing: %s", more)
	}
	for says, a := range map[string]Advice{
		"every resonance is where it should be": {Done: true, Settled: true, Shared: true, Foreseen: []Foreseen{dip}},
		"no length suits all of these":          {Done: true, Shared: true, Foreseen: []Foreseen{dip}},
		"Tip at its end":                        {End: &End{"tip", "the winding", true}},
		"Nothing was read on the bands":         {Unread: true},
		"Read more before you change":           {Unread: true, Lowest: Read{SWR: 2, At: 14e6}},
		"it has no dip near 7.100 MHz by":       {Unmodelled: 7.1e6, Done: true},
		"the model predicts a different":        {Withheld: true, Done: true, Foreseen: []Foreseen{dip}},
		"Make it as planned: fold back":         {Planned: true, Actions: one.Actions, Labels: one.Labels, Foreseen: one.Foreseen},
	} {
		if w := a.Words(quantity.SI); !strings.Contains(w.Headline, says) || w.Detail == "" {
			t.Errorf("%q: %+v", says, w)
		}
	}
	ends := one
	ends.End = &End{"tip", "the winding", true}
	if w := ends.Words(quantity.SI); !strings.HasPrefix(w.Headline, "Fold back") || !strings.Contains(w.Detail, "it meets the winding") ||
		strings.Contains(w.Detail, "Expect") {
		t.Errorf("%+v", w)
	}
}

// How a dip follows from few readings is told, and where to read on.
func TestReadingsSayWhatTheyMean(t *testing.T) {
	r := Read{Band: "20 m", SWR: 1.9, At: 14.3e6, Readings: 1, How: Compared, Dip: 14.05e6, Range: [2]float64{14.0e6, 14.1e6},
		AsModelled: true}
	other, many, lowest, either := r, r, r, r
	other.AsModelled = false
	many.Readings, many.Next = 5, []float64{14e6, 14.06e6}
	lowest.How, either.How = Taken, EitherSide
	for want, x := range map[string]Read{
		"SWR 1.9 at 14.300 MHz is what the model expects of this antenna as recorded: its dip lies near 14.050 MHz": r,
		"SWR 1.9 at 14.300 MHz is no dip by the model: that lies near 14.050 MHz, between 14.000 and 14.100.":       other,
		"By the readings on 20 m and the modelled curve the dip lies near 14.050 MHz":                               many,
		"on either side of the dip": either,
	} {
		if got := x.Says(); !strings.Contains(got, want) || clumsy.MatchString(got) {
			t.Errorf("%q, want %q", got, want)
		}
	}
	a := Advice{Unread: true, Lowest: r, Reads: []Read{other, many, lowest}}
	if w := a.Words(quantity.SI); !strings.Contains(w.Detail, "SWR 1.9 at 14.300 MHz is taken for the lowest you found there") ||
		!strings.HasSuffix(w.Detail, "Read at 14.000 and 14.060 MHz next.") {
		t.Error(w.Detail)
	}
}

func TestRaisingSaysWhatStandsInItsWay(t *testing.T) {
	for want, r := range map[string]Raising{
		"One of these values is impossible.":                     {1, 2, 3, 0},
		"One value is unlikely: check it again.":                 {0, 2, 3, 1},
		"1 safety check before you raise it.":                    {0, 0, 1, 0},
		"3 safety checks before you raise it.":                   {0, 0, 3, 2},
		"The dimensions are consistent. Save, then measure SWR.": {0, 0, 0, 0},
		"Recorded as r2. Update what changed, and say why.":      {0, 0, 0, 2},
	} {
		if got := r.Headline(); got != want {
			t.Errorf("%+v: %q, want %q", r, got, want)
		}
	}
}

func TestThingsAreCounted(t *testing.T) {
	for want, got := range map[string]string{"1 turn": Count(1, "turn"), "2 turns": Count(2, "turn"), "0 items": Count(0, "item"),
		"2.5 turns": Count(2.5, "turn"), "3 pairs of days": Count(3, "pair of days"), "1 pair of days": Count(1, "pair of days")} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
