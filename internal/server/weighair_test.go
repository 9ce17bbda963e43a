package server

import (
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"reed/core/deployment"
	"reed/core/weigh"
	"reed/internal/testsize"
)

// heardRun puts a run of two antennas and has the simulated network hear it.
func (c *client) heardRun(id, minutes int, begin string, aerials ...map[string]any) {
	c.t.Helper()
	run := aRun(minutes)
	run["id"], run["begin"], run["seed"] = uid(id), begin, id
	if len(aerials) > 0 {
		run["aerials"] = aerials
	}
	c.call("PUT", "/api/runs/"+uid(id)+"?version=0", run, 200, nil)
	c.call("PUT", "/api/runs/"+uid(id)+"/network", nil, 200, nil)
}

func (c *client) evidence(query string) (out []weigh.Evidence) {
	c.t.Helper()
	c.call("GET", "/api/weigh/air?"+query, nil, 200, &out)
	return out
}

// Two antennas of the same wire, and a difference that only the simulated network knows, through the whole program. One
// answer judges all runs: judging takes most of the time.
func TestADifferenceThatOnlyTheNetworkKnowsIsFound(t *testing.T) {
	testsize.SkipIfShort(t, "judges a dozen beacon runs")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, stilt, "end-fed", "sloper", "19.8 m")
	const runs = 4 // of each
	truth := map[string]float64{}
	for _, db := range []float64{0, 4} {
		for seed := range runs {
			c.network.Seed, c.network.Better = uint64(100+seed), map[string]float64{"A": db}
			id := 700 + 10*int(db) + seed
			c.heardRun(id, 80, time.Date(2026, time.Month(5-int(db)), 15-seed, 10, 0, 0, 0, time.UTC).Format(time.RFC3339))
			truth[uid(id)] = db
		}
	}
	var list []RunState
	c.call("GET", "/api/outings/"+uid(outing)+"/runs", nil, 200, &list)
	if len(list) != len(truth) {
		t.Fatalf("%d runs of %d", len(list), len(truth))
	}
	differs, held := map[float64]int{}, 0
	for _, x := range list {
		db, d := truth[x.Run.ID], x.Differences[0]
		if d.Lo == nil {
			t.Fatalf("%v dB, run %s: %+v", db, x.Run.ID, d)
		}
		if *d.Lo > 0 || *d.Hi < 0 {
			differs[db]++
		}
		if *d.Lo <= db && db <= *d.Hi {
			held++
		}
		if db > 0 && *d.Lo <= 0 {
			t.Errorf("%v dB, run %s: %s", db, x.Run.ID, d.Says)
		}
	}
	if differs[0] > 1 || differs[4] != runs || held < 2*runs-1 {
		t.Errorf("a difference found: of none in %d of %d, of 4 dB in %d of %d; the interval held %d", differs[0], runs, differs[4], runs, held)
	}
}

