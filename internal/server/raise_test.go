package server

import (
	"bytes"
	"encoding/base64"
	"image"
	"image/png"
	"net/http/httptest"
	"strings"
	"testing"
)

func TestAPhotoIsKeptCleanAndWithinLimits(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("PUT", "/api/deployments/"+uid(60), map[string]any{"outing_id": uid(outing), "name": "Knot",
		"plan": map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}}, 200, nil)
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30))); err != nil {
		t.Fatal(err)
	}
	photo := func(id, status int, content []byte, into any) {
		t.Helper()
		c.call("PUT", "/api/photos/"+uid(id), map[string]any{"deployment_id": uid(60), "caption": " dune ",
			"content": base64.StdEncoding.EncodeToString(content)}, status, into)
	}
	var info PhotoInfo
	photo(300, 200, b.Bytes(), &info)
	if info.Width != 40 || info.Caption != "dune" {
		t.Errorf("%+v", info)
	}
	w := httptest.NewRecorder()
	r := request("GET", "/api/photos/"+uid(300), nil)
	r.Host = "localhost"
	c.h.ServeHTTP(w, r)
	if w.Code != 200 || w.Header().Get("Content-Type") != "image/jpeg" || w.Header().Get("X-Content-Type-Options") != "nosniff" ||
		!bytes.HasPrefix(w.Body.Bytes(), []byte{0xff, 0xd8}) {
		t.Errorf("%d %v", w.Code, w.Header())
	}
	var p Problem
	photo(301, 422, []byte("<svg onload='x'>"), &p)
	if !strings.Contains(p.Title+p.Detail, "JPEG or PNG") && !strings.Contains(p.Errors[0].Detail, "JPEG or PNG") {
		t.Errorf("%+v", p)
	}
	for i := range 11 {
		photo(302+i, 200, b.Bytes(), nil)
	}
	photo(400, 422, b.Bytes(), &p)
	if len(p.Errors) != 1 || !strings.Contains(p.Errors[0].Detail, "12 photos") {
		t.Errorf("%+v", p)
	}
	c.call("POST", "/api/versions", map[string]any{"kind": "photo", "id": uid(300), "to": 0, "version": 1}, 200, nil)
	var d DeploymentDetail
	c.call("GET", "/api/deployments/"+uid(60), nil, 200, &d)
	if len(d.Photos) != 11 {
		t.Errorf("%d photos", len(d.Photos))
	}
	c.call("POST", "/api/versions", map[string]any{"kind": "photo", "id": uid(300), "to": 1, "version": 2}, 200, nil)
	c.call("GET", "/api/photos/"+uid(999), nil, 404, nil)
}

func TestTheClockAndTheRecipeStayWithTheDeployment(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	plan := map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6}
	input := map[string]any{"outing_id": uid(outing), "name": "Knot", "plan": plan}
	c.call("PUT", "/api/deployments/"+uid(60), input, 200, nil)
	built := map[string]any{"family": "dipole", "variant": "flat", "frequency_hz": 14.06e6, "radiator": length("4.97 m"),
		"leg_b": length("4.97 m"), "feed_height": length("6 m"), "far_height": length("6 m"), "wind": "fresh"}
	c.call("PUT", "/api/revisions/"+uid(61), map[string]any{"deployment_id": uid(60), "reason": "as cut", "built": built}, 200, nil)
	var d DeploymentDetail
	c.call("PUT", "/api/deployments/"+uid(60)+"/clock?version=1", map[string]any{"begun": "2026-05-16T13:00:00Z",
		"up": "2026-05-16T13:11:00Z"}, 200, &d)
	if d.ClockMinutes != 11 || len(d.ClockParts) != 1 {
		t.Errorf("%d %+v", d.ClockMinutes, d.ClockParts)
	}
	var p Problem
	c.call("PUT", "/api/deployments/"+uid(60)+"/clock", map[string]any{"begun": "2026-05-16T13:00:00Z", "up": "2026-05-16T12:00:00Z"}, 422, &p)
	if len(p.Errors) != 1 || p.Errors[0].Path != "up" {
		t.Errorf("%+v", p)
	}
	c.call("PUT", "/api/deployments/"+uid(60), input, 200, &d)
	if d.ClockMinutes != 11 {
		t.Error("a change of the plan lost the clock")
	}
	var info RecipeInfo
	c.call("PUT", "/api/recipes/"+uid(62), map[string]any{"revision_id": uid(61), "name": " "}, 422, &p)
	c.call("PUT", "/api/recipes/"+uid(62), map[string]any{"revision_id": uid(61), "name": "beach dipole"}, 200, &info)
	if info.Revision != "r1 of Knot" || !strings.Contains(info.Says, "9.94 m") {
		t.Errorf("%+v", info)
	}
	c.call("PUT", "/api/deployments/"+uid(63)+"/layout", map[string]any{"outing_id": uid(outing), "recipe_id": uid(62)}, 200, &d)
	if d.Recipe == nil || d.Afresh == nil || d.Afresh.Record.Radiator().M != 4.97 || d.Afresh.Record.Wind != "" ||
		d.Deployment.Name != "beach dipole" {
		t.Fatalf("%+v", d.Recipe)
	}
	c.call("PUT", "/api/deployments/"+uid(64)+"/layout", map[string]any{"outing_id": uid(outing), "recipe_id": uid(99)}, 404, nil)
	ask := map[string]any{"id": uid(950), "slot": "m", "deployment_id": uid(60), "built": built, "outing_id": uid(outing), "wait_ms": 100}
	c.call("POST", "/api/compute/move", ask, 422, &p)
	if len(p.Errors) != 1 || p.Errors[0].Path != "deployment_id" {
		t.Errorf("%+v", p)
	}
}
