package twin

import (
	"context"
	"math"
	"slices"

	"reed/core/exposure"
	"reed/core/moment"
)

// Distances in metres from a radiating wire that are tried; beyond the last the far-field rule is used.
var offs = []float64{0.3, 0.5, 0.7, 1, 1.4, 2, 2.8, 4, 5.6, 8, 11}

// stay is the distance in metres from every radiating wire beyond which the solved near fields are within what people may
// be exposed to, at the set-up's power with the key down half of the time. Wires that lie on the ground are not counted: one
// walks over them.
func (x *solved) stay(ctx context.Context, s Setup, f float64) (float64, error) {
	// All of the power: a better match or transformer would let it through.
	return keepOff(ctx, x.at, x.hanging(), s.power(), exposure.Duty, f)
}

// keepOff is the distance in metres from wires that hang up beyond which the near fields of a solution are within what people
// may be exposed to, at a power in watts for a share of the time.
func keepOff(ctx context.Context, at *moment.Solution, up []moment.Wire, powerW, duty, f float64) (float64, error) {
	within := func(d float64) (bool, error) {
		for points := range slices.Chunk(around(up, d), 6) { // the first that is too strong decides
			fields, err := at.Near(ctx, points, powerW*duty)
			if err != nil {
				return false, err
			}
			for _, p := range fields {
				if !exposure.Within(f, p.E, p.H, duty) {
					return false, nil
				}
			}
		}
		return true, nil
	}
	lo, hi := -1, len(offs)-1
	for hi-lo > 1 {
		mid := (lo + hi) / 2
		ok, err := within(offs[mid])
		switch {
		case err != nil:
			return 0, err
		case ok:
			hi = mid
		default:
			lo = mid
		}
	}
	if ok, err := within(offs[hi]); err != nil || !ok {
		return math.Max(exposure.Far(powerW, duty, f), offs[len(offs)-1]), err
	}
	const arm = 0.5 // the least safety distance, whatever the fields are
	return math.Max(offs[hi], arm), nil
}

// hanging are the wires that do not lie on the ground, without the coax.
func (c Case) hanging() (up []moment.Wire) {
	for i, w := range c.Model.Wires {
		if !c.coax[i] && math.Max(w.From[2], w.To[2]) > 0.3 {
			up = append(up, w)
		}
	}
	return up
}

// around are points at a distance from wires: level to both sides and below, at both ends and between,
// where nothing else of the antenna is nearer.
func around(up []moment.Wire, d float64) (out []moment.Vec) {
	const ankle = 0.1
	shares := []float64{-1, 0, 0.25, 0.5, 0.75, 1, 2}
	stride := 1
	if len(up) > 10 { // a ring of many sides
		shares, stride = []float64{0.5}, len(up)/10
	}
	for i := 0; i < len(up); i += stride {
		w := up[i]
		along := moment.Vec{w.To[0] - w.From[0], w.To[1] - w.From[1], w.To[2] - w.From[2]}
		level := math.Hypot(along[0], along[1])
		length := math.Hypot(level, along[2])
		side := moment.Vec{d, 0, 0}
		if level > 1e-6 {
			side = moment.Vec{-along[1] / level * d, along[0] / level * d, 0}
		}
		beyond := d / length
		for _, t := range shares {
			switch {
			case t < 0:
				t = -beyond
			case t > 1:
				t = 1 + beyond
			}
			on := moment.Vec{w.From[0] + t*along[0], w.From[1] + t*along[1], w.From[2] + t*along[2]}
			places := []moment.Vec{{on[0] + side[0], on[1] + side[1], on[2]}, {on[0] - side[0], on[1] - side[1], on[2]}}
			if level > 1e-6 {
				places = append(places, moment.Vec{on[0], on[1], on[2] - d})
			}
			if t < 0 || t > 1 {
				places = []moment.Vec{on}
			}
			for _, p := range places {
				if p[2] = math.Max(p[2], ankle); apart(up, p, d) {
					out = append(out, p)
				}
			}
		}
	}
	return out
}

// apart reports whether no wire is nearer to a point than a distance, but for a little.
func apart(wires []moment.Wire, p moment.Vec, d float64) bool {
	for _, w := range wires {
		along := moment.Vec{w.To[0] - w.From[0], w.To[1] - w.From[1], w.To[2] - w.From[2]}
		from := moment.Vec{p[0] - w.From[0], p[1] - w.From[1], p[2] - w.From[2]}
		dot := func(a, b moment.Vec) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
		t := math.Max(0, math.Min(1, dot(from, along)/dot(along, along)))
		away := moment.Vec{from[0] - t*along[0], from[1] - t*along[1], from[2] - t*along[2]}
		if math.Sqrt(dot(away, away)) < 0.95*d {
			return false
		}
	}
	return true
}
