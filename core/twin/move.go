package twin

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"strings"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/numeric"
	"reed/core/quantity"
)

// MovedBand is the effect of another place on one band: the dip of the SWR at the antenna's end of the coax, there and
// here, in hertz. Expect is where a sweep should find it here: the measured dip there moved in the same proportion,
// 0 where nothing was measured.
type MovedBand struct {
	Name    string  `json:"name"`
	WasHz   float64 `json:"was_hz"`
	NowHz   float64 `json:"now_hz"`
	WasSWR  float64 `json:"was_swr"`
	NowSWR  float64 `json:"now_swr"`
	Expect  float64 `json:"expect_hz,omitempty"`
	Percent float64 `json:"percent"`
}

// Moved is how a recipe behaves at another place.
type Moved struct {
	Sentence string      `json:"sentence"`
	Detail   string      `json:"detail"`
	Bands    []MovedBand `json:"bands"`
}

// Move computes what the other heights and the other ground do to a set-up that is laid out again. measured are the
// dips that were found there, by band, in hertz.
func (e *Engine) Move(ctx context.Context, was, now Setup, region band.Region, measured map[string]float64,
	done func(step, of int)) (Moved, error) {
	all := was.Built.All()
	out := Moved{Bands: []MovedBand{}}
	for i, f := range all {
		if done != nil {
			done(2*i, 2*len(all))
		}
		m := MovedBand{Name: quantity.ToKHz(f) + " MHz"}
		if b, ok := band.At(region, f); ok {
			m.Name = b.Name
		}
		var err error
		if m.WasHz, m.WasSWR, err = e.dip(ctx, was, f); err != nil {
			return out, err
		}
		if done != nil {
			done(2*i+1, 2*len(all))
		}
		if m.NowHz, m.NowSWR, err = e.dip(ctx, now, f); err != nil {
			return out, err
		}
		m.Percent = 100 * (m.NowHz/m.WasHz - 1)
		m.Expect = measured[m.Name] * (m.NowHz / m.WasHz)
		out.Bands = append(out.Bands, m)
	}
	out.say(now)
	return out, nil
}

// reach is how far around a wanted frequency a dip is looked for, as a share of it.
const reach = 0.07

// dip is the lowest SWR behind the coax near a frequency.
func (e *Engine) dip(ctx context.Context, s Setup, f float64) (at, swr float64, err error) {
	lo, hi := f*(1-reach), f*(1+reach)
	z, err := e.Curve(ctx, s, lo, hi)
	if err != nil {
		return 0, 0, err
	}
	value := func(f float64) float64 { return cmplx.Abs(circuit.Gamma(z(f), 50)) }
	const n = 141
	d := (hi - lo) / (n - 1)
	best := lo
	for i := range n {
		if x := lo + d*float64(i); value(x) < value(best) {
			best = x
		}
	}
	// The square of the reflection has no corner at a match.
	if best > lo+d/2 && best < hi-d/2 {
		best = numeric.Vertex(func(f float64) float64 { return sq(value(f)) }, best, d)
	}
	return best, circuit.SWR(value(best)), nil
}

// say puts it in words: what moves most, and what that is in wire where it is a plain wire.
func (m *Moved) say(now Setup) {
	if len(m.Bands) == 0 {
		return
	}
	worst := m.Bands[0]
	var says []string
	for _, b := range m.Bands {
		if math.Abs(b.Percent) > math.Abs(worst.Percent) {
			worst = b
		}
		if b.Expect > 0 {
			says = append(says, fmt.Sprintf("a sweep should find the dip on %s near %s MHz", band.Said(b.Name), quantity.ToKHz(b.Expect)))
		}
	}
	if len(says) > 0 {
		m.Detail = "By what was measured there: " + strings.Join(says, ", ") + ". "
	}
	khz := math.Abs(worst.NowHz-worst.WasHz) / 1e3
	swr := fmt.Sprintf("SWR %.1f instead of %.1f", math.Min(worst.NowSWR, 99), math.Min(worst.WasSWR, 99))
	if math.Abs(worst.Percent) < 0.15 {
		m.Sentence = fmt.Sprintf("Height and ground here move it by less than 0.15 %%; %s on %s. Put it up as it is.", swr, band.Said(worst.Name))
		return
	}
	way := "higher"
	if worst.Percent < 0 {
		way = "lower"
	}
	m.Sentence = fmt.Sprintf("Height and ground here put the dip on %s %.0f kHz (%.1f %%) %s; %s.", band.Said(worst.Name),
		khz, math.Abs(worst.Percent),
		way, swr)
	length := now.Built.Total()
	if family.Of(now.Built.Shape).Trims() == family.Wired && length > 0 && math.Abs(worst.Percent) < 10 {
		each, word, on := math.Abs(length*worst.Percent/100), "Adding", ""
		if worst.Percent < 0 {
			word = "Folding back"
		}
		if now.Built.Legs() == 2 {
			each, on = each/2, " on each leg"
		}
		m.Detail += fmt.Sprintf("%s %s%s would bring it back; sweep before you do.", word, now.Units.Amount(each, 10), on)
	}
}
