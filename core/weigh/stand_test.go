package weigh

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/onair"
	"reed/internal/testsize"
)

// seasonOf draws antennas, outings and contacts: each outing has its own luck, long and short stints, and contacts come in bunches.
func seasonOf(rng *rand.Rand, antennas, outings int, tau, delta float64) (truth map[string]float64, of []Showing) {
	truth = map[string]float64{}
	name := func(i int) string { return fmt.Sprintf("antenna %d", i) }
	for i := range antennas {
		truth[name(i)] = math.Log(15) + tau*rng.NormFloat64()
	}
	for o := range outings {
		luck := delta * rng.NormFloat64()
		for range 1 + rng.IntN(2) {
			at := name(rng.IntN(antennas))
			hours := 0.2 + 3*rng.Float64()*rng.Float64()
			n := distuv.Poisson{Lambda: math.Exp(truth[at]+luck) * hours / usualBunched, Src: rng}.Rand()
			of = append(of, Showing{Antenna: at, Occasion: fmt.Sprint(o), Contacts: usualBunched * n, Hours: hours})
		}
	}
	return truth, of
}

func TestShrunkRatesHoldTheTruthAndRankBetter(t *testing.T) {
	testsize.SkipIfShort(t, "simulates many runs")
	rng := rand.New(rand.NewPCG(3, 9))
	held, all, shrunk, raw, worlds := 0, 0, 0.0, 0.0, 120
	claims, right := 0, 0
	for range worlds {
		truth, of := seasonOf(rng, 5, 14, 0.5, 0.6)
		list, _ := Stand(of, UsualRates, false)
		best := math.Inf(-1)
		for _, v := range truth {
			best = math.Max(best, v)
		}
		for _, s := range list {
			if all++; s.Lo <= truth[s.Antenna] && truth[s.Antenna] <= s.Hi {
				held++
			}
		}
		naive := slices.MaxFunc(list, func(a, b Standing) int { return cmp.Compare(a.Seen, b.Seen) })
		shrunk, raw = shrunk+best-truth[list[0].Antenna], raw+best-truth[naive.Antenna]
		if list[0].Best >= 0.95 {
			claims++
			if len(list) == len(truth) && truth[list[0].Antenna] == best {
				right++
			}
		}
	}
	share := float64(held) / float64(all)
	t.Logf("held %.3f of %d; regret %.3f shrunk, %.3f raw; %d of %d claims right", share, all, shrunk/float64(worlds), raw/float64(worlds),
		right, claims)
	if share < 0.93 || share > 0.98 {
		t.Errorf("the truth is held in %.3f", share)
	}
	if shrunk > raw {
		t.Errorf("choosing by what was seen alone costs %.3f, by standing %.3f", raw/float64(worlds), shrunk/float64(worlds))
	}
	if claims > 0 && float64(right)/float64(claims) < 0.85 {
		t.Errorf("%d of %d that were said to be best almost surely were it", right, claims)
	}
}

// A lucky quarter of an hour stands behind two long good afternoons, however fast it was.
func TestALuckyQuarterOfAnHourDoesNotStandFirst(t *testing.T) {
	used := func(antenna, outing string, contacts, hours float64) Showing {
		return Showing{Antenna: antenna, Occasion: outing, Contacts: contacts, Hours: hours}
	}
	of := []Showing{used("Curlew", "1", 90, 3), used("Curlew", "2", 100, 3.2), used("Stilt", "3", 5, 0.13), used("Heron", "1", 30, 2),
		used("Heron", "2", 35, 2)}
	list, spreads := Stand(of, UsualRates, false)
	if list[0].Antenna != "Curlew" {
		t.Errorf("%+v", list)
	}
	for _, s := range list {
		if s.Antenna == "Stilt" && !(math.Exp(s.Seen) > 38 && math.Exp(s.Level) < 30 && s.Hi-s.Lo > 1) {
			t.Errorf("seen %.1f an hour, standing at %.1f (%.1f to %.1f)", math.Exp(s.Seen), math.Exp(s.Level), math.Exp(s.Lo), math.Exp(s.Hi))
		}
	}
	if sum := list[0].Best + list[1].Best + list[2].Best; math.Abs(sum-1) > 1e-9 || spreads.Antennas <= 0 {
		t.Errorf("chances sum to %v", sum)
	}
	if said := SaysBest(list, func(Standing) string { return "x" }, func(id string) string { return id }); !strings.Contains(said, "Curlew") {
		t.Error(said)
	}
	if none, _ := Stand(nil, UsualRates, false); len(none) != 0 {
		t.Errorf("%+v", none)
	}
}

