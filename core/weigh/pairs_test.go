package weigh

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
	"reed/internal/testsize"
)

func alternating(minutes int, bands ...string) onair.Run {
	r := onair.Run{Begin: time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC), Mode: "WSPR", PowerW: 1, Minutes: minutes, Bands: bands, Seed: 5,
		Aerials: []onair.Aerial{{Letter: "A", Name: "Heron"}, {Letter: "B", Name: "Stilt"}}}
	r.Slots = r.Schedule()
	return r
}

// drawn are reports of a run whose A is stronger by so much: paths of their own strength that fade slowly, and noise.
func drawn(run onair.Run, better float64, receivers int, rng *rand.Rand) (out []onair.Report) {
	for k := range receivers {
		base, fade := -15+6*rng.NormFloat64(), 0.0
		own := better + 1.5*rng.NormFloat64()
		for _, s := range run.Slots {
			fade = 0.7*fade + 3*rng.NormFloat64()
			snr := base + fade + 1.5*rng.NormFloat64()
			if s.By() == "A" {
				snr += own
			}
			if v := math.Round(snr); v >= -28 && s.By() != "" {
				out = append(out, onair.Report{At: s.At, Seconds: true, Sender: "Q1REED", Receiver: fmt.Sprintf("Q%dRX", k), Band: s.Band, Mode: "WSPR",
					SNR: &v})
			}
		}
	}
	return out
}

func TestTheRunningDifferenceCoversTheTruth(t *testing.T) {
	testsize.SkipIfShort(t, "simulates many runs")
	for _, truth := range []float64{0, 3} {
		covered, told, n := 0, 0, 200
		for seed := range n {
			run := alternating(96, "20m")
			d := Running(run, drawn(run, truth, 12, rand.New(rand.NewPCG(uint64(seed), 3))))[0]
			if d.Lo == nil {
				t.Fatalf("%+v", d)
			}
			if *d.Lo <= truth && truth <= *d.Hi {
				covered++
			}
			if *d.Lo > 0 || *d.Hi < 0 {
				told++
			}
		}
		// 95 % of 200 is 190; three standard deviations are 9.
		if covered < 178 || truth == 0 && told > 22 || truth == 3 && told < 190 {
			t.Errorf("%v dB: covered in %d of %d, told apart in %d", truth, covered, n, told)
		}
	}
}

func TestPowersAreBroughtToOne(t *testing.T) {
	run := alternating(40, "20m")
	loud, quiet := 5.0, 0.5
	var reports []onair.Report
	for k := range 4 {
		for _, s := range run.Slots {
			v, w := -15.0, quiet
			if s.Letter == "A" {
				v, w = -5, loud // ten times the power, ten decibels more: the same antenna
			}
			reports = append(reports, onair.Report{At: s.At, Seconds: true, Receiver: fmt.Sprintf("Q%dRX", k), Band: "20m", Mode: "WSPR",
				SNR: &v, PowerW: &w})
		}
	}
	if d := Running(run, reports)[0]; math.Abs(*d.DB) > 1e-9 || d.Receivers != 4 {
		t.Errorf("%+v", d)
	}
}

func TestSilenceAndCorrectedSlots(t *testing.T) {
	run := alternating(24, "20m", "40m")
	run.Slots[0].Sent = onair.Silent
	swapped := run.Slots[1].Letter
	other := map[string]string{"A": "B", "B": "A"}[swapped]
	run.Slots[1].Sent = other
	report := func(i int, receiver string) onair.Report {
		v := -10.0
		return onair.Report{At: run.Slots[i].At, Seconds: true, Receiver: receiver, Band: run.Slots[i].Band, Mode: "WSPR", SNR: &v}
	}
	d := Running(run, []onair.Report{report(0, "Q1RX"), report(1, "Q2RX")})
	only := d[0].OnlyA
	if other == "B" {
		only = d[0].OnlyB
	}
	if d[0].OnlyA+d[0].OnlyB != 1 || only != 1 || d[0].DB != nil || !strings.HasPrefix(d[0].Says, "Nothing can be said yet") {
		t.Errorf("%+v", d[0])
	}
	if len(d) != 3 || d[1].Band != "40m" || d[2].Band != "20m" || d[1].SlotsA+d[1].SlotsB+d[2].SlotsA+d[2].SlotsB != len(run.Slots)-1 {
		t.Errorf("%+v", d)
	}
}