func TestEvidenceOpensToItsReports(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	c.heardRun(601, 80, "2026-05-16T11:00:00Z")
	pair := "a=" + uid(heron) + "&b=" + uid(stilt)
	all := c.evidence(pair)
	if len(all) != 1 || !all[0].Simulated || all[0].Strength != "strong" || all[0].Runs != 1 || len(all[0].Receivers) == 0 {
		t.Fatalf("%+v", all)
	}
	far := c.evidence(pair + "&least_km=1500")[0]
	if n := far.Parts[0].Reports; n == 0 || n >= all[0].Parts[0].Reports {
		t.Errorf("%d reports from afar, %d of all", n, all[0].Parts[0].Reports)
	}
	if none := c.evidence(pair + "&bands=20m"); len(none) != 0 {
		t.Errorf("%+v", none)
	}
	who := all[0].Receivers[0].Receiver
	var list []WeighedReport
	c.call("GET", "/api/weigh/reports?"+pair+"&receiver="+who, nil, 200, &list)
	if len(list) != all[0].Receivers[0].HeardA+all[0].Receivers[0].HeardB || list[0].Antenna == "" {
		t.Fatalf("%d reports of %+v", len(list), all[0].Receivers[0])
	}
	// One is set aside with a reason, the verdict says so, and it comes back.
	id := list[0].Report.ID
	aside := func(reason string, want int) {
		t.Helper()
		c.call("PUT", "/api/reports/"+id+"/aside", map[string]any{"reason": reason}, want, nil)
	}
	aside(" clock was off ", 200)
	e := c.evidence(pair)[0]
	if e.SetAside != 1 || e.Parts[0].Reports != all[0].Parts[0].Reports-1 || !strings.Contains(e.Says, "1 report set aside") {
		t.Errorf("%+v", e)
	}
	c.call("GET", "/api/weigh/reports?"+pair+"&receiver="+who, nil, 200, &list)
	if list[0].Report.SetAside != "clock was off" {
		t.Errorf("%+v", list[0])
	}
	var table string
	c.call("GET", "/api/weigh/data.csv?"+pair, nil, 200, &table)
	rows, err := csv.NewReader(strings.NewReader(table)).ReadAll()
	if err != nil || len(rows) != 1+40+e.Parts[0].Reports+1 || !strings.Contains(table, "clock was off") {
		t.Errorf("%d rows: %v", len(rows), err)
	}
	aside("", 200)
	if e := c.evidence(pair)[0]; e.SetAside != 0 || e.Parts[0].Reports != all[0].Parts[0].Reports {
		t.Errorf("%+v", e)
	}
	c.call("PUT", "/api/reports/999999/aside", map[string]any{"reason": "x"}, 404, nil)
	c.call("PUT", "/api/reports/x/aside", map[string]any{"reason": "x"}, 400, nil)
	for query, path := range map[string]string{"&least_km=900&most_km=100": "most_km", "&toward=400": "toward", "&from_hour=25": "from_hour"} {
		var bad Problem
		if c.call("GET", "/api/weigh/air?"+pair+query, nil, 422, &bad); bad.Errors[0].Path != path {
			t.Errorf("%s: %+v", query, bad)
		}
	}
}

func TestRevisionsOfOneDeploymentAreWeighed(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, heron, "end-fed", "sloper", "18.2 m")
	both := []map[string]any{{"letter": "A", "deployment_id": uid(heron), "revision": 1, "name": "Heron"},
		{"letter": "B", "deployment_id": uid(heron), "revision": 2, "name": "Heron"}}
	c.heardRun(601, 60, "2026-05-16T11:00:00Z", both...)
	pair := "a=" + uid(heron) + "@1&b=" + uid(heron) + "@2"
	e := c.evidence(pair)
	if len(e) != 1 || e[0].Parts[0].SlotsA != 15 || e[0].Parts[0].A != "Heron, revision 1" {
		t.Fatalf("%+v", e)
	}
	var v WeighView
	c.call("GET", "/api/weigh?"+pair, nil, 200, &v)
	if v.A.Tag.Name != "Heron, revision 1" || len(v.Comparison.Differences) == 0 || v.Comparison.Headline != e[0].Says {
		t.Errorf("%+v", v)
	}
	for _, bad := range []string{"a=" + uid(heron) + "&b=" + uid(heron) + "@2", "a=" + uid(heron) + "@0&b=" + uid(heron) + "@2",
		"a=" + uid(heron) + "@1&b=" + uid(heron) + "@1"} {
		c.call("GET", "/api/weigh/air?"+bad, nil, 422, nil)
	}
	c.call("GET", "/api/weigh/air?a="+uid(heron)+"@1&b="+uid(heron)+"@7", nil, 404, nil)
}

