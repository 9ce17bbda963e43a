package weigh

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"gonum.org/v1/gonum/stat"
)

// listened is what some receivers heard of slots: A is so much stronger.
func listened(sent []Sent, receivers int, better float64, rng *rand.Rand) (out []Reception) {
	for r := range receivers {
		base := -10 + 5*rng.NormFloat64()
		for i, s := range sent {
			y := base + 3*rng.NormFloat64() + map[string]float64{"A": better}[s.Antenna] + decibels(s.PowerW)
			if y > -24 {
				out = append(out, Reception{i, fmt.Sprintf("Q%dRX", r), math.Round(y)})
			}
		}
	}
	return out
}

// inTurnFrom are slots of two antennas in turn, of four minutes each pair; apartFrom are as many of one after as many of the other.
func inTurnFrom(at time.Time, band string, n int) (out []Sent) {
	for i := range n {
		out = append(out, Sent{at.Add(time.Duration(i) * 2 * time.Minute), 110, []string{"A", "B"}[i%2], band, 5, 0})
	}
	return out
}

func apartFrom(at time.Time, band string, n int) []Sent {
	out := inTurnFrom(at, band, n)
	for i := range out {
		out[i].Antenna = []string{"A", "B"}[i*2/n]
	}
	return out
}

func same(a, b *float64) bool {
	return a == nil && b == nil || a != nil && b != nil && math.Abs(*a-*b) < 1e-9
}

// In which order reports come, and whether some come twice, changes nothing; of two of a slot the better counts.
func TestTheOrderOfReportsDoesNotMatter(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 1))
	at := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	sent := append(inTurnFrom(at, "40m", 40), inTurnFrom(at.Add(2*time.Hour), "20m", 40)...)
	got := listened(sent, 12, 3, rng)
	want := Judge(sent, got)
	other := slices.Clone(got)
	for _, r := range got[:100] {
		r.SNR -= 6
		other = append(other, r)
	}
	rng.Shuffle(len(other), func(i, k int) { other[i], other[k] = other[k], other[i] })
	is := Judge(sent, other)
	if len(is.Bands) != 2 || len(want.Bands) != 2 {
		t.Fatalf("%+v", is)
	}
	for i, v := range append(is.Bands, *is.All) {
		w := append(want.Bands, *want.All)[i]
		if !same(v.DB, w.DB) || !same(v.Lo, w.Lo) || !same(v.P, w.P) || v.Reports != w.Reports || !same(v.NaiveDB, w.NaiveDB) ||
			!same(v.MedianDB, w.MedianDB) || v.SilentA != w.SilentA || v.ListenedB != w.ListenedB || v.Says != w.Says {
			t.Errorf("%q:\n%+v\n%+v", v.Band, v, w)
		}
	}
}

// A band on which the two were not sent in turn says nothing in the verdict on all, where another was; by itself it is said as it stands.
func TestOnlyBandsInTurnAreOfTheVerdictOnAll(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 2))
	at := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	turned := inTurnFrom(at.Add(6*time.Hour), "20m", 60)
	got := listened(turned, 10, 3, rng)
	alone := Judge(turned, got)
	sent := append(slices.Clone(turned), apartFrom(at, "40m", 60)...)
	for _, r := range listened(sent[len(turned):], 10, 25, rng) {
		r.Slot += len(turned)
		got = append(got, r)
	}
	both := Judge(sent, got)
	if len(both.Bands) != 2 || both.Bands[0].Band != "40m" || both.Bands[0].InTurn || both.Bands[0].DB == nil || *both.Bands[0].DB < 10 {
		t.Fatalf("%+v", both.Bands)
	}
	if !both.All.InTurn || !same(both.All.DB, alone.All.DB) || !same(both.All.Lo, alone.All.Lo) || both.All.Receivers != 10 ||
		both.All.ListenedA != alone.All.ListenedA {
		t.Errorf("%+v\n%+v", both.All, alone.All)
	}
	// What people look at takes all reports, and is misled.
	if both.All.Reports <= alone.All.Reports || *both.All.NaiveDB < 6 {
		t.Errorf("%+v", both.All)
	}
}

func TestMeansAndMediansAreThoseOfTheReports(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 3))
	for _, n := range []int{1, 2, 7, 500, 501} {
		var l, joined levels
		var parts [3]levels
		var all []float64
		for i := range n {
			y := math.Round(100*rng.NormFloat64()) / 4
			all = append(all, y)
			l.add(y)
			parts[i%3].add(y)
		}
		for i := range parts {
			joined.join(&parts[i])
		}
		mean, middle := stat.Mean(all, nil), median(all)
		for _, x := range []*levels{&l, &joined} {
			if x.n != n || math.Abs(x.mean()-mean) > 1e-9 || math.Abs(x.median()-middle) > 0.5/levelSteps {
				t.Errorf("%d: %.4f and %.4f, not %.4f and %.4f", n, x.mean(), x.median(), mean, middle)
			}
		}
	}
	var far levels
	for _, y := range []float64{-1e9, 2, 1e9} {
		far.add(y)
	}
	if far.median() != 2 || len(far.count) > 2*levelMost*levelSteps+1 {
		t.Errorf("%v of %d", far.median(), len(far.count))
	}
}

