package server

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"

	"reed/core/circuit"
	"reed/core/phrase"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/demo"
	"reed/internal/standin"
	"reed/internal/store"
	"reed/internal/testsize"
)

var testNow = time.Date(2026, 5, 16, 14, 32, 0, 0, time.UTC)

type client struct {
	t      testing.TB
	h      http.Handler
	store  *store.Store
	router routers.Router
	asked  int
	// network may be given another seed, or a difference that it alone knows
	network *standin.Network
}

func init() {
	// A calendar is text for the contract's check.
	openapi3filter.RegisterBodyDecoder("text/calendar", openapi3filter.PlainBodyDecoder)
}

func newClient(t testing.TB) *client {
	t.Helper()
	st, err := store.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	c := &client{t: t, store: st, network: &standin.Network{Seed: 2026}}
	if c.h, err = New(st, Options{Now: func() time.Time { return testNow }, Network: c.network}); err != nil {
		t.Fatal(err)
	}
	if c.router, err = contractRouter(); err != nil {
		t.Fatal(err)
	}
	return c
}

// request is one from the machine itself.
func request(method, path string, body io.Reader) *http.Request {
	r := httptest.NewRequest(method, path, body)
	r.RemoteAddr = "127.0.0.1:50000"
	return r
}

// call sends a request, checks that the answer keeps to the contract, and decodes it into out.
func (c *client) call(method, path string, body any, want int, out any) {
	c.t.Helper()
	var in io.Reader
	if body != nil {
		text, ok := body.(string)
		if !ok {
			b, err := json.Marshal(body)
			if err != nil {
				c.t.Fatal(err)
			}
			text = string(b)
		}
		in = strings.NewReader(text)
	}
	r := request(method, "http://localhost"+path, in)
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	w := httptest.NewRecorder()
	c.h.ServeHTTP(w, r)
	if w.Code != want {
		c.t.Fatalf("%s %s: %d, want %d\n%s", method, path, w.Code, want, w.Body)
	}
	route, params, err := c.router.FindRoute(r)
	if err == nil && w.Code < 300 {
		err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: route},
			Status:                 w.Code, Header: w.Header(), Body: io.NopCloser(bytes.NewReader(w.Body.Bytes())),
			Options: &openapi3filter.Options{IncludeResponseStatus: true},
		})
		if err != nil {
			c.t.Errorf("%s %s: the answer breaks the contract: %v", method, path, err)
		}
	}
	if out == nil {
		return
	}
	if s, ok := out.(*string); ok {
		*s = w.Body.String()
		return
	}
	if err := json.Unmarshal(w.Body.Bytes(), out); err != nil {
		c.t.Fatalf("%s %s: %v\n%s", method, path, err, w.Body)
	}
}

func uid(n int) string { return fmt.Sprintf("00000000-0000-7000-8000-%012d", n) }

const (
	outing = 1
	heron  = 11
	stilt  = 12
)

// field sets up an operator, an outing and two planned antennas.
func (c *client) field() {
	c.t.Helper()
	var me Me
	c.call("GET", "/api/me", nil, 200, &me)
	me.Call = "q2tav"
	c.call("PUT", "/api/me", me, 200, &me)
	c.call("PUT", "/api/outings/"+uid(outing), map[string]any{"name": "Gannet Spit", "date": "2026-05-16", "place": "46.5 N 12.2 W",
		"ground": "sea", "own_ref": "MI-0001", "until": "20:30"}, 200, nil)
	plan := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7.1e6, "trim_percent": 2}
	c.call("PUT", "/api/deployments/"+uid(heron), map[string]any{"outing_id": uid(outing), "name": "Heron", "plan": plan}, 200, nil)
	plan = map[string]any{"family": "vertical", "variant": "raised-radials", "frequency_hz": 7.1e6, "trim_percent": 2}
	c.call("PUT", "/api/deployments/"+uid(stilt), map[string]any{"outing_id": uid(outing), "name": "Stilt", "plan": plan}, 200, nil)
}

func length(text string) map[string]string { return map[string]string{"typed": text, "unit": "m"} }

