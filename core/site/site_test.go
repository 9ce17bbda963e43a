package site

import (
	"math"
	"strings"
	"testing"

	"reed/core/entry"
	"reed/core/quantity"
)

func read(t *testing.T, lines ...string) Map {
	t.Helper()
	m, faults := Read(lines, "m")
	if hasError(faults) {
		t.Fatal(faults)
	}
	return m
}

func TestThingsStandWhereTheyWerePaced(t *testing.T) {
	m := read(t, "tree, 14 m at 230 degrees, 9 m high", "path (to the hut), 10 m at N to 33 ft at east, 2 m wide",
		"area, 20 by 10 m", "bench, 2 m at sw",
		"power line, 40 m at 300 to 40 m at 60, 8 m high", "no stakes", "hours 08:00 to 20:30", "ask the warden at the gate",
		"horizon 12 degrees at 200", "building, 8 by 4 m towards 0 around 30 m at 90, 5 m high")
	tree := m.Of(Tree)[0]
	if math.Abs(tree.Points[0][0]+14*math.Sin(50*math.Pi/180)) > 1e-9 || math.Abs(tree.Points[0][1]+14*math.Cos(50*math.Pi/180)) > 1e-9 ||
		tree.High != 9 {
		t.Errorf("%+v", tree)
	}
	if p := m.Of(Path)[0]; p.Name != "to the hut" || math.Abs(p.Points[1][0]-33*0.3048) > 1e-9 || p.Wide != 2 {
		t.Errorf("%+v", p)
	}
	if a := m.Of(Area)[0]; math.Abs(square(a.Points)-200) > 1e-9 || !Contains(a.Points, Spot{9.9, 4.9}) || Contains(a.Points, Spot{4, 6}) {
		t.Errorf("20 by 10 m surrounds %v m2: %+v", square(a.Points), a.Points)
	}
	if b := m.Of(Building)[0]; !Contains(b.Points, Spot{30, 3.9}) || Contains(b.Points, Spot{33, 0}) {
		t.Errorf("8 m to the north and south of 30 m east: %+v", b.Points)
	}
	if m.Rules != (Rules{NoStakes: true, From: "08:00", Until: "20:30", Ask: "the warden at the gate"}) || m.RiseAt(215) != 12 ||
		m.RiseAt(90) != 0 {
		t.Errorf("%+v %+v", m.Rules, m.Horizon)
	}
	if got := m.Outside(Spot{13, 0}); math.Abs(got-3) > 1e-9 {
		t.Errorf("13 m east is %v m outside", got)
	}
}

func TestALineReadsBackAsItWasWritten(t *testing.T) {
	m := read(t, "tree, 14 m at 230, 9 m high", "bench, 3 m at 10, metal", "power line (the old one), 40 m at 300 to 12 m at 60",
		"path, 5 m at 0 to 9 m at 90, 1.5 m wide")
	for _, units := range []quantity.System{quantity.SI, true} {
		for _, x := range m.Things {
			line := x.Write(units)
			again := read(t, line).Things[0]
			if again.Kind != x.Kind || again.Name != x.Name || again.Metal != x.Metal || math.Abs(again.High-x.High) > 0.01 {
				t.Errorf("%q reads as %+v, not %+v", line, again, x)
			}
			for i := range x.Points {
				if again.Points[i].From(x.Points[i]) > 0.01+0.009*math.Hypot(x.Points[i][0], x.Points[i][1]) {
					t.Errorf("%q: point %d went from %v to %v", line, i, x.Points[i], again.Points[i])
				}
			}
		}
	}
	if line, ok := m.Things[0].Moved(0, Spot{0, 5}, quantity.SI); !ok || !strings.HasPrefix(line, "tree, 5.00 m at 0") {
		t.Errorf("moved: %q", line)
	}
}

func TestWhatCannotBeIsSaidAtItsLine(t *testing.T) {
	for _, c := range []struct{ line, severity, says string }{
		{"a tall thing, 4 m at 90", "error", "unknown object"},
		{"tree, 9 m high", "error", "where is it"},
		{"tree, 4 m at 400", "error", "bearing"},
		{"tree, 4 m at 20, 200 m high", "ask", "Only few"},
		{"tree, 4 m at 20, 2000 m high", "error", "too high"},
		{"path, 4 m at 20", "error", "a start and an end point"},
		{"area, 10 m at 0 to 10 m at 180 to 10 m at 90 to 10 m at 270", "error", "crosses itself"},
		{"area, 0 by 10 m", "error", "surrounds nothing"},
		{"power line, 20 m at 0 to 20 m at 90", "caution", "height"},
		{"tree, 9000 m at 20", "error", "not on this site"},
		{"tree, four m at 20", "error", "four"},
		{"hours 28:00 to 30:00", "error", "time of day"},
	} {
		_, faults := Read([]string{"", c.line}, "m")
		var f entry.Fault
		if len(faults) > 0 {
			f = faults[0]
		}
		if f.Path != "lines.1" || f.Severity != c.severity || !strings.Contains(f.Text, c.says) {
			t.Errorf("%q: %+v", c.line, faults)
		}
	}
	_, faults := Read([]string{"area, 10 by 10 m", "tree, 12 m at 90, 5 m high"}, "m")
	if len(faults) != 1 || faults[0].Path != "lines.1" || faults[0].Severity != "ask" {
		t.Errorf("a tree outside: %+v", faults)
	}
}

