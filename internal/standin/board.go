package standin

import (
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"reed/core/band"
	"reed/core/quantity"
)

// Spot is somebody who is out, as a spotting board tells it: a frequency in megahertz as a log line takes it, and the site.
type Spot struct {
	At        time.Time `json:"at"`
	Call      string    `json:"call"`
	MHz       string    `json:"mhz"`
	Mode      string    `json:"mode"`
	Ref       string    `json:"ref,omitempty"`
	Where     string    `json:"where,omitempty"`
	Own       bool      `json:"own,omitempty"`
	Simulated bool      `json:"simulated"`
}

// Board is a spotting board that is made up: some ten stations of the isles that come and go by the quarter of an hour, the same
// for all who look at the same time.
type Board struct {
	Seed   uint64
	Region band.Region
}

var isles = []string{"Gannet Spit", "Hollow Fell", "Alder Common", "Sedge Quay", "Heron Sands", "Thrift Head", "Marl Pit", "Otter Weir"}

// Spots are those of the last hour at a time, the newest first.
func (b Board) Spots(now time.Time) (out []Spot) {
	quarter := now.Unix() / 900
	for back := range int64(4) {
		h := fnv.New64a()
		_, _ = fmt.Fprint(h, b.Seed, quarter-back)
		rng := rand.New(rand.NewPCG(h.Sum64(), 9))
		for range 2 + rng.IntN(3) {
			at := time.Unix((quarter-back)*900+int64(rng.IntN(900)), 0).UTC()
			x, ok := band.Named(b.Region, []string{"40m", "30m", "20m", "17m", "15m"}[rng.IntN(5)])
			mode, share := "CW", 0.25*rng.Float64()
			if rng.IntN(2) == 0 && x.Name != "30m" {
				mode, share = "SSB", 0.5+0.45*rng.Float64()
			}
			call := fmt.Sprintf("Q%d%c%c/P", rng.IntN(10), 'A'+rng.IntN(26), 'A'+rng.IntN(26))
			place := rng.IntN(len(isles))
			if !ok || at.After(now) {
				continue
			}
			hz := math.Round((x.Lo+share*(x.Hi-x.Lo))/1e3) * 1e3
			out = append(out, Spot{At: at, Call: call, MHz: quantity.MHz(hz), Mode: mode, Ref: fmt.Sprintf("MI-%04d", 1+7*place),
				Where:     isles[place],
				Simulated: true})
		}
	}
	slices.SortStableFunc(out, func(a, b Spot) int { return b.At.Compare(a.At) })
	return out
}
