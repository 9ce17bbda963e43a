// Package trim says by how much wires are shortened or lengthened after a sweep: from the measured resonances
// of all raises so far and the solver's sensitivities, with what is not sure counted, so that wire that does
// not come back is not cut too short.
package trim

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/numeric"
)

// Goal is a frequency in hertz that a resonance shall come to, and the range in which it is left alone.
type Goal struct{ F, Lo, Hi float64 }

// Raise is one measurement: the lengths of the wires in metres and the resonance at each goal in hertz,
// 0 where none was found.
type Raise struct {
	Lengths []float64
	F       []float64
	// Sure is how far each may be off as a share of it; where it is not said, as off an analyser.
	Sure []float64
}

// sure is the standard deviation of the logarithm of a goal's resonance as it was read.
func (r Raise) sure(goal int) float64 {
	if goal < len(r.Sure) && r.Sure[goal] > reading {
		return r.Sure[goal]
	}
	return reading
}

// Prior is the knowledge before the first sweep: how the logarithm of each goal's resonance moves with the
// logarithm of each length (-1 for a plain wire), and how sure that is, as a share of it.
type Prior struct {
	Slope [][]float64 // by goal, then by length
	Sure  float64
	// Free says that shortening is taken back as easily as done, as with a telescopic rod: nothing is held back.
	Free bool
	// Still are lengths that are left as they are. How they moved the resonances before is learned from all the
	// same.
	Still []bool
	// Apart says that each goal is the resonance of a wire of its own, beside the others. Taken are the goals where one of
	// those is known to carry the current.
	Apart bool
	Taken []bool
}

// hardly is the least by which the resonance of a wire of its own answers to it, against -1 of one alone.
const hardly = 0.35

// Lost reports whether a goal's own wire has no hold of it: another carries the current there, as one of three
// quarter-waves does, and trimming would run away.
func (p Prior) Lost(goal int) bool {
	return p.Apart && (p.Slope[goal][goal] > -hardly || goal < len(p.Taken) && p.Taken[goal])
}

func (p Prior) still(k int) bool {
	return k < len(p.Still) && p.Still[k] || k < len(p.Slope) && p.Lost(k)
}

// Advice is the proposed change. Change is by wire in metres, negative for adding wire; Now is where the resonances are by all
// raises, Expect where they should then be, within the 95 % Range; Short is for each goal the chance that it ends above its range, from
// which only new wire helps. Done says that all resonances are in their ranges.
type Advice struct {
	Change []float64
	Now    []float64
	Expect []float64
	Range  [][2]float64
	Short  []float64
	Done   bool
}

// What a reading and a pair of pliers are worth.
const (
	reading = 0.0010 // of a frequency: wind, the dip's breadth, the analyser
	floor   = 0.03   // of a slope of -1: what folding, sag and knots make of it at least
	pliers  = 0.004  // metres, of a length as changed
	// Folded is how much of a folded length counts, for the slopes of who folds first: between nine tenths and
	// all of it.
	Folded = 0.95
	// MostShort is the highest chance of a resonance above its range that advice takes.
	MostShort = 0.015
	// aimShort is the joint risk that is aimed at, so that rounding stays within the limit.
	aimShort = 0.01
)

// ErrNothing says that there is nothing to advise from.
var ErrNothing = errors.New("no resonance was measured")

// learn returns the estimate of one goal after every raise that measured it: the logarithm of its resonance at the newest
// lengths and its slopes, by linear regression with the slopes' prior.
func learn(goal int, raises []Raise, prior Prior) (b *numeric.Belief, seen bool) {
	last := raises[len(raises)-1]
	n := len(last.Lengths) + 1
	mean, sd := make([]float64, n), make([]float64, n)
	for k := 1; k < n; k++ {
		s := prior.Slope[goal][k-1]
		mean[k], sd[k] = s, prior.Sure*math.Abs(s)+floor*math.Min(1, math.Abs(s)+0.1)
	}
	b = numeric.Believe(mean, sd)
	alike := 0.0 // raises whose dip follows by comparison with the same model, and so is off to the same side
	for _, r := range raises {
		if r.F[goal] > 0 && r.sure(goal) > compared {
			alike++
		}
	}
	for _, r := range raises {
		if r.F[goal] <= 0 {
			continue
		}
		y := math.Log(r.F[goal])
		x := make([]float64, n)
		x[0] = 1
		noise := sq(r.sure(goal))
		if noise > sq(compared) {
			noise *= alike // their mean is known no better than one of them
		}
		for k := 1; k < n; k++ {
			x[k] = math.Log(r.Lengths[k-1] / last.Lengths[k-1])
			noise += sq(b.Mean[k] * pliers / r.Lengths[k-1])
		}
		if !seen {
			// Nothing is known of it before.
			b.Mean[0] = y
			for k := 1; k < n; k++ {
				b.Mean[0] -= x[k] * b.Mean[k]
			}
			b.Cov.SetSym(0, 0, 1)
		}
		seen = true
		b.Learn(x, y, noise)
	}
	return b, seen
}

// after is the logarithm of the resonance after a change of the lengths' logarithms, and its standard
// deviation.
func after(b *numeric.Belief, d, lengths []float64) (mean, sd float64) {
	mean, v := b.Says(append([]float64{1}, d...))
	for k, l := range lengths {
		if d[k] != 0 {
			v += sq(b.Mean[k+1] * pliers / l)
		}
	}
	return mean, math.Sqrt(math.Max(v, 0))
}