func (c *client) raise(id, dep int, family, variant, radiator string) {
	c.t.Helper()
	built := map[string]any{"family": family, "variant": variant, "frequency_hz": 7.1e6, "radiator": length(radiator),
		"feed_height": length("1.5 m"), "far_height": length("6 m"),
		"coax": map[string]any{"type": "RG-58", "length": length("20 m")}, "power_w": 10}
	if family == "end-fed" {
		built["primary_turns"], built["secondary_turns"] = 2, 14
	}
	if family == "vertical" {
		delete(built, "far_height")
		built["radials"] = map[string]any{"count": 4, "length": length("10 m"), "height": length("0.5 m")}
	}
	c.call("PUT", "/api/revisions/"+uid(id), map[string]any{"deployment_id": uid(dep), "reason": "as cut", "built": built}, 200, nil)
}

func file(name, content string) map[string]any {
	return map[string]any{"name": name, "content": base64.StdEncoding.EncodeToString([]byte(content))}
}

func sweepFile(f0 float64) string {
	var b strings.Builder
	b.WriteString("# HZ Z RI R 50\n")
	s := circuit.SeriesAt(f0, 50, 12)
	for f := 6.6e6; f < 7.6e6; f += 10e3 {
		z := s.Z(f)
		fmt.Fprintf(&b, "%.0f %.6f %.6f\n", f, real(z)/50, imag(z)/50)
	}
	return b.String()
}

func TestAnOutingFromPlanToComparison(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(21, heron, "end-fed", "sloper", "20.5 m")
	c.raise(22, stilt, "vertical", "raised-radials", "10.2 m")
	c.call("PUT", "/api/sweeps/"+uid(31), map[string]any{"revision_id": uid(21), "file": file("a.s1p", sweepFile(6.95e6)), "where": "feed"},
		200, nil)
	c.call("PUT", "/api/sweeps/"+uid(32), map[string]any{"revision_id": uid(22),
		"file": map[string]any{"name": "typed", "typed": "7.0 1.8\n7.1 1.2\n7.2 1.7"}, "where": "radio"}, 200, nil)

	var view ReadingView
	c.call("GET", "/api/deployments/"+uid(heron)+"/reading", nil, 200, &view)
	if view.Band != "40m" || view.Verdict.Tone != "off" || math.Abs(view.Reading.MinAt-6.95e6) > 1e3 {
		t.Fatalf("%+v", view.Verdict)
	}
	done := compute[trim.Told](c, "trim", map[string]any{"id": uid(951), "slot": "s", "wait_ms": 5000, "revision_id": uid(21)})
	trimmed := done.Result
	if trimmed == nil {
		t.Fatalf("no advice: %+v", done)
	}
	if shorter := 20.5 - trimmed.Built.Radiator().M; shorter < 0.2 || shorter > 0.6 || !strings.HasPrefix(trimmed.Reason, "folded back") {
		t.Errorf("advice %+v", trimmed)
	}
	// What is asked for is another advice.
	other := compute[trim.Told](c, "trim", map[string]any{"id": uid(952), "slot": "s", "wait_ms": 5000, "revision_id": uid(21),
		"wanted_hz": []float64{6.9e6}}).Result
	if other.Built.Radiator().M <= 20.5 {
		t.Errorf("for a lower dip %+v", other)
	}
	var detail DeploymentDetail
	c.call("PUT", "/api/revisions/"+uid(23), map[string]any{"deployment_id": uid(heron), "reason": trimmed.Reason,
		"built": Built{Record: trimmed.Built}}, 200, &detail)
	// It waits for its sweep: that of the revision before is not taken for it.
	var waits ReadingView
	c.call("GET", "/api/deployments/"+uid(heron)+"/reading", nil, 200, &waits)
	if waits.Before != uid(21) || waits.RevisionId != "" || waits.Reading.Points != 0 {
		t.Errorf("%+v", waits)
	}
	if len(detail.Revisions) != 2 || len(detail.Revisions[1].Changes) != 1 || detail.Revisions[1].Changes[0].Field != "radiator" {
		t.Errorf("the proposal makes a revision with one change: %+v", detail.Revisions[1].Changes)
	}
	c.call("GET", "/api/deployments/"+uid(stilt)+"/reading", nil, 200, &view)
	feed := slices.IndexFunc(view.Facts, func(f phrase.Figure) bool { return f.Label == "at the feed point" })
	if view.Where != "radio" || view.Cable == "" || view.Reading.HasZ || feed < 0 || view.Facts[feed].Value <= view.Facts[0].Value {
		t.Errorf("through a cable: %q, %+v", view.Cable, view.Facts)
	}

	for i, line := range []string{"Q3AB 59 57 @1400 40m SSB ^IN56 ~A", "Q4AB 59 55 @1410", "Q5AB 57 57 @1420 ^JN46", "Q6AB 59 59 @1425 ~B"} {
		c.call("PUT", fmt.Sprintf("/api/contacts/%s/line", uid(41+i)), map[string]any{"outing_id": uid(outing), "line": line, "at": testNow}, 200,
			nil)
	}
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if log.Total != 4 || log.Rows[0].Letter != "B" || log.Rows[1].Contact.Band != "40m" || log.Rows[2].Letter != "A" ||
		log.Progress.Missing != 6 {
		t.Errorf("%+v", log)
	}
	var weighed WeighView
	c.call("GET", "/api/weigh?a="+uid(heron)+"&b="+uid(stilt), nil, 200, &weighed)
	if weighed.Comparison.A.Contacts != 3 || weighed.Comparison.B.Contacts != 1 || len(weighed.Curves) != 2 || weighed.Band != "40m" {
		t.Errorf("%+v", weighed.Comparison)
	}
	var outings []OutingSummary
	c.call("GET", "/api/outings", nil, 200, &outings)
	var od OutingDetail
	c.call("GET", "/api/outings/"+uid(outing), nil, 200, &od)
	if got := od.Until.Format("2006-01-02 15:04"); got != "2026-05-16 20:30" {
		t.Errorf("the gate closes at %s", got)
	}
	if len(outings) != 1 || od.Stages[3].State != "done" || od.Sun.Set.IsZero() || od.Locator != "IN36vm" {
		t.Errorf("%+v", od)
	}
	c.call("GET", "/api/tags", nil, 200, nil)
	c.call("GET", "/api/reference?region=2", nil, 200, nil)
}

