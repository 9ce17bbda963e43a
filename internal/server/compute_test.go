package server

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"
)

func TestForecastOfAPlanIsKeptByItsContent(t *testing.T) {
	c := newClient(t)
	ask := map[string]any{"id": uid(900), "slot": "cut", "kind": "forecast", "wait_ms": 5000, "coarse": true,
		"plan": map[string]any{"family": "dipole", "variant": "inverted-v", "frequency_hz": 14.06e6, "ground": "sea"}}
	var done Computation
	for range 20 {
		c.call("POST", "/api/computations", ask, 200, &done)
		if done.State != Running {
			break
		}
	}
	if done.State != Done || len(done.Forecast.Bands) != 1 || done.Forecast.Bands[0].WantedSWR < 1 || done.Forecast.PowerW <= 0 {
		t.Fatalf("%+v", done)
	}
	ask["id"], ask["wait_ms"] = uid(901), 0
	var again Computation
	c.call("POST", "/api/computations", ask, 200, &again)
	if again.State != Done || again.Forecast.Bands[0].WantedSWR != done.Forecast.Bands[0].WantedSWR {
		t.Errorf("asked again at once: %+v", again.State)
	}
	c.call("GET", "/api/computations/"+uid(901), nil, 200, &again)
	if c.call("GET", "/api/computations/"+uid(900), nil, 200, &again); again.State != Stopped {
		t.Errorf("its slot was taken: %v", again.State)
	}
	c.call("DELETE", "/api/computations/"+uid(901), nil, 204, nil)
	if c.call("GET", "/api/computations/"+uid(901), nil, 200, &again); again.State != Stopped {
		t.Errorf("it was stopped: %v", again.State)
	}
}

func TestForecastOfARevisionTakesTheOutingsGround(t *testing.T) {
	c := newClient(t)
	c.field()
	c.raise(30, heron, "end-fed", "sloper", "20.5 m")
	var built Computation
	c.call("POST", "/api/computations", map[string]any{"id": uid(910), "slot": "s", "kind": "forecast", "coarse": true, "wait_ms": 5000, "band": "40m", "revision_id": uid(30)}, 200, &built)
	if built.State != Done || len(built.Forecast.Bands) != 1 || built.Forecast.Bands[0].Name != "40m" {
		t.Fatalf("%+v", built)
	}
	if !strings.Contains(strings.Join(built.Forecast.Assumptions, ";"), "ground: ") {
		t.Errorf("%v", built.Forecast.Assumptions)
	}
	c.call("POST", "/api/computations", map[string]any{"id": uid(911), "slot": "s", "kind": "forecast", "revision_id": uid(77)}, 404, nil)
}

