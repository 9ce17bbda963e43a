// Package standin simulates the instruments and networks of the field, so that everything can be shown
// and tried without them. What it makes is always marked as simulated.
package standin

import (
	"bytes"
	"context"
	"fmt"
	"hash/fnv"
	"math"
	"math/cmplx"
	"math/rand/v2"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/internal/device"
)

// Analyser measures a set-up as the wire solver sees it, with a truth that it keeps to itself: every wire is
// a little longer than the books say, by up to two and a half per cent, as knots, sag and tape make it; noise;
// the recorded wind, which moves the wires while they are swept; and a calibration that drifts from one sweep to
// the next.
type Analyser struct {
	Seed   uint64  // of the hidden truth; the same for all revisions of one deployment
	Noise  float64 // of each reflection point, as standard deviation
	Ground string  // a preset's ID
	Take   int     // the how many-th sweep of the same thing it is, from 0
	Engine *twin.Engine
}

// sway is by how much a wind moves a resonance to and fro, as a share of it.
var sway = map[string]float64{"light": 0.0004, "fresh": 0.002, "strong": 0.005}

// drift is how far the calibration turns from one sweep to the next, in radians.
const drift = 0.0015

// Of is the analyser for a deployment: each has a truth of its own that it keeps.
func Of(deploymentID, ground string, engine *twin.Engine) Analyser {
	seed := fnv.New64a()
	fmt.Fprint(seed, deploymentID)
	return Analyser{Seed: seed.Sum64(), Noise: 0.0008, Ground: ground, Engine: engine}
}

// Mark begins every file of the simulated analyser.
const Mark = "simulated analyser"

// Simulated reports whether a file's first line says that it is of the simulated analyser.
func Simulated(file []byte) bool {
	first, _, _ := bytes.Cut(file, []byte("\n"))
	return bytes.Contains(first, []byte(Mark))
}

// longer is by what factor the wires act longer than recorded.
func (a Analyser) longer() float64 {
	return 1.004 + 0.02*rand.New(rand.NewPCG(a.Seed, 1)).Float64()
}

// Sweep measures n points from lo to hi hertz, at the feed point or through the recorded coax. A set-up that
// cannot be solved is an error.
func (a Analyser) Sweep(ctx context.Context, b deployment.Built, atRadio bool, lo, hi float64, n int) (sweep.Sweep, error) {
	rng := rand.New(rand.NewPCG(a.Seed+uint64(a.Take)<<32, uint64(lo)+uint64(n)))
	wind, gust := sway[b.Wind], 2*math.Pi*rng.Float64()
	cable, hasCable := b.Coax.Cable()
	f, g := make([]float64, n), make([]complex128, n)
	longer := a.longer()
	at, err := a.Engine.Curve(ctx, twin.Setup{Built: b, Ground: a.Ground}, lo*longer*(1-2*wind), hi*longer*(1+2*wind))
	if err != nil {
		return sweep.Sweep{}, fmt.Errorf("measuring: %w", err)
	}
	for i := range f {
		f[i] = math.Round(lo + (hi-lo)*float64(i)/float64(n-1))
		// A sweep takes about one swing of the wires.
		swing := 1 + wind*math.Sin(gust+2*math.Pi*float64(i)/float64(n))
		g[i] = circuit.Gamma(at(f[i]*longer*swing), sweep.Reference) * cmplx.Rect(1, drift*float64(a.Take))
		if atRadio && hasCable {
			g[i] = cable.AtInput(g[i], f[i], b.Coax.Length.M)
		}
		g[i] += complex(a.Noise*rng.NormFloat64(), a.Noise*rng.NormFloat64())
	}
	s, _, _ := sweep.New(sweep.Complex, f, g)
	return s, nil
}

// Band measures a band as sweep.Across asks for it.
func (a Analyser) Band(ctx context.Context, set deployment.Built, atRadio bool, region band.Region, b band.Band) (sweep.Sweep, error) {
	lo, hi, n := sweep.Across(region, b)
	return a.Sweep(ctx, set, atRadio, lo, hi, n)
}

// Bench is the simulated analyser as a device: each of its ports leads to a set-up. Lookup finds the analyser,
// what it measures and where for a port's name.
type Bench struct {
	Lookup func(ctx context.Context, port string) (a Analyser, b deployment.Built, atRadio bool, err error)
}

// Name marks it as simulated.
func (Bench) Name() string { return Mark }

// Sweep measures at a port.
func (s Bench) Sweep(ctx context.Context, ask device.Ask, point func(hz float64, gamma complex128) error) error {
	a, b, atRadio, err := s.Lookup(ctx, ask.Port)
	if err != nil {
		return err
	}
	got, err := a.Sweep(ctx, b, atRadio, ask.Lo, ask.Hi, ask.N)
	if err != nil {
		return err
	}
	for i, hz := range got.F {
		if err := point(hz, complex(got.Re[i], got.Im[i])); err != nil {
			return err
		}
	}
	return nil
}