// Advise says what to change after some raises, the newest last. There are as many lengths that may be changed as
// goals, or one for all goals.
func Advise(goals []Goal, raises []Raise, prior Prior) (Advice, error) {
	if len(raises) == 0 || len(goals) == 0 {
		return Advice{}, ErrNothing
	}
	last := raises[len(raises)-1]
	n := len(last.Lengths)
	var believed []*numeric.Belief
	var wanted []Goal
	var index []int
	for g := range goals {
		if b, ok := learn(g, raises, prior); ok && !prior.Lost(g) {
			believed, wanted, index = append(believed, b), append(wanted, goals[g]), append(index, g)
		}
	}
	if len(believed) == 0 {
		return Advice{}, ErrNothing
	}
	out := Advice{Change: make([]float64, n), Now: make([]float64, len(goals)), Expect: make([]float64, len(goals)),
		Range: make([][2]float64, len(goals)),
		Short: make([]float64, len(goals)), Done: true}
	zero := make([]float64, n)
	for i, b := range believed {
		mean, _ := after(b, zero, last.Lengths)
		f := math.Exp(mean)
		out.Now[index[i]] = f
		if f < wanted[i].Lo || f > wanted[i].Hi {
			out.Done = false
		}
	}
	step := make([]float64, n)
	if !out.Done {
		aims := make([]float64, len(wanted))
		for i := range wanted {
			aims[i] = math.Log(wanted[i].F)
		}
		step = solve(believed, aims, n, prior)
		// Adding wire can be taken back, cutting cannot: every resonance that rises is aimed at so low that it is not likely
		// to end above its range, or left where it is. What of that the lengths cannot do is held back.
		if !prior.Free {
			sure := distuv.UnitNormal.Quantile(1 - aimShort/float64(len(aims))) // in standard deviations
			for range 3 {
				for i := range aims {
					aims[i] = careful(believed[i], wanted[i], step, last.Lengths, sure)
				}
				step = solve(believed, aims, n, prior)
			}
			step = holdBack(believed, wanted, step, last.Lengths)
		}
	}
	for k, d := range step {
		out.Change[k] = last.Lengths[k] * (1 - math.Exp(d))
	}
	for i, b := range believed {
		mean, sd := after(b, step, last.Lengths)
		spread := math.Hypot(sd, reading)
		g := index[i]
		out.Expect[g] = math.Exp(mean)
		out.Range[g] = [2]float64{math.Exp(mean - 1.96*spread), math.Exp(mean + 1.96*spread)}
		out.Short[g] = above(math.Log(wanted[i].Hi), mean, sd)
	}
	return out, nil
}

// careful is the logarithm of the frequency that a resonance is aimed at with a step about as this one, so many standard
// deviations below the end of its range.
func careful(b *numeric.Belief, goal Goal, step, lengths []float64, sure float64) float64 {
	now, _ := after(b, make([]float64, len(step)), lengths)
	_, sd := after(b, step, lengths)
	wanted := math.Log(goal.F)
	return math.Min(wanted, math.Max(math.Log(goal.Hi)-sd*sure, now))
}

// holdBack is a step of which what shortens is held back until no resonance is likely to end above its range for it.
func holdBack(believed []*numeric.Belief, goals []Goal, step, lengths []float64) []float64 {
	held := step
	for share := 1.0; share > 0.02; share -= 0.02 {
		held = make([]float64, len(step))
		for k, d := range step {
			held[k] = d
			if d < 0 {
				held[k] = share * d
			}
		}
		if worst(believed, goals, held, lengths) <= MostShort {
			break
		}
	}
	return held
}

// worst is by how much a step raises the chance that a goal ends above its range, at the most: a reading that is wide leaves
// such a chance to a resonance that is left where it is.
func worst(believed []*numeric.Belief, goals []Goal, step, lengths []float64) float64 {
	out := 0.0
	zero := make([]float64, len(step))
	for i, b := range believed {
		limit := math.Log(goals[i].Hi)
		now, sure := after(b, zero, lengths)
		mean, sd := after(b, step, lengths)
		if mean > now {
			out = math.Max(out, above(limit, mean, sd)-above(limit, now, sure))
		}
	}
	return out
}

// above is the chance that a normal value lies above a limit.
func above(limit, mean, sd float64) float64 {
	if sd <= 0 {
		if mean > limit {
			return 1
		}
		return 0
	}
	return 0.5 * math.Erfc((limit-mean)/sd/math.Sqrt2)
}

// solve is the change of the logarithms of the lengths that brings all resonances to what is aimed at, or nearest
// to that when there are more goals than lengths (least squares, slightly damped so that wires that hardly
// matter stay).
func solve(believed []*numeric.Belief, aims []float64, n int, prior Prior) []float64 {
	a, r := mat.NewSymDense(n, nil), make([]float64, n)
	for k := range n {
		a.SetSym(k, k, 1e-4)
	}
	for i, b := range believed {
		off := aims[i] - b.Mean[0]
		for k := range n {
			if prior.still(k) {
				continue
			}
			r[k] += b.Mean[k+1] * off
			for l := k; l < n; l++ {
				if !prior.still(l) {
					a.SetSym(k, l, a.At(k, l)+b.Mean[k+1]*b.Mean[l+1])
				}
			}
		}
	}
	out, ok := numeric.Solve(a, r)
	if !ok {
		return make([]float64, n) // of slopes that are no numbers nothing follows
	}
	for k := range out {
		out[k] = math.Min(math.Max(out[k], -0.3), 0.3)
	}
	return out
}

func sq(x float64) float64 { return x * x }
