package server

import (
	"encoding/base64"
	"fmt"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
)

type texts = map[string]string

func (c *client) part(id int, kind, name string, t texts) BagThing {
	c.t.Helper()
	return c.changePart(id, 0, kind, name, t)
}

func (c *client) changePart(id, version int, kind, name string, t texts) BagThing {
	c.t.Helper()
	var out BagThing
	c.call("PUT", fmt.Sprintf("/api/parts/%s?version=%d", uid(id), version), map[string]any{"kind": kind, "name": name, "texts": t}, 200, &out)
	return out
}

func TestAPlanFromTheBagAndBack(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	wire := c.part(51, "wire", "short reel", texts{"conductor": "0.9", "outer": "2", "permittivity": "3.2", "left": "15 m"})
	if len(wire.About) == 0 || wire.Grams <= 0 {
		t.Errorf("nothing is computed of a wire: %+v", wire)
	}
	c.part(52, "transformer", "64:1", texts{"primary": "3", "secondary": "24"})
	c.part(53, "coax", "own cable", texts{"length": "12 m", "at10": "5", "at100": "17", "vf": "0.8"})
	plan := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 0,
		"parts": texts{"wire": uid(51), "transformer": uid(52)}, "texts": texts{"for": "7.1", "primary_turns": ""}, "unit": "m"}
	var p antenna.Plan
	c.call("POST", "/api/plan", plan, 200, &p)
	if p.Record.Secondary != 24 || p.Wire.ID != uid(51) {
		t.Errorf("%d turns, wire %q", p.Record.Secondary, p.Wire.ID)
	}
	reel := false
	for _, f := range p.Faults {
		reel = reel || f.Path == "wire" && strings.Contains(f.Text, "reel")
	}
	if !reel {
		t.Errorf("15 m on the reel for 20 m of wire: %v", p.Faults)
	}
	var d DeploymentDetail
	c.call("PUT", "/api/deployments/"+uid(13), map[string]any{"outing_id": uid(outing), "name": "Knot", "plan": plan}, 200, &d)
	if d.PlanTexts["for"] != "7.1" || d.PlanTexts["secondary_turns"] != "24" || d.BuiltTexts["radiator"] == "" || len(d.BuiltFields) == 0 {
		t.Errorf("%v %v", d.PlanTexts, d.BuiltTexts)
	}
	built := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7.1e6,
		"parts": texts{"wire": uid(51), "coax": uid(53)}, "texts": texts{"radiator": "19.8", "feed_height": "1", "far_height": "6"}, "unit": "m"}
	c.call("PUT", "/api/revisions/"+uid(24), map[string]any{"deployment_id": uid(13), "reason": "as cut", "built": built}, 200, &d)
	got := d.Revisions[0].Built.Record
	if math.Abs(got.Radiator().M-19.8) > 1e-9 || got.Coax.Length.M != 12 || got.Coax.Own == nil || got.WireData == nil {
		t.Errorf("as built: %+v", got)
	}
	var thing BagThing
	c.call("GET", "/api/parts/"+uid(53), nil, 200, &thing)
	if len(thing.Uses) != 1 || thing.Uses[0].Deployment != "Knot" || !thing.Uses[0].Built {
		t.Errorf("history of the coax: %+v", thing.Uses)
	}
	// The bag changes later: the record does not.
	c.changePart(53, 1, "coax", "own cable", texts{"type": "RG-174", "length": "3 m"})
	c.call("GET", "/api/deployments/"+uid(13), nil, 200, &d)
	if d.Revisions[0].Built.Record.Coax.Length.M != 12 {
		t.Error("the record changed with the bag")
	}
	// Out of the bag, a recorded coax goes on into the next revision with its data.
	c.call("POST", "/api/versions", map[string]any{"kind": "part", "id": uid(53), "to": 0, "version": 2}, 200, nil)
	built["coax"] = got.Coax
	c.call("PUT", "/api/revisions/"+uid(25), map[string]any{"deployment_id": uid(13), "reason": "again", "built": built}, 200, &d)
	if again := d.Revisions[1].Built.Record.Coax; again.Own == nil || *again.Own != *got.Coax.Own || again.Length.M != 12 {
		t.Errorf("the coax became %+v", again)
	}
	var lists CutLists
	c.call("GET", "/api/outings/"+uid(outing)+"/cutlists", nil, 200, &lists)
	if len(lists.Columns) != 3 || !strings.Contains(lists.Sentence, "least wire") ||
		!strings.Contains(lists.Columns[2].Reel, "short on the reel") {
		t.Errorf("%q %+v", lists.Sentence, lists.Columns)
	}
	c.call("POST", "/api/versions", map[string]any{"kind": "part", "id": uid(51), "to": 0, "version": 1}, 200, nil)
	c.call("POST", "/api/plan", plan, 200, &p)
	if len(p.Faults) == 0 || p.Faults[0].Path != "parts.wire" {
		t.Errorf("a wire that is out of the bag: %v", p.Faults)
	}
}

