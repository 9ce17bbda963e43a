package weigh

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/numeric"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/sweep"
)

var (
	home  = place.Point{Lat: 46.5, Lon: -12}
	start = time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
)

func contacts(n int, every time.Duration, from time.Time, locators ...string) []Worked {
	var out []Worked
	for i := range n {
		c := Worked{Call: fmt.Sprintf("Q%dAB", i%10), Band: "40m", Mode: "CW", At: from.Add(time.Duration(i) * every),
			PowerW: 10, Received: "579"}
		if i < len(locators) {
			c.Locator = locators[i]
		}
		out = append(out, c)
	}
	return out
}

func side(name string, c []Worked) Side {
	return Side{Name: name, OutingID: "o", Home: home, Contacts: c, Bands: []string{"40m", "20m"},
		Centre: map[string]float64{"40m": 7.1e6, "20m": 14.2e6},
		Built: deployment.Built{Shape: antenna.Shape{Family: "dipole", Variant: "flat"}.With(antenna.Radiator, quantity.Metres(10)),
			Coax: deployment.Coax{Type: "RG-58", Length: quantity.Metres(20)}, PowerW: 10}}
}

func TestSummaryByHand(t *testing.T) {
	a := Summarise(contacts(9, 10*time.Minute, start, "IN46", "IN56", "JN46"), home)
	// Eight gaps of ten minutes: 8 in 80 minutes is 6 an hour.
	if a.Contacts != 9 || math.Abs(a.PerHour-6) > 1e-9 || a.Located != 3 || a.Farthest != "Q2AB" {
		t.Errorf("%+v", a)
	}
	// IN46, IN56 and JN46 lie 1, 3 and 21 degrees of longitude from 12 W at 46.5 N; the middle one is 229.6 km.
	if math.Abs(a.MedianKm-229.6) > 0.1 {
		t.Errorf("median %v km", a.MedianKm)
	}
	// Stretches of 2, 2, 2, 2 and 1 scatter 0.111 of their mean; with what is usual 1.556, so that the 8 count as 5.14 in
	// 0.857 h: 1.988 to 13.85 by the incomplete gamma function.
	if math.Abs(a.RateLo-1.988) > 0.01 || math.Abs(a.RateHi-13.85) > 0.02 {
		t.Errorf("rate %v to %v", a.RateLo, a.RateHi)
	}
	if one := Summarise(contacts(1, 0, start), home); one.PerHour != 0 || one.Hours != 0 {
		t.Errorf("one contact has no rate: %+v", one)
	}
	for _, c := range []struct {
		n     int
		every time.Duration
		rated bool
	}{{8, 257 * time.Second, false}, {8, 258 * time.Second, true}, {7, time.Hour, false}, {3, time.Second, false}, {60, 20 * time.Second,
		false}} {
		if got := Summarise(contacts(c.n, c.every, start), home); got.Rated != c.rated || got.Rated != (got.PerHour > 0) {
			t.Errorf("%d contacts, one in %v: %+v", c.n, c.every, got)
		}
	}
}

func TestCableLossOfEachBand(t *testing.T) {
	b := side("A", nil).Built
	m, kind, ok := CableLoss(b, 10e6, 0)
	if !ok || kind != "matched" || math.Abs(m-0.92) > 1e-9 { // 4.6 dB per 100 m, 20 m
		t.Errorf("%v %s", m, kind)
	}
	if w, _, _ := CableLoss(b, 10e6, 3); w <= m {
		t.Errorf("mismatch does not add loss: %v", w)
	}
	if _, _, ok := CableLoss(deployment.Built{}, 10e6, 1); ok {
		t.Error("loss without a cable")
	}
}

func TestOtherDayHourAndPowerAreNamedAndNeverProve(t *testing.T) {
	a, b := side("Heron", contacts(20, 5*time.Minute, start)), side("Stilt", contacts(60, time.Minute,
		start.AddDate(0, 0, 7).Add(5*time.Hour)))
	b.OutingID, b.Home = "p", place.Point{Lat: 46.9, Lon: -12}
	for i := range b.Contacts {
		b.Contacts[i].PowerW = 50
	}
	c := Compare(a, b, false)
	for _, want := range []string{"other day", "other hour", "other power: 10 W and 50 W, 7.0 dB", "other place: 44 km"} {
		if !strings.Contains(strings.Join(c.Uncontrolled, "; "), want) {
			t.Errorf("%q is missing in %q", want, c.Uncontrolled)
		}
	}
	if c.Strength != "none" || !strings.Contains(c.Headline, "does not prove") {
		t.Errorf("%s %s", c.Strength, c.Headline)
	}
}