// Differences of runs, of which no two antennas may share one, come out on one scale over the mean of all.
func TestRunsPutAntennasOnOneScale(t *testing.T) {
	testsize.SkipIfShort(t, "simulates many runs")
	rng := rand.New(rand.NewPCG(5, 1))
	held, all := 0, 0
	for range 200 {
		truth := map[string]float64{}
		mean := 0.0
		for _, n := range []string{"A", "B", "C", "D"} {
			truth[n] = 3 * rng.NormFloat64()
			mean += truth[n] / 4
		}
		var of []Showing
		for r, pair := range [][2]string{{"A", "B"}, {"B", "C"}, {"C", "D"}, {"A", "C"}} {
			sd := 0.5 + rng.Float64()
			db := truth[pair[0]] - truth[pair[1]] + sd*rng.NormFloat64()
			lo, hi := db-1.96*sd, db+1.96*sd
			of = append(of, Levels(fmt.Sprint(r), []Verdict{{A: pair[0], B: pair[1], DB: &db, Lo: &lo, Hi: &hi, InTurn: true}})...)
		}
		list, _ := Stand(of, UsualDecibels, true)
		for _, s := range list {
			if all++; s.Lo <= truth[s.Antenna]-mean && truth[s.Antenna]-mean <= s.Hi {
				held++
			}
		}
	}
	if share := float64(held) / float64(all); share < 0.92 || share > 0.98 {
		t.Errorf("the truth is held in %.3f", share)
	}
	if Levels("x", []Verdict{{A: "A", B: "B"}}) != nil {
		t.Error("what was not told says nothing")
	}
}

func TestSetUpsOfOneAntennaStandTogether(t *testing.T) {
	of := []SetUp{
		{ID: "1", Name: "Heron", Family: "end-fed", OutingID: "a", Date: "2026-04-01"},
		{ID: "2", Name: "heron ", Family: "end-fed", OutingID: "b", Date: "2026-05-01"},
		{ID: "3", Name: "Heron", Family: "dipole", OutingID: "b", Date: "2026-05-01"},
		{ID: "4", Name: "Egret", Family: "end-fed", Recipe: "r", OutingID: "c", Date: "2026-06-01"},
		{ID: "5", Name: "Stilt", Family: "vertical", OutingID: "c", Date: "2026-06-01"},
	}
	recipes := []Recipe{{ID: "r", Name: "Heron of April", From: "1"}}
	all := Antennas(of, recipes)
	if len(all) != 3 || all[0].SetUps != 3 || all[0].Outings != 3 || all[0].Key != "1" || all[0].Name != "Heron, Egret" || !all[0].Holds("4") {
		t.Fatalf("%+v", all)
	}
	groups, antennas := Groups(of, recipes, func(f string) string { return "kind " + f })
	if len(antennas) != 3 {
		t.Errorf("%+v", antennas)
	}
	var ids []string
	for _, g := range groups {
		ids = append(ids, g.ID())
	}
	if got := strings.Join(ids, " "); got != "antenna:1 recipe:r family:end-fed" {
		t.Error(got)
	}
}