func TestAReportKnowsThePowerBetterUnlessItIsRounded(t *testing.T) {
	dBm := func(v float64) float64 { return math.Pow(10, (v-30)/10) }
	for _, c := range []struct{ planned, told, want float64 }{
		{0.2, dBm(23), 0}, {5, dBm(37), 0}, {5, 5, 0}, {5, 0, 0}, {5, dBm(30), 10 * math.Log10(5)}, {5, 4.6, 10 * math.Log10(5/4.6)},
		{10, 20, 10 * math.Log10(0.5)}, {0, 4, -10 * math.Log10(4)},
	} {
		if got := toPlanned(c.planned, c.told); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%v W planned, %v told: %v dB, not %v", c.planned, c.told, got, c.want)
		}
	}
}

func TestReportsNameWhoAndWhereOnce(t *testing.T) {
	at := time.Date(2026, 5, 16, 12, 0, 0, 5e6, time.UTC)
	list := []Heard{{at, "40m", "Q1RX", -3, 5, 1e6, 20, true, false, false, false, false, ""},
		{at, "20m", "Q2RX", -4.5, 0, -1, -1, false, true, false, false, false, ""},
		{at.Add(time.Minute), "40m", "Q1RX", 2, 5, 1e6, 20, true, false, true, false, false, ""},
		{at, "40m", "Q1RX", 0, 5, -1, -1, true, false, false, false, false, ""}}
	all := ReportsOf(list)
	if len(all.Bands) != 2 || len(all.Ears) != 3 {
		t.Errorf("%+v", all)
	}
	for i, h := range list {
		if got := all.Heard(i); got != h {
			t.Errorf("%+v, not %+v", got, h)
		}
	}
}

// A station that others heard beside each of two runs tells their antennas apart, on days that differ by ten decibels; it is no evidence of
// one's own, and neither is what is of others.
func TestAStationHeardBesideEachCarriesADifference(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 7))
	names := map[string]string{"A": "Heron", "B": "Egret"}
	base := make([]float64, 12)
	for i := range base {
		base[i] = -12 + 4*rng.NormFloat64()
	}
	var bridge Bridge
	for day, parts := range []*[]Verdict{&bridge.A, &bridge.B} {
		run := alternating(120, "20m")
		var heard []Heard
		for k := range run.Slots {
			s := &run.Slots[k]
			s.At = s.At.AddDate(0, 0, day)
			for i, at := range base {
				level := at + 10*float64(day) + 2*rng.NormFloat64()
				if own := level - 3*float64(day) + rng.NormFloat64(); s.By() == "A" && own > -28 {
					heard = append(heard, Heard{At: s.At, Band: s.Band, Receiver: fmt.Sprintf("Q%dRX", i), SNR: math.Round(own), Seconds: true,
						DistanceM: -1, Bearing: -1})
				}
				if other := level + 2 + rng.NormFloat64(); k%3 > 0 && other > -28 {
					heard = append(heard, Heard{At: s.At, Band: s.Band, Receiver: fmt.Sprintf("Q%dRX", i), By: "Q9REF", Others: true,
						SNR: math.Round(other), PowerW: 5, Seconds: true, DistanceM: -1, Bearing: -1})
				}
			}
		}
		all := ReportsOf(heard)
		if all.Stations()["Q9REF"] == 0 || len(all.Stations()) != 1 {
			t.Errorf("%v", all.Stations())
		}
		var p Pool
		p.Add(run, names, all, Filter{})
		if n := p.Reports(); n == 0 || n > len(heard)/2 {
			t.Errorf("%d of %d are one's own", n, len(heard))
		}
		p.Beside(run, "Q9REF", all, Filter{})
		*parts = p.Evidence("Heron", "Q9REF").Parts
	}
	bridge.Reference, bridge.Station = "Q9REF", true
	e, ok := ByReference("Heron", "Stilt", []Bridge{bridge})
	if v := e.Parts; !ok || *v[0].Lo > 3 || *v[0].Hi < 3 || *v[0].Hi-*v[0].Lo > 4 ||
		!strings.Contains(e.Kind, "station, Q9REF, that was heard") {
		t.Errorf("%+v", e)
	}
}

func TestTheHeadlineIsHowTheyAreHeardUnlessThatProvesLeast(t *testing.T) {
	strong, some, weak := Evidence{Strength: "strong"}, Evidence{Strength: "some"}, Evidence{Strength: "weak"}
	hears := Evidence{Strength: "strong", Hearing: true}
	for _, c := range []struct {
		list []Evidence
		want int
	}{{nil, -1}, {[]Evidence{hears}, 0}, {[]Evidence{hears, strong}, 1}, {[]Evidence{hears, some, weak}, 1}, {[]Evidence{hears, weak}, 0},
		{[]Evidence{weak}, 0}} {
		if got := Lead(c.list); got != c.want {
			t.Errorf("%+v: %d", c.list, got)
		}
	}
}
