package scout

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/site"
	"reed/core/twin"
	"reed/internal/testsize"
)

var engine twin.Engine

// part is a thing of a bag from typed texts.
func part(t testing.TB, id, kind, name string, texts map[string]string) kit.Part {
	t.Helper()
	p, faults := kit.Read(kind, name, texts, "m")
	for _, f := range faults {
		if f.Severity == "error" {
			t.Fatalf("%s: %v", name, f)
		}
	}
	p.ID = id
	return p
}

// usualBag is what many carry.
func usualBag(t testing.TB) []kit.Part {
	return []kit.Part{
		part(t, "w", "wire", "reel", map[string]string{"conductor": "0.8", "outer": "1.6", "left": "90 m"}),
		part(t, "t", "transformer", "49:1", map[string]string{"primary": "2", "secondary": "14", "connectors": "BNC"}),
		part(t, "p", "pole", "seven metres", map[string]string{"length": "7 m", "usable": "6 m", "grams": "1300", "base": "35", "top": "6"}),
		part(t, "c", "coax", "thin coax", map[string]string{"type": "RG-58", "length": "10 m", "connectors": "PL, PL"}),
		part(t, "s", "stake", "pegs", map[string]string{"count": "8"}),
		part(t, "r", "radio", "radio", map[string]string{"receive_a": "0.4", "transmit_a": "2", "connectors": "BNC"}),
		part(t, "b", "battery", "battery", map[string]string{"amp_hours": "3", "volts": "12.8", "grams": "400"}),
	}
}

func day(mhz ...float64) Purpose {
	return Purpose{Date: "2026-05-16", From: "09:00", Until: "15:00", MHz: mhz, Mode: "cw", PowerW: 10}
}

