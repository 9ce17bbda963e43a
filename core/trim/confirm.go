package trim

import (
	"context"
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/phrase"
	"reed/core/quantity"
	"reed/core/twin"
)

// How far the model's forecast of a change may be off what is promised: always, and as a share of how far the dip moves, where
// that goes by the model alone and where it goes by several raises.
const (
	offAlways    = 0.002
	offByModel   = 0.10
	offByRaises  = 0.35
	corrections  = 4
	leastLearned = 1e-6 // of the squared step, below which nothing is learned from it
)

// confirmed is the advice by the radiator, or by the radials, after the model was asked for exactly that change. Where it
// predicts another dip than is promised, the slopes are corrected by it and the change is worked out again; where they do not
// come together, no change is advised.
func (x Subject) confirmed(ctx context.Context, e *twin.Engine, j *job, prior Prior, radials bool) (Trim, float64, error) {
	prior.Slope = cloned(prior.Slope)
	for range corrections {
		t, share, err := x.way(*j, prior, radials)
		if err != nil || len(t.Actions) == 0 || t.End != nil {
			return t, share, err
		}
		agrees, err := x.check(ctx, e, j, &prior, &t)
		if err != nil || agrees {
			return t, share, err
		}
	}
	t, share, err := x.way(*j, prior, radials)
	if err == nil && len(t.Actions) > 0 && t.End == nil {
		t.withhold(j.setup)
	}
	return t, share, err
}

// withhold removes the changes from an advice, because the model predicts another result.
func (t *Trim) withhold(s twin.Setup) {
	t.Withheld, t.Done, t.Settled = true, true, false
	t.Actions, t.Labels, t.Wires, t.Built, t.uneven = nil, nil, []Wire{}, s.Built, false
}

// check asks the model for the dips after a change, and corrects the slopes where it predicts others than are promised.
func (x Subject) check(ctx context.Context, e *twin.Engine, j *job, prior *Prior, t *Trim) (agrees bool, err error) {
	changed := j.even
	changed.Built = t.Built
	moved, err := j.moves(ctx, e, changed)
	if err != nil {
		return false, err
	}
	now, agrees := j.raises[len(j.raises)-1], true
	share := offByModel
	if len(j.raises) > 1 {
		share = offByRaises
	}
	step, square := make([]float64, len(j.knobs)), 0.0
	for k, knob := range j.knobs {
		step[k] = math.Log(knob.Length(t.Built.Shape) / knob.Length(j.even.Built.Shape))
		square += sq(step[k])
	}
	for i, f := range t.Foreseen {
		g := j.goalAt(f.F)
		if now.F[g] <= 0 || math.IsNaN(moved[g]) {
			agrees = agrees && now.F[g] <= 0
			continue
		}
		counts := 1.0
		if !prior.Free {
			counts = Folded
		}
		off := moved[g]*counts - math.Log(f.Expect/t.was[i])
		if math.Abs(off) <= offAlways+share*math.Abs(moved[g]) {
			continue
		}
		agrees = false
		if square > leastLearned {
			for k := range step {
				prior.Slope[g][k] += off * step[k] / square
			}
		}
	}
	return agrees, nil
}

func (j job) goalAt(f float64) int {
	for g, x := range j.goals {
		if x.F == f {
			return g
		}
	}
	return 0
}

// moves is by how much a set-up moves the dips against what stands, as logarithms; not a number where the model has no dip.
func (j *job) moves(ctx context.Context, e *twin.Engine, to twin.Setup) ([]float64, error) {
	dips := func(s twin.Setup) (out []float64, err error) {
		for _, g := range j.goals {
			at, ok, err := e.Near(ctx, s, g.F)
			if err != nil {
				return nil, err
			}
			if !ok {
				at = math.NaN()
			}
			out = append(out, at)
		}
		return out, nil
	}
	var err error
	if j.model == nil {
		if j.model, err = dips(j.even); err != nil {
			return nil, err
		}
	}
	out, err := dips(to)
	for g := range out {
		out[g] = math.Log(out[g] / j.model[g])
	}
	return out, err
}

func cloned(rows [][]float64) (out [][]float64) {
	for _, row := range rows {
		out = append(out, append([]float64(nil), row...))
	}
	return out
}

// planApart is by which share a recorded length is off the plan's before the plan's lengths are proposed.
const planApart = 0.03

// asPlannedOff is by which share the dips may then lie off where they are wanted: what is left is trimmed at the next raise.
const asPlannedOff = 0.015