func TestAReferenceCarriesADifferenceAcrossDays(t *testing.T) {
	verdict := func(a, b, band string, db, half float64) Verdict {
		lo, hi := db-half, db+half
		return Verdict{A: a, B: b, Band: band, DB: &db, Lo: &lo, Hi: &hi, InTurn: true, Receivers: 9}
	}
	e, ok := ByReference("Heron", "Stilt", []Bridge{
		{"Curlew", []Verdict{verdict("Heron", "Curlew", "20m", 5, 1)}, []Verdict{verdict("Stilt", "Curlew", "20m", 1, 1), verdict("Stilt",
			"Curlew", "40m", 9, 1)}, false},
	})
	if v := e.Parts[0]; !ok || len(e.Parts) != 1 || *v.DB != 4 || math.Abs(*v.Lo-(4-math.Sqrt2)) > 1e-9 || v.A != "Heron" || v.B != "Stilt" ||
		e.Strength != "some" || !strings.Contains(e.Kind, "Curlew") {
		t.Errorf("%+v", e)
	}
	two, _ := ByReference("Heron", "Stilt", []Bridge{
		{"Curlew", []Verdict{verdict("Heron", "Curlew", "20m", 5, 1)}, []Verdict{verdict("Stilt", "Curlew", "20m", 1, 1)}, false},
		{"Egret", []Verdict{verdict("Heron", "Egret", "20m", 2, 1)}, []Verdict{verdict("Stilt", "Egret", "20m", 0, 1)}, false},
	})
	if v := two.Parts[0]; math.Abs(*v.DB-3) > 1e-9 || math.Abs(*v.Hi-*v.Lo-2) > 0.01 {
		t.Errorf("%+v", v)
	}
	if _, ok := ByReference("Heron", "Stilt", []Bridge{{"Curlew", []Verdict{verdict("Heron", "Curlew", "20m", 5, 1)}, nil, false}}); ok {
		t.Error("a bridge has two ends")
	}
}

// A log with a day-to-day spread of its own is learned from, and moves what is usual the more the more days there are.
func TestTheLogTellsHowDaysDiffer(t *testing.T) {
	for _, truth := range []float64{1, 6, 12} {
		rng := rand.New(rand.NewPCG(7, uint64(truth)))
		var p Pool
		ears := make([]float64, 20)
		for i := range ears {
			ears[i] = 6 * rng.NormFloat64()
		}
		for day := range 60 {
			level := truth * rng.NormFloat64()
			p.sent = append(p.sent, Sent{At: time.Date(2026, 3, 1+day, 12, 0, 0, 0, time.UTC), Antenna: "Heron", Band: "20m", PowerW: 5})
			for i, e := range ears {
				p.received = append(p.received, reception{int32(day), int32(i), level + e + 2*rng.NormFloat64()})
			}
		}
		d := p.Days()
		want := math.Sqrt((8*36 + 59*truth*truth) / 67)
		if d.Pairs != 59 || math.Abs(d.Spread()-want) > 0.2*want {
			t.Errorf("a spread of %v dB is learned as %.1f from %d pairs, not %.1f", truth, d.Spread(), d.Pairs, want)
		}
	}
	if d := (&Pool{}).Days(); d.Spread() != DaySpread || d.Pairs != 0 {
		t.Errorf("%+v", d)
	}
}

func BenchmarkAntennasOverThreeHundredOutings(b *testing.B) {
	rng := rand.New(rand.NewPCG(3, 9))
	_, of := seasonOf(rng, 30, 300, 0.5, 0.6)
	for b.Loop() {
		Stand(of, UsualRates, false)
	}
}

// Whose letters are whose: set-ups of one antenna are one, and its second revision in a run is left out, or it would differ from itself.
func TestLettersOfARunAreAntennas(t *testing.T) {
	antennas := Antennas([]SetUp{{ID: "1", Name: "Heron", Site: "sea"}, {ID: "2", Name: "heron"}, {ID: "3", Name: "Stilt", Site: "rock"}}, nil)
	run := onair.Run{Aerials: []onair.Aerial{{Letter: "A", DeploymentID: "1", Revision: 1}, {Letter: "B", DeploymentID: "1", Revision: 2},
		{Letter: "C", DeploymentID: "3"}, {Letter: "D", DeploymentID: "gone"}, {Letter: "E", DeploymentID: "2"}}}
	names, keys, site := Lettered(run, antennas)
	if len(keys) != 2 || len(names) != 3 || names["A"] != "1" || names["E"] != "1" || names["C"] != "3" || site != "rock" && site != "" {
		t.Errorf("%v %v %q", names, keys, site)
	}
}
