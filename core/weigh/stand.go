package weigh

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Showing is how an antenna did on one occasion: a level in decibels and the variance of what is known of it, or so many contacts in so
// many hours, of which the level is the logarithm of the rate.
type Showing struct {
	Antenna, Occasion string
	Level, Variance   float64
	Contacts, Hours   float64
}

// push is how a level, at a value, is drawn by what was seen and how firmly, and the logarithm of how likely that was. Contacts come in
// bunches, so that each counts for a part of one.
func (s *Showing) push(at float64) (slope, weight, log float64) {
	if s.Hours <= 0 {
		off := s.Level - at
		return off / s.Variance, 1 / s.Variance, -0.5 * (off*off/s.Variance + math.Log(s.Variance))
	}
	mean := s.Hours * math.Exp(at)
	return (s.Contacts - mean) / usualBunched, mean / usualBunched, (s.Contacts*(at+math.Log(s.Hours)) - mean) / usualBunched
}

// seen is the level that a showing has by itself, and its weight.
func (s *Showing) seen() (level, weight float64) {
	if s.Hours <= 0 {
		return s.Level, 1 / s.Variance
	}
	return math.Log((s.Contacts + 0.5) / s.Hours), s.Contacts + 0.5
}

// Standing is where an antenna stands after all its occasions: its level on an ordinary occasion with the interval that holds it with
// 95 %, shrunk towards that of the others the more the less is known of it. Seen is the result of its own runs alone.
type Standing struct {
	Antenna   string
	Level     float64
	Lo, Hi    float64
	Seen      float64
	Occasions int
	Best      float64 // the chance that it is the best of them
}

// Spreads are the standard deviations between antennas, and between occasions beyond what is counted of each showing.
type Spreads struct{ Antennas, Occasions float64 }

// steps of each spread that are weighed, and draws for who is best.
const (
	spreadSteps = 7
	bestDraws   = 2000
	// freely is a spread of occasions that leaves them all their own level.
	freely = 1000.0
)

// Stand judges antennas by all their showings: each level is that of the antenna plus that of the occasion, which antennas of one
// occasion share, plus chance. The spreads are not known; each is taken as so likely as the showings make it, and beforehand as half of
// a normal distribution of a usual size. Where free, nothing is taken of how occasions differ: antennas are compared within each alone,
// and their levels are over the mean of them all.
func Stand(of []Showing, usual Spreads, free bool) (out []Standing, learned Spreads) {
	if len(of) == 0 {
		return nil, usual
	}
	m := mixedOf(of)
	var weights []float64
	var fits []solvedMix
	var at []Spreads
	best := math.Inf(-1)
	var from []float64
	for i := range spreadSteps {
		tau := usual.Antennas * halfNormal(i)
		for k := range spreadSteps {
			delta := usual.Occasions * halfNormal(k)
			if free {
				if delta = freely; k > 0 {
					continue
				}
			}
			f, ok := m.solve(tau, delta, from)
			if !ok {
				continue
			}
			from = f.mean
			fits, weights, at = append(fits, f), append(weights, f.log), append(at, Spreads{tau, delta})
			best = math.Max(best, f.log)
		}
	}
	total := 0.0
	for i := range weights {
		weights[i] = math.Exp(weights[i] - best)
		total += weights[i]
	}
	for i := range weights {
		weights[i] /= total
		learned.Antennas += weights[i] * at[i].Antennas
		learned.Occasions += weights[i] * at[i].Occasions
	}
	out = m.standings(fits, weights, free)
	slices.SortStableFunc(out, func(a, b Standing) int { return cmp.Compare(b.Level, a.Level) })
	return out, learned
}

// halfNormal is the middle of one of equally likely parts of half a normal distribution.
func halfNormal(i int) float64 {
	return distuv.UnitNormal.Quantile(0.5 + 0.5*(float64(i)+0.5)/spreadSteps)
}

// mixed are the equations of the levels: the mean of all, then antennas, then occasions.
type mixed struct {
	antennas, occasions []string
	of                  []Showing
	a, o                []int   // of each showing
	at                  [][]int // showings of each occasion
}

func mixedOf(of []Showing) *mixed {
	m := &mixed{of: of, a: make([]int, len(of)), o: make([]int, len(of))}
	place := func(list *[]string, at map[string]int, name string) int {
		k, ok := at[name]
		if !ok {
			k = len(*list)
			at[name], *list = k, append(*list, name)
		}
		return k
	}
	as, os := map[string]int{}, map[string]int{}
	for i, s := range of {
		m.a[i], m.o[i] = place(&m.antennas, as, s.Antenna), place(&m.occasions, os, s.Occasion)
		if m.o[i] == len(m.at) {
			m.at = append(m.at, nil)
		}
		m.at[m.o[i]] = append(m.at[m.o[i]], i)
	}
	return m
}

// solvedMix are the levels at some spreads: their mean, the factor of the precision of the mean of all and of the antennas, occasions
// left to chance, and the logarithm of how likely the showings are.
type solvedMix struct {
	mean []float64
	chol mat.Cholesky
	log  float64
}

