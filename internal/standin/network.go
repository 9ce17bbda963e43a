package standin

import (
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"time"

	"reed/core/onair"
	"reed/core/place"
	"reed/core/sky"
)

// Network is a reception network that is made up: receivers over half the world with noise and antennas of their own, that hear
// what reaches them and say so. A signal over noise in 2500 Hz is
//
//	10 log10(W) + sender's gain at the path's angle and bearing + receiver's gain
//	  - spreading - absorption - what P.533 does not name - noise around the receiver + slow fading + fast fading
//
// with spreading, absorption, the highest frequency and the noise as core/sky predicts them; above the highest frequency that
// returns it falls by 1 dB a per cent. Slow fading is a first-order process of 4 dB with 8 minutes, one for each path and band, so
// that two antennas in turn share it; fast fading is 2 dB, drawn for each transmission. What is below the decoder's threshold is
// not reported. The same seed is the same world; every report says that it is simulated.
type Network struct {
	Seed      uint64
	Home      place.Point
	Sunspots  float64
	Receivers int // 0 for the usual number
	// Better is by how many decibels antennas are better than their patterns, by letter: what only the network knows.
	Better map[string]float64
}

const (
	usualReceivers = 48
	slowFading     = 4.0
	slowMinutes    = 8.0
	fastFading     = 2.0
)

// thresholds are the weakest signals over noise in 2500 Hz that are decoded, by mode.
var thresholds = map[string]float64{"WSPR": -29, "FST4W": -32, "FT8": -21, "FT4": -17.5, "JT9": -26, "JT65": -25, "JS8": -21}

// Threshold is the weakest that a mode is decoded at, in dB over the noise in 2500 Hz; what people take by ear where it is not
// known.
func Threshold(mode string) float64 {
	if t, ok := thresholds[mode]; ok {
		return t
	}
	return -10
}

// Ear is a receiver of the network.
type Ear struct {
	Call    string
	Locator string // empty where it tells none
	At      place.Point
	Noise   string  // what is around it
	Gain    float64 // of its antenna towards the sender, dBi
	KM      float64
	Bearing float64 // from the sender, degrees
}

// Ears are the receivers, the same for a seed and place.
func (n Network) Ears() (out []Ear) {
	rng := rand.New(rand.NewPCG(n.Seed, 77))
	count := n.Receivers
	if count == 0 {
		count = usualReceivers
	}
	around := sky.Surroundings()
	for i := range count {
		// As many near as far: even in the root of the distance.
		km := 60 + 9000*math.Pow(rng.Float64(), 1.6)
		bearing := 360 * rng.Float64()
		e := Ear{Call: fmt.Sprintf("Q%d%c%c%c", rng.IntN(10), 'A'+rng.IntN(26), 'A'+rng.IntN(26), 'A'+rng.IntN(26)),
			At:    place.Toward(n.Home, bearing, km),
			Noise: around[rng.IntN(len(around))].ID, Gain: -3 + 3*rng.NormFloat64()}
		if i%9 != 4 { // some tell no place
			e.Locator = place.Locator(e.At, 6)
		}
		e.KM, e.Bearing = place.Distance(n.Home, e.At)/1000, place.Bearing(n.Home, e.At)
		out = append(out, e)
	}
	return out
}

// Sending is one transmission: Gain is the antenna's in dBi, all losses counted, towards an elevation and a bearing in degrees.
type Sending struct {
	At     time.Time
	Call   string
	Band   string
	F      float64
	Mode   string
	PowerW float64
	Gain   func(elevation, bearing float64) float64
}

// Strength is the signal over noise in 2500 Hz at a receiver without fading, in dB.
func (n Network) Strength(s Sending, e Ear) float64 {
	h := sky.Foretell(sky.Ask{From: n.Home, Path: sky.Path{Bearing: e.Bearing, KM: e.KM}, F: s.F, At: s.At, Sunspots: n.Sunspots,
		PowerW: s.PowerW,
		Mode:   sky.Mode{Width: 2500}, Noise: e.Noise})
	out := h.Over + s.Gain(h.TakeOff, e.Bearing) + e.Gain
	if over := s.F/h.MUF - 1; over > 0 {
		out -= 100 * over
	}
	return out
}

// fading is a path's slow fading on a band at a time: a first-order process from noise that hangs on seed, receiver, band and
// minute alone, summed over the time that it remembers.
func (n Network) fading(e Ear, band string, at time.Time) float64 {
	const step = 2.0 // minutes
	keep := math.Exp(-step / slowMinutes)
	k := at.Unix() / int64(60*step)
	sum, weight, share := 0.0, 0.0, 1.0
	for range 24 {
		sum += share * n.draw(e.Call, band, k, "slow")
		weight += share * share
		share *= keep
		k--
	}
	return slowFading * sum / math.Sqrt(weight)
}

// draw is a standard normal that follows from its names alone.
func (n Network) draw(call, band string, k int64, what string) float64 {
	h := fnv.New64a()
	_, _ = fmt.Fprintf(h, "%d %s %s %d %s", n.Seed, call, band, k, what)
	return rand.New(rand.NewPCG(n.Seed, h.Sum64())).NormFloat64()
}

// Hear returns the network's reports of a transmission.
func (n Network) Hear(s Sending, ears []Ear) (out []onair.Report) {
	for _, e := range ears {
		snr := n.Strength(s, e) + n.fading(e, s.Band, s.At) + fastFading*n.draw(e.Call, s.Band, s.At.UnixNano(), "fast")
		if snr < Threshold(s.Mode) {
			continue
		}
		v, f, w := math.Round(snr), s.F, s.PowerW
		r := onair.Report{At: s.At, Seconds: true, Sender: s.Call, SenderLocator: place.Locator(n.Home, 6), Receiver: e.Call, Locator: e.Locator,
			FreqHz: &f, Band: s.Band, Mode: s.Mode, SNR: &v, PowerW: &w, Simulated: true}
		r.Far(&n.Home)
		out = append(out, r)
	}
	return out
}
