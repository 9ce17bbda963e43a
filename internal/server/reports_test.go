package server

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
	"reed/internal/testsize"
)

const heardCSV = `timestamp,sender,receiver,locator,frequency,mode,snr,power
2026-05-16 14:00:00,Q2TAV,Q5ABC,JO22ab,14.0971,WSPR,-17,23
2026-05-16 14:02:00,Q2TAV,Q5ABC,JO22ab,14.0971,WSPR,-20,23
2026-05-16 14:00:00,Q2TAV,Q6DEF,FN31,14.0971,WSPR,-24,23
2026-05-16 14:00:00,Q9OTH,Q6DEF,FN31,14.0971,WSPR,-4,23
`

func (c *client) importFile(id int, name, text string) (out Imported) {
	c.t.Helper()
	f := file(name, text)
	f["outing_id"] = uid(outing)
	c.call("PUT", "/api/imports/"+uid(id), f, 200, &out)
	return out
}

func TestReportsAreImportedOnceAndTakenOutAgain(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var p Preview
	f := file("heard.csv", heardCSV)
	f["outing_id"] = uid(outing)
	c.call("POST", "/api/preview", f, 200, &p)
	if p.Kind != "reports" || len(p.Heard) != 4 || p.Heard[3].Taken {
		t.Fatalf("%+v", p)
	}
	if out := c.importFile(501, "heard.csv", heardCSV); out != (Imported{Added: 3, Refused: 1}) {
		t.Errorf("%+v", out)
	}
	if out := c.importFile(501, "heard.csv", heardCSV); out.Added != 0 {
		t.Errorf("the same import again adds %+v", out)
	}
	// Another file with one of them, later in its slot, and a new one.
	other := "timestamp,sender,receiver,locator,frequency,mode,snr\n2026-05-16 14:00:50,Q2TAV/P,Q5ABC,JO22ab,14.0971,WSPR,-17\n" +
		"2026-05-16 14:04:00,Q2TAV/P,Q5ABC,JO22ab,14.0971,WSPR,-19\n"
	if out := c.importFile(502, "other.csv", other); out.Added != 1 || out.Known != 1 {
		t.Errorf("%+v", out)
	}
	var who WhoHeard
	c.call("GET", "/api/outings/"+uid(outing)+"/heard", nil, 200, &who)
	if len(who.Receivers) != 2 || who.Receivers[0].Heard.Reports != 3 || who.Receivers[0].Lat == nil || who.Lat == nil ||
		!strings.HasPrefix(who.Sentence, "2 receivers heard you, in 4 reports; the farthest is Q6DEF at ") {
		t.Errorf("%+v", who)
	}
	var page ReportPage
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?most=3", nil, 200, &page)
	if len(page.Reports) != 3 || page.Next == "" || page.Reports[0].At.Minute() != 4 {
		t.Errorf("%+v", page)
	}
	after := page.Next
	page = ReportPage{}
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?most=3&after="+after, nil, 200, &page)
	if len(page.Reports) != 1 || page.Next != "" {
		t.Errorf("%+v", page)
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?receiver=Q6DEF", nil, 200, &page)
	if len(page.Reports) != 1 {
		t.Errorf("%+v", page)
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?after=nonsense", nil, 404, nil)
	var undone Imported
	c.call("DELETE", "/api/imports/"+uid(501), nil, 200, &undone)
	if undone.Added != -3 {
		t.Errorf("%+v", undone)
	}
	if out := c.importFile(501, "heard.csv", heardCSV); out.Added != 3 {
		t.Errorf("taken out and brought back: %+v", out)
	}
}

func (c *client) twoUp() {
	c.field()
	c.raise(901, heron, "end-fed", "sloper", "19.8 m")
	c.raise(902, stilt, "vertical", "raised-radials", "10.2 m")
}

func aRun(minutes int) map[string]any {
	return map[string]any{"id": uid(601), "outing_id": uid(outing), "begin": "2026-05-16T14:00:00Z", "mode": "WSPR", "power_w": 5,
		"minutes": minutes, "guard_s": 0, "bands": []string{"40m"}, "seed": 3, "slots": []any{}, "version": 0,
		"aerials": []map[string]any{{"letter": "A", "deployment_id": uid(heron), "name": "Heron"},
			{"letter": "B", "deployment_id": uid(stilt), "name": "Stilt"}}}
}

func TestABeaconRunIsHeardByTheNetworkAndWeighed(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	var state RunState
	c.call("PUT", "/api/runs/"+uid(601)+"?version=0", aRun(80), 200, &state)
	if len(state.Run.Slots) != 40 || state.SlotS != 120 || state.Run.Version != 1 || !strings.Contains(state.Says,
		"A, Heron and B, Stilt in turn") {
		t.Fatalf("%+v", state)
	}
	var in, again HeardRun
	c.call("PUT", "/api/runs/"+uid(601)+"/network", nil, 200, &in)
	c.call("PUT", "/api/runs/"+uid(601)+"/network", nil, 200, &again)
	if in.Added < 40 || in.Slots == 0 || again.Added != 0 {
		t.Errorf("%+v, again %+v", in, again)
	}
	var list []RunState
	c.call("GET", "/api/outings/"+uid(outing)+"/runs", nil, 200, &list)
	d := list[0].Differences[0]
	if len(list) != 1 || d.DB == nil || d.Lo == nil || d.Receivers < 5 || list[0].Reports != in.Added {
		t.Errorf("%+v", list)
	}
	var page ReportPage
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?most=1", nil, 200, &page)
	if r := page.Reports[0]; !r.Simulated || r.DeploymentID == "" || r.Sender != "Q2TAV" {
		t.Errorf("%+v", r)
	}
	// A slot that was sent with the other antenna is corrected: its reports go with it.
	slots := list[0].Run.Slots
	at := slots[0].At
	slots[0].Sent = map[string]string{"A": "B", "B": "A"}[slots[0].Letter]
	run := aRun(80)
	run["slots"] = slots
	c.call("PUT", "/api/runs/"+uid(601)+"?version=1", run, 200, &state)
	want := map[string]string{"A": uid(heron), "B": uid(stilt)}[slots[0].Sent]
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?most=500", nil, 200, &page)
	for _, r := range page.Reports {
		if r.At.Equal(at) && r.DeploymentID != want {
			t.Errorf("a report of the corrected slot belongs to %s", r.DeploymentID)
		}
	}
	slots[0].Sent = "Z"
	run["slots"] = slots
	var bad Problem
	c.call("PUT", "/api/runs/"+uid(601)+"?version=2", run, 422, &bad)
	if bad.Errors[0].Path != "slots.0" {
		t.Errorf("%+v", bad)
	}
	c.call("PUT", "/api/runs/"+uid(602)+"?version=0", aRun(2), 422, &bad)
	if bad.Errors[0].Path != "minutes" {
		t.Errorf("%+v", bad)
	}
}

// Reports of a file come to the antennas of the run by their time, also where all their clocks are 40 s late.
func TestImportedReportsBelongToTheSlotsOfTheRun(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	var state RunState
	c.call("PUT", "/api/runs/"+uid(601)+"?version=0", aRun(40), 200, &state)
	text := "timestamp,sender,receiver,locator,frequency,mode,snr\n"
	for i, s := range state.Run.Slots {
		snr := -20
		if s.Letter == "A" {
			snr = -14
		}
		for k := range 6 {
			text += fmt.Sprintf("%s,Q2TAV,Q%dRX,JO22,7.0386,WSPR,%d\n", s.At.Add(40*time.Second).Format("2006-01-02 15:04:05"), k, snr-k+(i+k)%2)
		}
	}
	c.importFile(503, "late.csv", text)
	var list []RunState
	c.call("GET", "/api/outings/"+uid(outing)+"/runs", nil, 200, &list)
	if d := list[0].Differences[0]; d.DB == nil || *d.DB < 5 || *d.DB > 7 || d.Receivers != 6 {
		t.Errorf("%+v", d)
	}
	var page ReportPage
	c.call("GET", "/api/outings/"+uid(outing)+"/reports?most=500", nil, 200, &page)
	for _, r := range page.Reports {
		s, ok := state.Run.SlotOf(r.At, "40m", 40*time.Second)
		if a, _ := state.Run.Aerial(s.By()); !ok || a.DeploymentID != r.DeploymentID {
			t.Errorf("%s: %s is given to %s", r.At, s.Letter, r.DeploymentID)
		}
	}
}

func TestNotesStandBesideTheContacts(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	note := map[string]any{"id": uid(701), "outing_id": uid(outing), "deployment_id": uid(heron), "at": "2026-05-16T14:00:00Z",
		"kind": "noise",
		"band": "40m", "text": "S4", "version": 0}
	c.call("PUT", "/api/notes/"+uid(701)+"?version=0", note, 200, nil)
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if len(log.Notes) != 1 || log.Notes[0].Says != "noise floor on 40 m: S4, about -103 dBm" || log.Notes[0].Letter != "A" ||
		len(log.Paces) != 2 ||
		len(log.NoteKinds) < 7 {
		t.Errorf("%+v", log)
	}
	note["text"] = "loud"
	var bad Problem
	c.call("PUT", "/api/notes/"+uid(702)+"?version=0", note, 422, &bad)
	if bad.Errors[0].Path != "text" {
		t.Errorf("%+v", bad)
	}
}

func TestManyLinesAreReadEachAfterTheOneBefore(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var out []LineRead
	c.call("POST", "/api/lines", map[string]any{"outing_id": uid(outing), "lines": []string{"Q2TAX 59 57 @2026-05-16T14:00 40m SSB",
		"Q3TAX 59 55 @2026-05-16T14:02", "nonsense here", "q2tax 57 57 @2026-05-16T14:05"}}, 200, &out)
	if len(out) != 4 || out[1].Contact.Band != "40m" || len(out[2].Problems) == 0 || out[3].Worked != "Q2TAX is a duplicate" ||
		out[0].Worked != "" {
		t.Errorf("%+v", out)
	}
}

func TestALineIsCorrectedInPlace(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	put := func(version, line string, want int, out any) {
		c.call("PUT", "/api/contacts/"+uid(801)+"/line"+version, map[string]any{"outing_id": uid(outing), "line": line}, want, out)
	}
	var first, second onair.Contact
	put("", "Q2TAX 59 57 40m SSB @2026-05-16T14:00", 200, &first)
	put("?version=1", "Q2TAZ 59 57 40m SSB ^IN46", 200, &second)
	if second.ID != first.ID || second.Call != "Q2TAZ" || second.Locator != "IN46" || !second.At.Equal(first.At) || second.Version != 2 {
		t.Errorf("%+v", second)
	}
	put("?version=1", "Q2TBB 59 57 40m SSB", 409, nil)
	var read LineRead
	c.call("PUT", "/api/outings/"+uid(2), map[string]any{"name": "Sedge Quay", "date": "2026-05-17", "place": "IN36"}, 200, nil)
	c.call("POST", "/api/line", map[string]any{"outing_id": uid(2), "line": "Q2TAZ 59 57 40m SSB ^IN46"}, 200, &read)
	if read.Before != "Worked once before: 2026-05-16 at Gannet Spit on 40 m." || read.Km < 100 || read.Worked != "" {
		t.Errorf("%+v", read)
	}
}

func TestTheRadioIsAskedAndTheBoardLookedAt(t *testing.T) {
	testsize.SkipIfShort(t, "solves a set-up")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	var r RadioState
	c.call("GET", "/api/outings/"+uid(outing)+"/radio?deployment="+uid(heron)+"&band=40m&mode=CW", nil, 200, &r)
	if !r.Simulated || !strings.HasPrefix(r.Mhz, "7.0") || r.Mode != "CW" || r.Swr < 1 || r.Dbm == nil || !strings.Contains(r.Says,
		"simulated; SWR") {
		t.Errorf("%+v", r)
	}
	var list []BoardSpot
	c.call("GET", "/api/outings/"+uid(outing)+"/board", nil, 200, &list)
	n := len(list)
	var own BoardSpot
	c.call("PUT", "/api/outings/"+uid(outing)+"/board", map[string]any{"mhz": r.Mhz, "mode": r.Mode}, 200, &own)
	c.call("GET", "/api/outings/"+uid(outing)+"/board", nil, 200, &list)
	if len(list) != n+1 || !list[0].Own || list[0].Ref != "MI-0001" || !own.Simulated {
		t.Errorf("%d, then %+v", n, list)
	}
	for _, bad := range []map[string]any{{"mhz": "9.3", "mode": "CW"}, {"mhz": "seven", "mode": "CW"}, {"mhz": "7.03", "mode": "SMOKE"}} {
		c.call("PUT", "/api/outings/"+uid(outing)+"/board", bad, 422, nil)
	}
	// A radio that is not there is said at its field.
	var me Me
	c.call("GET", "/api/me", nil, 200, &me)
	me.Radio = "127.0.0.1:1"
	c.call("PUT", "/api/me?version=1", me, 200, &me)
	var bad Problem
	c.call("GET", "/api/outings/"+uid(outing)+"/radio", nil, 422, &bad)
	if bad.Errors[0].Path != "radio" || !strings.Contains(bad.Errors[0].Detail, "no radio answers at 127.0.0.1:1") {
		t.Errorf("%+v", bad)
	}
}

func TestTheLogGoesOutInEveryFormAndByReference(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	for i, line := range []string{"Q2TAX 59 57 40m SSB @2026-05-16T14:00 +MI-0001 +MI-0044 ^JO22", "Q3TAX 59 57 @2026-05-16T14:01 +MI-0001"} {
		c.call("PUT", "/api/contacts/"+uid(850+i)+"/line", map[string]any{"outing_id": uid(outing), "line": line}, 200, nil)
	}
	get := func(path string) (text string) {
		t.Helper()
		c.call("GET", "/api/outings/"+uid(outing)+path, nil, 200, &text)
		return text
	}
	for path, want := range map[string]int{"/log.adi": 2, "/log.adx": 2, "/log.csv": 2, "/log.geojson": 2,
		"/log.adi?ref=mi-0044": 1, "/log.csv?ref=MI-0044": 1,
		"/log.adx?ref=MI-9999": 0} {
		if text := get(path); strings.Count(text, "TAX") != want {
			t.Errorf("%s: %s", path, text)
		}
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/log.doc", nil, 400, nil)
}

func TestWhetherTheAntennaSendsThere(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.twoUp()
	toward := func(query string) (out Toward) {
		t.Helper()
		c.call("GET", "/api/deployments/"+uid(heron)+"/toward?"+query, nil, 200, &out)
		return out
	}
	far, near := toward("band=40m&km=3000&bearing=90"), toward("band=40m&km=300&bearing=90")
	if far.TakeOff >= near.TakeOff || far.GainDbi >= near.GainDbi || far.BestDbi < far.GainDbi || !strings.HasPrefix(far.Says,
		"Heron sends ") {
		t.Errorf("%+v %+v", far, near)
	}
	worst := 0.0
	for _, bearing := range []string{"0", "90", "180", "270"} {
		x := toward("band=20m&km=2000&bearing=" + bearing)
		worst = max(worst, x.BestDbi-x.GainDbi)
	}
	if worst < 2 {
		t.Errorf("a sloping wire sends all ways alike within %.1f dB", worst)
	}
	var bad Problem
	c.call("GET", "/api/deployments/"+uid(heron)+"/toward?band=3m&km=300&bearing=90", nil, 422, &bad)
	if bad.Errors[0].Path != "band" {
		t.Errorf("%+v", bad)
	}
}

func TestARuleIsEditedAndWhatItCountsIsCountedAnew(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	for i, line := range []string{"Q2TAX 599 579 40m CW @2026-05-16T14:00 +MI-0001 +MI-0044", "Q2TAX @2026-05-16T14:01 20m",
		"Q3TAX @2026-05-16T14:02 %Q5AB", "Q3TAX @2026-05-16T14:03"} {
		c.call("PUT", "/api/contacts/"+uid(850+i)+"/line", map[string]any{"outing_id": uid(outing), "line": line}, 200, nil)
	}
	counted := func() (p Log) {
		t.Helper()
		c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &p)
		return p
	}
	if p := counted().Progress; p.Duplicates != 1 || len(p.Parts) != 2 || p.Counted != 1 {
		t.Errorf("%+v", p)
	}
	var all []SaidScheme
	c.call("GET", "/api/schemes", nil, 200, &all)
	rule := all[0].Scheme
	rule.Unique, rule.References, rule.Operators, rule.Minimum = "call", false, true, 2
	var kept, bad struct {
		Version int
		Errors  []FieldError
	}
	c.call("PUT", "/api/schemes/"+rule.ID+"?version=0", rule, 200, &kept)
	// The second of Q2TAX is by oneself like the first but for other references, the last of Q3TAX by the operator who stayed.
	if p := counted().Progress; p.Duplicates != 1 || p.Scheme.Minimum != 2 ||
		len(p.Parts) != 2 || p.Parts[1].Name != "Q5AB" || kept.Version != 1 {
		t.Errorf("%+v", p)
	}
	rule.Minimum = -1
	c.call("PUT", "/api/schemes/"+rule.ID+"?version=1", rule, 422, &bad)
	if len(bad.Errors) != 1 || bad.Errors[0].Path != "minimum" {
		t.Errorf("%+v", bad)
	}
	c.call("PUT", "/api/schemes/A%20b?version=0", rule, 400, nil)
	own := rule
	own.ID, own.Name, own.Minimum = "own-1", "3 stations", 3
	c.call("PUT", "/api/schemes/own-1?version=0", own, 200, nil)
	c.call("POST", "/api/versions", map[string]any{"kind": "scheme", "id": "own-1", "to": 0, "version": 1}, 200, nil)
	c.call("GET", "/api/schemes", nil, 200, &all)
	if len(all) != 4 || !strings.Contains(all[0].Rule, "each operator") {
		t.Errorf("%+v", all)
	}
	var text string
	for path, want := range map[string]int{"?scheme=ten-a-day": 3, "?scheme=four-stations": 2, "?scheme=ten-a-day&ref=MI-0044": 1,
		"?scheme=none": 3} {
		if c.call("GET", "/api/outings/"+uid(outing)+"/log.adi"+path, nil, 200, &text); strings.Count(text, "<EOR>") != want {
			t.Errorf("%s: %s", path, text)
		}
	}
	if c.call("GET", "/api/outings/"+uid(outing)+"/log.adi", nil, 200, &text); !strings.Contains(text, "<OPERATOR:4>Q5AB") {
		t.Errorf("the operator is lost: %s", text)
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/log.adi?scheme=dream", nil, 422, nil)
}
