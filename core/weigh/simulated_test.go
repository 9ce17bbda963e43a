package weigh

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"reed/internal/testsize"
)

// world is a simulated afternoon, known to the test only.
type world struct {
	db         float64 // by how much A is stronger
	differs    float64 // standard deviation of that between receivers
	receivers  int
	minutes    int
	fading     float64 // decibels, of each path
	lasts      float64 // minutes until it has changed
	shared     float64 // fading common to all receivers of a slot
	drift      float64 // decibels an hour, common to all
	offset     float64 // spread between receivers
	level      float64
	threshold  float64
	thresholds float64 // spread of it between receivers
	skip       float64 // share of B's slots that were not sent
	days       float64 // A is sent on one day and B on another, that differ by so much
	bands      int
	dwell      int     // slots in a row with one antenna
	ownPower   bool    // B sends with half the power
	duty       float64 // how likely a station sends in a slot, where it is a world of stations that are heard
}

var noon = time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)

func (w world) draw(rng *rand.Rand) (sent []Sent, got []Reception) {
	names := []string{"20m", "40m", "15m"}[:max(1, w.bands)]
	day := [2]float64{w.days * rng.NormFloat64(), w.days * rng.NormFloat64()}
	for t := 0; t < w.minutes; t += 2 {
		block := t / (4 * len(names))
		a := (t/2+block)%2 == 0
		if w.dwell > 0 {
			a = t/2/w.dwell%2 == 0
		}
		s := Sent{At: noon.Add(time.Duration(t) * time.Minute), Seconds: 110, Antenna: "A", Band: names[t/4%len(names)], PowerW: 5}
		if !a {
			if s.Antenna = "B"; w.ownPower {
				s.PowerW = 2.5
			}
			if rng.Float64() < w.skip {
				continue
			}
			if w.days > 0 {
				s.At = s.At.AddDate(0, 0, 1)
			}
		}
		sent = append(sent, s)
	}
	shared := map[int]float64{}
	for i := range sent {
		shared[i] = w.shared*rng.NormFloat64() + w.drift*sent[i].At.Sub(noon).Hours()
		if w.days > 0 {
			shared[i] = day[map[string]int{"A": 0, "B": 1}[sent[i].Antenna]]
		}
	}
	for r := range w.receivers {
		level, own := w.level+w.offset*rng.NormFloat64(), w.db+w.differs*rng.NormFloat64()
		limit := w.threshold + w.thresholds*rng.NormFloat64()
		sends := 1.0
		if w.duty > 0 {
			sends = math.Min(0.9, w.duty*math.Exp(0.4*rng.NormFloat64()))
		}
		fade, was := w.fading*rng.NormFloat64(), noon
		for i, s := range sent {
			keep := math.Exp(-math.Abs(s.At.Sub(was).Minutes()) / w.lasts)
			fade, was = keep*fade+math.Sqrt(1-keep*keep)*w.fading*rng.NormFloat64(), s.At
			y := level + fade + shared[i] + decibels(s.PowerW)
			if s.Antenna == "A" {
				y += own
			}
			if y > limit && (w.duty == 0 || rng.Float64() < sends) {
				got = append(got, Reception{i, fmt.Sprintf("Q%dRX", r), math.Round(y)})
			}
		}
	}
	return sent, got
}

// usual is an afternoon as they are.
func usual(db float64) world {
	return world{db: db, receivers: 20, minutes: 80, fading: 5, lasts: 6, offset: 7, level: -19, threshold: -28}
}

type tally struct{ covered, told, wrong, n, naive, lacking int }

func trials(w world, n int, seed uint64) (t tally, width float64) {
	for k := range n {
		sent, got := w.draw(rand.New(rand.NewPCG(seed, uint64(k))))
		v := judge(sent, got, w.duty > 0).All
		t.n++
		if v.Lo == nil {
			t.lacking++
			continue
		}
		width += (*v.Hi - *v.Lo) / 2
		if *v.Lo <= w.db && w.db <= *v.Hi {
			t.covered++
		}
		if *v.Lo > 0 || *v.Hi < 0 {
			t.told++
			if *v.Lo > 0 != (w.db > 0) || w.db == 0 {
				t.wrong++
			}
		}
		if math.Abs(*v.NaiveDB-w.db) <= (*v.Hi-*v.Lo)/2 {
			t.naive++
		}
	}
	return t, width / float64(max(1, t.n-t.lacking))
}