func TestSlotsOfOtherDaysProveLess(t *testing.T) {
	testsize.SkipIfShort(t, "judges beacon runs")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	alone := func(id int, deployment int, begin string) {
		c.heardRun(id, 40, begin, map[string]any{"letter": "A", "deployment_id": uid(deployment), "name": "one"},
			map[string]any{"letter": "B", "deployment_id": uid(deployment), "name": "one"})
	}
	alone(601, heron, "2026-05-15T11:00:00Z")
	alone(602, stilt, "2026-05-14T11:00:00Z")
	e := c.evidence("a=" + uid(heron) + "&b=" + uid(stilt))
	if len(e) != 1 || e[0].Strength != "weak" || e[0].Parts[0].InTurn || *e[0].Parts[0].Hi-*e[0].Parts[0].Lo < 20 {
		t.Errorf("%+v", e)
	}
}

func TestLessonsComeBackWithTheirPlaceAndKind(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var d struct {
		Deployment map[string]any
	}
	c.call("GET", "/api/deployments/"+uid(heron), nil, 200, &d)
	c.call("PUT", "/api/deployments/"+uid(heron)+"?version=1", map[string]any{"outing_id": uid(outing), "name": "Heron",
		"plan": d.Deployment["plan"], "lesson": "Keep the far end off the fence."}, 200, nil)
	c.call("PUT", "/api/outings/"+uid(2), map[string]any{"name": "Sedge Quay", "date": "2026-05-17", "place": "46.9 N 12.9 W"}, 200, nil)
	c.call("PUT", "/api/outings/"+uid(3), map[string]any{"name": "Gannet Spit again", "date": "2026-05-18",
		"place": "46.5 N 12.2 W"}, 200, nil)
	for _, x := range []struct {
		outing  int
		family  string
		because string
	}{{2, "end-fed", "this kind of antenna"}, {2, "vertical", ""}, {3, "vertical", "this place"}, {outing, "end-fed", ""}} {
		var list []deployment.Lesson
		c.call("GET", "/api/outings/"+uid(x.outing)+"/lessons?family="+x.family, nil, 200, &list)
		if x.because == "" && len(list) > 0 || x.because != "" && (len(list) != 1 || list[0].Because != x.because ||
			list[0].Outing != "Gannet Spit") {
			t.Errorf("%+v: %+v", x, list)
		}
	}
}

// Two operators send with the same antennas: what each heard stands for itself, and together.
func TestBundlesOfTwoOperatorsArePooledAndKeptApart(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	here := newClient(t)
	here.twoUp()
	here.heardRun(601, 80, "2026-05-16T10:00:00Z")
	var text string
	here.call("GET", "/api/outings/"+uid(outing)+"/bundle.zip", nil, 200, &text)
	there := newClient(t)
	there.call("PUT", "/api/me", map[string]any{"call": "Q7TAV", "region": 1, "imperial": false, "power_w": 5, "good_swr": 2,
		"segments": []any{}},
		200, nil)
	bring := func(c *client, text string, want int) (out MergedBundle) {
		t.Helper()
		c.call("POST", "/api/bundles", map[string]any{"name": "b.zip", "content": []byte(text)}, want, &out)
		return out
	}
	if m := bring(there, text, 200); m.Merged.Reports < 100 || !strings.HasPrefix(m.Says, "From Q2TAV: ") {
		t.Errorf("%+v", m)
	}
	if m := bring(there, text, 200); m.Merged.Total() != 0 || m.Says != "All of it is here already." {
		t.Errorf("%+v", m)
	}
	there.network.Seed = 77
	there.heardRun(602, 60, "2026-05-16T12:00:00Z")
	pair := "a=" + uid(heron) + "&b=" + uid(stilt)
	e := there.evidence(pair)
	if len(e) != 3 || e[0].Runs != 2 || !strings.Contains(e[0].Kind, "of 2 operators together") ||
		e[1].Parts[0].Reports+e[2].Parts[0].Reports !=
			e[0].Parts[0].Reports || !strings.HasSuffix(e[1].Kind, "by Q2TAV") {
		t.Errorf("%+v", e)
	}
	there.call("GET", "/api/outings/"+uid(outing)+"/bundle.zip", nil, 200, &text)
	bring(here, text, 200)
	if back := here.evidence(pair); len(back) != 3 || *back[0].Parts[0].DB != *e[0].Parts[0].DB {
		t.Errorf("%+v", back)
	}
	bring(there, "nothing", 422)
}

