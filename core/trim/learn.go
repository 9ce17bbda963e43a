package trim

import (
	"context"
	"fmt"
	"math"
	"sort"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/twin"
)

// Used is an antenna that a wire was part of, as it was up when its dip was measured, in hertz.
type Used struct {
	Name   string
	Built  deployment.Built
	Ground string
	Dip    float64
}

// One is one antenna's estimate of its wire.
type One struct {
	Name   string  `json:"name"`
	Factor float64 `json:"factor"`
}

// Learned is the velocity factor of a wire as its sweeps have it, with its range at 95 %. Computed is that of the
// jacket, on 10 m of it.
type Learned struct {
	Sentence string     `json:"sentence"`
	Factor   float64    `json:"factor"`
	Range    [2]float64 `json:"range"`
	Computed float64    `json:"computed"`
	From     []One      `json:"from"`
}

// alone is how far the factor that one antenna says is off, as a standard deviation: tape, sag, knots and what stood
// near are in it.
const alone = 0.012

// Learn finds for each antenna the factor with which the solver foresees its measured dip, and puts them together by
// their median, since one that was mis-measured should not move it. Antennas that are tuned or loaded say nothing.
func Learn(ctx context.Context, e *twin.Engine, w antenna.Wire, used []Used, done func(step, of int)) (Learned, error) {
	bare := w
	bare.Factor = 0
	out := Learned{Computed: bare.JacketFactor(5), From: []One{}}
	for i, u := range used {
		if done != nil {
			done(i, len(used))
		}
		if family.Of(u.Built.Shape).Trims() != "wire" || u.Dip <= 0 {
			continue
		}
		k, ok, err := factor(ctx, e, w, u)
		if err != nil {
			return out, fmt.Errorf("%s: %w", u.Name, err)
		}
		if ok {
			out.From = append(out.From, One{u.Name, math.Round(k*1e4) / 1e4})
		}
	}
	n := len(out.From)
	if n == 0 {
		return out, fmt.Errorf("no sweep of a plain antenna with this wire yet; sweep one, and it can be learned")
	}
	all := make([]float64, n)
	for i, x := range out.From {
		all[i] = x.Factor
	}
	sort.Float64s(all)
	out.Factor = (all[(n-1)/2] + all[n/2]) / 2
	// The scatter that is seen, mixed with what is usual: few antennas scatter by chance too little.
	sum := 4 * alone * alone
	for _, x := range all {
		sum += (x - out.Factor) * (x - out.Factor)
	}
	sd := 1.25 * math.Sqrt(sum/float64(4+n)) / math.Sqrt(float64(n)) // a median's, for the normal law
	out.Range = [2]float64{out.Factor - 1.96*sd, math.Min(1, out.Factor+1.96*sd)}
	from := "one antenna"
	if n > 1 {
		from = fmt.Sprintf("%d antennas", n)
	}
	out.Sentence = fmt.Sprintf("%.3f by the sweeps of %s, between %.3f and %.3f; %.3f by its jacket. Tape, knots and sag of your hand "+
		"are in it.", out.Factor, from, out.Range[0], out.Range[1], out.Computed)
	return out, nil
}

// factor is the velocity factor with which one antenna's dip is where it was measured: three steps in proportion. ok is
// false where the solver sees no dip near, or no factor that a wire can have explains it.
func factor(ctx context.Context, e *twin.Engine, w antenna.Wire, u Used) (k float64, ok bool, err error) {
	if k = w.Factor; k == 0 {
		k = w.JacketFactor(5)
	}
	for range 3 {
		kind := w
		kind.Factor = math.Min(k, 0.9995)
		b := u.Built
		b.WireData = &kind
		at, ok, err := e.Resonance(ctx, twin.Setup{Built: b, Ground: u.Ground}, b.FrequencyHz, u.Dip*0.88, u.Dip*1.12)
		if err != nil || !ok {
			return 0, false, err
		}
		k = kind.Factor * u.Dip / at
		if k < 0.8 || k > 1.03 {
			return 0, false, nil
		}
		if math.Abs(at/u.Dip-1) < 2e-4 {
			break
		}
	}
	return math.Min(k, 1), true, nil
}