func TestEqualAntennasRarelyCryWolf(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	wolves := 0
	const runs = 2000
	for range runs {
		var counts [2]float64
		for i := range counts {
			for at := rng.ExpFloat64() / 20; at < 1; at += rng.ExpFloat64() / 20 {
				counts[i]++
			}
		}
		if lo, hi := RateRatio(counts[0], 1, counts[1], 1); lo > 1 || hi < 1 {
			wolves++
		}
	}
	if wolves > runs*5/100 {
		t.Errorf("%d of %d equal pairs were told apart", wolves, runs)
	}
	if lo, _ := RateRatio(10, 1, 60, 1); lo < 2 {
		t.Errorf("six times the rate is told apart with %v", lo)
	}
}

// Contacts of several outings are each worked from where that was, and the nights between are no operating time.
func TestContactsOfSeveralOutingsAreNotCountedThrough(t *testing.T) {
	other := place.Point{Lat: home.Lat + 1, Lon: home.Lon}
	log := contacts(9, 10*time.Minute, start, "IN46")
	again := contacts(9, 10*time.Minute, start.AddDate(0, 0, 7), "IN46")
	for i := range again {
		again[i].Home = &other
	}
	one, both := Summarise(log, home), Summarise(append(again, log...), home)
	if both.Gaps != 16 || math.Abs(both.Hours-2*one.Hours) > 1e-9 || math.Abs(both.PerHour-one.PerHour) > 1e-9 || !both.Rated {
		t.Errorf("%+v", both)
	}
	if away := Summarise(again, home); math.Abs(away.FarKm-one.FarKm) < 1 || math.Abs(both.FarKm-math.Max(away.FarKm, one.FarKm)) > 1e-9 {
		t.Errorf("%.1f and %.1f km, both %.1f", away.FarKm, one.FarKm, both.FarKm)
	}
}

func TestNothingIsSaidFromNothing(t *testing.T) {
	a, b := side("A", nil), side("B", nil)
	if c := Compare(a, b, false); !strings.HasPrefix(c.Headline, "Nothing was measured") || len(c.Rows) != 0 || len(c.Differences) != 0 {
		t.Errorf("%+v", c)
	}
	a.Contacts = contacts(3, time.Minute, start)
	if c := Compare(a, b, false); !strings.Contains(c.Headline, "no on-air evidence yet for B") {
		t.Error(c.Headline)
	}
	a.Contacts, b.Contacts = contacts(30, time.Minute, start), contacts(4, time.Second, start)
	if c := Compare(a, b, false); !strings.Contains(c.Headline, "Too few contacts for a rate") ||
		strings.Contains(fmt.Sprint(c.Reasons), "an hour") {
		t.Errorf("%s %v", c.Headline, c.Reasons)
	}
	a.Contacts, b.Contacts = contacts(31, time.Minute, start), contacts(27, 70*time.Second, start)
	if c := Compare(a, b, false); !strings.Contains(c.Headline, "No measurable difference between A and B") {
		t.Error(c.Headline)
	}
}

func TestMatchIsComparedBandByBand(t *testing.T) {
	a, b := side("A", nil), side("B", nil)
	a.Readings = map[string]sweep.Reading{"40m": {Band: "40m", InSWR: 1.2, InAt: 7.1e6, Coverage: 100, Measured: 100,
		Widths: []sweep.Width{{Limit: 1.5, Hz: 90e3}, {Limit: 2, Hz: 180e3, Open: true}}}}
	b.Readings = map[string]sweep.Reading{"40m": {Band: "40m", InSWR: 2.5, InAt: 7.0e6, Coverage: 30, Measured: 100},
		"20m": {Band: "20m", InSWR: 3, InAt: 14e6}}
	c := Compare(a, b, false)
	if len(c.Rows) != 2 || c.Rows[0].A.Arrives <= c.Rows[0].B.Arrives || c.Rows[1].A.Measured || c.Rows[1].A.LossKind != "matched" {
		t.Errorf("%+v", c.Rows)
	}
	if c.Rows[0].A.Width != "over 180 kHz" || c.Rows[0].B.Width != "" {
		t.Errorf("%+v", c.Rows[0])
	}
	if !strings.Contains(strings.Join(c.Reasons, " "), "A covers 100 %") {
		t.Errorf("%q", c.Reasons)
	}
	for i := range 3 {
		a.Contacts = append(a.Contacts, Worked{Received: "59", At: start.Add(time.Duration(i) * time.Minute)})
	}
	if !Summarise(a.Contacts, home).Uniform59 {
		t.Error("all 59 is not seen")
	}
}

