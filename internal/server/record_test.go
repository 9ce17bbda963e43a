package server

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"reed/internal/testsize"
)

func aerial(letter string, id int, name string) map[string]any {
	return map[string]any{"letter": letter, "deployment_id": uid(id), "name": name}
}

// A second outing, with the antenna of the first put up again, and a third beside it.
func (c *client) again(id, dep int, name, date string) {
	c.t.Helper()
	c.call("PUT", "/api/outings/"+uid(id), map[string]any{"name": "Hollow Fell", "date": date, "place": "46.5 N 12.2 W",
		"ground": "rock"}, 200, nil)
	plan := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7.1e6, "trim_percent": 2}
	c.call("PUT", "/api/deployments/"+uid(dep), map[string]any{"outing_id": uid(id), "name": name, "plan": plan}, 200, nil)
	c.raise(dep+1, dep, "end-fed", "sloper", "19.8 m")
}

const (
	fell  = 810
	egret = 820
	rail  = 830
)

// Two antennas that never took turns are compared by a third that did with each, on other days, and it finds what only the network knows.
func TestAReferenceTellsTwoThatNeverTookTurns(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, stilt, "end-fed", "sloper", "19.8 m")
	c.again(fell, egret, "Egret", "2026-05-10")
	c.network.Seed, c.network.Better = 5, map[string]float64{"A": 5}
	c.heardRun(601, 120, "2026-05-16T11:00:00Z", aerial("A", heron, "Heron"), aerial("B", egret, "Egret"))
	c.network.Seed, c.network.Better = 6, nil
	c.heardRun(602, 120, "2026-05-14T11:00:00Z", aerial("A", stilt, "Stilt"), aerial("B", egret, "Egret"))
	list := c.evidence("a=" + uid(heron) + "&b=" + uid(stilt))
	if len(list) < 1 || list[0].Strength != "some" || !list[0].Simulated || !strings.Contains(list[0].Kind, "by a reference, Egret") {
		t.Fatalf("%+v", list)
	}
	v := list[0].Parts[0]
	if *v.DB < 3 || *v.DB > 7 || *v.Lo <= 0 || *v.Lo > 5 || *v.Hi < 5 || !strings.Contains(list[0].Says, "Heron is") {
		t.Errorf("%+v: %s", v, list[0].Says)
	}
	for _, e := range list[1:] {
		if e.Strength != "weak" {
			t.Errorf("%+v", e)
		}
	}
	// Once they take turns the reference is not asked.
	c.heardRun(603, 80, "2026-05-15T11:00:00Z", aerial("A", heron, "Heron"), aerial("B", stilt, "Stilt"))
	for _, e := range c.evidence("a=" + uid(heron) + "&b=" + uid(stilt)) {
		if strings.Contains(e.Kind, "reference") {
			t.Errorf("%+v", e)
		}
	}
}