func TestRepeatedRequestsChangeNothing(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	for range 2 {
		c.field()
		c.raise(21, heron, "end-fed", "sloper", "20.5 m")
		c.call("PUT", "/api/sweeps/"+uid(31), map[string]any{"revision_id": uid(21), "file": file("a.s1p", sweepFile(7e6)), "where": "feed",
			"taken_at": testNow}, 200, nil)
		c.call("PUT", "/api/contacts/"+uid(41)+"/line", map[string]any{"outing_id": uid(outing), "line": "Q3AB 59 57 40m SSB"}, 200, nil)
		body := file("log.adi", "<CALL:5>Q2TAX<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<MODE:2>CW<X_Y:1>z<EOR>")
		body["outing_id"] = uid(outing)
		c.call("PUT", "/api/imports/"+uid(51), body, 200, nil)
	}
	var d DeploymentDetail
	c.call("GET", "/api/deployments/"+uid(heron), nil, 200, &d)
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if d.Deployment.Version != 1 || len(d.Revisions) != 1 || len(d.Revisions[0].Sweeps) != 1 || log.Total != 2 {
		t.Errorf("version %d, %d revisions, %d contacts", d.Deployment.Version, len(d.Revisions), log.Total)
	}
	var adi string
	c.call("GET", "/api/outings/"+uid(outing)+"/log.adi", nil, 200, &adi)
	if !strings.Contains(adi, "<X_Y:1>z") || !strings.Contains(adi, "<STATION_CALLSIGN:5>Q2TAV") {
		t.Error(adi)
	}
	c.call("DELETE", "/api/imports/"+uid(51), nil, 200, nil)
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if log.Total != 1 {
		t.Errorf("%d contacts after the import was taken out", log.Total)
	}
}

