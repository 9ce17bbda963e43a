package server

import (
	"context"
	"fmt"
	"net"
	"strings"
	"testing"

	"reed/core/circuit"
	"reed/core/diagnose"
	"reed/core/trim"
	"reed/internal/device"
	"reed/internal/testsize"
)

func TestForecastOfAPlanIsKeptByItsContent(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	ask := map[string]any{"id": uid(900), "slot": "cut", "wait_ms": 5000, "coarse": true,
		"plan": map[string]any{"family": "dipole", "variant": "inverted-v", "frequency_hz": 14.06e6, "ground": "sea"}}
	done := compute[ForecastAnswer](c, "forecast", ask)
	if done.State != Done || len(done.Result.Forecast.Bands) != 1 || done.Result.Forecast.Bands[0].WantedSWR < 1 ||
		done.Result.Forecast.PowerW <= 0 {
		t.Fatalf("%+v", done)
	}
	ask["id"], ask["wait_ms"] = uid(901), 0
	var again ForecastComputed
	c.call("POST", "/api/compute/forecast", ask, 200, &again)
	if again.State != Done || again.Result.Forecast.Bands[0].WantedSWR != done.Result.Forecast.Bands[0].WantedSWR {
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
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(30, heron, "end-fed", "sloper", "20.5 m")
	built := compute[ForecastAnswer](c, "forecast", map[string]any{"id": uid(910), "slot": "s", "coarse": true, "wait_ms": 5000,
		"band": "40m", "revision_id": uid(30)})
	if built.State != Done || len(built.Result.Forecast.Bands) != 1 || built.Result.Forecast.Bands[0].Name != "40m" {
		t.Fatalf("%+v", built)
	}
	if !strings.Contains(strings.Join(built.Result.Forecast.Assumptions, ";"), "ground: ") {
		t.Errorf("%v", built.Result.Forecast.Assumptions)
	}
	c.call("POST", "/api/compute/forecast", map[string]any{"id": uid(911), "slot": "s", "revision_id": uid(77)}, 404, nil)
}

func TestForecastsThatCannotBeAreFaultedAtTheirField(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	var bad Problem
	for path, ask := range map[string]map[string]any{
		"plan": {},
		"plan.radiator": {"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14e6,
			"radiator": map[string]any{"typed": "long", "unit": "m"}}},
		"metres":         {"metres": "a few", "plan": map[string]any{"family": "vertical", "variant": "ground-radials", "frequency_hz": 14e6}},
		"built.radiator": {"built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14e6}},
	} {
		body := map[string]any{"id": uid(920), "slot": "s", "wait_ms": 100}
		question := "forecast"
		if path == "metres" {
			question = "radials"
		}
		for k, v := range ask {
			body[k] = v
		}
		c.call("POST", "/api/compute/"+question, body, 422, &bad)
		if len(bad.Errors) == 0 || bad.Errors[0].Path != path {
			t.Errorf("%s: %+v", path, bad.Errors)
		}
	}
	// What is well said but cannot be answered fails as a computation, in words.
	var failed RadialsComputed
	c.call("POST", "/api/compute/radials", map[string]any{"id": uid(921), "slot": "s", "metres": "10 cm", "wait_ms": 5000,
		"plan": map[string]any{"family": "vertical", "variant": "ground-radials", "frequency_hz": 14e6}}, 200, &failed)
	if failed.State != Failed || !strings.Contains(failed.Error, "no two radials") {
		t.Errorf("%+v", failed)
	}
}

func TestForecastAdviceAndDiagnosisOfASimulatedSweep(t *testing.T) {
	testsize.SkipIfShort(t, "diagnoses by the solver")
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Dunlin",
		"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut",
		"built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6,
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
	ask := map[string]any{"id": uid(930), "slot": "trim", "revision_id": uid(61), "wait_ms": 5000}
	if a := compute[trim.Told](c, "trim", ask); a.State != Done || a.Result.Done || len(a.Result.Wires) != 1 ||
		a.Result.Built.Radiator().M >= 5.2 || len(a.Result.Foreseen) != 1 {
		t.Errorf("%+v", a)
	}
	ask["band"] = "20m"
	if w := compute[diagnose.Diagnosis](c, "causes", ask); w.State != Done || w.Result.Nothing || len(w.Result.Explanations) < 5 ||
		len(w.Result.Explanations[0].Curve) == 0 {
		t.Errorf("%+v", w)
	}
	for _, band := range []string{"17m", "11m"} {
		c.call("POST", "/api/compute/causes", map[string]any{"id": uid(931), "slot": "x", "revision_id": uid(61), "band": band}, 422, nil)
	}
}

// compute asks a question again until it is answered.
func compute[T any](c *client, question string, ask map[string]any) (done Computed[T]) {
	c.t.Helper()
	for range 20 {
		done = Computed[T]{}
		c.call("POST", "/api/compute/"+question, ask, 200, &done)
		if done.State != Running {
			break
		}
	}
	return done
}

// measure asks an analyser for one sweep and waits for its file.
func (c *client) measure(ask map[string]any) FileInput {
	c.t.Helper()
	c.asked++
	ask["id"], ask["slot"], ask["wait_ms"] = uid(5000+c.asked), "measure", 5000
	done := compute[FileInput](c, "sweep", ask)
	if done.State != Done {
		c.t.Fatalf("%+v", done)
	}
	return *done.Result
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
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Dunlin",
		"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut",
		"built": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6,
			"radiator": length("5.2 m"), "leg_b": length("5.2 m"), "feed_height": length("6 m"), "far_height": length("6 m")}}, 200, nil)
	ask := func(status int, more map[string]any) Problem {
		t.Helper()
		q := map[string]any{"id": uid(940), "slot": "m", "revision_id": uid(61), "band": "20m", "device": "network", "wait_ms": 3000}
		for k, v := range more {
			q[k] = v
		}
		var p Problem
		c.call("POST", "/api/compute/sweep", q, status, &p)
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
	var failed SweepComputed
	c.call("POST", "/api/compute/sweep", map[string]any{"id": uid(941), "slot": "m", "revision_id": uid(61), "band": "20m",
		"device": "network", "wait_ms": 5000}, 200, &failed)
	if failed.State != Failed || !strings.Contains(failed.Error, "no analyser answers") {
		t.Errorf("%+v", failed)
	}
}