func TestEvidenceIsKeptApartByItsStrength(t *testing.T) {
	run := alternating(60, "20m")
	var heard []Heard
	for _, r := range drawn(run, 4, 10, rand.New(rand.NewPCG(1, 3))) {
		h := HeardOf(r)
		h.DistanceM, h.Bearing = 1e6*float64(1+len(heard)%2), 90
		heard = append(heard, h)
	}
	of := func(names map[string]string, f Filter, heard []Heard) (p Pool) {
		p.Add(run, names, ReportsOf(heard), f)
		return p
	}
	ab := map[string]string{"A": "Heron", "B": "Stilt"}
	whole := of(ab, Filter{}, heard)
	there, back := whole.Evidence("Heron", "Stilt"), whole.Evidence("Stilt", "Heron")
	if there.Strength != "strong" || len(there.Parts) != 1 || math.Abs(*there.Parts[0].DB+*back.Parts[0].DB) > 1e-3 ||
		there.Parts[0].SlotsA != back.Parts[0].SlotsB || there.Runs != 1 || len(there.Receivers) != 10 {
		t.Errorf("%+v, turned round %+v", there, back)
	}
	// What is set aside does not count and is said; filters let only some count.
	for i := range 5 {
		heard[i].SetAside = true
	}
	part := of(ab, Filter{}, heard)
	if e := part.Evidence("Heron", "Stilt"); e.SetAside != 5 || e.Parts[0].Reports != there.Parts[0].Reports-5 ||
		!strings.Contains(e.Says, "5 reports set aside") {
		t.Errorf("%+v", e)
	}
	east, west := 100.0, 270.0
	for name, f := range map[string]Filter{"near": {MostKm: 1500}, "east": {Toward: &east}, "west": {Toward: &west},
		"early":         {UntilHour: 14.5},
		"over midnight": {FromHour: 23, UntilHour: 1}, "another band": {Bands: []string{"40m"}}, "nothing simulated": {ExcludeReal: true}} {
		p := of(ab, f, heard)
		full := part.Evidence("Heron", "Stilt").Parts[0].Reports
		if got := p.Reports(); (name == "east") != (got == full) || (name == "near" || name == "early") != (got > 0 && got < full) &&
			name != "east" {
			t.Errorf("%s: %d of %d", name, got, full)
		}
	}
	if p := of(map[string]string{"C": "Tern"}, Filter{}, heard); p.Heard() {
		t.Error("a run without one of them is evidence")
	}
	value := func(v float64) *float64 { return &v }
	pairs := []onair.Note{{Kind: onair.Pair, Call: "Q2TAV", DeploymentID: "a", OtherID: "b", Value: value(6)},
		{Kind: onair.Pair, Call: "Q2TAV/P", DeploymentID: "b", OtherID: "a", Value: value(-12)},
		{Kind: onair.Pair, Call: "Q3TAV", DeploymentID: "a", OtherID: "b", Value: value(6)}, {Kind: "noise", Value: value(-99)}}
	pairs = append(pairs, onair.Note{Kind: onair.Pair, Call: "Q4TAV", DeploymentID: "b", OtherID: "a", Value: value(-3), Hearing: true})
	e := Patient(pairs, []string{"a"}, []string{"b"}, "Heron", "Stilt")
	if len(e) != 2 || *e[0].Parts[0].DB != 7.5 || e[0].Parts[0].Receivers != 2 || e[0].Parts[0].Reports != 6 || e[0].Strength != "some" {
		t.Fatalf("%+v", e)
	}
	if *e[1].Parts[0].DB != 3 || e[1].Parts[0].Reports != 2 {
		t.Errorf("what was heard is mixed with what was sent: %+v", e[1])
	}
	if e := Patient(pairs, []string{"a"}, []string{"c"}, "", ""); len(e) > 0 {
		t.Error("pairs of others are evidence")
	}
}

