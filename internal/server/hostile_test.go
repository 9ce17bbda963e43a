package server

import (
	"encoding/json"
	"math/rand/v2"
	"net/http/httptest"
	"strings"
	"testing"
)

// mangle changes one value somewhere in a JSON document to something unexpected.
func mangle(rng *rand.Rand, v any) any {
	odd := []any{nil, -1.0, 1e308, "", "\x00\u202e<script>", strings.Repeat("9", 300), []any{}, map[string]any{}, true,
		map[string]any{"typed": "\u221e m"}, "2026-99-99T99:99:99Z"}
	switch x := v.(type) {
	case map[string]any:
		if len(x) > 0 && rng.IntN(5) > 0 {
			keys := make([]string, 0, len(x))
			for k := range x {
				keys = append(keys, k)
			}
			k := keys[rng.IntN(len(keys))]
			if rng.IntN(8) == 0 {
				delete(x, k)
			} else {
				x[k] = mangle(rng, x[k])
			}
			return x
		}
	case []any:
		if len(x) > 0 && rng.IntN(5) > 0 {
			i := rng.IntN(len(x))
			x[i] = mangle(rng, x[i])
			return x
		}
	}
	return odd[rng.IntN(len(odd))]
}

func TestNothingThatIsSentBreaksTheServer(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.raise(21, heron, "end-fed", "sloper", "20.5 m")
	built := `{"family":"end-fed","variant":"sloper","frequency_hz":7100000,"radiator":{"typed":"20 m","unit":"m"},` +
		`"far_height":{"m":6},"radials":{"count":4,"length":{"typed":"5 m"}},"metal":[{"what":"fence","distance":{"typed":"3 m"}}],` +
		`"coax":{"type":"RG-58","length":{"m":10}},"confirmed":["storm"]}`
	requests := []struct{ method, path, body string }{
		{"PUT", "/api/me", `{"call":"Q2TAV","region":1,"imperial":false,"power_w":5,"good_swr":2,` +
			`"segments":[{"band":"40m","lo":7000000,"hi":7200000,"use":"cw","on":true}]}`},
		{"PUT", "/api/outings/" + uid(1), `{"name":"x","date":"2026-05-16","place":"IN36","ground":"sea",` +
			`"scheme":"none","until":"20:00","notes":"x"}`},
		{"PUT", "/api/deployments/" + uid(heron),
			`{"outing_id":"` + uid(1) + `","name":"x","plan":{"family":"dipole","variant":"inverted-v","frequency_hz":7100000,` +
				`"apex_angle":120,"knot":{"typed":"8 cm"},"trim_percent":2,"half_waves":1}}`},
		{"POST", "/api/plan", `{"family":"vertical","variant":"raised-radials","frequency_hz":14100000,` +
			`"radials":{"count":4,"length":{"typed":"5 m"}},"ground":"sea"}`},
		{"POST", "/api/check", `{"built":` + built + `,"planned":{"family":"end-fed","variant":"flat","frequency_hz":7100000}}`},
		{"PUT", "/api/revisions/" + uid(22), `{"deployment_id":"` + uid(heron) + `","reason":"x","at":"2026-05-16T14:00:00Z","built":` + built +
			`}`},
		{"PUT", "/api/sweeps/" + uid(31), `{"revision_id":"` + uid(21) +
			`","where":"feed","file":{"name":"a.csv","typed":"7.0 1.5\n7.1 1.2","choices":{"columns":"f swr"}}}`},
		{"POST", "/api/preview", `{"name":"a.csv","content":"Ny4wLDEuNQo3LjEsMS4yCg==","choices":{"frequency-unit":"kHz"}}`},
		{"POST", "/api/line", `{"outing_id":"` + uid(1) + `","line":"Q2TAV 59 57 40m SSB","at":"2026-05-16T14:00:00Z"}`},
		{"PUT", "/api/contacts/" + uid(41) + "/line", `{"outing_id":"` + uid(1) + `","line":"Q2TAV 59 57 40m SSB"}`},
		{"PUT", "/api/contacts/" + uid(41), `{"outing_id":"` + uid(1) +
			`","call":"Q2TAV","at":"2026-05-16T14:00:00Z","seconds":true,"band":"40m","freq_hz":7100000,"mode":"SSB"}`},
		{"POST", "/api/versions", `{"kind":"contact","id":"` + uid(41) + `","to":1}`},
	}
	rng := rand.New(rand.NewPCG(61, 62))
	seen := map[int]int{}
	for range 1500 {
		x := requests[rng.IntN(len(requests))]
		var doc any
		if err := json.Unmarshal([]byte(x.body), &doc); err != nil {
			t.Fatal(err)
		}
		for range 1 + rng.IntN(2) {
			doc = mangle(rng, doc)
		}
		body, err := json.Marshal(doc)
		if err != nil {
			t.Fatal(err)
		}
		r := request(x.method, "http://localhost"+x.path, strings.NewReader(string(body)))
		r.Header.Set("Content-Type", "application/json")
		w := httptest.NewRecorder()
		c.h.ServeHTTP(w, r)
		seen[w.Code]++
		if w.Code >= 500 || !json.Valid(w.Body.Bytes()) {
			t.Fatalf("%s %s\n%s\n%d %s", x.method, x.path, body, w.Code, w.Body)
		}
		if w.Code >= 400 && (strings.Contains(w.Body.String(), "goroutine") || strings.Contains(w.Body.String(), ".go:")) {
			t.Fatalf("a trace was sent: %s", w.Body)
		}
	}
	if seen[200] == 0 || seen[400] == 0 || seen[422] == 0 {
		t.Errorf("answers %v: all kinds should occur", seen)
	}
	// Whatever was taken can still be shown.
	for _, path := range []string{"/api/outings", "/api/outings/" + uid(1), "/api/outings/" + uid(1) + "/log", "/api/tags",
		"/api/deployments/" + uid(heron), "/api/deployments/" + uid(heron) + "/reading"} {
		r := request("GET", "http://localhost"+path, nil)
		w := httptest.NewRecorder()
		c.h.ServeHTTP(w, r)
		if w.Code != 200 {
			t.Errorf("%s: %d %s", path, w.Code, w.Body)
		}
	}
}
