package server

import (
	"strings"
	"testing"

	"reed/core/place"
	"reed/core/scout"
	"reed/core/site"
	"reed/internal/testsize"
)

func TestASiteIsKeptAndItsLinesAreReadAsTheyAreTyped(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	put := func(lines []string, version string, want int, out any) {
		c.call("PUT", "/api/sites/"+uid(71)+"?version="+version, map[string]any{"id": uid(71), "name": " Gannet Spit ",
			"lines": lines, "version": 0}, want, out)
	}
	var kept site.Site
	put([]string{"area, 40 by 30 m", "tree, 10 m at 0, 9 m high"}, "0", 200, &kept)
	if kept.Name != "Gannet Spit" || kept.Version != 1 {
		t.Errorf("%+v", kept)
	}
	var bad Problem
	put([]string{"area, 40 by 30 m", "tree, over there"}, "1", 422, &bad)
	if len(bad.Errors) != 1 || bad.Errors[0].Path != "lines.1" {
		t.Errorf("%+v", bad.Errors)
	}
	var shelf SiteShelf
	c.call("GET", "/api/sites", nil, 200, &shelf)
	if len(shelf.Sites) != 1 || len(shelf.Sites[0].Lines) != 2 || len(shelf.Patterns) < 4 {
		t.Errorf("%+v", shelf)
	}
	var read SiteRead
	c.call("POST", "/api/sites/lines", map[string]any{"lines": []string{"tree, 10 m at 0, 9 m high", "power line, 9 m at 0 to 9 m at 90"},
		"move": map[string]any{"line": 0, "point": 0, "to": []float64{-4, 0}}}, 200, &read)
	if !strings.HasPrefix(read.Lines[0], "tree, 4.00 m at 270") || len(read.Faults) != 1 || read.Faults[0].Severity != "caution" {
		t.Errorf("%+v", read)
	}
	c.call("POST", "/api/sites/lines", map[string]any{"lines": []string{"tree, 10 m at 0, 9 m high", " ", ""},
		"add": map[string]any{"kind": "path", "points": [][]float64{{-5, 0}, {5, 0}}}}, 200, &read)
	if len(read.Lines) != 2 || read.Lines[1] != "path, 5.00 m at 270 to 5.00 m at 90" || len(read.Map.Things) != 2 {
		t.Errorf("%+v", read)
	}
	c.call("POST", "/api/sites/lines", map[string]any{"lines": []string{}, "add": map[string]any{"kind": "area",
		"points": [][]float64{{-5, 0}, {5, 0}}}}, 422, &bad)
}

func TestAnOutingIsScouted(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	ask := func(lines ...string) map[string]any {
		c.asked++
		return map[string]any{"id": uid(7000 + c.asked), "slot": "scout", "wait_ms": 5000, "site": map[string]any{"id": uid(71),
			"name": "x", "lines": lines, "place": "46.5 N 12 W", "version": 0},
			"purpose": map[string]any{"date": "2026-05-16", "from": "09:00", "until": "15:00", "frequencies_mhz": []float64{14.06}}}
	}
	open := compute[scout.Answer](c, "scout", ask("area, 40 by 30 m"))
	if open.Result == nil || len(open.Result.Candidates) < 5 {
		t.Fatalf("%+v", open)
	}
	first := open.Result.Candidates[0]
	other := ask("area, 40 by 30 m")
	other["purpose"].(map[string]any)["weights"] = map[string]float64{"signal": 0, "minutes": 0, "weight": 0, "wire": 5,
		"space": 0, "trust": 0}
	if a := compute[scout.Answer](c, "scout", other); a.Result.Candidates[0].WireM > first.WireM ||
		a.Result.Candidates[0].Score == first.Score ||
		!strings.Contains(a.Result.Sentence, strings.ToLower(a.Result.Candidates[0].Name[:5])) {
		t.Errorf("only wire counts, and %s is first: %s", a.Result.Candidates[0].Name, a.Result.Sentence)
	}
	near := compute[scout.Answer](c, "scout", ask("area, 10 by 10 m", "power line, 6 m at 300 to 6 m at 60, 7 m high"))
	if len(near.Result.Hazards) == 0 || near.Result.Hazards[0].Code != "power-line" && len(near.Result.Candidates) == 0 {
		t.Errorf("%+v", near.Result.Hazards)
	}
	var bad Problem
	wrong := ask("area, 40 by 30 m")
	wrong["purpose"].(map[string]any)["from"] = "noon"
	c.call("POST", "/api/compute/scout", wrong, 422, &bad)
	if len(bad.Errors) != 1 || bad.Errors[0].Path != "from" {
		t.Errorf("%+v", bad)
	}
}

