package core_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/cmplx"
	"runtime/debug"
	"strconv"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/diagnose"
	"reed/core/entry"
	"reed/core/marks"
	"reed/core/quantity"
	"reed/core/rigging"
	"reed/core/sweep"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/testsize"
)

// hunter runs set-ups through everything that is computed of them, and reports panics and what is no JSON.
type hunter struct {
	*testing.T
	engine *twin.Engine
	// Of the set-ups that are possible, one in solve is solved; of these, one in all goes through advice and marks, and one in
	// deep through solved lengths and causes.
	solve, all, deep int
	seen             int // possible set-ups so far
	slow             int // solved set-ups so far
}

// whole runs one computation: it may refuse, but neither panic nor answer with what is no number.
func (h *hunter) whole(what string, do func() (any, error)) {
	h.Helper()
	defer func() {
		if v := recover(); v != nil {
			h.Errorf("%s: panic: %v\n%s", what, v, debug.Stack())
		}
	}()
	v, err := do()
	if err != nil {
		return
	}
	if _, err := json.Marshal(v); err != nil {
		h.Errorf("%s: %v", what, err)
	}
}

// edges are what is typed into a field: nothing, zero, its bounds and just beyond, far beyond.
func edges(f entry.Field) []string {
	number := func(v float64) string { return strconv.FormatFloat(v, 'g', 9, 64) }
	unit := ""
	if f.Kind == entry.Length || f.Kind == entry.Size {
		unit = " m"
	}
	switch f.Kind {
	case entry.Length, entry.Size, entry.Count, entry.Amount:
		out := []string{"", "0" + unit, "1e9" + unit, "0.0001" + unit, "1" + unit}
		if f.Kind == entry.Count {
			out = []string{"", "0", "1000000000", "1", "-1"}
		}
		if f.Max > 0 {
			out = append(out, number(f.Max)+unit, number(f.Max*1.01)+unit, number(f.Min)+unit, number(f.Min*0.99)+unit)
		}
		return out
	case entry.Frequencies:
		return []string{"", "1.8", "54", "1.7", "7.1 14.1 21.1 28.1", "1.8 3.6 7.1 10.1 14.1 18.1 21.1 24.9 28.1"}
	case entry.Choice:
		out := []string{"", "none of them"}
		for _, o := range f.Options {
			out = append(out, o.ID)
		}
		return out
	}
	return []string{"", "0", "0 0 0", "360 -360", strings.Repeat("1 ", 300)}
}

// with is texts with one of them changed.
func with(texts map[string]string, id, text string) map[string]string {
	out := map[string]string{}
	for k, v := range texts {
		out[k] = v
	}
	out[id] = text
	return out
}

// built runs a set-up as recorded through check, forecast and, now and then, all the rest.
func (h *hunter) built(what string, b deployment.Built, planned antenna.Shape) {
	h.whole(what+": check", func() (any, error) {
		faults := deployment.Check(b, planned)
		d, _ := family.Of(b.Shape).Layout()
		return []any{faults, d, rigging.Cautions(b.Shape, d, 100, quantity.SI), d.Onsite(true),
			deployment.MakeTag(deployment.Deployment{}, []deployment.Revision{{Built: b}}, 0, false, true)}, nil
	})
	if faults := deployment.Check(b, planned); antenna.HasError(faults) {
		return
	}
	setup := twin.Setup{Built: b, Ground: "average", PowerW: 100}
	// The one frequency that is highest makes the most unknowns, so the lowest is computed.
	all := b.All()
	low := all[len(all)-1]
	h.seen++
	if h.seen%h.solve != 0 && !strings.Contains(what, "bare") {
		return
	}
	bd := band.Nearest(1, low)
	o := twin.Options{Region: 1, Band: bd.Name, Coarse: true}
	ctx, stop := context.WithTimeout(context.Background(), 20*time.Second)
	defer stop()
	h.whole(what+": forecast", func() (any, error) { return h.engine.Forecast(ctx, setup, o, nil) })
	h.slow++
	if h.slow%h.all != 0 {
		return
	}
	c := sweep.Sweep{Kind: sweep.Complex}
	for i := range 21 {
		f := bd.Lo + (bd.Hi-bd.Lo)*float64(i)/20
		g := circuit.Gamma(complex(45, (f/low-1)*800), 50)
		c.F, c.Re, c.Im = append(c.F, f), append(c.Re, real(g)), append(c.Im, imag(g))
	}
	curve, err := c.Curve()
	if err != nil || cmplx.IsNaN(complex(c.Re[0], c.Im[0])) {
		h.Fatal(err)
	}
	h.whole(what+": advice", func() (any, error) {
		return trim.Subject{Swept: []trim.Swept{{Built: b, Feeds: []sweep.Curve{curve}}}, Ground: "average", Region: 1, Limit: 2}.Advise(ctx,
			h.engine, nil)
	})
	set := marks.Set{Family: b.Family, Marks: []marks.Mark{{Hz: low, SWR: 1.2, Values: b.Values},
		{Hz: low * 1.01, SWR: 1.3, Values: b.Values}}}
	h.whole(what+": marks", func() (any, error) {
		now := marks.Today{Built: b}
		return []any{set.Check(1, b.Shape, false), set.For(low*1.005, b.Shape, now, 1, false), set.Card(b.Shape, all, now, 1, false),
			marks.Fields(b.Shape, quantity.SI), marks.Guide(b.Shape, 100),
			marks.FromSweep(c, curve, b.Shape, 1, false)}, nil
	})
	if h.slow%h.deep != 0 {
		return
	}
	h.whole(what+": lengths", func() (any, error) {
		s := setup
		s.Planned = true
		return h.engine.Refine(ctx, s, nil)
	})
	h.whole(what+": causes", func() (any, error) {
		lo, hi := diagnose.Around(bd, low)
		return diagnose.Diagnose(ctx, h.engine, diagnose.Subject{Setup: setup, Feed: curve, Lo: lo, Hi: hi}, nil)
	})
}

