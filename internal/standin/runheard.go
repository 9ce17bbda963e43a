package standin

import (
	"context"
	"fmt"
	"math"
	"time"

	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/sky"
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

// HearRun returns the network's reports of a run's slots that are over at a time, and how many these are: from the patterns of
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
			noise := 0.0
			if run.Listen {
				noise = brought(beam.Gain)
			}
			gains[a.Letter+name] = func(el, bearing float64) float64 { return beam.Gain(el, axis-bearing) + better - noise }
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
		hear := n.Hear
		if run.Listen {
			hear = n.Beacons
		}
		for _, heard := range hear(Sending{At: x.At, Call: s.Call, Band: x.Band, F: frequencyOf(s.Region, x.Band), Mode: run.Mode,
			PowerW: run.PowerW, Gain: gains[by+x.Band]}, ears) {
			heard.DeploymentID = aerial.DeploymentID
			out = append(out, heard)
		}
	}
	return out, slots, nil
}

// brought is by how many decibels an antenna brings more noise than one that is alike to all sides, where noise comes alike from the whole
// sky: its mean gain over that.
func brought(gain func(el, bearing float64) float64) float64 {
	sum, weight := 0.0, 0.0
	for el := 5.0; el < 90; el += 10 {
		share := math.Cos(el * math.Pi / 180)
		for bearing := 0.0; bearing < 360; bearing += 30 {
			sum, weight = sum+share*math.Pow(10, gain(el, bearing)/10), weight+share
		}
	}
	return 10 * math.Log10(sum/weight)
}

// What stations of the network send with, in watts, and in what part of the slots.
var beaconPowers = []float64{0.2, 0.5, 1, 2, 5}

const beaconShare = 0.3

// Beacons returns the stations of the network heard in a slot, each of which sends when it likes: the path is as good both ways,
// and the noise is that of a quiet place.
func (n Network) Beacons(s Sending, ears []Ear) (out []onair.Report) {
	own := place.Locator(n.Home, 6)
	for i, e := range ears {
		if n.draw(e.Call, "", s.At.UnixNano(), "sends") > distuv.UnitNormal.Quantile(beaconShare) {
			continue
		}
		e.Noise = sky.Surroundings()[0].ID
		s.PowerW = beaconPowers[i%len(beaconPowers)]
		for _, r := range n.Hear(s, []Ear{e}) {
			r.Own, r.Sender, r.Receiver, r.SenderLocator, r.Locator = true, e.Call, s.Call, e.Locator, own
			r.Bearing, r.DistanceM = nil, nil
			r.Far(&n.Home)
			out = append(out, r)
		}
	}
	return out
}