func TestBandsThatDifferAreToldApart(t *testing.T) {
	run := alternating(160, "40m", "20m")
	rng := rand.New(rand.NewPCG(4, 4))
	var heard []Heard
	for _, r := range drawn(run, 0, 12, rng) {
		h := HeardOf(r)
		if s, ok := run.SlotOf(r.At, r.Band, 0); ok && s.By() == "A" {
			h.SNR += map[string]float64{"40m": 8, "20m": -5}[r.Band]
		}
		heard = append(heard, h)
	}
	var p Pool
	p.Add(run, map[string]string{"A": "Heron", "B": "Stilt"}, ReportsOf(heard), Filter{})
	e := p.Evidence("Heron", "Stilt")
	if !strings.HasPrefix(e.Says, "It depends on the band. Heron is ") || !strings.Contains(e.Says, "Stilt is ") {
		t.Error(e.Says)
	}
}

func TestTheModelStandsBesideTheAir(t *testing.T) {
	km, east, db := 2e6, 90.0, 5.0
	of := []ReceiverVerdict{{Receiver: "Q1RX", DistanceM: &km, Bearing: &east, DB: &db}, {Receiver: "Q2RX"}}
	flat := func(v float64) Gain { return func(float64, float64) float64 { return v } }
	lo, at, hi := 4.0, 5.0, 6.0
	v := Verdict{Band: "20m", DB: &at, Lo: &lo, Hi: &hi}
	a, b := Side{Name: "Heron", Ground: "dry-sand"}, Side{Name: "Stilt", Ground: "average"}
	x := Foretell(v, of, flat(3), flat(-1.5), a, b)
	if !x.Agrees || x.ModelDB != 4.5 || x.Receivers != 1 || len(x.Causes) != 0 {
		t.Errorf("%+v", x)
	}
	x = Foretell(v, of, flat(-3), flat(1), a, b)
	if x.Agrees || !strings.Contains(x.Says, "Stilt is 9.0 dB weaker against Heron than predicted") || len(x.Causes) < 2 ||
		!strings.Contains(x.Causes[0], "Stilt has no choke") {
		t.Errorf("%+v", x)
	}
	x = Foretell(Verdict{Band: "20m"}, of[1:], flat(0), flat(0), a, b)
	if x.Receivers != 0 || !strings.Contains(x.Says, "not known") {
		t.Errorf("%+v", x)
	}
}

// Who listened to one run and not to another was not silent in the other.
func TestARunSaysNothingOfWhoListenedToAnother(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 6))
	names := map[string]string{"A": "Heron", "B": "Stilt"}
	heardOf := func(run onair.Run, skip func(receiver string) bool) (heard []Heard) {
		for _, r := range drawn(run, 3, 8, rng) {
			if !skip(r.Receiver) {
				heard = append(heard, HeardOf(r))
			}
		}
		return heard
	}
	var days [3]onair.Run
	for i := range days {
		days[i] = alternating(40, "20m")
		for k := range days[i].Slots {
			days[i].Slots[k].At = days[i].Slots[k].At.AddDate(0, 0, i)
		}
	}
	var p Pool
	for i, run := range days {
		p.Add(run, names, ReportsOf(heardOf(run, func(receiver string) bool { return i == 1 && receiver == "Q3RX" })), Filter{})
	}
	e := p.Evidence("Heron", "Stilt")
	for _, r := range e.Receivers {
		if r.Receiver == "Q3RX" && r.OfA+r.OfB > 40 {
			t.Errorf("silence of a day on which it was not there is counted: %+v", r)
		}
	}
	if v := e.Parts[0]; v.Receivers != 8 || *v.Lo > 3 || *v.Hi < 3 || e.Runs != 3 {
		t.Errorf("%+v", v)
	}
}

