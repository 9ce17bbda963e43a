package twin

import (
	"context"
	"math"

	"reed/core/moment"
)

// Beam is the far field of an antenna at one frequency.
type Beam struct {
	F float64
	// Before is the loss in dB between the radio's socket and the wires, the match taken as made.
	Before float64
	x      *moment.Solution
	up     []moment.Wire
}

// Stay is how far in metres people keep off its wires at a power in watts, sent for a share of the time, by the near fields.
func (b Beam) Stay(ctx context.Context, powerW, duty float64) (float64, error) {
	return keepOff(ctx, b.x, b.up, powerW, duty, b.F)
}

// Gain is the gain in dBi of all the radio's power towards an elevation and a direction in degrees, the latter from the
// antenna's own x axis against the clock.
func (b Beam) Gain(elevation, direction float64) float64 {
	el := math.Max(elevation, 0.5) * math.Pi / 180
	return 10*math.Log10(math.Max(b.x.Gain(el, direction*math.Pi/180), 1e-6)) - b.Before
}

// Beam solves a set-up at one frequency in hertz with few segments: within half a decibel of the fine mesh.
func (e *Engine) Beam(ctx context.Context, s Setup, f float64) (Beam, error) {
	c, _, err := e.set(ctx, s, Options{Coarse: true}, f)
	if err != nil {
		return Beam{}, err
	}
	sol, err := moment.Solve(ctx, c.Model, f)
	if err != nil {
		return Beam{}, err
	}
	out := Beam{F: f, x: sol, up: c.hanging()}
	for _, stage := range (chain{setup: s, electric: c.Electric, couple: real(sol.Z)}).Socket(f, sol.Z, true).Stages {
		if stage.Name != "mismatch" {
			out.Before += stage.DB
		}
	}
	out.Before = math.Min(out.Before, 30)
	return out, nil
}

// Toward is the gain in dBi towards an elevation and a bearing in degrees, and the most that goes to any bearing at that
// elevation; axis is the bearing of the antenna's own x axis.
func (b Beam) Toward(elevation, bearing, axis float64) (gain, best float64) {
	gain = b.Gain(elevation, axis-bearing)
	best = gain
	for d := 0.0; d < 360; d += 5 {
		best = math.Max(best, b.Gain(elevation, d))
	}
	return gain, best
}
