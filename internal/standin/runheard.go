package standin

import (
	"context"
	"fmt"
	"time"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/twin"
)

// Sender is who sends a run: a call, the antennas as built by their letters, the ground below them.
type Sender struct {
	Call   string
	Region band.Region
	Ground string
	Built  map[string]deployment.Built
}

// frequencyOf is where on a band beacons are sent: somewhere in its middle is as good for a network that is made up.
func frequencyOf(region band.Region, name string) float64 {
	b, _ := band.Named(region, name)
	return (b.Lo + b.Hi) / 2
}

// HearRun is what the network reports of a run's slots that are over at a time, and how many these are: from the patterns of
// the antennas' twins.
func (n Network) HearRun(ctx context.Context, e *twin.Engine, run onair.Run, s Sender, until time.Time) (out []onair.Report, slots int,
	err error) {
	gains := map[string]func(el, bearing float64) float64{}
	for _, a := range run.Aerials {
		b := s.Built[a.Letter]
		for _, name := range run.Bands {
			beam, err := e.Beam(ctx, twin.Setup{Built: b, Ground: s.Ground, PowerW: run.PowerW}, frequencyOf(s.Region, name))
			if err != nil {
				return nil, 0, fmt.Errorf("the pattern of %s on %s: %w", a.Name, name, err)
			}
			axis := b.Bearing()
			better := n.Better[a.Letter]
			gains[a.Letter+name] = func(el, bearing float64) float64 { return beam.Gain(el, axis-bearing) + better }
		}
	}
	ears := n.Ears()
	for _, x := range run.Slots {
		by := x.By()
		if by == "" || x.At.Add(run.Sending()).After(until) {
			continue
		}
		if err := ctx.Err(); err != nil {
			return nil, 0, err
		}
		slots++
		aerial, _ := run.Aerial(by)
		for _, heard := range n.Hear(Sending{At: x.At, Call: s.Call, Band: x.Band, F: frequencyOf(s.Region, x.Band), Mode: run.Mode,
			PowerW: run.PowerW, Gain: gains[by+x.Band]}, ears) {
			heard.DeploymentID = aerial.DeploymentID
			out = append(out, heard)
		}
	}
	return out, slots, nil
}