func TestRateIntervalsHoldTheTruth(t *testing.T) {
	rng := rand.New(rand.NewPCG(41, 42))
	const runs, perHour = 3000, 9.0
	held := 0
	for range runs {
		n := 0.0
		for at := rng.ExpFloat64() / perHour; at < 1; at += rng.ExpFloat64() / perHour {
			n++
		}
		if lo, hi := numeric.Poisson(n, 1); lo <= perHour && perHour <= hi {
			held++
		}
	}
	if share := float64(held) / runs; share < 0.945 {
		t.Errorf("the interval holds the true rate %.3f of the time", share)
	}
	if lo, hi := numeric.Poisson(0, 2); lo != 0 || math.Abs(hi-1.844) > 0.01 {
		t.Errorf("nothing in two hours: %v to %v, want 0 to 1.844", lo, hi)
	}
}

func TestARatioIsTurnedRoundWithItsSides(t *testing.T) {
	lo, hi := RateRatio(12, 1.5, 20, 0.8)
	lo2, hi2 := RateRatio(20, 0.8, 12, 1.5)
	if math.Abs(lo*hi2-1) > 1e-6 || math.Abs(hi*lo2-1) > 1e-6 {
		t.Errorf("%v to %v, turned round %v to %v", lo, hi, lo2, hi2)
	}
	if best := 20 / 0.8 / (12 / 1.5); best < lo || best > hi {
		t.Errorf("%v is not inside %v to %v", best, lo, hi)
	}
}

func TestSidesOfOneNameAreToldApart(t *testing.T) {
	a := Side{Name: "Heron", Letter: "A", Outing: "Gannet Spit", OutingID: "1"}
	for _, c := range []struct {
		b            Side
		nameA, nameB string
	}{
		{Side{Name: "Stilt", Letter: "B", Outing: "Gannet Spit", OutingID: "1"}, "Heron", "Stilt"},
		{Side{Name: "Heron", Letter: "C", Outing: "Gannet Spit", OutingID: "1"}, "Heron A", "Heron C"},
		{Side{Name: "Heron", Letter: "A", Outing: "Hollow Fell", OutingID: "2"}, "Heron of Gannet Spit", "Heron of Hollow Fell"},
		{Side{Name: "Heron", Letter: "B", Outing: "Gannet Spit", OutingID: "2"}, "Heron A", "Heron B"},
	} {
		if x, y := Apart(a, c.b); x != c.nameA || y != c.nameB {
			t.Errorf("%s and %s, want %s and %s", x, y, c.nameA, c.nameB)
		}
	}
}

// Equal antennas in turns of twenty minutes, each with its own luck, are seldom told apart; one that is four times as fast
// over a whole afternoon mostly is.
func TestLuckInBlocksIsNotTakenForTheAntenna(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	trial := func(faster float64, turns int) bool {
		at := time.Date(2026, 5, 16, 8, 0, 0, 0, time.UTC)
		var log [2][]Worked
		for turn := range 2 * turns {
			side := turn % 2
			rate := 24 * math.Exp(0.55*rng.NormFloat64()) // an hour
			if side == 1 {
				rate *= faster
			}
			for x := rng.ExpFloat64() / rate; x < 1.0/3; x += rng.ExpFloat64() / rate {
				log[side] = append(log[side], Worked{Call: "Q2TAV", At: at.Add(time.Duration(x * float64(time.Hour)))})
			}
			at = at.Add(20 * time.Minute)
		}
		a, b := Summarise(log[0], place.Point{}), Summarise(log[1], place.Point{})
		if !a.Rated || !b.Rated {
			return false
		}
		lo, hi := RateRatio(float64(a.Contacts-1)/a.Bunched, a.Hours/a.Bunched, float64(b.Contacts-1)/b.Bunched, b.Hours/b.Bunched)
		return lo > 1 || hi < 1
	}
	equal, apart := 0, 0
	for range 400 {
		if trial(1, 3) {
			equal++
		}
		if trial(4, 6) {
			apart++
		}
	}
	if equal > 40 || apart < 280 {
		t.Errorf("of 400 equal pairs %d were told apart, of 400 with one four times as fast %d", equal, apart)
	}
}
