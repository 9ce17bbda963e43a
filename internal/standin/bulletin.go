package standin

import (
	"context"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"time"

	"reed/core/bulletin"
	"reed/core/place"
)

// Bulletins makes up weather and space weather for a place and day, the same each time that it is asked: quiet days and
// stormy ones. Everything of it says that it is simulated.
type Bulletins struct{ Seed uint64 }

// draw is the luck of a day at a place, the same within half a degree.
func (s Bulletins) draw(at place.Point, day time.Time, what string) *rand.Rand {
	h := fnv.New64a()
	_, _ = fmt.Fprintf(h, "%s %s %.0f %.0f", what, day.UTC().Format(time.DateOnly), 2*at.Lat, 2*at.Lon)
	return rand.New(rand.NewPCG(s.Seed, h.Sum64()))
}

// Weather is a day's weather: the year's warmth by the sun's height at noon, wind as it is distributed by the sea (Rayleigh,
// 6 m/s in the mean), gusts of one and a half to twice as much, thunder on one summer's day of six.
func (s Bulletins) Weather(_ context.Context, at place.Point, day time.Time) (bulletin.Bulletin, error) {
	rng := s.draw(at, day, "weather")
	noon := place.Elevation(at, day.UTC().Truncate(24*time.Hour).Add(time.Duration((12-at.Lon/15)*float64(time.Hour))))
	mean := 0.35*noon - 2 + 3*rng.NormFloat64()
	wind := math.Min(24, 6/math.Sqrt(math.Pi/2)*math.Sqrt(-2*math.Log(1-rng.Float64())))
	gusts := wind * (1.5 + 0.5*rng.Float64())
	rain := math.Round(20*math.Pow(rng.Float64(), 2)) / 20
	out := bulletin.Bulletin{Simulated: true, Wind: tenth(wind), Gusts: tenth(gusts), Low: tenth(mean - 4), High: tenth(mean + 4), Rain: &rain}
	thunder := 0.0
	if noon > 35 && rng.Float64() < 1.0/6 {
		thunder = 0.3 + math.Round(12*rng.Float64())/20
		for hour, n := 12+rng.Float64()*6, 1+rng.IntN(4); n > 0; n-- {
			out.Flashes = append(out.Flashes, bulletin.Flash{At: clock(hour), KM: *tenth(4 + 30*rng.Float64())})
			hour += rng.Float64() / 2
		}
	}
	out.Thunder = &thunder
	return out, nil
}

// Space is a day's space weather: a cycle of eleven years about its highest in the middle of 2025, with the sun's turn of 27
// days on it, and a magnetic storm on about one day of fifteen.
func (s Bulletins) Space(_ context.Context, _ place.Point, day time.Time) (bulletin.Bulletin, error) {
	rng := s.draw(place.Point{}, day, "space")
	years := day.Sub(time.Date(2025, 7, 1, 0, 0, 0, 0, time.UTC)).Hours() / 24 / 365.25
	cycle := 70 + 65*math.Cos(2*math.Pi*years/11)
	spots := math.Max(0, cycle+25*math.Sin(2*math.Pi*years*365.25/27)+10*rng.NormFloat64())
	k := math.Min(9, math.Floor(3*rng.ExpFloat64()/1.5))
	spots = math.Round(spots)
	f := math.Round(63.7 + 0.728*spots + 0.00089*spots*spots)
	return bulletin.Bulletin{Simulated: true, Sunspots: &spots, Flux: &f, K: &k}, nil
}

// Position is a fix of a position that wanders a few metres about where one is.
type Position struct {
	Seed uint64
	At   place.Point
}

// Isles is the middle of the Marram Isles.
var Isles = place.Point{Lat: 46.52, Lon: -12.04}

// Fix is where one is, with the accuracy in metres.
func (s Position) Fix(context.Context) (at place.Point, accuracy float64, simulated bool, err error) {
	rng := rand.New(rand.NewPCG(s.Seed, 17))
	return place.Toward(s.At, 360*rng.Float64(), 0.004*math.Abs(rng.NormFloat64())), 4, true, nil
}

func tenth(v float64) *float64 {
	v = math.Round(10*v) / 10
	return &v
}

func clock(hour float64) string {
	minute := int(hour*60) % (24 * 60)
	return fmt.Sprintf("%02d:%02d", minute/60, minute%60)
}