func TestAntennasAreWeighedOverAllOutings(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	c.again(fell, egret, "heron", "2026-05-10") // the same kind and name
	log := func(dep, out, seed, count, seconds int, begin time.Time) {
		for i := range count {
			at := begin.Add(time.Duration(i*seconds) * time.Second).Format(time.RFC3339)
			c.call("PUT", "/api/contacts/"+uid(1000+100*seed+i), map[string]any{"outing_id": uid(out), "deployment_id": uid(dep), "at": at,
				"seconds": true, "call": fmt.Sprintf("Q%dAB%c", i%10, 'A'+i), "band": "40m", "mode": "CW", "sent": "599", "received": "579"}, 200, nil)
		}
	}
	day := time.Date(2026, 5, 12, 8, 0, 0, 0, time.UTC)
	log(heron, outing, 1, 13, 180, day)
	log(stilt, outing, 2, 9, 400, day.Add(3*time.Hour))
	log(egret, fell, 3, 13, 200, day.AddDate(0, 0, -2))

	var groups []GroupInfo
	c.call("GET", "/api/groups", nil, 200, &groups)
	if len(groups) != 2 || groups[0].Id != "antenna:"+uid(egret) || groups[0].SetUps != 2 || groups[1].Id != "family:end-fed" {
		t.Fatalf("%+v", groups)
	}
	var record AllOutings
	c.call("GET", "/api/record", nil, 200, &record)
	if record.First == nil || len(record.Ranks) == 0 || len(record.Antennas) != 2 {
		t.Fatalf("%+v", record)
	}
	r := record.Ranks[0]
	// The first contact of an outing, and the first after the break of over an hour, have no time of their own.
	if r.By != "contacts" || r.Band != "40m" || r.Site != "" || len(r.Rows) != 2 || r.Rows[0].Contacts != 24 || r.Rows[0].Outings != 2 ||
		r.Rows[1].Contacts != 8 || !(r.Rows[0].Level < 19 && r.Rows[0].Level > 10 && r.Rows[0].Seen > 18) ||
		!(r.Rows[1].Level > r.Rows[1].Seen) {
		t.Errorf("%+v", r)
	}
	var h History
	c.call("GET", "/api/deployments/"+uid(egret)+"/history", nil, 200, &h)
	if h.Antenna.Key != uid(egret) || len(h.Past) != 2 || h.Past[1].Date != "2026-05-10" || h.Past[1].Site != "Bare rock" ||
		h.Past[0].Bands[0].Contacts != 12 || !(h.Past[0].Bands[0].Lo < 20 && h.Past[0].Bands[0].Hi > 20) {
		t.Errorf("%+v", h)
	}
	c.call("GET", "/api/deployments/"+uid(999)+"/history", nil, 404, nil)

	// The antenna over its outings against another: contacts, runs and reports of all its set-ups.
	c.heardRun(601, 80, "2026-05-16T11:00:00Z")
	c.heardRun(602, 80, "2026-05-10T11:00:00Z", aerial("A", egret, "Heron"), aerial("B", stilt, "Stilt"))
	var view WeighView
	c.call("GET", "/api/weigh?a=antenna:"+uid(heron)+"&b="+uid(stilt), nil, 200, &view)
	if view.A.Tag.Name != "Heron" && view.A.Tag.Name != "heron" || view.A.Outing != "2 outings" || view.Comparison.A.Contacts != 26 ||
		view.Comparison.A.Hours > 2 || view.Evidence[0].Runs != 2 ||
		!strings.Contains(fmt.Sprint(view.Comparison.Uncontrolled), "combines 2 set-ups") {
		t.Errorf("%+v %+v", view.A, view.Comparison)
	}
	var reports []WeighedReport
	c.call("GET", "/api/weigh/reports?a=antenna:"+uid(egret)+"&b="+uid(stilt), nil, 200, &reports)
	if len(reports) == 0 {
		t.Error("a group opens to no reports")
	}
	for query, path := range map[string]string{
		"a=family:end-fed&b=antenna:" + uid(heron): "b", "a=family:end-fed&b=" + uid(egret): "b", "a=family:unheard-of&b=" + uid(stilt): "a",
	} {
		var bad Problem
		c.call("GET", "/api/weigh?"+query, nil, 422, &bad)
		if len(bad.Errors) == 0 || bad.Errors[0].Path != path {
			t.Errorf("%s: %+v", query, bad)
		}
	}
}

// What was heard of both, less the noise that was read on each, is how they hear; the headline stays how they are heard.
func TestNoiseTellsHowTheyHear(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	c.heardRun(601, 80, "2026-05-16T11:00:00Z")
	for i, x := range []struct {
		deployment int
		at, text   string
	}{{heron, "11:05", "-110 dBm"}, {stilt, "11:09", "-101 dBm"}, {heron, "12:00", "-109 dBm"}, {stilt, "12:10", "-102 dBm"}, {stilt, "13:00",
		"-60 dBm"}} {
		note := map[string]any{"id": uid(701 + i), "outing_id": uid(outing), "deployment_id": uid(x.deployment), "at": "2026-05-16T" + x.at +
			":00Z", "kind": "noise", "band": "40m", "text": x.text, "version": 0}
		c.call("PUT", "/api/notes/"+uid(701+i)+"?version=0", note, 200, nil)
	}
	var view WeighView
	c.call("GET", "/api/weigh?a="+uid(heron)+"&b="+uid(stilt), nil, 200, &view)
	if len(view.Evidence) != 3 || view.Evidence[0].Strength != "strong" || !view.Evidence[1].Hearing || !view.Evidence[1].Simulated ||
		view.Comparison.Headline != view.Evidence[0].Says {
		t.Fatalf("%+v", view.Evidence)
	}
	sent, hear := view.Evidence[0].Parts[0], view.Evidence[1].Parts[0]
	if *hear.DB < *sent.DB+7.9 || *hear.DB > *sent.DB+8.1 || hear.Receivers != 2 || *hear.Lo > *hear.DB-5 ||
		!strings.Contains(view.Evidence[1].Says, "Stilt brings 8 dB more noise, by 2 pairs of readings") {
		t.Errorf("%+v %+v", hear, view.Evidence[1])
	}
}