// How antennas hear is told by listening with them in turn, and kept apart from how they are heard, through the whole program.
func TestListeningInTurnSaysHowAntennasHear(t *testing.T) {
	testsize.SkipIfShort(t, "judges beacon runs")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, stilt, "end-fed", "sloper", "19.8 m")
	c.network.Better = map[string]float64{"A": 5}
	run := aRun(120)
	run["listen"], run["power_w"], run["begin"] = true, 0, "2026-05-16T10:00:00Z"
	var state RunState
	c.call("PUT", "/api/runs/"+uid(601)+"?version=0", run, 200, &state)
	if !state.Run.Listen || !strings.Contains(state.Says, "A, Heron and B, Stilt listen in turn on 40 m") {
		t.Errorf("%+v", state)
	}
	var in HeardRun
	c.call("PUT", "/api/runs/"+uid(601)+"/network", nil, 200, &in)
	pair := "a=" + uid(heron) + "&b=" + uid(stilt)
	all := c.evidence(pair)
	if in.Added < 100 || len(all) != 1 || !all[0].Hearing || all[0].Strength != "strong" ||
		!strings.HasPrefix(all[0].Kind, "listened with in turn") {
		t.Fatalf("%+v %+v", in, all)
	}
	v := all[0].Parts[0]
	if v.DB == nil || *v.Lo > 5 || *v.Hi < 5 || *v.Lo <= 0 || v.SilentA+v.SilentB != 0 || v.Reports != in.Added ||
		!strings.Contains(v.Says, "Heron hears ") || !strings.Contains(v.Says, "stations") {
		t.Errorf("%+v", v)
	}
	// Nobody heard them: no map, no model beside the air, no evidence of being heard.
	var who WhoHeard
	c.call("GET", "/api/outings/"+uid(outing)+"/heard", nil, 200, &who)
	if len(who.Receivers) != 0 || !strings.HasPrefix(who.Sentence, "No reception reports yet") {
		t.Errorf("%+v", who)
	}
	station := all[0].Receivers[0].Receiver
	var list []WeighedReport
	c.call("GET", "/api/weigh/reports?"+pair+"&receiver="+station, nil, 200, &list)
	if len(list) != all[0].Receivers[0].HeardA+all[0].Receivers[0].HeardB || !list[0].Report.Own || list[0].Report.Receiver != "Q2TAV" ||
		list[0].Report.Sender != station {
		t.Errorf("%+v", list)
	}
	var view WeighView
	c.call("GET", "/api/weigh?"+pair, nil, 200, &view)
	if !strings.Contains(view.Comparison.Headline, "Heron hears ") {
		t.Errorf("%s", view.Comparison.Headline)
	}
	// What was sent in turn stands beside it, and comes first.
	c.heardRun(602, 80, "2026-05-16T12:30:00Z")
	all = c.evidence(pair)
	if len(all) != 2 || all[0].Hearing || !all[1].Hearing || *all[1].Parts[0].DB != *v.DB {
		t.Errorf("%+v", all)
	}
	c.call("GET", "/api/weigh?"+pair, nil, 200, &view)
	if view.Comparison.Headline != all[0].Says {
		t.Errorf("%s", view.Comparison.Headline)
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/heard", nil, 200, &who)
	for _, r := range who.Receivers {
		if r.Heard.Receiver == "Q2TAV" {
			t.Errorf("one heard oneself: %+v", r)
		}
	}
	run["listen"] = false
	c.call("PUT", "/api/runs/"+uid(603)+"?version=0", run, 422, nil)
}
