package weigh

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// The model of what is heard: a receiver on a band hears a slot at its own mean, plus or minus half the difference of the
// antennas, plus what the band does in that block for all receivers, and fading of the receiver's own spread around it. What lies
// below its threshold is not reported, but it was there: its likelihood is that of having been below (Tobin 1958, censored
// normal regression; Amemiya 1984). Means of receivers and blocks are fixed effects, the spreads are drawn together.
//
// Where stations are heard that send when they like, nobody knows what was below the threshold: reports are taken as drawn from above it,
// which is one for all of them, since they are decoded by oneself.
//
// How sure that is comes from the scores, not from the model: by receivers and by periods as clusters, the two-way estimator of
// Cameron, Gelbach and Miller (2011), each cluster's score divided by what it leaves to the others (the jackknife's form, Bell
// and McCaffrey 2002), with Student's t by the effective number of clusters.

// Priors that hold the estimate where there is nothing to hold it: decibels.
const (
	priorDelta  = 30.0
	priorBlock  = 10.0
	priorSpread = 8.0 // how many reports the common spread counts for in a receiver's own
	startSpread = 5.0
	leastSpread = 0.5
	// Of what is truncated: how many spreads the threshold lies above a mean at most, and what a report is worth at least.
	mostBelow = 2.0
	leastLeft = 0.05
)

// fitted is the outcome of a fit.
type fitted struct {
	delta float64
	info  float64 // of delta, the fixed effects taken out
	// By cluster: influence on delta, and share of the information.
	receivers, periods, cells []share
	ok                        bool
	few                       float64 // by how much its variance is wider for what was taken from few reports
}

type share struct{ influence, information float64 }

// ratio is the density over the distribution of the standard normal at z.
func ratio(z float64) float64 {
	if z < -25 {
		return -z + 1/(-z)
	}
	return math.Exp(-z*z/2) / math.Sqrt(2*math.Pi) / (0.5 * math.Erfc(-z/math.Sqrt2))
}

// step fills scores and weights of a unit's cells for the present estimate.
func (u *unit) step(delta float64, block []float64) {
	v := u.sigma * u.sigma
	for i := range u.cells {
		c, at := &u.cells[i], &u.at[i]
		at.m = u.mean + delta*c.x + block[u.block+c.block]
		at.score, at.weight = (c.sum-c.n*at.m)/v, c.n/v
		if at.silent = c.silent; u.sometimes {
			u.truncated(c, at)
			continue
		}
		if c.silent > 0 {
			at.z = (c.below - at.m) / u.sigma
			at.lambda = ratio(at.z)
			at.score -= c.silent * at.lambda / u.sigma
			at.weight += c.silent * math.Max(1e-6, at.lambda*(at.lambda+at.z)) / v
		}
	}
}

// truncated is the step of a cell of which only what lay above the threshold is known, not how much lay below (Hausman and Wise 1977): to
// each report belong as many below as the mean and the spread of the moment make it.
func (u *unit) truncated(c *cellOf, at *stepOf) {
	at.z = math.Min(mostBelow, (c.below-at.m)/u.sigma)
	above := 0.5 * math.Erfc(at.z/math.Sqrt2)
	at.lambda = ratio(at.z)
	at.silent = c.n * (1 - above) / above
	at.score -= at.silent * at.lambda / u.sigma
	upper := at.lambda * (1 - above) / above
	at.weight = c.n * math.Max(leastLeft, 1-upper*(upper-at.z)) / (u.sigma * u.sigma)
}

// squares are the expected squares of what a unit heard around its means, and of how many slots.
func (u *unit) squares() (ss, n float64) {
	for i := range u.cells {
		c, at := &u.cells[i], &u.at[i]
		ss += c.sq - 2*at.m*c.sum + c.n*at.m*at.m
		n += c.n + at.silent
		if at.silent > 0 {
			ss += at.silent * u.sigma * u.sigma * math.Max(0, 1-at.z*at.lambda)
		}
	}
	return ss, n
}

// normal are the equations of one Newton step for the difference and the blocks, the units' means taken out.
func normal(units []*unit, blocks int, delta float64, block []float64) (h *mat.SymDense, g *mat.VecDense) {
	p := 1 + blocks
	h, g = mat.NewSymDense(p, nil), mat.NewVecDense(p, nil)
	h.SetSym(0, 0, 1/(priorDelta*priorDelta))
	g.SetVec(0, -delta/(priorDelta*priorDelta))
	for b := range blocks {
		h.SetSym(1+b, 1+b, 1/(priorBlock*priorBlock))
		g.SetVec(1+b, -block[b]/(priorBlock*priorBlock))
	}
	by := make([]float64, p)
	rows, right := h.RawSymmetric().Data, g.RawVector().Data // the upper triangle, row by row
	used := make([]int, 0, p)
	for _, u := range units {
		w, s := 0.0, 0.0
		used = append(used[:0], 0)
		for i := range u.cells {
			c, at := &u.cells[i], &u.at[i]
			k := 1 + int(u.block+c.block)
			if by[k] == 0 {
				used = append(used, k)
			}
			w, s = w+at.weight, s+at.score
			by[0] += at.weight * c.x
			by[k] += at.weight
			rows[0] += at.weight * c.x * c.x
			rows[k] += at.weight * c.x
			rows[k*p+k] += at.weight
			right[0] += at.score * c.x
			right[k] += at.score
		}
		for i, k := range used {
			right[k] -= by[k] * s / w
			for _, l := range used[i:] {
				rows[min(k, l)*p+max(k, l)] -= by[k] * by[l] / w
			}
		}
		for _, k := range used {
			by[k] = 0
		}
	}
	return h, g
}

