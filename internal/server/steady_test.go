package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http/httptest"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/internal/store"
)

func TestAPanicBelowARequestIsAProblemWithAnId(t *testing.T) {
	t.Parallel()
	var log bytes.Buffer
	s := &Server{log: slog.New(slog.NewTextHandler(&log, nil))}
	e := echo.New()
	e.HTTPErrorHandler = s.handleError
	e.Use(s.logged, s.recovered)
	e.GET("/api/break", func(*echo.Context) error { panic("a wire that is not there") })
	w := httptest.NewRecorder()
	w.Header().Set(echo.HeaderXRequestID, "id-of-the-test")
	e.ServeHTTP(w, request("GET", "http://localhost/api/break", nil))
	if w.Code != 500 || !strings.Contains(w.Body.String(), `"id":"id-of-the-test"`) || strings.Contains(w.Body.String(), "wire that") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if got := log.String(); !strings.Contains(got, "id-of-the-test") || !strings.Contains(got, "a wire that is not there") ||
		!strings.Contains(got, "steady_test.go") {
		t.Errorf("the log lacks id, panic or stack: %s", got)
	}
}

// A loop whose conductor was left empty killed the program, and every start of its screen killed it again.
func TestALoopWithoutItsConductorIsStoredAndForecast(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Ruff",
		"plan": map[string]any{"family": "small-loop", "variant": "upright", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as put up",
		"built": map[string]any{"family": "small-loop", "variant": "upright", "frequency_hz": 14.06e6,
			"texts": texts{"radiator": "3.1 m", "tube": "", "feed_height": "1 m"}, "unit": "m"}}, 200, nil)
	done := compute[ForecastAnswer](c, "forecast", map[string]any{"id": uid(930), "slot": "s", "revision_id": uid(61), "coarse": true,
		"wait_ms": 5000})
	if done.State != Done {
		t.Errorf("%+v", done)
	}
}

// A billion radials took 14.5 GB: what is out of bounds is neither let in by the contract nor laid out by core.
func TestCountsBeyondAllBoundsAreRefusedBeforeAnythingIsMade(t *testing.T) {
	c := newClient(t)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	built := func(n int) map[string]any {
		return map[string]any{"built": map[string]any{"family": "vertical", "variant": "ground-radials", "frequency_hz": 14.06e6,
			"radiator": length("5 m"),
			"radials":  map[string]any{"count": n, "length": length("5 m")}}, "planned": map[string]any{"family": "vertical",
			"variant": "ground-radials", "frequency_hz": 14.06e6}}
	}
	c.call("POST", "/api/check", built(1_000_000_000), 400, nil)
	var x Checked
	texted := built(0)
	texted["built"].(map[string]any)["texts"] = texts{"radiator": "5", "radials_count": "1000000000", "radials_length": "5"}
	c.call("POST", "/api/check", texted, 200, &x)
	if len(x.Drawing.Lines) != 0 || len(x.Faults) == 0 {
		t.Errorf("%d lines, %v", len(x.Drawing.Lines), x.Faults)
	}
	c.call("POST", "/api/check", built(240), 200, &x)
	if len(x.Drawing.Lines) < 240 {
		t.Errorf("%d lines", len(x.Drawing.Lines))
	}
	runtime.ReadMemStats(&after)
	if grew := (after.TotalAlloc - before.TotalAlloc) >> 20; grew > 64 {
		t.Errorf("%d MB were taken", grew)
	}
	// And what is too large to be solved says so in words.
	var done ForecastComputed
	plan := map[string]any{"family": "vertical", "variant": "raised-radials", "frequency_hz": 28.5e6,
		"texts": texts{"for": "28.5", "radials_count": "240", "radials_length": "50"}, "unit": "m"}
	c.call("POST", "/api/compute/forecast", map[string]any{"id": uid(931), "slot": "s", "plan": plan, "coarse": true, "wait_ms": 5000}, 200,
		&done)
	if done.State != Failed || !strings.Contains(done.Error, "unknowns") {
		t.Errorf("%+v", done)
	}
}

func TestAWriteFromAnOlderVersionShowsWhatIsThere(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	edit := func(version int, ref string, want int, into any) {
		t.Helper()
		c.call("PUT", fmt.Sprintf("/api/outings/%s?version=%d", uid(outing), version),
			map[string]any{"name": "Gannet Spit", "date": "2026-05-16", "own_ref": ref}, want, into)
	}
	edit(1, "MI-0001", 200, nil)
	var p Problem
	edit(1, "MI-0002", 409, &p)
	if p.Conflict == nil || p.Conflict.Version != 2 || p.Conflict.Now["own_ref"] != "MI-0001" || p.Conflict.Now["until"] != nil {
		t.Fatalf("%+v", p.Conflict)
	}
	if p.Conflict.Was["until"] != "20:30" {
		t.Errorf("what both were made from: %+v", p.Conflict.Was)
	}
	edit(1, "MI-0001", 200, nil) // the first again, as after a lost answer
	edit(p.Conflict.Version, "MI-0002", 200, nil)
	var d OutingDetail
	c.call("GET", "/api/outings/"+uid(outing), nil, 200, &d)
	if d.Outing.OwnRef != "MI-0002" || d.Outing.Version != 3 {
		t.Errorf("%+v", d.Outing)
	}
	var part Problem
	c.part(51, "coax", "the thin one", texts{"type": "RG-174", "length": "8 m"})
	c.call("PUT", "/api/parts/"+uid(51), map[string]any{"kind": "coax", "name": "the thin one",
		"texts": texts{"type": "RG-174", "length": "9 m"}}, 409, &part)
	if now, _ := part.Conflict.Now["texts"].(map[string]any); now["length"] != "8 m" {
		t.Errorf("a part's form: %+v", part.Conflict.Now)
	}
}

