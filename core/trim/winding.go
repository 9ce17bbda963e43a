package trim

import (
	"context"
	"math"

	"reed/core/numeric"
	"reed/core/twin"
)

// Inferred windings have an inductance within these shares of the recorded one; a difference below least is within what tape and
// solver may be off by, and is not inferred.
const (
	leastWinding, mostWinding = 0.55, 1.8
	leastInferred             = 0.02
)

// inferWinding sets the inductance of a fixed coil or helix to the one with which the model dips where the newest sweep does: what a
// winding has is mostly a guess, and how a loaded antenna answers to its lengths depends on it.
func (x Subject) inferWinding(ctx context.Context, e *twin.Engine, j *job) error {
	if !j.setup.Wound() {
		return nil
	}
	goal, dips := -1, j.raises[len(j.raises)-1].F
	for g, o := range j.newest {
		// The lowest band answers most to the winding.
		if o.f > 0 && o.sure < compared && (goal < 0 || dips[g] < dips[goal]) {
			goal = g
		}
	}
	if goal < 0 {
		return nil
	}
	dip := dips[goal]
	off := func(share float64) (float64, error) {
		s := j.setup
		s.Winding = share
		at, ok, err := e.Near(ctx, s, dip)
		if err != nil {
			return 0, err
		}
		if !ok {
			return math.NaN(), nil
		}
		return math.Log(at / dip), nil
	}
	share, ok, err := numeric.Secant(off, 1, 1.06, 8,
		func(_, to float64) float64 { return math.Max(leastWinding, math.Min(mostWinding, to)) },
		func(_, left float64) bool { return math.Abs(left) < 5e-4 })
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil || !ok || math.Abs(share-1) < leastInferred {
		return nil // the model stays as recorded
	}
	j.setup.Winding = share
	return nil
}