// fit estimates by how many decibels a is stronger.
func fit(units []*unit, blocks int) (f fitted) {
	if len(units) == 0 {
		return f
	}
	block := make([]float64, blocks)
	for _, u := range units {
		n, sum := 0.0, 0.0
		for _, c := range u.cells {
			n, sum = n+c.n, sum+c.sum
		}
		u.mean, u.sigma, u.at = sum/n, startSpread, make([]stepOf, len(u.cells))
	}
	var chol mat.Cholesky
	for range 200 {
		for _, u := range units {
			u.step(f.delta, block)
		}
		h, g := normal(units, blocks, f.delta, block)
		var d mat.VecDense
		if !chol.Factorize(h) || chol.SolveVecTo(&d, g) != nil {
			return f
		}
		moved := hold(d.AtVec(0))
		f.delta += moved
		for b := range blocks {
			block[b] += hold(d.AtVec(1 + b))
		}
		all, slots := 0.0, 0.0
		sums, counts := make([]float64, len(units)), make([]float64, len(units))
		for i, u := range units {
			w, s := 0.0, 0.0
			for k := range u.cells {
				c, at := &u.cells[k], &u.at[k]
				w += at.weight
				s += at.score - at.weight*(c.x*d.AtVec(0)+d.AtVec(1+int(u.block+c.block)))
			}
			by := hold(s / w)
			u.mean += by
			moved = math.Max(math.Abs(moved), math.Abs(by))
			sums[i], counts[i] = u.squares()
			all, slots = all+sums[i], slots+counts[i]
		}
		common := math.Max(leastSpread*leastSpread, all/math.Max(1, slots-float64(len(units)+blocks)))
		for i, u := range units {
			v := (priorSpread*common + sums[i]) / (priorSpread + math.Max(0, counts[i]-1))
			to := math.Max(leastSpread, math.Sqrt(v))
			moved = math.Max(moved, math.Abs(to-u.sigma))
			u.sigma = to
		}
		if moved < 2e-4 {
			break
		}
	}
	for _, u := range units {
		u.step(f.delta, block)
	}
	h, _ := normal(units, blocks, f.delta, block)
	f.shares(units, h, blocks)
	f.few = few(units)
	return f
}

// few is the factor on the variance where reports are truncated: how much lies below hangs on the mean and spread of each station,
// and both are taken from the same few reports.
func few(units []*unit) float64 {
	reports := 0
	for _, u := range units {
		if !u.sometimes {
			return 1
		}
		reports += u.heard
	}
	return float64(reports) / math.Max(float64(reports)/2, float64(reports-2*len(units)))
}

func hold(by float64) float64 { return math.Max(-8, math.Min(8, by)) }

// shares works out what each receiver, period and both together add to the difference and to its information.
func (f *fitted) shares(units []*unit, h *mat.SymDense, blocks int) {
	gamma := make([]float64, blocks)
	f.info = h.At(0, 0)
	if blocks > 0 {
		inner := h.SliceSym(1, 1+blocks)
		var chol mat.Cholesky
		side := mat.NewVecDense(blocks, nil)
		for b := range blocks {
			side.SetVec(b, h.At(0, 1+b))
		}
		var sol mat.VecDense
		if !chol.Factorize(inner) || chol.SolveVecTo(&sol, side) != nil {
			return
		}
		f.info -= mat.Dot(&sol, side)
		for b := range blocks {
			gamma[b] = sol.AtVec(b)
		}
	}
	if !(f.info > 0) {
		return
	}
	periods := 0
	for _, u := range units {
		for _, c := range u.cells {
			periods = max(periods, int(u.period+c.period)+1)
		}
	}
	f.periods = make([]share, periods)
	both, touched := make([]share, periods), []int{}
	name := ""
	flush := func() {
		for _, k := range touched {
			f.cells = append(f.cells, both[k])
			both[k] = share{}
		}
		touched = touched[:0]
	}
	for _, u := range units { // by receiver in their order
		if u.receiver != name {
			flush()
			name = u.receiver
			f.receivers = append(f.receivers, share{})
		}
		w, x := 0.0, 0.0
		for i := range u.cells {
			c, weight := &u.cells[i], u.at[i].weight
			w, x = w+weight, x+weight*(c.x-gamma[u.block+c.block])
		}
		for i := range u.cells {
			c, at := &u.cells[i], &u.at[i]
			rest := c.x - gamma[u.block+c.block] - x/w
			by, info := at.score*rest/f.info, at.weight*rest*rest/f.info
			period := int(u.period + c.period)
			if both[period] == (share{}) {
				touched = append(touched, period)
			}
			for _, s := range []*share{&f.receivers[len(f.receivers)-1], &f.periods[period], &both[period]} {
				s.influence += by
				s.information += info
			}
		}
	}
	flush()
	f.ok = true
}
