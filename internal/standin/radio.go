package standin

import (
	"context"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/sky"
	"reed/internal/device"
)

// Radio is a simulated radio as a device. A port names what it stands on: revision, band and mode; Lookup finds the set-up and
// the analyser that knows its hidden truth. It is tuned within the usual segment of the mode, elsewhere every ten minutes; its
// SWR is that of the antenna behind its coax, its S-meter reads the noise around, as core/sky has it, into an antenna without gain.
type Radio struct {
	Lookup func(ctx context.Context, revision string) (Analyser, deployment.Built, error)
	Region band.Region
	Watts  float64
	Noise  string
	Now    func() time.Time
}

// Name marks it as simulated.
func (Radio) Name() string { return "simulated radio" }

// State is how it stands.
func (r Radio) State(ctx context.Context, port string) (out device.RadioState, err error) {
	words := strings.Split(port, "/")
	if len(words) != 3 {
		return out, fmt.Errorf("%q leads to no set-up; a port is revision/band/mode", port)
	}
	b, ok := band.Named(r.Region, words[1])
	if !ok {
		return out, fmt.Errorf("%q is not a band", words[1])
	}
	seed := fnv.New64a()
	_, _ = fmt.Fprint(seed, port, r.Now().Unix()/600)
	rng := rand.New(rand.NewPCG(seed.Sum64(), 5))
	lo, hi := b.Lo, b.Lo+0.25*(b.Hi-b.Lo)
	if words[2] == "SSB" {
		lo, hi = b.Lo+0.5*(b.Hi-b.Lo), b.Hi-3e3
	}
	out.Hz, out.Mode, out.Watts = math.Round((lo+(hi-lo)*rng.Float64())/100)*100, words[2], r.Watts
	around, _ := sky.SurroundingNamed(r.Noise)
	dbm := math.Round(10*(around.Noise(out.Hz, sky.ModeNamed(strings.ToLower(words[2])).Width)+30+rng.NormFloat64())) / 10
	out.DBm = &dbm
	if words[0] == "-" {
		return out, nil // no antenna is recorded, so it shows no SWR
	}
	a, built, err := r.Lookup(ctx, words[0])
	if err != nil {
		return out, err
	}
	got, err := a.Sweep(ctx, built, true, out.Hz-500, out.Hz+500, 2)
	if err != nil {
		return out, err
	}
	g := math.Min(math.Hypot(got.Re[0], got.Im[0]), 0.99)
	out.SWR = math.Round(100*(1+g)/(1-g)) / 100
	return out, nil
}