func TestErrorsNameTheirField(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(21, heron, "end-fed", "sloper", "20.5 m")
	built := func(change map[string]any) map[string]any {
		b := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7.1e6, "radiator": length("20 m"),
			"feed_height": length("1 m"), "far_height": length("6 m")}
		for k, v := range change {
			b[k] = v
		}
		return map[string]any{"deployment_id": uid(heron), "reason": "x", "built": b}
	}
	line := func(text string) map[string]any { return map[string]any{"outing_id": uid(outing), "line": text} }
	for _, x := range []struct {
		name, method, path string
		body               any
		status             int
		field, part        string
	}{
		{"not JSON", "PUT", "/api/outings/" + uid(2), "{", 400, "", ""},
		{"a missing name", "PUT", "/api/outings/" + uid(2), map[string]any{"date": "2026-05-16"}, 400, "name", "missing"},
		{"a blank name", "PUT", "/api/outings/" + uid(2), map[string]any{"name": " ", "date": "2026-05-16"}, 422, "name", "missing"},
		{"a date that is none", "PUT", "/api/outings/" + uid(2), map[string]any{"name": "x", "date": "2026-02-30"}, 422, "date", "not a date"},
		{"a place that is none", "PUT", "/api/outings/" + uid(2), map[string]any{"name": "x", "date": "2026-05-16", "place": "95 N 3 W"}, 422,
			"place", "beyond 90"},
		{"an id that is none", "PUT", "/api/outings/12", map[string]any{"name": "x", "date": "2026-05-16"}, 400, "id", "regular expression"},
		{"a negative length", "PUT", "/api/revisions/" + uid(29), built(map[string]any{"radiator": length("-5 m")}), 422, "built.radiator",
			"negative"},
		{"an unreadable length", "PUT", "/api/revisions/" + uid(29), built(map[string]any{"feed_height": length("high")}), 422,
			"built.feed_height", "high"},
		{"heights that do not close", "PUT", "/api/revisions/" + uid(29), built(map[string]any{"radiator": length("4 m")}), 422,
			"built.far_height", "cannot reach"},
		{"a deployment of nothing", "PUT", "/api/revisions/" + uid(29), map[string]any{"deployment_id": uid(99), "reason": "x",
			"built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 7e6}}, 404, "", ""},
		{"a revision of tomorrow", "PUT", "/api/revisions/" + uid(29), map[string]any{"deployment_id": uid(heron), "reason": "x",
			"at": testNow.Add(24 * time.Hour), "built": built(nil)["built"]}, 422, "at", "future"},
		{"an unknown band in the line", "PUT", "/api/contacts/" + uid(41) + "/line", line("Q3AB 59 59 41m SSB"), 422, "line", "not a band"},
		{"a time in the future", "PUT", "/api/contacts/" + uid(41) + "/line", line("Q3AB 40m SSB @2027-01-01T10:00"), 422, "line", "future"},
		{"a corrected time in the future", "PUT", "/api/contacts/" + uid(41),
			map[string]any{"outing_id": uid(outing), "call": "Q3AB", "at": "2027-01-01T10:00:00Z", "seconds": true, "band": "40m"}, 422, "at",
			"future"},
		{"a corrected band that is none", "PUT", "/api/contacts/" + uid(41),
			map[string]any{"outing_id": uid(outing), "call": "Q3AB", "at": testNow, "seconds": true, "band": "41m"}, 422, "band", "41m"},
		{"a log where a sweep belongs", "PUT", "/api/sweeps/" + uid(31), map[string]any{"revision_id": uid(21),
			"file": file("a.adi", "<CALL:5>Q2TAX<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>"), "where": "feed"}, 422, "file", "not a sweep"},
		{"an empty file", "POST", "/api/preview", file("a.csv", ""), 422, "file", "empty"},
		{"a binary file", "POST", "/api/preview", file("a.csv", "\x00\x01\x02\xff\x00"), 422, "file", "binary"},
		{"a segment upside down", "PUT", "/api/me", map[string]any{"call": "Q2TAV", "region": 1, "imperial": false, "power_w": 5, "good_swr": 2,
			"segments": []any{map[string]any{"band": "40m", "lo": 7.2e6, "hi": 7e6, "use": "cw", "on": true}}}, 422, "segments.0",
			"below its start"},
		{"a call that is none", "PUT", "/api/me", map[string]any{"call": "me", "region": 1, "imperial": false, "power_w": 5, "good_swr": 2,
			"segments": []any{}}, 422, "call", "does not look"},
		{"weighing with itself", "GET", "/api/weigh?a=" + uid(heron) + "&b=" + uid(heron), nil, 422, "b", "same"},
		{"an unreadable conversion", "GET", "/api/convert?text=abc", nil, 422, "text", "abc"},
		{"nothing there", "GET", "/api/outings/" + uid(77), nil, 404, "", ""},
		{"no such path", "GET", "/api/nothing", nil, 404, "", ""},
	} {
		var p Problem
		c.call(x.method, x.path, x.body, x.status, &p)
		text, _ := json.Marshal(p.Errors)
		if x.field != "" && (len(p.Errors) == 0 || p.Errors[0].Path != x.field || !strings.Contains(string(text), x.part)) {
			t.Errorf("%s: %s, want %q at %s", x.name, text, x.part, x.field)
		}
		if p.Title == "" || p.Status != x.status || strings.Contains(p.Title+p.Detail, ".go") {
			t.Errorf("%s: %+v", x.name, p)
		}
	}
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	var d DeploymentDetail
	c.call("GET", "/api/deployments/"+uid(heron), nil, 200, &d)
	if log.Total != 0 || len(d.Revisions) != 1 {
		t.Errorf("refused writes left %d contacts and %d revisions", log.Total, len(d.Revisions))
	}
}

func TestAnAbsurdLengthIsAskedAboutNotRefused(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(21, heron, "end-fed", "sloper", "60 m")
	var d DeploymentDetail
	c.call("GET", "/api/deployments/"+uid(heron), nil, 200, &d)
	if f := d.Revisions[0].Faults; len(f) != 1 || f[0].Severity != "ask" || f[0].Path != "radiator" {
		t.Errorf("%+v", f)
	}
}

func TestALineSentLateKeepsItsTime(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var x Contact
	c.call("PUT", "/api/contacts/"+uid(41)+"/line", map[string]any{"outing_id": uid(outing), "line": "Q3AB 40m CW",
		"at": testNow.Add(-20 * time.Minute)}, 200, &x)
	if !x.At.Equal(testNow.Add(-20 * time.Minute)) {
		t.Errorf("logged at %s", x.At)
	}
	var read LineRead
	c.call("POST", "/api/line", map[string]any{"outing_id": uid(outing), "line": "Q3AB 599"}, 200, &read)
	if read.Worked == "" || read.Contact.Band != "40m" || len(read.Problems) != 0 {
		t.Errorf("a duplicate is told while it is typed: %+v", read)
	}
}

func TestCorrectionKeepsWhatItsFormDoesNotShow(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	body := file("log.adi", "<CALL:5>Q2TAX<QSO_DATE:8>20260516<TIME_ON:4>1400<TIME_OFF:4>1405<BAND:3>40m<MODE:2>CW<APP_A_B:1>z<EOR>")
	body["outing_id"] = uid(outing)
	c.call("PUT", "/api/imports/"+uid(51), body, 200, nil)
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	id := log.Rows[0].Contact.ID
	var x Contact
	c.call("PUT", "/api/contacts/"+id+"?version=1", map[string]any{"outing_id": uid(outing), "call": "Q2TAY", "at": "2026-05-16T14:00:00Z",
		"seconds": false, "band": "40m", "mode": "FT4"}, 200, &x)
	if x.Call != "Q2TAY" || len(x.Extra) != 1 || x.End.IsZero() || x.Submode != "FT4" || x.Version != 2 {
		t.Errorf("%+v", x)
	}
	c.call("POST", "/api/versions", map[string]any{"kind": "contact", "id": id, "to": 1, "version": 2}, 200, nil)
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if log.Rows[0].Contact.Call != "Q2TAX" {
		t.Errorf("undone to %s", log.Rows[0].Contact.Call)
	}
}

func TestTheDoorIsGuarded(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	for name, x := range map[string]struct {
		host, origin string
		size         int64
		status       int
	}{
		"a foreign name":   {"evil.example", "", 0, http.StatusMisdirectedRequest},
		"another site":     {"localhost", "http://elsewhere.example", 0, http.StatusForbidden},
		"a huge request":   {"127.0.0.1:7314", "", maxBody + 1, http.StatusRequestEntityTooLarge},
		"an address, IPv6": {"[::1]:7314", "", 0, 400},
	} {
		r := request("PUT", "http://"+x.host+"/api/me", io.LimitReader(zeros{}, x.size))
		r.Header.Set("Content-Type", "application/json")
		if x.origin != "" {
			r.Header.Set("Origin", x.origin)
		}
		w := httptest.NewRecorder()
		c.h.ServeHTTP(w, r)
		if w.Code != x.status || w.Header().Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s: %d %s", name, w.Code, w.Body)
		}
		if csp := w.Header().Get("Content-Security-Policy"); !strings.Contains(csp, "script-src 'self';") {
			t.Errorf("%s: policy %q", name, csp)
		}
	}
}