func TestOccasionsOfOneAntennaEachAreComparedByTheirReceivers(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	var p Pool
	for i, name := range []string{"Heron", "Stilt"} {
		run := alternating(40, "20m")
		for k := range run.Slots {
			run.Slots[k].At = run.Slots[k].At.AddDate(0, 0, i)
		}
		var heard []Heard
		for _, r := range drawn(run, 0, 8, rng) {
			heard = append(heard, HeardOf(r))
		}
		p.Add(run, map[string]string{"A": name, "B": name}, ReportsOf(heard), Filter{})
	}
	e := p.Evidence("Heron", "Stilt")
	if v := e.Parts[0]; v.InTurn || v.Lo == nil || v.Receivers != 8 || *v.Hi-*v.Lo < 20 {
		t.Errorf("%+v", v)
	}
}

// Readings of noise near in time are pairs; hearing is what is sent more, less what is brought more of noise.
func TestHearingIsSendingLessNoise(t *testing.T) {
	at := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	read := func(id string, minute int, dbm float64, text string) onair.Note {
		return onair.Note{Kind: onair.Noise, DeploymentID: id, Band: "20m", At: at.Add(time.Duration(minute) * time.Minute), Value: &dbm,
			Text: text}
	}
	notes := []onair.Note{read("a", 0, -95, "-95 dBm"), read("b", 4, -104, "-104 dBm"), read("a", 60, -97, "-97 dBm"),
		read("b", 66, -105, "-105 dBm"), read("a", 120, -96, "-96 dBm"), read("b", 125, -106, "-106 dBm"), read("b", 400, -60, "-60 dBm")}
	db, lo, hi := 6.0, 5.0, 7.0
	sent := []Evidence{{Strength: "strong", Parts: []Verdict{{Band: "20m", DB: &db, Lo: &lo, Hi: &hi, InTurn: true}}}}
	e, ok := Hearing(sent, notes, []string{"a"}, []string{"b"}, "Stilt", "Curlew")
	if !ok || !e.Hearing || len(e.Parts) != 1 || math.Abs(*e.Parts[0].DB+3) > 1e-9 || *e.Parts[0].Lo > -4 || *e.Parts[0].Hi < -2 ||
		e.Parts[0].Receivers != 3 || !strings.Contains(e.Says, "Stilt brings 9 dB more noise, by 3 pairs of readings") ||
		!strings.Contains(e.Says, "Curlew hears 3.0 dB more over its noise on 20 m") {
		t.Errorf("%+v", e)
	}
	// Read to whole S-units, the same says less; with nothing sent the noise stands alone; one reading proves nothing.
	for i := range notes {
		notes[i].Text = "S5"
	}
	rough, _ := Hearing(sent, notes, []string{"a"}, []string{"b"}, "Stilt", "Curlew")
	if v := rough.Parts[0]; *v.Hi-*v.Lo <= 1.5*(*e.Parts[0].Hi-*e.Parts[0].Lo) {
		t.Errorf("%v to %v", *v.Lo, *v.Hi)
	}
	if alone, ok := Hearing(nil, notes[:2], []string{"b"}, []string{"a"}, "Curlew", "Stilt"); !ok || len(alone.Parts) != 0 ||
		!strings.Contains(alone.Says, "Stilt brings 9 dB more noise, by 1 pair of readings") {
		t.Errorf("%+v", alone)
	}
	if _, ok := Hearing(sent, notes[:1], []string{"a"}, []string{"b"}, "", ""); ok {
		t.Error("one side alone says nothing")
	}
}