func TestPatternsAreSound(t *testing.T) {
	for _, p := range Patterns() {
		m, faults := Read(p.Lines, "m")
		if len(m.Of(Area)) != 1 || hasError(faults) {
			t.Errorf("%s: %v", p.ID, faults)
		}
	}
}

func TestStraightPartsKeepApart(t *testing.T) {
	a, b := Spot{0, 0}, Spot{10, 0}
	if d := Between(a, b, Spot{12, 3}, Spot{12, -3}); math.Abs(d-2) > 1e-9 {
		t.Errorf("%v", d)
	}
	if d := Between(a, b, Spot{5, 3}, Spot{5, -3}); d != 0 {
		t.Errorf("crossing: %v", d)
	}
	if share, ok := Cross(a, b, Spot{4, 3}, Spot{4, -3}); !ok || math.Abs(share-0.4) > 1e-9 {
		t.Errorf("%v %v", share, ok)
	}
}

func FuzzLines(f *testing.F) {
	f.Add("tree, 14 m at 230 degrees, 9 m high")
	f.Add("area, 30 by 20 m towards 45 around 12 m at 90")
	f.Fuzz(func(t *testing.T, line string) {
		m, faults := Read([]string{line}, "ft")
		for _, x := range m.Things {
			for _, p := range x.Points {
				if math.IsNaN(p[0]) || math.IsInf(p[1], 0) {
					t.Fatalf("%q: %v", line, p)
				}
			}
		}
		if strings.TrimSpace(line) != "" && len(m.Things) == 0 && len(faults) == 0 && m.Rules == (Rules{}) && m.Horizon == nil && m.Slope == nil {
			t.Fatalf("%q is dropped in silence", line)
		}
	})
}

func TestWhatHighWaterLeaves(t *testing.T) {
	m, _ := Read([]string{"area, 40 by 20 m", "wet, 40 by 10 m around 5 m at 0"}, "m")
	dry, all := m.Dry()
	if math.Abs(all-800) > 8 || math.Abs(dry-400) > 12 {
		t.Errorf("%.0f of %.0f m2", dry, all)
	}
	if dry, all = (Map{}).Dry(); dry != 0 || all != 0 {
		t.Error("area of nothing")
	}
}

func TestASurroundingHasToBeKnown(t *testing.T) {
	for noise, fits := range map[string]bool{"": true, "city": true, "loud": false} {
		if _, faults := (Site{Name: "x", Noise: noise}).Check(); (len(faults) == 0) != fits {
			t.Errorf("%q: %v", noise, faults)
		}
	}
}

// Sites are written as people say them: in paces, by points of the compass, and with the words for what is there.
func TestSitesAreReadAsPeopleSayThem(t *testing.T) {
	for line, want := range map[string]struct {
		kind string
		at   Spot
	}{
		"tree, 25m east": {Tree, Spot{25, 0}}, "tree, 12 paces north": {Tree, Spot{0, 9}}, "bench, 30 m to the SW": {Bench, Spot{-21.2, -21.2}},
		"post, 10 m north-east": {Post, Spot{7.07, 7.07}}, "table, 20 steps at 90": {Table, Spot{15, 0}},
		"van, 8 m at north west": {Vehicle, Spot{-5.66, 5.66}},
	} {
		m, faults := Read([]string{line}, "m")
		if len(m.Things) != 1 || m.Things[0].Kind != want.kind || m.Things[0].Points[0].From(want.at) > 0.1 {
			t.Errorf("%q: %+v %v", line, m.Things, faults)
		}
	}
	for line, kind := range map[string]string{
		"parking lot, 20 by 10 m around 15 m at 90": Parking, "car park, 20 by 10 m": Parking, "lake, 30 by 20 m": Lake, "pond, 4 by 3 m": Lake,
		"wood, 40 by 40 m around 40 m at 0": Wood, "stream, 20 m at 0 to 20 m at 90": Water, "road, 5 m west to 5 m east": Path,
	} {
		m, faults := Read([]string{line}, "m")
		if len(m.Things) != 1 || m.Things[0].Kind != kind {
			t.Errorf("%q: %+v %v", line, m.Things, faults)
		}
	}
	if _, faults := Read([]string{"swamp, 10 by 10 m"}, "m"); len(faults) != 1 || !strings.Contains(faults[0].Text, `"swamp"`) ||
		!strings.Contains(faults[0].Text, "car park") {
		t.Errorf("%v", faults)
	}
}