type zeros struct{}

func (zeros) Read(b []byte) (int, error) { return len(b), nil }

func TestEveryDemoScreenKeepsToTheContract(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	if err := demo.Fill(context.Background(), c.store); err != nil {
		t.Fatal(err)
	}
	var tags []PlacedTag
	c.call("GET", "/api/tags", nil, 200, &tags)
	for _, x := range tags {
		var d DeploymentDetail
		c.call("GET", "/api/deployments/"+x.Tag.ID, nil, 200, &d)
		for _, b := range []string{"", "80m", "40m", "30m", "20m"} {
			c.call("GET", "/api/deployments/"+x.Tag.ID+"/reading?band="+b, nil, 200, nil)
		}
		c.call("GET", "/api/outings/"+x.OutingId+"/log", nil, 200, nil)
		if x.Tag.ID != tags[0].Tag.ID {
			c.call("GET", "/api/weigh?a="+tags[0].Tag.ID+"&b="+x.Tag.ID, nil, 200, nil)
		}
	}
}

func BenchmarkFirstResponseWithDemoData(b *testing.B) {
	dir := b.TempDir()
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		b.Fatal(err)
	}
	if err := demo.Fill(context.Background(), st); err != nil {
		b.Fatal(err)
	}
	st.Close()
	for b.Loop() {
		st, err := store.Open(context.Background(), dir)
		if err != nil {
			b.Fatal(err)
		}
		h, err := New(st, Options{})
		if err != nil {
			b.Fatal(err)
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, request("GET", "http://localhost/api/outings", nil))
		if w.Code != 200 {
			b.Fatal(w.Body)
		}
		st.Close()
	}
}