func TestForecastsThatCannotBeAreFaultedAtTheirField(t *testing.T) {
	c := newClient(t)
	var bad Problem
	for path, ask := range map[string]map[string]any{
		"plan":           {},
		"plan.radiator":  {"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14e6, "radiator": map[string]any{"typed": "long", "unit": "m"}}},
		"metres":         {"kind": "radials", "metres": "a few", "plan": map[string]any{"family": "vertical", "variant": "ground-radials", "frequency_hz": 14e6}},
		"built.radiator": {"built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14e6}},
	} {
		body := map[string]any{"id": uid(920), "slot": "s", "kind": "forecast", "wait_ms": 100}
		for k, v := range ask {
			body[k] = v
		}
		c.call("POST", "/api/computations", body, 422, &bad)
		if len(bad.Errors) == 0 || bad.Errors[0].Path != path {
			t.Errorf("%s: %+v", path, bad.Errors)
		}
	}
	// What is well said but cannot be answered fails as a computation, in words.
	var failed Computation
	c.call("POST", "/api/computations", map[string]any{"id": uid(921), "slot": "s", "kind": "radials", "metres": "10 cm", "wait_ms": 5000,
		"plan": map[string]any{"family": "vertical", "variant": "ground-radials", "frequency_hz": 14e6}}, 200, &failed)
	if failed.State != Failed || !strings.Contains(failed.Error, "no two radials") {
		t.Errorf("%+v", failed)
	}
}

func TestASlotStopsWhatRanInIt(t *testing.T) {
	now := clock
	j := jobs{now: func() time.Time { return now }}
	began, stopped := make(chan struct{}), make(chan struct{})
	forever := func(ctx context.Context, done func(step, of int)) (any, error) {
		close(began)
		<-ctx.Done()
		close(stopped)
		return nil, ctx.Err()
	}
	first := j.start("a", "slot", "k1", forever)
	<-began
	quick := j.start("b", "slot", "k2", func(context.Context, func(step, of int)) (any, error) { return 7, nil })
	<-stopped
	first.wait(context.Background(), 5*time.Second)
	if done, _, _, _, err := j.state(first); !done || !errors.Is(err, context.Canceled) {
		t.Errorf("the first is %v, %v", done, err)
	}
	quick.wait(context.Background(), 5*time.Second)
	if done, _, _, result, err := j.state(quick); !done || result != 7 || err != nil {
		t.Errorf("the second is %v %v %v", done, result, err)
	}
	// A job that nobody asks for any more ends itself at its next step.
	steps := 0
	lost := j.start("c", "other", "k3", func(ctx context.Context, done func(step, of int)) (any, error) {
		for ; steps < 1000 && ctx.Err() == nil; steps++ {
			now = now.Add(time.Second)
			done(steps, 1000)
		}
		return nil, ctx.Err()
	})
	<-lost.ended
	if steps > 40 {
		t.Errorf("it went on for %d steps", steps)
	}
	for i := range keptResults + 20 {
		x := j.start("d", "x", string(rune(1000+i)), func(context.Context, func(step, of int)) (any, error) { return i, nil })
		<-x.ended
	}
	if len(j.kept) > keptResults {
		t.Errorf("%d results are kept", len(j.kept))
	}
}

func TestForecastAdviceAndDiagnosisOfASimulatedSweep(t *testing.T) {
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Dunlin", "plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut", "built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6,
		"radiator": length("5.2 m"), "leg_b": length("5.2 m"), "feed_height": length("6 m"), "far_height": length("6 m")}}, 200, nil)
	var file FileInput
	c.call("POST", "/api/measurements", map[string]any{"revision_id": uid(61), "band": "20m", "where": "feed"}, 200, &file)
	if !strings.HasPrefix(string(file.Content), "! simulated analyser") || !strings.Contains(file.Name, "20m-r1") {
		t.Fatalf("%s %.60s", file.Name, file.Content)
	}
	c.call("PUT", "/api/sweeps/"+uid(62), map[string]any{"revision_id": uid(61), "where": "feed", "file": file}, 200, nil)
	var d DeploymentDetail
	c.call("GET", "/api/deployments/"+uid(60), nil, 200, &d)
	if s := d.Revisions[0].Sweeps; len(s) != 1 || !s[0].Simulated {
		t.Errorf("%+v", s)
	}
	ask := func(kind string) (done Computation) {
		for range 20 {
			c.call("POST", "/api/computations", map[string]any{"id": uid(930), "slot": kind, "kind": kind, "revision_id": uid(61), "band": "20m", "wait_ms": 5000}, 200, &done)
			if done.State != Running {
				return done
			}
		}
		return done
	}
	if a := ask("trim"); a.State != Done || a.Trim.Done || len(a.Trim.Wires) != 1 || a.Trim.Built.Radiator.M >= 5.2 || len(a.Trim.Foreseen) != 1 {
		t.Errorf("%+v", a)
	}
	if w := ask("diagnose"); w.State != Done || w.Diagnosis.Nothing || len(w.Diagnosis.Explanations) < 5 || len(w.Diagnosis.Explanations[0].Curve) == 0 {
		t.Errorf("%+v", w)
	}
	for _, bad := range []map[string]any{{"kind": "diagnose", "revision_id": uid(61), "band": "17m"}, {"kind": "diagnose", "revision_id": uid(61), "band": "11m"}} {
		bad["id"], bad["slot"] = uid(931), "x"
		c.call("POST", "/api/computations", bad, 422, nil)
	}
	c.call("POST", "/api/measurements", map[string]any{"revision_id": uid(61), "band": "11m"}, 422, nil)
	c.call("POST", "/api/measurements", map[string]any{"revision_id": uid(99), "band": "20m"}, 404, nil)
}