// vague is the precision with which the mean of all is known beforehand.
const vague = 1e-6

// Of the steps towards the likeliest levels: contacts need a few.
const (
	mostSteps = 30
	stepSmall = 1e-6
)

// solve finds the likeliest levels at some spreads, beginning at others (Newton's steps on the mixed-model equations, Henderson 1950; for
// contacts Breslow and Clayton 1993), and by Laplace's method how likely the showings are.
func (m *mixed) solve(tau, delta float64, from []float64) (out solvedMix, ok bool) {
	na, no := len(m.antennas), len(m.occasions)
	n := 1 + na + no
	prior := make([]float64, n)
	prior[0] = vague
	for i := range na {
		prior[1+i] = 1 / (tau * tau)
	}
	for i := range no {
		prior[1+na+i] = 1 / (delta * delta)
	}
	at := make([]float64, n)
	if copy(at, from) == 0 {
		level, weight := 0.0, 0.0
		for i := range m.of {
			l, w := m.of[i].seen()
			level, weight = level+w*l, weight+w
		}
		at[0] = level / weight
	}
	q := mat.NewSymDense(1+na, nil)
	slope, step := mat.NewVecDense(1+na, nil), mat.NewVecDense(1+na, nil)
	own, pull := make([]float64, no), make([]float64, no) // of the occasions: their precision, and how they are drawn
	weights := make([]float64, len(m.of))
	for range mostSteps {
		q.Zero()
		out.log = float64(na)*-math.Log(tau) + float64(no)*-math.Log(delta)
		for i, p := range prior {
			out.log -= 0.5 * p * at[i] * at[i]
			if i <= na {
				q.SetSym(i, i, p)
				slope.SetVec(i, -p*at[i])
			} else {
				own[i-1-na], pull[i-1-na] = p, -p*at[i]
			}
		}
		for k := range m.of {
			i, o := 1+m.a[k], m.o[k]
			g, w, log := m.of[k].push(at[0] + at[i] + at[1+na+o])
			out.log += log
			weights[k] = w
			q.SetSym(0, 0, q.At(0, 0)+w)
			q.SetSym(0, i, q.At(0, i)+w)
			q.SetSym(i, i, q.At(i, i)+w)
			slope.SetVec(0, slope.AtVec(0)+g)
			slope.SetVec(i, slope.AtVec(i)+g)
			own[o], pull[o] = own[o]+w, pull[o]+g
		}
		// Occasions do not touch each other: they are solved for one by one, and what is left is of the antennas.
		logs := 0.0
		for o, list := range m.at {
			sum := 0.0
			for _, k := range list {
				i := 1 + m.a[k]
				sum += weights[k]
				slope.SetVec(i, slope.AtVec(i)-weights[k]*pull[o]/own[o])
				for _, l := range list {
					if j := 1 + m.a[l]; j >= i {
						q.SetSym(i, j, q.At(i, j)-weights[k]*weights[l]/own[o])
					}
				}
			}
			for _, k := range list {
				i := 1 + m.a[k]
				q.SetSym(0, i, q.At(0, i)-sum*weights[k]/own[o])
			}
			q.SetSym(0, 0, q.At(0, 0)-sum*sum/own[o])
			slope.SetVec(0, slope.AtVec(0)-sum*pull[o]/own[o])
			logs += math.Log(own[o])
		}
		if !out.chol.Factorize(q) || out.chol.SolveVecTo(step, slope) != nil {
			return out, false
		}
		moves := make([]float64, n)
		copy(moves, step.RawVector().Data)
		far := mat.Norm(step, math.Inf(1))
		for o, list := range m.at {
			move := pull[o]
			for _, k := range list {
				move -= weights[k] * (moves[0] + moves[1+m.a[k]])
			}
			moves[1+na+o] = move / own[o]
			far = math.Max(far, math.Abs(moves[1+na+o]))
		}
		if far < stepSmall {
			out.log -= 0.5 * (out.chol.LogDet() + logs)
			out.mean = at
			return out, true
		}
		part := 1.0
		if m.of[0].Hours > 0 { // the curve of a rate is that of its place: no far steps
			part = math.Min(1, 2/far)
		}
		for i := range at {
			at[i] += part * moves[i]
		}
	}
	return out, false
}