// logged makes an ADIF file of n contacts.
func logged(n int) string {
	var b strings.Builder
	b.WriteString("<EOH>\n")
	for i := range n {
		fmt.Fprintf(&b, "<CALL:%d>Q%dAAA <QSO_DATE:8>20260516 <TIME_ON:6>%02d%02d%02d <BAND:3>40m <FREQ:5>7.032 <MODE:2>CW <RST_SENT:3>599 "+
			"<RST_RCVD:3>579 <NOTES:4>some <EOR>\n",
			4+len(fmt.Sprint(i)), i, i/3600%24, i/60%60, i%60)
	}
	return b.String()
}

func BenchmarkImport20000(b *testing.B) {
	text := logged(20000)
	ctx := context.Background()
	for b.Loop() {
		b.StopTimer()
		st, err := store.Open(ctx, b.TempDir())
		if err != nil {
			b.Fatal(err)
		}
		if _, err := st.PutOuting(ctx, store.Outing{ID: uid(1), Name: "x", Date: "2026-05-16"}, 0); err != nil {
			b.Fatal(err)
		}
		h, err := New(st, Options{})
		if err != nil {
			b.Fatal(err)
		}
		body, _ := json.Marshal(map[string]any{"name": "log.adi", "content": []byte(text), "outing_id": uid(1)})
		r := request("PUT", "http://localhost/api/imports/"+uid(2), bytes.NewReader(body))
		r.Header.Set("Content-Type", "application/json")
		w := httptest.NewRecorder()
		b.StartTimer()
		h.ServeHTTP(w, r)
		b.StopTimer()
		if w.Code != 200 || !strings.Contains(w.Body.String(), "20000") {
			b.Fatal(w.Body)
		}
		st.Close()
		b.StartTimer()
	}
}