func scout(t testing.TB, c Case) Answer {
	t.Helper()
	if c.Site.Name == "" {
		c.Site.Name, c.Site.Place = "Alder Common", "46.5 N 12.0 W"
	}
	a, err := Scout(context.Background(), &engine, c, nil)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

func here(lines ...string) site.Site {
	return site.Site{Name: "Alder Common", Place: "46.5 N 12.0 W", Ground: "average", Lines: lines}
}

// wide is the usual bag with a whip, a coil and open line beside.
func wide(t testing.TB) []kit.Part {
	return append(usualBag(t),
		part(t, "wh", "whip", "five-metre whip", map[string]string{"whip_full": "5 m", "whip_sections": "10", "whip_radius": "5",
			"grams": "700"}),
		part(t, "co", "coil", "tapped coil", map[string]string{"coil_former": "50", "coil_wire": "1.5", "turns": "40", "coil_length": "150"}))
}

func without(list []kit.Part, kind string) []kit.Part {
	return slices.DeleteFunc(slices.Clone(list), func(p kit.Part) bool { return p.Kind == kind })
}

// cause finds why a family does not fit; variant may be empty.
func (a Answer) cause(family, variant string) (out []string) {
	for _, u := range a.Unfit {
		if u.Family == family && (variant == "" || u.Variant == variant) {
			out = append(out, u.Cause)
		}
	}
	return out
}

func (a Answer) place(families ...string) int {
	return slices.IndexFunc(a.Candidates, func(y Candidate) bool { return slices.Contains(families, y.Family) })
}

// sites are places whose best antenna follows from plain reasoning.
func sites(t testing.TB) map[string]struct {
	c     Case
	check func(t *testing.T, a Answer)
} {
	near := func(mhz float64, km float64) Purpose { p := day(mhz); p.NearKM = km; return p }
	far := func(mhz float64) Purpose {
		p := day(mhz)
		p.Far = &Far{290, 3400}
		p.From, p.Until = "13:00", "20:00"
		return p
	}
	first := func(t *testing.T, a Answer, families ...string) {
		t.Helper()
		if len(a.Candidates) == 0 || !slices.Contains(families, a.Candidates[0].Family) {
			t.Errorf("first is not one of %v: %s", families, a.Sentence)
		}
	}
	unfit := func(t *testing.T, a Answer, cause, family, variant string) {
		t.Helper()
		if !slices.Contains(a.cause(family, variant), cause) {
			t.Errorf("%s %s is not refused for %s: %v", family, variant, cause, a.cause(family, variant))
		}
	}
	whips := []string{"whip", "loaded-whip", "whip-pair", "stick", "helix"}
	upright := append([]string{"vertical", "multi-vertical"}, whips...)
	salt := here("area, 40 by 30 m")
	salt.Ground = "sea"
	high := near(7.1, 400)
	high.High = []string{"12:10"}
	light := day(14.06)
	light.MostKG = 1.2
	quick := day(14.06)
	quick.SetupMinutes = 10
	night := day(28.06)
	night.From, night.Until = "22:00", "23:30"
	return map[string]struct {
		c     Case
		check func(t *testing.T, a Answer)
	}{
		"only a table": {Case{Site: here("area, 4 by 4 m", "table, 1 m at 90", "no stakes"), Purpose: day(14.06), Bag: wide(t)},
			func(t *testing.T, a Answer) {
				first(t, a, whips...)
				unfit(t, a, tooSmall, "end-fed", "sloper")
			}},
		"only one tree, and no pole in the bag": {Case{Site: here("area, 40 by 30 m", "tree, 5 m at 0, 11 m high"), Purpose: day(7.1),
			Bag: without(usualBag(t), "pole")}, func(t *testing.T, a Answer) {
			if len(a.Candidates) == 0 || a.Candidates[0].Placement.Support != "tree" {
				t.Errorf("%s", a.Sentence)
			}
		}},
		"six by six metres, and 40 m wanted": {Case{Site: here("area, 6 by 6 m"), Purpose: day(7.1), Bag: wide(t)},
			func(t *testing.T, a Answer) {
				first(t, a, whips...)
				unfit(t, a, tooSmall, "dipole", "inverted-v")
			}},
		"salt water, and far": {Case{Site: salt, Purpose: far(14.06), Bag: wide(t)}, func(t *testing.T, a Answer) { first(t, a, upright...) }},
		"near, all round": {Case{Site: here("area, 50 by 40 m"), Purpose: near(7.1, 400), Bag: wide(t)}, func(t *testing.T, a Answer) {
			if flat, up := a.place("dipole", "linked-dipole", "end-fed", "random-wire"), a.place("vertical", "whip", "loaded-whip"); flat < 0 ||
				up >= 0 && up < flat {
				t.Errorf("a vertical is put before a low wire: %s", a.Sentence)
			}
		}},
		"an overhead line through the middle": {Case{Site: here("area, 24 by 24 m", "power line, 60 m at 270 to 60 m at 90, 8 m high"),
			Purpose: day(7.1), Bag: usualBag(t)}, func(t *testing.T, a Answer) {
			unfit(t, a, underLine, "end-fed", "sloper")
			if len(a.Candidates) == 0 && (len(a.Hazards) == 0 || !a.Hazards[0].Stops) {
				t.Errorf("it is not refused: %+v", a.Hazards)
			}
		}},
		"no stakes on open ground": {Case{Site: here("area, 40 by 40 m", "no stakes"), Purpose: day(14.06), Bag: usualBag(t)},
			func(t *testing.T, a Answer) { unfit(t, a, noStakes, "dipole", "inverted-v") }},
		"nothing in trees": {Case{Site: here("area, 40 by 40 m", "tree, 5 m at 0, 14 m high", "no trees"), Purpose: day(7.1), Bag: usualBag(t)},
			func(t *testing.T, a Answer) {
				for _, y := range a.Candidates {
					if strings.Contains(y.Name, "tree") || y.Placement.Support == "tree" {
						t.Errorf("%s", y.Name)
					}
				}
			}},
		"a light rucksack": {Case{Site: here("area, 40 by 40 m"), Purpose: light, Bag: usualBag(t)},
			func(t *testing.T, a Answer) { unfit(t, a, "weight", "end-fed", "sloper") }},
		"ten minutes": {Case{Site: here("area, 40 by 40 m"), Purpose: quick, Bag: wide(t)},
			func(t *testing.T, a Answer) { unfit(t, a, "minutes", "multi-vertical", "") }},
		"half of it under water at noon": {Case{Site: here("area, 60 by 16 m", "wet, 30 by 16 m around 15 m at 90"), Purpose: high,
			Bag: usualBag(t)}, func(t *testing.T, a Answer) {
			for _, y := range a.Candidates {
				if y.Placement.At[0] > 0 {
					t.Errorf("%s stands in the water at %v", y.Name, y.Placement.At)
				}
			}
			if !slices.ContainsFunc(a.Hazards, func(h Hazard) bool { return h.Code == "tide" }) {
				t.Error("nothing is said of the tide")
			}
		}},
		"a dead band": {Case{Site: here("area, 40 by 40 m"), Purpose: night, Bag: usualBag(t)}, func(t *testing.T, a Answer) {
			if !strings.Contains(a.Sentence, "None of these bands carries") || !strings.Contains(a.Hours[0].Says, "closed") {
				t.Errorf("%s %s", a.Sentence, a.Hours[0].Says)
			}
		}},
		"a harbour wall": {Case{Site: here("area, 46 by 6 m"), Purpose: near(7.1, 500), Bag: usualBag(t)}, func(t *testing.T, a Answer) {
			for _, y := range a.Candidates {
				off := math.Abs(math.Mod(y.Placement.Bearing+90, 180) - 0)
				if y.SquareM > 12 && math.Min(off, 180-off) > 25 && !slices.Contains(upright, y.Family) {
					t.Errorf("%s lies across the wall at %v degrees", y.Name, y.Placement.Bearing)
				}
			}
		}},
	}
}

func TestTheBestOfASiteFollowsFromPlainReasoning(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	for name, x := range sites(t) {
		t.Run(name, func(t *testing.T) {
			a := scout(t, x.c)
			x.check(t, a)
			for _, y := range a.Candidates {
				really(t, x.c, a.Map, y)
			}
			for _, u := range a.Unfit {
				if u.Says == "" || u.Cause == "" {
					t.Errorf("%s is refused without a reason: %+v", u.Name, u)
				}
			}
		})
	}
}

// really checks by counting samples, not as it was searched, that a placement fits: everything inside the area, above the
// paths, clear of overhead lines, and no wire higher than what holds it.
func really(t *testing.T, c Case, m site.Map, y Candidate) {
	t.Helper()
	top := 0.0
	for _, l := range y.Placement.Lines {
		if l.Role == "pole" {
			top = math.Max(top, math.Max(l.FromM, l.ToM))
		}
	}
	for _, l := range y.Placement.Lines {
		for k := range 41 {
			s := float64(k) / 40
			p := site.Spot{l.From[0] + s*(l.To[0]-l.From[0]), l.From[1] + s*(l.To[1]-l.From[1])}
			z := l.FromM + s*(l.ToM-l.FromM)
			if area := m.Of(site.Area); len(area) > 0 && winding(area[0].Points, p) == 0 && area[0].Apart(p) > 0.02 {
				t.Errorf("%s: a %s lies outside at %v", y.Name, l.Role, p)
				return
			}
			for _, path := range m.Of(site.Path) {
				if z < 2.5 && path.Apart(p) < 0.5 {
					t.Errorf("%s: a %s crosses the path %.1f m up", y.Name, l.Role, z)
					return
				}
			}
			for _, line := range m.Of(site.PowerLine) {
				if line.Apart(p) < 1.1*z+2.9 {
					t.Errorf("%s: a %s %.1f m up is %.1f m from the overhead line", y.Name, l.Role, z, line.Apart(p))
					return
				}
			}
			if top > 0 && z > top+0.4 && l.Role == "radiator" && y.WireM > 5 {
				t.Errorf("%s: wire %.1f m up on %.1f m of pole", y.Name, z, top)
				return
			}
		}
	}
}

// winding is how often an edge goes round a spot, by the angles that it turns through.
func winding(edge []site.Spot, p site.Spot) int {
	sum := 0.0
	for i, a := range edge {
		b := edge[(i+1)%len(edge)]
		d := math.Atan2(b[1]-p[1], b[0]-p[0]) - math.Atan2(a[1]-p[1], a[0]-p[0])
		sum += math.Remainder(d, 2*math.Pi)
	}
	return int(math.Round(sum / (2 * math.Pi)))
}

// A line that may just be reached refuses, one a hand farther does not.
func TestAnOverheadLineRefusesJustWithinReach(t *testing.T) {
	c := Case{Purpose: day(14.06), Bag: wide(t)}
	stand := func(north float64) (laying, *candidate, ground) {
		c.Site = here("area, 3 by 3 m", fmt.Sprintf("power line, %.3f m at 0 to %.3f m at 0.001, 7 m high", north, north))
		m, _ := c.Site.Check()
		m.Things[1].Points = []site.Spot{{-100, north}, {100, north}}
		x := &candidate{drawing: antenna.Drawing{Lines: []antenna.Line{antenna.Pole(0, 6)}}}
		x.foot = footprintOf(x.drawing)
		g := c.ground(m)
		return g.try(x, laying{holder: -1}), x, g
	}
	limit := 1.1*6 + 3
	if l, _, _ := stand(limit + 0.05); l.cause != "" {
		t.Errorf("refused %v beyond the limit: %s", 0.05, l.cause)
	}
	l, x, g := stand(limit - 0.05)
	if l.cause != underLine || math.Abs(l.lack-0.05) > 1e-6 || !strings.Contains(g.stands(x, l), "overhead line") {
		t.Errorf("a pole of 6 m may stand %.2f m from a line: %+v", limit-0.05, l)
	}
}

func TestTheWeightsMoveTheList(t *testing.T) {
	list := []Candidate{{Name: "loud", Points: Points{Signal: -1, Minutes: -8}}, {Name: "quick", Points: Points{Signal: -6, Minutes: -1}}}
	if got := Ranked(list, Usual)[0].Name; got != "quick" {
		t.Error(got)
	}
	if got := Ranked(list, Weights{Signal: 2, Minutes: 0.5})[0].Name; got != "loud" {
		t.Error(got)
	}
}

func TestAFarWalkMakesWeightCount(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
	y := scout(t, c).Candidates[0]
	c.Purpose.CarryMinutes = 60
	a := scout(t, c)
	far := a.Candidates[slices.IndexFunc(a.Candidates, func(x Candidate) bool { return x.Name == y.Name })]
	if math.Abs(far.Points.Weight/y.Points.Weight-4) > 1e-9 {
		t.Errorf("%v dB for an hour, %v for a quarter", far.Points.Weight, y.Points.Weight)
	}
}

func TestWhatIsNotToldIsSaid(t *testing.T) {
	c := Case{Site: site.Site{Name: "x", Lines: []string{"tree, 4 m at 0, 9 m high"}}, Purpose: day(14.06), Bag: usualBag(t)}
	a := scout(t, c)
	said := ""
	for _, n := range a.Notes {
		said += n.Path + ": " + n.Text + "\n"
	}
	if !strings.Contains(said, "place: ") || !strings.Contains(said, "no usable area") {
		t.Errorf("%s", said)
	}
}

func TestARecipeComesBackWithItsClock(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
	first := scout(t, c).Candidates[0]
	built := first.from.built
	built.SetupMinutes = 9
	c.Recipes = []deployment.Recipe{{ID: "r1", Name: "Heron again", Place: "Gannet Spit", Built: built,
		Plan: antenna.Request{Shape: built.Shape}}}
	a := scout(t, c)
	y := a.Candidates[0]
	if y.Recipe != "r1" || y.Minutes != 9 || !strings.Contains(strings.Join(y.Reasons, " "), "by your clock") ||
		!strings.Contains(strings.Join(y.Reasons, " "), "Gannet Spit") {
		t.Errorf("%s: %v", a.Sentence, y.Reasons)
	}
}

func TestItStopsWhenNobodyWaits(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06, 7.1)}
	steps := 0
	_, err := Scout(ctx, new(twin.Engine), c, func(int, int) {
		if steps++; steps == 3 {
			stop()
		}
	})
	if !errors.Is(err, context.Canceled) || steps > 8 {
		t.Errorf("%v after %d steps", err, steps)
	}
}