// with is an afternoon of which something is otherwise.
func with(db float64, change func(*world)) world {
	w := usual(db)
	change(&w)
	return w
}

// worlds are afternoons that an interval has to hold the truth of.
func worlds() map[string]world {
	out := map[string]world{
		"weak, 6 dB":         with(6, func(w *world) { w.level = -25 }),
		"weak, none":         with(0, func(w *world) { w.level = -25 }),
		"many that are weak": with(6, func(w *world) { w.level, w.receivers, w.minutes, w.fading = -27, 60, 60, 6 }),
		"thresholds differ":  with(3, func(w *world) { w.thresholds = 3 }),
		"a band that closes": with(3, func(w *world) { w.drift, w.skip = -5, 0.4 }),
		"shared fading":      with(3, func(w *world) { w.shared = 3 }),
		"receivers differ":   with(3, func(w *world) { w.differs = 2 }),
		"slow fading":        with(3, func(w *world) { w.fading, w.lasts = 8, 20 }),
		"two bands":          with(3, func(w *world) { w.minutes, w.bands = 120, 2 }),
		"half the power":     with(3, func(w *world) { w.ownPower = true }),
		"ten minutes each":   with(3, func(w *world) { w.dwell, w.minutes = 5, 120 }),
		"half an hour each":  with(3, func(w *world) { w.dwell, w.minutes = 15, 180 }),
		"half an hour":       with(3, func(w *world) { w.minutes = 32 }),
	}
	for _, db := range []float64{0, 3, 6} {
		out[fmt.Sprintf("heard, %v dB", db)] = with(db, func(w *world) { w.duty, w.minutes, w.receivers = 0.25, 120, 40 })
		out[fmt.Sprintf("heard, %v dB, weak", db)] = with(db, func(w *world) { w.duty, w.minutes, w.receivers, w.level = 0.3, 180, 60, -25 })
		out[fmt.Sprintf("heard, %v dB by 10", db)] = with(db, func(w *world) { w.duty, w.minutes, w.receivers = 0.4, 180, 10 })
	}
	for _, db := range []float64{0, 1, 3, 6} {
		out[fmt.Sprintf("%v dB", db)] = usual(db)
		out[fmt.Sprintf("%v dB by 5", db)] = with(db, func(w *world) { w.receivers = 5 })
		out[fmt.Sprintf("%v dB by 60", db)] = with(db, func(w *world) { w.receivers = 60 })
		out[fmt.Sprintf("%v dB, fading of 3", db)] = with(db, func(w *world) { w.fading = 3 })
		out[fmt.Sprintf("%v dB, fading of 8", db)] = with(db, func(w *world) { w.fading = 8 })
	}
	return out
}

// held checks that the truth is held as often as it should, within so many standard deviations of the draw.
func held(t *testing.T, trialsEach int, least, most, deviations float64) {
	t.Helper()
	all := worlds()
	for _, name := range sortedKeys(all) {
		w := all[name]
		x, width := trials(w, trialsEach, 7)
		n := float64(x.n - x.lacking)
		by := deviations * math.Sqrt(0.05*0.95/n)
		covered, wrong := float64(x.covered)/n, float64(x.wrong)/n
		t.Logf("%-24s held %.3f, told %.3f, wrong %.3f, naive %.3f, +-%.2f dB", name, covered, float64(x.told)/n, wrong,
			float64(x.naive)/n, width)
		if x.lacking > trialsEach/100 || covered < least-by || covered > most+by || w.db == 0 && wrong > 0.05+by || w.db > 0 && wrong > by {
			t.Errorf("%s: held %.3f, wrong %.3f, lacking %d", name, covered, wrong, x.lacking)
		}
	}
}

func TestTheIntervalHoldsTheTruth(t *testing.T) {
	testsize.SkipIfShort(t, "simulates thousands of runs")
	held(t, 60, 0.93, 0.97, 3)
}