// asPlanned is the advice to make every length as it was planned, where one is far off that, and where by the model the dips are
// then where they may be; ok is false otherwise.
func (x Subject) asPlanned(ctx context.Context, e *twin.Engine, j *job, prior Prior) (t Trim, ok bool, err error) {
	if x.Plan == nil || len(x.Wanted) > 0 || !j.farOff() {
		return t, false, nil
	}
	plan, err := x.Plan(ctx)
	switch {
	case ctx.Err() != nil:
		return t, false, ctx.Err()
	case err != nil || plan.Family != j.setup.Built.Family || plan.Variant != j.setup.Built.Variant:
		return t, false, nil // without a plan there is none to go back to
	}
	to, apart := j.setup, 0.0
	now := j.raises[len(j.raises)-1]
	now.F = slices.Clone(now.F)
	a := Advice{Change: make([]float64, len(j.knobs)), Now: slices.Clone(now.F), Expect: make([]float64, len(j.goals)),
		Range: make([][2]float64, len(j.goals)),
		Short: make([]float64, len(j.goals))}
	for k, knob := range j.knobs {
		planned := knob.Length(plan.Shape)
		if knob.Radials || planned <= 0 || knob.Way != family.Fold {
			continue
		}
		a.Change[k] = now.Lengths[k] - planned
		apart = math.Max(apart, math.Abs(math.Log(planned/now.Lengths[k])))
		to = to.With(knob, planned)
	}
	if beam := family.Of(to.Built.Shape).Beam(); beam != nil {
		apart = math.Max(apart, beamApart(*beam, j.setup.Built.Shape, plan.Shape))
		for _, part := range beam.Lengths {
			to.Built.Put(part.Field, plan.Shape.Sizes[part.Field])
		}
		to.Built.Shape = beam.Close(to.Built.Shape)
	}
	if apart < planApart {
		return t, false, nil
	}
	moved, err := j.moves(ctx, e, to)
	if err != nil {
		return t, false, err
	}
	for g, goal := range j.goals {
		if now.F[g] <= 0 || prior.Lost(g) {
			now.F[g] = 0
			continue
		}
		if math.IsNaN(moved[g]) {
			return t, false, nil
		}
		mean := math.Log(now.F[g]) + moved[g]
		sd := math.Hypot(now.sure(g), 0.04*moved[g])
		if f := math.Exp(mean); f < math.Min(goal.Lo, goal.F*(1-asPlannedOff)) || f > math.Max(goal.Hi, goal.F*(1+asPlannedOff)) {
			return t, false, nil
		}
		a.Expect[g] = math.Exp(mean)
		a.Range[g] = [2]float64{math.Exp(mean - 1.96*sd), math.Exp(mean + 1.96*sd)}
		a.Short[g] = above(math.Log(math.Max(goal.Hi, goal.F*(1+asPlannedOff))), mean, sd)
		if moved[g] > 0 && a.Short[g] > 5*MostShort {
			return t, false, nil // wire that is cut off does not come back
		}
	}
	t = x.trim(*j, now, a)
	if beam := family.Of(to.Built.Shape).Beam(); beam != nil {
		t.beam(*beam, j.setup, to)
	}
	t.Way, t.Planned = AsPlanned, true
	return t, len(t.Actions) > 0, nil
}

// farOff reports whether a dip lies so far off where it is wanted that the lengths may be other than planned.
func (j job) farOff() bool {
	now := j.raises[len(j.raises)-1]
	for g, goal := range j.goals {
		if f := now.F[g]; f > 0 && math.Abs(math.Log(f/goal.F)) > planApart/2 {
			return true
		}
	}
	return false
}

// beamApart is by which share the wires of a beam are off the plan's, at the most.
func beamApart(beam family.Beam, is, planned antenna.Shape) (apart float64) {
	for _, w := range beam.Wholes {
		if a, b := w.Length(is), w.Length(planned); a > 0 && b > 0 {
			apart = math.Max(apart, math.Abs(math.Log(a/b)))
		}
	}
	return apart
}

// beam makes the advice of every length of a beam that differs.
func (t *Trim) beam(beam family.Beam, from, to twin.Setup) {
	action := phrase.Action{Verb: phrase.Fold, Legs: 1}
	for _, p := range beam.Lengths {
		by := p.Length(to.Built.Shape) - p.Length(from.Built.Shape)
		if p.Field != "width" {
			// A tail is the part of a wire beyond the frame, which may have been measured by halves.
			for _, k := range family.Of(from.Built.Shape).Knobs() {
				for _, q := range k.Parts {
					if q.Field == p.Field {
						by = p.Length(to.Built.Shape) - q.Length(from.Built.Shape)
					}
				}
			}
		}
		if math.Abs(by) > 0.002 {
			action.Parts = append(action.Parts, phrase.Part{Metres: by, On: p.Label})
		}
		action.Metres += math.Abs(by)
	}
	t.Actions, t.Labels, t.Wires, t.Built, t.Done = nil, nil, []Wire{}, to.Built, len(action.Parts) == 0
	if len(action.Parts) > 0 {
		whole := beam.Wholes[0]
		t.Actions, t.Labels = []phrase.Action{action}, []string{whole.Label}
		t.Wires = []Wire{{Label: whole.Label, Change: quantity.Metres(whole.Length(from.Built.Shape) - whole.Length(to.Built.Shape))}}
	}
}