func TestWhatCannotBeIsSaidAtItsField(t *testing.T) {
	for path, change := range map[string]func(*Purpose){
		"date": func(p *Purpose) { p.Date = "16 May" }, "from": func(p *Purpose) { p.From = "nine" },
		"frequencies_mhz": func(p *Purpose) { p.MHz = []float64{9.3} }, "near_km": func(p *Purpose) { p.NearKM, p.Far = 100, &Far{0, 900} },
		"high_water": func(p *Purpose) { p.High = []string{"10:00", "14:00"} }, "far.km": func(p *Purpose) { p.Far = &Far{0, 50000} },
		"power_w": func(p *Purpose) { p.PowerW = 9000 },
	} {
		p := day(14.06)
		change(&p)
		_, err := Scout(context.Background(), &engine, Case{Site: here("area, 40 by 30 m"), Purpose: p}, nil)
		if err == nil || !strings.HasPrefix(err.Error(), path+":") {
			t.Errorf("%s: %v", path, err)
		}
	}
}

func TestThePackingListFollowsThePlan(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m", "tree, 5 m at 0, 11 m high"), Purpose: day(7.1, 14.06), Bag: without(usualBag(t), "pole")}
	names := map[string]Packed{}
	a := scout(t, c)
	a.Candidates = a.Candidates[a.place("end-fed"):]
	for _, g := range c.packing(&a) {
		for _, p := range g.Items {
			names[p.ID] = p
		}
	}
	for _, id := range []string{"coax", "choke", "transformer", "throw", "battery"} {
		if _, ok := names[id]; !ok {
			t.Errorf("no %s is packed", id)
		}
	}
	if !names["choke"].Missing || names["coax"].Missing {
		t.Error("what the bag has not is not told from what it has")
	}
	if _, ok := names["adapter-BNC-to-PL"]; !ok {
		t.Errorf("no adapter between a BNC radio and PL coax: %v", names)
	}
}

func TestWhatWasForgottenStandsOnTop(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t), Forgotten: []string{"the BNC adapter"},
		Unused: []string{"Spare fuse"}}
	list := scout(t, c).Packing
	if list[0].When != forgotten || list[0].Items[0].Name != "the BNC adapter" {
		t.Errorf("%+v", list[0])
	}
	if kg := scout(t, c).PackedKG; kg < 0.8 { // coax 0.4 and battery 0.4, at the least
		t.Errorf("%.2f kg are packed", kg)
	}
	if !strings.Contains(fmt.Sprint(list), "not used last time") {
		t.Errorf("%+v", list)
	}
}

func BenchmarkTenCandidates(b *testing.B) {
	c := Case{Site: here("area, 40 by 30 m", "tree, 10 m at 320, 12 m high", "table, 6 m at 90"), Purpose: day(14.06, 7.1), Bag: usualBag(b)}
	var last Answer
	b.Run("cold", func(b *testing.B) {
		for b.Loop() {
			last, _ = Scout(context.Background(), new(twin.Engine), c, nil)
		}
	})
	b.Run("weights", func(b *testing.B) {
		for b.Loop() {
			Ranked(last.Candidates, Weights{2, 1, 0, 1, 1, 1})
		}
	})
}