func TestTypedTextsAreFaultedAtTheirField(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	var bad Problem
	c.call("PUT", "/api/deployments/"+uid(14), map[string]any{"outing_id": uid(outing), "name": "x",
		"plan": map[string]any{"family": "small-loop", "variant": "upright", "frequency_hz": 0, "texts": texts{"for": "7.1", "tube": "wide"}}},
		422, &bad)
	if len(bad.Errors) != 1 || bad.Errors[0].Path != "plan.tube" {
		t.Errorf("%+v", bad.Errors)
	}
	c.call("PUT", "/api/parts/"+uid(54), map[string]any{"kind": "wire", "name": "x", "texts": texts{"conductor": "thick"}}, 422, &bad)
	if bad.Errors[0].Path != "conductor" {
		t.Errorf("%+v", bad.Errors)
	}
	var checked Checked
	c.call("POST", "/api/check", map[string]any{"built": map[string]any{"family": "helix", "variant": "ground-radials", "frequency_hz": 14e6,
		"texts": texts{"radiator": "two metres"}}}, 200, &checked)
	if len(checked.Fields) == 0 || len(checked.Faults) == 0 || checked.Faults[0].Path != "radiator" {
		t.Errorf("%+v", checked.Faults)
	}
}

func TestEveryFamilyCanBePlannedRaisedAndShown(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	for i, fam := range family.Families() {
		id := 100 + i
		text := "14.06"
		if fam.Multi {
			text = "7.1 14.06 21.1"
		}
		var d DeploymentDetail
		c.call("PUT", "/api/deployments/"+uid(id), map[string]any{"outing_id": uid(outing), "name": fam.Short,
			"plan": map[string]any{"family": fam.ID, "variant": fam.Variants[0].ID, "frequency_hz": 0, "texts": texts{"for": text}}}, 200, &d)
		built := d.Planned.Record
		as := map[string]any{"family": built.Family, "variant": built.Variant, "frequency_hz": built.FrequencyHz, "texts": d.BuiltTexts}
		if len(built.More) > 0 {
			as["more_hz"] = built.More
		}
		c.call("PUT", "/api/revisions/"+uid(200+i), map[string]any{"deployment_id": uid(id), "reason": "as planned", "built": as}, 200, &d)
		if len(d.Revisions) != 1 || len(d.Revisions[0].Drawing.Lines) == 0 {
			t.Errorf("%s: %+v", fam.ID, d.Revisions)
		}
		for _, f := range d.Revisions[0].Faults {
			if f.Severity == "error" {
				t.Errorf("%s as planned: %v", fam.ID, f)
			}
		}
	}
}

func TestBagFileIsLookedAtBeforeItIsTaken(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	content := map[string]any{"content": base64.StdEncoding.EncodeToString([]byte("kind,name,length,usable\n" +
		"pole,tall,10 m,8 m\npole,,7 m,\n"))}
	var p struct {
		Rows  []struct{ Taken, Known bool }
		Notes []struct{ Line int }
	}
	c.call("POST", "/api/bag/preview", content, 200, &p)
	if len(p.Rows) != 2 || !p.Rows[0].Taken || p.Rows[1].Taken || p.Notes[0].Line != 3 {
		t.Errorf("%+v", p)
	}
	var bag BagList
	c.call("GET", "/api/bag", nil, 200, &bag)
	if len(bag.Things) != 0 || !strings.Contains(bag.Sentence, "empty") {
		t.Error("the preview wrote something")
	}
	var done Imported
	for _, want := range []Imported{{Added: 1, Refused: 1}, {Known: 1, Refused: 1}} {
		c.call("POST", "/api/bag/import", content, 200, &done)
		if done != want {
			t.Errorf("%+v, want %+v", done, want)
		}
	}
	var file string
	c.call("GET", "/api/bag.csv", nil, 200, &file)
	if !strings.Contains(file, "pole,tall") {
		t.Errorf("%q", file)
	}
	c.call("POST", "/api/bag/preview", map[string]any{"content": base64.StdEncoding.EncodeToString([]byte("nonsense"))}, 422, nil)
}

func TestBenchAnswersAndPointsAtBadEntries(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	var a struct {
		Sentence string
		Faults   []struct{ Path string }
	}
	c.call("POST", "/api/bench", map[string]any{"tool": "coil", "texts": texts{"coil_former": "49", "coil_wire": "1", "coil_pitch": "1",
		"coil_length": "100", "turns": "60"}}, 200, &a)
	if !strings.Contains(a.Sentence, "72.7 uH") {
		t.Errorf("%q", a.Sentence)
	}
	c.call("POST", "/api/bench", map[string]any{"tool": "cable", "texts": texts{"length": "far"}}, 200, &a)
	if len(a.Faults) != 1 || a.Faults[0].Path != "length" {
		t.Errorf("%+v", a)
	}
}