// standings mixes the solutions by their weights.
func (m *mixed) standings(fits []solvedMix, weights []float64, free bool) []Standing {
	na := len(m.antennas)
	type normal struct{ mean, sd float64 }
	parts := make([][]normal, na)
	wins := make([]float64, na)
	rng := rand.New(rand.NewPCG(17, uint64(na)))
	for g := range fits {
		f := &fits[g]
		var inverse mat.SymDense
		if f.chol.InverseTo(&inverse) != nil {
			continue
		}
		for i := range na {
			level, variance := f.mean[1+i], inverse.At(1+i, 1+i)
			if free { // over the mean of the antennas: the level of them all is not known
				for k := range na {
					level -= f.mean[1+k] / float64(na)
					variance -= 2 * inverse.At(1+i, 1+k) / float64(na)
					for l := range na {
						variance += inverse.At(1+k, 1+l) / float64(na*na)
					}
				}
			} else {
				level, variance = level+f.mean[0], variance+inverse.At(0, 0)+2*inverse.At(0, 1+i)
			}
			parts[i] = append(parts[i], normal{level, math.Sqrt(math.Max(variance, 1e-12))})
		}
		f.draw(rng, int(math.Round(bestDraws*weights[g])), na, wins)
	}
	drawn := 0.0
	for _, n := range wins {
		drawn += n
	}
	out := make([]Standing, na)
	for i := range out {
		s := Standing{Antenna: m.antennas[i]}
		mean, within := 0.0, 0.0
		for g, p := range parts[i] {
			mean += weights[g] * p.mean
		}
		for g, p := range parts[i] {
			within += weights[g] * (p.sd*p.sd + (p.mean-mean)*(p.mean-mean))
		}
		quantile := func(at float64) float64 {
			lo, hi := mean-20*math.Sqrt(within), mean+20*math.Sqrt(within)
			for range 60 {
				x, below := (lo+hi)/2, 0.0
				for g, p := range parts[i] {
					below += weights[g] * distuv.Normal{Mu: p.mean, Sigma: p.sd}.CDF(x)
				}
				if below < at {
					lo = x
				} else {
					hi = x
				}
			}
			return (lo + hi) / 2
		}
		s.Level, s.Lo, s.Hi = mean, quantile(0.025), quantile(0.975)
		weight := 0.0
		seen := map[int]bool{}
		for k, x := range m.of {
			if m.a[k] == i {
				level, w := x.seen()
				s.Seen, weight = s.Seen+w*level, weight+w
				seen[m.o[k]] = true
			}
		}
		s.Seen, s.Occasions = s.Seen/weight, len(seen)
		if drawn > 0 {
			s.Best = wins[i] / drawn
		}
		out[i] = s
	}
	return out
}

// draw counts how often each antenna is the best in so many draws of the levels.
func (f *solvedMix) draw(rng *rand.Rand, times, na int, wins []float64) {
	n := 1 + na
	var upper mat.TriDense
	f.chol.UTo(&upper)
	z := mat.NewVecDense(n, nil)
	var x mat.VecDense
	for range times {
		for i := range n {
			z.SetVec(i, rng.NormFloat64())
		}
		if x.SolveVec(&upper, z) != nil {
			return
		}
		best, at := math.Inf(-1), 0
		for i := range na {
			if v := f.mean[1+i] + x.AtVec(1+i); v > best {
				best, at = v, i
			}
		}
		wins[at]++
	}
}

// Usual spreads of the logarithm of a rate, half of what is likely beforehand, and of decibels between antennas.
var (
	UsualRates    = Spreads{Antennas: 0.7, Occasions: 0.9}
	UsualDecibels = Spreads{Antennas: 5}
)

// Levels are one run's results on its antennas, by the differences of each from the first: each bears a part of their variance.
func Levels(occasion string, of []Verdict) (out []Showing) {
	own := math.Inf(1)
	var known []Verdict
	for _, v := range of {
		if v.DB == nil || v.Lo == nil || !v.InTurn {
			continue
		}
		own = math.Min(own, v.variance()/2)
		known = append(known, v)
	}
	if len(known) == 0 {
		return nil
	}
	out = append(out, Showing{Antenna: known[0].A, Occasion: occasion, Variance: own})
	for _, v := range known {
		out = append(out, Showing{Antenna: v.B, Occasion: occasion, Level: -*v.DB, Variance: v.variance() - own})
	}
	return out
}

// variance is that of a verdict as its interval shows it.
func (v *Verdict) variance() float64 {
	half := (*v.Hi - *v.Lo) / 2 / distuv.UnitNormal.Quantile(0.975)
	return math.Max(half*half, 1e-4)
}

// Chances from which an antenna is likely, and almost surely, the best.
const (
	likely = 0.75
	surely = 0.95
)

// SaysBest says in a sentence who stands first and how surely; figure says a level, names what an antenna is called.
func SaysBest(of []Standing, figure func(Standing) string, named func(id string) string) string {
	if len(of) == 0 {
		return "no data yet."
	}
	first := of[0]
	name := named(first.Antenna)
	if len(of) == 1 {
		return fmt.Sprintf("only %s was used: %s.", name, figure(first))
	}
	chance := math.Min(99, math.Round(100*first.Best))
	switch {
	case first.Best >= surely:
		return fmt.Sprintf("%s is very likely best: %s.", name, figure(first))
	case first.Best >= likely:
		return fmt.Sprintf("%s is likely best (%.0f %%): %s.", name, chance, figure(first))
	}
	return fmt.Sprintf("not settled; %s leads with a chance of %.0f %%: %s.", name, chance, figure(first))
}
