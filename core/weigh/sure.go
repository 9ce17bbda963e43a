package weigh

import (
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// spread is the variance of an estimate by its clusters, in the jackknife's form, and their effective number less one. Clusters
// that bear nearly all of it leave nothing to compare with: ok is false.
func spread(of []share) (variance, df float64, ok bool) {
	squares := 0.0
	for _, s := range of {
		squares += s.information * s.information
		rest := math.Max(0.02, 1-s.information)
		variance += s.influence * s.influence / (rest * rest)
	}
	if squares <= 0 {
		return 0, 0, false
	}
	df = 1/squares - 1
	n := df + 1
	return variance * (n - 1) / n, df, df > 0.3
}

// estimate fills the difference, its interval, the test, and what would settle it.
func (q *pairing) estimate(v *Verdict, f fitted, in map[string]placed) {
	delta := f.delta
	v.DB = &delta
	byReceiver, df, okR := spread(f.receivers)
	byPeriod, dfP, okP := spread(f.periods)
	byCell, dfC, okC := spread(f.cells)
	byReceiver, byPeriod, byCell = byReceiver*f.few, byPeriod*f.few, byCell*f.few
	if !okC {
		return
	}
	var variance, degrees float64
	common := 0.0 // what all receivers share of a period
	if v.InTurn {
		common = math.Max(0, byPeriod-byCell)
	}
	switch {
	case okR && okP:
		variance, degrees = both(byReceiver, df, common, dfP)
	case okR:
		variance, degrees = byReceiver, df
	case okP:
		variance, degrees = byPeriod, dfP
	default:
		return
	}
	if !v.InTurn {
		day, dayDf := q.betweenDays(v, f, in)
		variance, degrees = both(variance, degrees, day, dayDf)
	}
	t := quantile(degrees)
	half := t * math.Sqrt(variance)
	lo, hi := delta-half, delta+half
	v.Lo, v.Hi = &lo, &hi
	if v.InTurn {
		pv := flips(f)
		v.P = &pv
		q.settle(v, t, byReceiver, df, byCell, dfC, common, okR)
		return
	}
	pv := 2 * (1 - distuv.StudentsT{Mu: 0, Sigma: 1, Nu: degrees}.CDF(math.Abs(delta)/math.Sqrt(variance)))
	v.P = &pv
}

// both is the variance of two sources and its degrees of freedom (Satterthwaite); those of the first where neither varies.
func both(a, dfA, b, dfB float64) (variance, df float64) {
	if a+b <= 0 {
		return 0, dfA
	}
	return a + b, (a + b) * (a + b) / (a*a/dfA + b*b/dfB)
}

// quantile is Student's for 95 %, the degrees held where the distribution is still one to speak of.
func quantile(degrees float64) float64 {
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: math.Max(1, degrees)}.Quantile(0.975)
}

// flips is the sign test of the periods: how often their scores, had the antennas been the same and each sign been luck, would sum
// up to as much. Exact up to a dozen and a half, drawn beyond.
func flips(f fitted) float64 {
	var u []float64
	for _, s := range f.periods {
		if s.information > 0 {
			u = append(u, s.influence+f.delta*s.information)
		}
	}
	sum := 0.0
	for _, x := range u {
		sum += x
	}
	const exact, draws = 16, 4000
	limit := math.Abs(sum) - 1e-9
	if len(u) <= exact {
		count := 0
		for signs := range 1 << len(u) {
			s := 0.0
			for i, x := range u {
				if signs>>i&1 == 1 {
					s += x
				} else {
					s -= x
				}
			}
			if math.Abs(s) >= limit {
				count++
			}
		}
		return float64(count) / float64(int(1)<<len(u))
	}
	rng := rand.New(rand.NewPCG(11, uint64(len(u))))
	count := 1
	for range draws {
		s := 0.0
		for _, x := range u {
			if rng.Uint64()&1 == 1 {
				s += x
			} else {
				s -= x
			}
		}
		if math.Abs(s) >= limit {
			count++
		}
	}
	return float64(count) / (draws + 1)
}

// betweenDays returns the variance that occasions add where the antennas were not sent in turn, and its degrees of freedom.
func (q *pairing) betweenDays(v *Verdict, f fitted, in map[string]placed) (variance, df float64) {
	type occasion struct {
		side int8
		day  string
	}
	of := map[int]occasion{}
	days := [2]map[string]bool{{}, {}}
	for name, x := range in {
		for at, s := range x.slots {
			if s.period >= 0 {
				k := int(x.period + s.period)
				of[k] = occasion{s.side, q.sent[q.list[name][at]].At.UTC().Format(time.DateOnly)}
				days[s.side][of[k].day] = true
			}
		}
	}
	same := len(days[0]) == 1 && len(days[1]) == 1
	prior, known := q.days.Spread(), q.days.free()
	v.pairs, v.days = q.days.Pairs, prior
	if same {
		for d := range days[0] {
			if days[1][d] {
				prior, known = hourSpread, spreadDays
				v.pairs = 0
			}
		}
	}
	// Each occasion's own level beside the mean of its antenna: the influence of its residuals over its information.
	var levels [2][]float64
	for k, s := range f.periods {
		if s.information > 1e-9 {
			o := of[k]
			levels[o.side] = append(levels[o.side], s.influence/s.information)
		}
	}
	squares, free, share := 0.0, 0.0, 0.0
	for side := range levels {
		n := float64(len(levels[side]))
		if n == 0 {
			return 2 * prior * prior, known
		}
		if n > 1 {
			squares += (n - 1) * stat.Variance(levels[side], nil) / 4
			free += n - 1
		}
		share += 1 / n
	}
	return (known*prior*prior + squares) / (known + free) * share, known + free
}

// settle says how many minutes more of the same would tell a difference of 3, 2 or 1 dB from none.
func (c *comparison) settle(v *Verdict, t, byReceiver, df, byCell, dfC, common float64, receivers bool) {
	lasting := 0.0 // what more time does not make smaller: receivers that differ
	if receivers && df >= 1 {
		if limit := byCell * (distuv.ChiSquared{K: df}).Quantile(0.95) / df; byReceiver > limit {
			lasting = byReceiver - byCell
		}
	}
	passing := byCell + common
	if passing <= 0 || dfC <= 0 {
		return
	}
	so := c.onAir(v).Minutes()
	for key, db := range map[string]float64{"1": 1, "2": 2, "3": 3} {
		left := db*db/(t*t) - lasting
		if left <= 0 {
			continue
		}
		more := math.Max(0, math.Ceil(so*(passing/left-1)))
		v.Minutes[key] = &more
	}
}

// onAir is how long the two were sent, by their slots and how far apart slots begin.
func (c *comparison) onAir(v *Verdict) time.Duration {
	var apart []float64
	var all []time.Time
	for _, s := range c.sent {
		all = append(all, s.At)
	}
	slices.SortFunc(all, time.Time.Compare)
	for i := 1; i < len(all); i++ {
		if d := all[i].Sub(all[i-1]); d > 0 {
			apart = append(apart, d.Seconds())
		}
	}
	if len(apart) == 0 {
		return 0
	}
	return time.Duration(float64(v.SlotsA+v.SlotsB) * median(apart) * float64(time.Second))
}
