package server

import (
	"fmt"
	"strings"
	"testing"
)

func TestMarksHoldForWhatTheyWereFoundWith(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	plan := map[string]any{"family": "whip", "variant": "ground-radials", "texts": texts{"for": "14.06 21.06"}, "unit": "m", "frequency_hz": 0}
	c.call("PUT", "/api/deployments/"+uid(70), map[string]any{"outing_id": uid(outing), "name": "Avocet", "plan": plan}, 200, nil)
	raise := func(id int, radials string) {
		built := map[string]any{"family": "whip", "variant": "ground-radials", "frequency_hz": 14.06e6,
			"texts": texts{"radiator": "4.9", "radials_count": radials, "radials_length": "5"}, "unit": "m"}
		c.call("PUT", "/api/revisions/"+uid(id), map[string]any{"deployment_id": uid(70), "reason": "as put up", "built": built}, 200, nil)
	}
	raise(71, "8")
	mark := func(id int, hz, out, swr string) map[string]any {
		return map[string]any{"id": uid(id), "texts": texts{"hz": hz, "radiator": out, "swr": swr}}
	}
	version := 0
	put := func(status int, into any, rows ...map[string]any) {
		t.Helper()
		c.call("PUT", fmt.Sprintf("/api/marks/%s?version=%d", uid(80), version),
			map[string]any{"deployment_id": uid(70), "name": "long whip", "marks": rows, "unit": "m"}, status, into)
	}
	var p Problem
	put(422, &p, mark(81, "14.06", "4.95", "1.2"), mark(82, "21.06", "three metres", "0.4"))
	if len(p.Errors) != 2 || p.Errors[0].Path != "marks.1.radiator" || p.Errors[1].Path != "marks.1.swr" {
		t.Errorf("%+v", p.Errors)
	}
	var stored Stored
	put(200, &stored, mark(81, "14.06", "4.95", "1.2"))
	version = stored.Version
	raise(72, "2")
	// One mark is carried along untouched, one is new: the old one keeps its radials.
	put(200, &stored, mark(81, "14.06", "4.95", "1.2"), mark(82, "21.06", "3.28", "1.3"))
	var v MarksView
	c.call("GET", "/api/deployments/"+uid(70)+"/marks?for=14.06", nil, 200, &v)
	if len(v.Sets) != 1 || v.Sets[0].Version != 2 || len(v.Sets[0].Card.Rows) != 2 || !v.Sets[0].BegunHere {
		t.Fatalf("%+v", v.Sets)
	}
	set := v.Sets[0]
	if !strings.Contains(set.Card.Rows[0].With, "8 of 5.00 m") || !strings.Contains(set.Card.Rows[1].With, "2 of 5.00 m") ||
		len(set.Card.Rows[1].Warnings) != 0 {
		t.Errorf("%+v", set.Card.Rows)
	}
	if w := strings.Join(set.Setting.Warnings, " "); set.Setting.How != "marked" ||
		!strings.Contains(w, "Radials: 8 of 5.00 m then, 2 of 5.00 m now.") {
		t.Errorf("%+v", set.Setting)
	}
	c.call("GET", "/api/deployments/"+uid(70)+"/marks?for=green", nil, 422, &p)
	if len(p.Errors) != 1 || p.Errors[0].Path != "for" {
		t.Errorf("%+v", p)
	}
	// For a band: the middle of the first segment of one's own there.
	var onBand MarksView
	c.call("GET", "/api/deployments/"+uid(70)+"/marks?band=20m&mode=CW", nil, 200, &onBand)
	if onBand.Hz < 14.0e6 || onBand.Hz > 14.07e6 || len(onBand.Sets) != 1 {
		t.Errorf("%+v", onBand)
	}
	// Back to the version before, and away.
	c.call("POST", "/api/versions", map[string]any{"kind": "marks", "id": uid(80), "to": 1, "version": 2}, 200, nil)
	c.call("GET", "/api/deployments/"+uid(70)+"/marks", nil, 200, &v)
	if len(v.Sets[0].Card.Rows) != 1 || v.Mhz != "14.060" {
		t.Errorf("%+v", v.Sets)
	}
	c.call("POST", "/api/versions", map[string]any{"kind": "marks", "id": uid(80), "to": 0, "version": 3}, 200, nil)
	c.call("GET", "/api/deployments/"+uid(70)+"/marks", nil, 200, &v)
	if len(v.Sets) != 0 {
		t.Errorf("%+v", v.Sets)
	}
}