// With few trials, as in a smoke run, the draw itself scatters more than one standard deviation in one world of twenty.
func TestLongIntervalContainsTheTruth(t *testing.T) {
	n, deviations := testsize.Long(t, 2000), 1.0
	if n < 2000 {
		deviations = 4
	}
	held(t, n, 0.93, 0.97, deviations)
}

func TestTheMeanOverReportsMisleads(t *testing.T) {
	// What a weak antenna is not heard with is missing from its mean: it looks better than it is.
	w := with(6, func(w *world) { w.level = -25 })
	naive, ours := 0.0, 0.0
	const n = 40
	for k := range n {
		sent, got := w.draw(rand.New(rand.NewPCG(3, uint64(k))))
		v := Judge(sent, got).All
		naive, ours = naive+*v.NaiveDB/n, ours+*v.DB/n
	}
	if naive > 5 || math.Abs(ours-6) > 0.5 {
		t.Errorf("mean over reports %.2f, judged %.2f, true 6", naive, ours)
	}
}

func TestDaysThatDifferWidenTheInterval(t *testing.T) {
	testsize.SkipIfShort(t, "simulates many runs")
	x, width := trials(with(0, func(w *world) { w.days = 6 }), 200, 9)
	if x.covered < 186 || width < 10 || width > 30 {
		t.Errorf("held %d of %d, +-%.1f dB", x.covered, x.n, width)
	}
	sent, got := with(3, func(w *world) { w.days = 6 }).draw(rand.New(rand.NewPCG(2, 2)))
	a := Judge(sent, got)
	if a.All.InTurn || a.All.Minutes["3"] != nil || len(a.Uncontrolled) < 2 {
		t.Errorf("%+v", a)
	}
}

// minutesAsTold compares the minutes that a short run foretells with those that were needed.
func minutesAsTold(w world, db float64, n int) (ratio float64) {
	key := fmt.Sprint(db)
	var told []float64
	for k := range n {
		sent, got := w.draw(rand.New(rand.NewPCG(5, uint64(k))))
		if m := Judge(sent, got).All.Minutes[key]; m != nil {
			told = append(told, *m+float64(w.minutes))
		}
	}
	// The time at which the interval is as wide as the difference, on average over draws.
	wide := func(minutes int) float64 {
		w.minutes = minutes
		_, width := trials(w, n, 6)
		return width
	}
	needed := w.minutes
	for wide(needed) > db {
		needed += max(4, needed/12/4*4)
	}
	return median(told) / float64(needed)
}

func TestMinutesToSettleAreAboutRight(t *testing.T) {
	testsize.SkipIfShort(t, "simulates many runs")
	for _, w := range []world{
		with(0, func(w *world) { w.minutes, w.receivers, w.fading = 40, 8, 7 }),
		with(2, func(w *world) { w.minutes, w.receivers, w.fading, w.level = 40, 15, 8, -24 }),
	} {
		if r := minutesAsTold(w, 1, 40); r < 1/1.5 || r > 1.5 {
			t.Errorf("told %.2f of what was needed", r)
		}
	}
}

func BenchmarkJudge(b *testing.B) {
	for _, slots := range []int{100, 1000, 10000} {
		w := usual(2)
		w.receivers, w.minutes, w.level = 100, 2*slots, -12
		sent, got := w.draw(rand.New(rand.NewPCG(1, 1)))
		b.Run(fmt.Sprintf("%d reports", len(got)), func(b *testing.B) {
			for b.Loop() {
				Judge(sent, got)
			}
		})
	}
}

func TestReportsThatNeverVaryAreJudgedToo(t *testing.T) {
	sent, _ := usual(0).draw(rand.New(rand.NewPCG(1, 1)))
	var got []Reception
	for i, s := range sent {
		for r := range 4 {
			got = append(got, Reception{i, fmt.Sprint(r), map[string]float64{"A": -10, "B": -13}[s.Antenna]})
		}
	}
	v := Judge(sent, got).All
	if v.Lo == nil || math.IsNaN(*v.Lo) || math.IsNaN(*v.Hi) || math.IsNaN(*v.P) || math.Abs(*v.DB-3) > 0.01 {
		t.Errorf("%+v", v)
	}
}