// Two antennas that never took turns, on days that differ much, are compared by a station that others heard on both.
func TestAReferenceStationCarriesADifferenceAcrossDays(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, stilt, "end-fed", "sloper", "19.8 m")
	c.again(fell, egret, "Egret", "2026-05-10")
	c.again(fell+1, rail, "Rail", "2026-05-09")
	rng := rand.New(rand.NewPCG(3, 1))
	base := make([]float64, 14)
	for i := range base {
		base[i] = -12 + 5*rng.NormFloat64()
	}
	text := strings.Builder{}
	text.WriteString("timestamp,sender,receiver,frequency,mode,snr,power\n")
	level := map[string]float64{uid(heron): 4}
	for k, day := range []struct {
		begin    string
		one, two int
		off      float64
	}{{"2026-05-14T11:00:00Z", heron, egret, -5}, {"2026-05-16T11:00:00Z", stilt, rail, 6}} {
		run := aRun(120)
		run["id"], run["begin"], run["seed"] = uid(601+k), day.begin, 601+k
		run["aerials"] = []map[string]any{aerial("A", day.one, "One"), aerial("B", day.two, "Two")}
		var state RunState
		c.call("PUT", "/api/runs/"+uid(601+k)+"?version=0", run, 200, &state)
		for _, slot := range state.Run.Slots {
			a, _ := state.Run.Aerial(slot.Letter)
			for i, at := range base {
				fade := day.off + 2*rng.NormFloat64()
				for who, snr := range map[string]float64{"Q2TAV": at + level[a.DeploymentID] + fade, "Q9REF": at + 3 + fade} {
					if snr += rng.NormFloat64(); snr > -28 {
						fmt.Fprintf(&text, "%s,%s,Q%dRX,7.0386,WSPR,%.0f,37\n", slot.At.Format(time.DateTime), who, i, snr)
					}
				}
			}
		}
	}
	f := file("heard.csv", text.String())
	f["outing_id"] = uid(outing)
	c.call("PUT", "/api/imports/"+uid(500), f, 200, nil)
	pair := "a=" + uid(heron) + "&b=" + uid(stilt)
	for _, e := range c.evidence(pair) {
		if e.Strength != "weak" {
			t.Errorf("%+v", e)
		}
	}
	var who WhoHeard
	c.call("GET", "/api/outings/"+uid(outing)+"/heard", nil, 200, &who)
	before := who.Sentence
	f["choices"] = map[string]string{"whose": "all"}
	c.call("PUT", "/api/imports/"+uid(501), f, 200, nil)
	list := c.evidence(pair)
	if len(list) < 2 || list[0].Strength != "some" || list[0].Simulated || !strings.Contains(list[0].Kind, "by a reference station, Q9REF, ") {
		t.Fatalf("%+v", list)
	}
	if v := list[0].Parts[0]; *v.DB < 2.5 || *v.DB > 5.5 || *v.Lo > 4 || *v.Hi < 4 || *v.Lo <= 0 {
		t.Errorf("%+v: %s", v, list[0].Says)
	}
	// They are no reports of who heard one.
	c.call("GET", "/api/outings/"+uid(outing)+"/heard", nil, 200, &who)
	if who.Sentence != before {
		t.Errorf("%s, before %s", who.Sentence, before)
	}
}
