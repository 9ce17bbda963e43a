// Package standin simulates the instruments and networks of the field, so that everything can be shown
// and tried without them. What it makes is always marked as simulated.
package standin

import (
	"bytes"
	"context"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/sweep"
	"reed/core/twin"
)

// Analyser measures a set-up as the wire solver sees it, with a truth that it keeps to itself: every wire is
// a little longer than the books say, by up to two and a half per cent, as knots, sag and tape make it; and
// noise.
type Analyser struct {
	Seed   uint64  // of the hidden truth; the same for all revisions of one deployment
	Noise  float64 // of each reflection point, as standard deviation
	Ground string  // a preset's ID
	Engine *twin.Engine
}

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
	rng := rand.New(rand.NewPCG(a.Seed, uint64(lo)+uint64(n)))
	cable, hasCable := b.Coax.Cable()
	f, g := make([]float64, n), make([]complex128, n)
	longer := a.longer()
	at, err := a.Engine.Curve(ctx, twin.Setup{Built: b, Ground: a.Ground}, lo*longer, hi*longer)
	if err != nil {
		return sweep.Sweep{}, fmt.Errorf("measuring: %w", err)
	}
	for i := range f {
		f[i] = math.Round(lo + (hi-lo)*float64(i)/float64(n-1))
		g[i] = circuit.Gamma(at(f[i]*longer), sweep.Reference)
		if atRadio && hasCable {
			g[i] = cable.AtInput(g[i], f[i], b.Coax.Length.M)
		}
		g[i] += complex(a.Noise*rng.NormFloat64(), a.Noise*rng.NormFloat64())
	}
	s, _, _ := sweep.New(sweep.Complex, f, g)
	return s, nil
}

// Band measures 101 points over a band and a tenth to either side, as far as the band is read.
func (a Analyser) Band(ctx context.Context, set deployment.Built, atRadio bool, region band.Region, b band.Band) (sweep.Sweep, error) {
	lo, hi, _ := sweep.Window(region, b.Name)
	return a.Sweep(ctx, set, atRadio, math.Max(lo, b.Lo*0.9), math.Min(hi, b.Hi*1.1), 101)
}
