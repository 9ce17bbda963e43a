package server

import (
	"context"
	"fmt"
	"net"
	"strings"
	"testing"

	"reed/core/circuit"
	"reed/internal/device"
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

func TestForecastAdviceAndDiagnosisOfASimulatedSweep(t *testing.T) {
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Dunlin", "plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut", "built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6,
		"radiator": length("5.2 m"), "leg_b": length("5.2 m"), "feed_height": length("6 m"), "far_height": length("6 m")}}, 200, nil)
	file := c.measure(map[string]any{"revision_id": uid(61), "band": "20m", "where": "feed", "device": "simulated"})
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
}

// measure asks an analyser for one sweep and waits for its file.
func (c *client) measure(ask map[string]any) FileInput {
	c.t.Helper()
	c.asked++
	ask["id"], ask["slot"], ask["kind"], ask["wait_ms"] = uid(5000+c.asked), "measure", "measure", 5000
	var done Computation
	c.call("POST", "/api/computations", ask, 200, &done)
	for range 20 {
		if done.State != Running {
			break
		}
		c.call("GET", "/api/computations/"+done.Id+"?wait_ms=5000", nil, 200, &done)
	}
	if done.State != Done {
		c.t.Fatalf("%+v", done)
	}
	return *done.File
}

// oneDip answers as an analyser on the network would, and counts its sweeps.
type oneDip struct{ sweeps *int }

func (oneDip) Name() string { return "bench one" }

func (s oneDip) Sweep(_ context.Context, a device.Ask, point func(float64, complex128) error) error {
	*s.sweeps++
	if a.Port != "" {
		return fmt.Errorf("it has one port, not %q", a.Port)
	}
	for i := range a.N {
		hz := a.Lo + (a.Hi-a.Lo)*float64(i)/float64(a.N-1)
		if err := point(hz, circuit.Gamma(complex(45, (hz-14.1e6)/1e4), 50)); err != nil {
			return err
		}
	}
	return nil
}

func TestAnAnalyserIsChosenAndItsTroubleTold(t *testing.T) {
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Dunlin", "plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut", "built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6,
		"radiator": length("5.2 m"), "leg_b": length("5.2 m"), "feed_height": length("6 m"), "far_height": length("6 m")}}, 200, nil)
	ask := func(status int, more map[string]any) Problem {
		t.Helper()
		q := map[string]any{"id": uid(940), "slot": "m", "kind": "measure", "revision_id": uid(61), "band": "20m", "device": "network", "wait_ms": 3000}
		for k, v := range more {
			q[k] = v
		}
		var p Problem
		c.call("POST", "/api/computations", q, status, &p)
		return p
	}
	if p := ask(422, nil); len(p.Errors) != 1 || p.Errors[0].Path != "device" {
		t.Errorf("no analyser is set up, yet %+v", p)
	}
	ask(422, map[string]any{"band": "11m", "device": "simulated"})
	ask(404, map[string]any{"revision_id": uid(99), "device": "simulated"})
	var me map[string]any
	c.call("GET", "/api/me", nil, 200, &me)
	var p Problem
	me["analyser"] = "somewhere"
	c.call("PUT", "/api/me", me, 422, &p)
	if len(p.Errors) != 1 || p.Errors[0].Path != "analyser" {
		t.Errorf("%+v", p)
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	sweeps := 0
	go device.Serve(t.Context(), ln, oneDip{&sweeps})
	me["analyser"] = ln.Addr().String()
	c.call("PUT", fmt.Sprintf("/api/me?version=%v", me["version"]), me, 200, nil)
	file := c.measure(map[string]any{"revision_id": uid(61), "band": "20m", "device": "network"})
	if !strings.HasPrefix(string(file.Content), "! bench one\n") || file.Name != "analyser-20m-r1.s1p" || sweeps != 1 {
		t.Errorf("%s %.60s after %d sweeps", file.Name, file.Content, sweeps)
	}
	c.measure(map[string]any{"revision_id": uid(61), "band": "20m", "device": "network"})
	if sweeps != 2 {
		t.Errorf("a second sweep was answered from memory: %d", sweeps)
	}
	ln.Close()
	var failed Computation
	c.call("POST", "/api/computations", map[string]any{"id": uid(941), "slot": "m", "kind": "measure", "revision_id": uid(61), "band": "20m", "device": "network", "wait_ms": 5000}, 200, &failed)
	if failed.State != Failed || !strings.Contains(failed.Error, "no analyser answers") {
		t.Errorf("%+v", failed)
	}
}