// A read that fails is an error: with it taken for "nothing there", a correction would wipe what its form does not show.
func TestAReadThatFailsIsNotNothingThere(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	body := file("log.adi", "<CALL:5>Q2TAX<QSO_DATE:8>20260516<TIME_ON:4>1400<BAND:3>40m<MODE:2>CW<APP_A_B:1>z<EOR>")
	body["outing_id"] = uid(outing)
	c.call("PUT", "/api/imports/"+uid(51), body, 200, nil)
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	id := log.Rows[0].Contact.ID
	s := &Server{store: c.store, log: slog.New(slog.DiscardHandler), now: func() time.Time { return testNow }}
	stopped, stop := context.WithCancel(context.Background())
	stop()
	fix := onair.ContactForm{Contact: log.Rows[0].Contact, At: "2026-05-16T14:00:00Z"}
	fix.Call, fix.Extra = "Q2TAY", nil
	if _, err := s.PutContact(stopped, PutContactRequestObject{Id: id, Params: PutContactParams{Version: 1}, Body: &fix}); err == nil ||
		errors.Is(err, store.ErrNotFound) {
		t.Errorf("%v", err)
	}
	c.call("GET", "/api/outings/"+uid(outing)+"/log", nil, 200, &log)
	if x := log.Rows[0].Contact; len(x.Extra) != 1 || x.Version != 1 {
		t.Errorf("%+v", x)
	}
}

func TestCorrectionsAreCheckedLikeTypedContacts(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/contacts/"+uid(70)+"/line", map[string]any{"outing_id": uid(outing), "line": "Q2TAV 599 579 7.032 CW"}, 200, nil)
	good := map[string]any{"outing_id": uid(outing), "call": "Q2TAV", "at": "2026-05-16T14:30:00Z", "seconds": false, "band": "40m",
		"freq_hz": 7.032e6, "mode": "CW", "power_w": 5}
	for field, value := range map[string]any{"call": "hello", "power_w": 6000.0, "freq_hz": 14.032e6, "at": "2026-05-16T14:34:01Z",
		"band": "41m", "locator": "XX99"} {
		bad := map[string]any{}
		for k, v := range good {
			bad[k] = v
		}
		bad[field] = value
		var p Problem
		c.call("PUT", "/api/contacts/"+uid(70)+"?version=1", bad, 422, &p)
		if len(p.Errors) != 1 || p.Errors[0].Path != field {
			t.Errorf("%s: %+v", field, p.Errors)
		}
	}
	good["power_w"], good["at"] = 5000.0, "2026-05-16T14:34:00Z"
	c.call("PUT", "/api/contacts/"+uid(70)+"?version=1", good, 200, nil)
	// A band above 6 m that an import brought stays when something else is corrected.
	body := file("log.adi", "<CALL:5>Q2TAX<QSO_DATE:8>20260516<TIME_ON:4>1400<BAND:4>23cm<FREQ:6>1296.2<MODE:2>FM<EOR>")
	body["outing_id"] = uid(outing)
	c.call("PUT", "/api/imports/"+uid(51), body, 200, nil)
	var log Log
	c.call("GET", "/api/outings/"+uid(outing)+"/log?words=q2tax", nil, 200, &log)
	x := log.Rows[0].Contact
	x.Comment = "over the water"
	c.call("PUT", "/api/contacts/"+x.ID+"?version=1", x, 200, &x)
	if x.Band != "23cm" || x.FreqHz != 1296.2e6 {
		t.Errorf("%+v", x)
	}
}

// After a restore a version may be of another plan: the tag is that of the plan that is there.
func TestATagFollowsThePlanAndNotItsVersion(t *testing.T) {
	t.Parallel()
	var c tagCache
	d := deployment.Deployment{ID: "d", Version: 3, Plan: antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat",
		FrequencyHz: 7.1e6, Wire: "pvc"}}}
	low := c.planned(d).Radiator().M
	d.Plan.FrequencyHz = 14.2e6
	if high := c.planned(d).Radiator().M; low == 0 || high > 0.6*low {
		t.Errorf("%v m for 7.1 MHz, %v m for 14.2", low, high)
	}
}