func TestAntennasOfAnOutingHaveNamesOfTheirOwn(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	put := func(id int, name string, status int, into any) {
		t.Helper()
		c.call("PUT", "/api/deployments/"+uid(id), map[string]any{"outing_id": uid(outing), "name": name,
			"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, status, into)
	}
	var d DeploymentDetail
	put(70, "Knot", 200, &d)
	var p Problem
	put(71, " knot ", 422, &p)
	if len(p.Errors) != 1 || p.Errors[0].Path != "name" || !strings.Contains(p.Errors[0].Detail, "another antenna of this outing") {
		t.Errorf("%+v", p)
	}
	// Its own name it keeps, and without one it goes by its kind and band.
	c.call("PUT", "/api/deployments/"+uid(70)+"?version=1", map[string]any{"outing_id": uid(outing), "name": "Knot",
		"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.1e6}}, 200, nil)
	put(72, "", 200, &d)
	if d.Deployment.Name != "Dipole 20 m" {
		t.Errorf("called %q", d.Deployment.Name)
	}
	put(73, "", 200, &d)
	if d.Deployment.Name != "Dipole 20 m 2" {
		t.Errorf("called %q", d.Deployment.Name)
	}
}

func TestWhatStaysForTheNextLineIsToldWithTheLog(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var l Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &l)
	if l.Stays.Band != "" {
		t.Errorf("%+v before anything is logged", l.Stays)
	}
	c.call("PUT", "/api/contacts/"+uid(74)+"/line", map[string]any{"outing_id": uid(outing), "line": "Q2TAV 599 579 7.032 CW"}, 200, nil)
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &l)
	if l.Stays.Band != "40m" || l.Stays.Mode != "CW" {
		t.Errorf("%+v", l.Stays)
	}
}

func TestTheModelLaysTwoDeploymentsSideBySide(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	for i, variant := range []string{"flat", "inverted-v"} {
		c.call("PUT", "/api/deployments/"+uid(75+i), map[string]any{"outing_id": uid(outing), "name": []string{"Knot", "Curlew"}[i],
			"plan": map[string]any{"family": "dipole", "variant": variant, "frequency_hz": 14.06e6}}, 200, nil)
	}
	var got struct {
		State  string
		Result *twin.Answer
	}
	ask := map[string]any{"id": uid(80), "slot": "weigh", "wait_ms": 5000, "a": uid(75), "b": uid(76)}
	for range 20 {
		if c.call("POST", "/api/compute/beside", ask, 200, &got); got.Result != nil {
			break
		}
	}
	if got.Result == nil || len(got.Result.Tables) != 1 || !strings.Contains(got.Result.Sentence, "on 20 m") {
		t.Errorf("%+v", got)
	}
	ask["b"] = uid(999)
	c.call("POST", "/api/compute/beside", ask, 404, nil)
}

// The made-up notebook is opened for the machine itself alone, and says of itself whose it is.
func TestLookingRoundIsForTheMachineItself(t *testing.T) {
	t.Parallel()
	var asked string
	opened := func(o Options) *client {
		c := newClient(t)
		h, err := New(c.store, o)
		if err != nil {
			t.Fatal(err)
		}
		c.h = h
		return c
	}
	c := opened(Options{Round: func(_ context.Context, own string) (string, error) { asked = own; return "http://127.0.0.1:1", nil }})
	var a Access
	if c.call("GET", "/api/access", nil, 200, &a); !a.Round || a.Own != "" {
		t.Errorf("%+v", a)
	}
	var to struct{ Address string }
	if c.call("POST", "/api/round", nil, 200, &to); to.Address != "http://127.0.0.1:1" || !strings.HasPrefix(asked, "http://") {
		t.Errorf("%+v, back to %s", to, asked)
	}
	made := opened(Options{Own: "http://127.0.0.1:2"})
	var b Access
	if made.call("GET", "/api/access", nil, 200, &b); b.Round || b.Own != "http://127.0.0.1:2" {
		t.Errorf("%+v", b)
	}
	made.call("POST", "/api/round", nil, 403, nil)
}