// Every family in every way of hanging it, every field in turn at what breaks things: no panic, no answer that is
// no number.
func TestNothingThatIsTypedBreaksAComputation(t *testing.T) {
	testsize.SkipIfShort(t, "solves hundreds of set-ups")
	hunt(t, hunter{solve: 20, all: 6, deep: 18})
}

// At length every set-up is solved, and one in four goes through everything.
func TestLongNothingThatIsTypedBreaksAComputation(t *testing.T) {
	every := max(1, 400/testsize.Long(t, 400))
	hunt(t, hunter{solve: every, all: max(4, every), deep: max(4, every)})
}

func hunt(t *testing.T, how hunter) {
	engine := &twin.Engine{}
	for _, fam := range family.Families() {
		t.Run(fam.ID, func(t *testing.T) {
			t.Parallel()
			one := how
			h := &one
			h.T, h.engine = t, engine
			for _, v := range fam.Variants {
				usual := map[string]string{"for": "14.06"}
				if fam.Multi {
					usual["for"] = "14.06 28.1"
				}
				shape := antenna.Shape{Family: fam.ID, Variant: v.ID, Wire: "pvc"}
				design := func(texts map[string]string) antenna.Plan {
					return family.Drawn(antenna.Form{Record: antenna.Request{Shape: shape, PowerW: 100}, Typed: entry.Typed{Texts: texts}})
				}
				plan := design(usual)
				if antenna.HasError(plan.Faults) {
					t.Fatalf("%s: the usual plan has faults: %v", v.ID, plan.Faults)
				}
				for _, f := range plan.Fields {
					for _, text := range edges(f) {
						h.whole(fmt.Sprintf("%s %s %q: plan", v.ID, f.ID, short(text)), func() (any, error) { return design(with(usual, f.ID, text)), nil })
					}
				}
				typed := family.Of(plan.Shape).Texts("built", false)
				for _, f := range family.Of(plan.Shape).Fields("built") {
					for _, text := range edges(f) {
						b, unread := deployment.Read(deployment.Form{Record: deployment.Built{Shape: plan.Shape, PowerW: 100},
							Typed: entry.Typed{Texts: with(typed, f.ID, text)}})
						if antenna.HasError(unread) {
							continue
						}
						h.built(fmt.Sprintf("%s %s %q", v.ID, f.ID, short(text)), b, plan.Shape)
					}
				}
				h.empty(v.ID, plan.Shape)
			}
		})
	}
}

// empty records what a script may send: a radiator, and nothing else of what the form would have asked for.
func (h *hunter) empty(what string, planned antenna.Shape) {
	bare := antenna.Shape{Family: planned.Family, Variant: planned.Variant, FrequencyHz: planned.FrequencyHz,
		Wire: "pvc"}.With(antenna.Radiator, planned.Radiator())
	h.built(what+": bare", deployment.Built{Shape: bare}, antenna.Shape{})
	bare.Values = planned.Values
	h.built(what+": bare with its values", deployment.Built{Shape: bare}, antenna.Shape{})
	many := planned
	many.PutNumber(antenna.RadialsCount, float64(1_000_000_000))
	many.PutNumber(antenna.CounterpoiseCount, float64(1_000_000_000))
	h.built(what+": a billion radials", deployment.Built{Shape: many}, antenna.Shape{})
}

func short(s string) string {
	if len(s) > 24 {
		return s[:24] + "…"
	}
	return s
}