func TestWhatWasMissingIsPackedNextTime(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	put := func(id int, date, site, missing string) {
		c.call("PUT", "/api/outings/"+uid(id)+"?version=0", map[string]any{"name": "x", "date": date, "site": site, "missing": missing}, 200, nil)
	}
	put(81, "2026-05-01", uid(71), "the choke\n\n a lamp")
	put(82, "2026-05-09", uid(72), "gloves")
	put(83, "2026-06-09", uid(71), "later on")
	ask := map[string]any{"id": uid(7900), "slot": "scout", "wait_ms": 5000,
		"site":    map[string]any{"id": uid(71), "name": "x", "lines": []string{"area, 40 by 30 m"}, "version": 0},
		"purpose": map[string]any{"date": "2026-05-16", "frequencies_mhz": []float64{14.06}}}
	a := compute[scout.Answer](c, "scout", ask)
	first := a.Result.Packing[0]
	if len(first.Items) != 2 || first.Items[0].Name != "the choke" || first.Items[1].Name != "a lamp" {
		t.Errorf("the last outing there missed a choke and a lamp: %+v", first)
	}
}

func TestTheDayIsACalendarOnceItsPurposeIsKept(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	c.field()
	c.call("GET", "/api/outings/"+uid(outing)+"/day.ics", nil, 422, nil)
	var d OutingDetail
	c.call("GET", "/api/outings/"+uid(outing), nil, 200, &d)
	o := map[string]any{"name": d.Outing.Name, "date": d.Outing.Date, "place": d.Outing.Place,
		"purpose": map[string]any{"date": d.Outing.Date, "from": "09:00", "until": "15:00", "frequencies_mhz": []float64{14.06}}}
	c.call("PUT", "/api/outings/"+uid(outing)+"?version=1", o, 200, nil)
	var text string
	c.call("GET", "/api/outings/"+uid(outing)+"/day.ics", nil, 200, &text)
	if !strings.Contains(text, "BEGIN:VCALENDAR") || !strings.Contains(text, "begin to pack") {
		t.Errorf("%s", text)
	}
}

func TestABulletinIsSimulatedAndSaysSo(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	var b, again BulletinText
	c.call("GET", "/api/bulletin?place=46.5+N+12+W&date=2026-07-16", nil, 200, &b)
	c.call("GET", "/api/bulletin?place=46.5+N+12+W&date=2026-07-16", nil, 200, &again)
	if !b.Simulated || b != again || !strings.HasPrefix(b.Text, "simulated\n") || !strings.Contains(b.Text, "flux ") {
		t.Errorf("%+v", b)
	}
	ask := map[string]any{"id": uid(7900), "slot": "scout", "wait_ms": 5000, "site": map[string]any{"id": uid(71), "name": "x",
		"lines": []string{"area, 40 by 30 m"}, "place": "46.5 N 12 W", "version": 0}, "purpose": map[string]any{"date": "2026-07-16",
		"from": "09:00", "until": "15:00", "frequencies_mhz": []float64{14.06}, "bulletin": b.Text}}
	if a := compute[scout.Answer](c, "scout", ask); a.Result == nil || !strings.Contains(strings.Join(a.Result.Day.Says, " "), "simulated") {
		t.Errorf("the mark is lost: %+v", a)
	}
	var bad Problem
	c.call("GET", "/api/bulletin?place=nowhere&date=2026-07-16", nil, 422, &bad)
	if len(bad.Errors) != 1 || bad.Errors[0].Path != "place" {
		t.Errorf("%+v", bad)
	}
	c.call("GET", "/api/bulletin?place=46.5+N+12+W&date=today", nil, 422, &bad)
	if bad.Errors[0].Path != "date" {
		t.Errorf("%+v", bad)
	}
	var fix Fix
	c.call("GET", "/api/fix", nil, 200, &fix)
	if p, err := place.ParsePosition(fix.Place); err != nil || !fix.Simulated || place.Locator(p, 8) != fix.Locator || fix.AccuracyM <= 0 {
		t.Errorf("%+v: %v", fix, err)
	}
}

func TestOwnClocksComeFromTheRecords(t *testing.T) {
	testsize.SkipIfShort(t, "solves or judges a whole outing")
	t.Parallel()
	c := newClient(t)
	c.field()
	built := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7.1e6, "radiator": length("19.8 m"),
		"feed_height": length("1.5 m"), "far_height": length("6 m"), "power_w": 10, "setup_minutes": 13}
	c.call("PUT", "/api/revisions/"+uid(900), map[string]any{"deployment_id": uid(heron), "reason": "as cut", "built": built}, 200, nil)
	ask := map[string]any{"id": uid(7901), "slot": "scout", "wait_ms": 5000, "site": map[string]any{"id": uid(71), "name": "x",
		"lines": []string{"area, 60 by 40 m"}, "place": "46.5 N 12 W", "version": 0}, "purpose": map[string]any{"date": "2026-07-16",
		"from": "09:00", "until": "15:00", "frequencies_mhz": []float64{7.1}}}
	found := false
	for _, y := range compute[scout.Answer](c, "scout", ask).Result.Candidates {
		own := strings.Contains(strings.Join(y.Reasons, " "), "13 minutes to set up, by your clock")
		if own != (y.Family == "end-fed") {
			t.Errorf("%s: %v", y.Name, y.Reasons)
		}
		found = found || own
	}
	if !found {
		t.Error("no end-fed wire is offered")
	}
}
