package scout

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/kit"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/rigging"
	"reed/core/site"
	"reed/internal/testsize"
)

func with(list []kit.Part, kind string, texts map[string]float64) []kit.Part {
	out := slices.Clone(list)
	for i, p := range out {
		if p.Kind == kind {
			p.Values = entry.Values{Numbers: map[string]float64{}, Sizes: p.Sizes, Words: p.Words}
			for id, v := range out[i].Numbers {
				p.Numbers[id] = v
			}
			for id, v := range texts {
				p.Numbers[id] = v
			}
			out[i] = p
		}
	}
	return out
}

// Every danger is told just beyond its limit and not just within it.
func TestEveryDangerJustBelowAndAboveItsLimit(t *testing.T) {
	type change func(c *Case)
	until := func(s string) change { return func(c *Case) { c.Purpose.Until = s } }
	bulletin := func(s string) change { return func(c *Case) { c.Purpose.Bulletin = s } }
	celsius := func(v float64) change { return func(c *Case) { c.Purpose.Celsius = &v } }
	lines := func(s ...string) change { return func(c *Case) { c.Site.Lines = append(c.Site.Lines, s...) } }
	battery := func(kind, id string, v float64) change {
		return func(c *Case) { c.Bag = with(c.Bag, kind, map[string]float64{id: v}) }
	}
	tide := func(at string) change {
		return func(c *Case) {
			c.Site.Lines = append(c.Site.Lines, "wet, 40 by 6 m around 12 m at 0")
			c.Purpose.High = []string{at}
		}
	}
	moment := rigging.Blow(rigging.Pole{Height: 6, Foot: 0.035, Tip: 0.035 + (0.006-0.035)*6/7}, 12).Moment
	rated := func(nm float64) change {
		return func(c *Case) { c.Bag = with(c.Bag, "pole", map[string]float64{"rating": nm}); c.Purpose.WindMS = 12 }
	}
	// 3 Ah at 0.8 over 0.25 * 2 A + 0.75 * 0.4 A is 3 hours.
	for _, x := range []struct {
		code         string
		within, over change
		stops        bool
	}{
		{"flashes", bulletin("lightning 08:29 10 km"), bulletin("lightning 08:31 10 km"), true},
		{"flashes", bulletin("lightning 10:00 10.1 km"), bulletin("lightning 10:00 9.9 km"), true},
		{"flashes", bulletin("lightning 15:01 3 km"), bulletin("lightning 14:59 3 km"), true},
		{"lightning", bulletin("thunderstorms 29 %"), bulletin("thunderstorms 30 %"), true},
		{"lightning", func(*Case) {}, func(c *Case) { c.Purpose.Storm = true }, true},
		{"heat", celsius(29.9), celsius(30), false},
		{"heat", bulletin("20 to 29 C"), bulletin("20 to 30 C"), false},
		{"cold", celsius(2.1), celsius(2), false},
		{"dark", until("20:00"), until("21:30"), false},
		{"hours", lines("hours 09:00 to 15:00"), lines("hours 09:00 to 14:59"), false},
		{"hours", lines("hours 09:00 to 15:00"), lines("hours 09:01 to 15:00"), false},
		{"tide", tide("17:01"), tide("16:59"), false},
		{"tide", tide("06:59"), tide("07:01"), false},
		{"battery", until("11:59"), until("12:05"), false},
		{"fuse", battery("battery", "fuse_a", 5), battery("battery", "fuse_a", 0), false},
		{"fuse-small", battery("battery", "fuse_a", 2.01), battery("battery", "fuse_a", 1.99), false},
		{"alone", func(*Case) {}, func(c *Case) { c.Purpose.Alone = true }, false},
		{"permission", func(*Case) {}, lines("ask the park office"), false},
		{"line-height", lines("power line, 400 m at 300 to 400 m at 60, 8 m high"), lines("power line, 400 m at 300 to 400 m at 60"), false},
		{"wind-load", rated(moment * 1.01), rated(moment * 0.99), true},
	} {
		t.Run(x.code, func(t *testing.T) {
			find := func(f change) (Hazard, bool) {
				c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
				f(&c)
				m, faults := c.Site.Check()
				if faults = append(faults, c.Purpose.Check()...); antenna.HasError(faults) {
					t.Fatal(faults)
				}
				d := antenna.Drawing{Feed: antenna.Point{0, 0, 6}, Lines: []antenna.Line{antenna.Pole(0, 6),
					{Role: "radiator", From: antenna.Point{0, 0, 6}, To: antenna.Point{9, 0, 3}}}}
				one := &candidate{drawing: d}
				one.foot = footprintOf(d)
				at, _ := place.ParsePosition(c.Site.Place)
				a := Answer{Map: m, Candidates: []Candidate{{Name: "wire", Placement: &Placement{Poles: 1}, from: one}}}
				list := c.hazards(&a, c.ground(m), at)
				i := slices.IndexFunc(list, func(h Hazard) bool { return h.Code == x.code })
				if i < 0 {
					return Hazard{}, false
				}
				return list[i], true
			}
			if h, ok := find(x.within); ok && (x.code != "wind-load" || h.Stops) {
				t.Errorf("within the limit it says %+v", h)
			}
			if h, ok := find(x.over); !ok || h.Stops != x.stops || h.Title == "" || h.Text == "" {
				t.Errorf("beyond the limit: %+v", h)
			}
		})
	}
}

func TestALowEndNearAPathIsTold(t *testing.T) {
	for m, want := range map[float64]bool{4.9: true, 5.1: false} {
		c := Case{Site: here("area, 40 by 30 m", "path, 100 m at 270 to 100 m at 90"), Purpose: day(14.06)}
		y := Candidate{Placement: &Placement{Lines: []Laid{{"string", site.Spot{0, 14}, site.Spot{0, m}, 6, 0}}}}
		mp, _ := c.Site.Check()
		d := danger{Case: c, g: c.ground(mp)}
		d.crossed(y)
		if got := len(d.out) == 1 && d.out[0].Code == "path"; got != want {
			t.Errorf("%v m from the path: %+v", m, d.out)
		}
	}
}

func TestTheBatterySagsByWhatItsRadioDraws(t *testing.T) {
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
	c.Bag = with(c.Bag, "battery", map[string]float64{"milliohm": 200})
	for i, p := range c.Bag {
		if p.Kind == "radio" {
			p.Words = map[string]string{"power": "12.8:10 11.8:6"}
			c.Bag[i] = p
		}
	}
	d := danger{Case: c, b: bag{c.Bag, false}}
	d.battery()
	// 2 A through 0.2 and 0.05 ohm: 0.5 V of 12.8, half way to 6 W.
	i := slices.IndexFunc(d.out, func(h Hazard) bool { return h.Code == "sag" })
	if i < 0 || !strings.HasPrefix(d.out[i].Figure, "12.3 V under 2 A: 8 W of 10 W, 1.0 dB") {
		t.Errorf("%+v", d.out)
	}
	c.Bag = with(c.Bag, "battery", map[string]float64{"milliohm": 10})
	d = danger{Case: c, b: bag{c.Bag, false}}
	d.battery()
	if slices.ContainsFunc(d.out, func(h Hazard) bool { return h.Code == "sag" }) {
		t.Errorf("%+v", d.out)
	}
}

func TestTheBulletinStandsInForWhatIsNotTyped(t *testing.T) {
	p := day(14.06)
	p.Bulletin = "simulated; wind 6 m/s, gusts 11 m/s; 12 to 19 C; flux 200; K 6; lightning 10:00 3 km"
	low, high, _ := p.warmth()
	if p.wind() != 11 || low != 12 || high != 19 || math.Abs(p.sunspots()-155) > 5 {
		t.Errorf("%v m/s, %v to %v C, %v sunspots", p.wind(), low, high, p.sunspots())
	}
	spots, warm := 20.0, 25.0
	p.Sunspots, p.Celsius, p.WindMS = &spots, &warm, 3
	if low, _, _ = p.warmth(); p.wind() != 11 || low != 25 || p.sunspots() != 20 {
		t.Error("what is typed does not go first, or hides the gusts")
	}
	d := Case{Purpose: p}.Day(place.Point{Lat: 46, Lon: -12}, site.Rules{}, 20)
	said := strings.Join(d.Says, " ")
	if !strings.Contains(said, "Magnetic storm, K 6") || !strings.Contains(said, "simulated") {
		t.Error(said)
	}
	if i := slices.IndexFunc(d.Events, func(e Event) bool { return e.Kind == "thunder" }); i < 0 || d.Events[i].At.Format("15:04") != "10:30" {
		t.Errorf("%+v", d.Events)
	}
	p.Bulletin = "K 12"
	if !antenna.HasError(p.Check()) {
		t.Error("K 12 is taken")
	}
}

func TestTheDayEndsWithTheBattery(t *testing.T) {
	c := Case{Purpose: day(14.06), Bag: usualBag(t)}
	d := c.Day(place.Point{Lat: 46, Lon: -12}, site.Rules{}, 20)
	i := slices.IndexFunc(d.Events, func(e Event) bool { return e.Kind == "battery" })
	if i < 0 || d.Events[i].At.Format("15:04") != "12:20" { // on the air at 09:20, 3 hours
		t.Errorf("%+v", d.Events)
	}
	c.Purpose.Until = "12:00"
	if d := c.Day(place.Point{Lat: 46, Lon: -12}, site.Rules{}, 20); strings.Contains(fmt.Sprint(d.Says), "battery") {
		t.Error("it ends before the battery does")
	}
}

// A room a little too short: the ends hang down, it fits, and what that takes is told in metres and decibels.
func TestFoldedEndsFitWhereStraightOnesDoNot(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 18 by 12 m"), Purpose: day(7.1), Bag: usualBag(t)}
	a := scout(t, c)
	told := 0
	for _, u := range a.Unfit {
		if strings.Contains(u.Helps, "fold ") {
			told++
			if u.Cause != tooSmall || !strings.Contains(u.Helps, "dB less") {
				t.Errorf("%+v", u)
			}
		}
	}
	found := 0
	for _, y := range a.Candidates {
		really(t, c, a.Map, y)
		f := y.from
		if f.straight == nil {
			continue
		}
		found++
		length := func(x *candidate) (sum float64) {
			for _, l := range x.drawing.Lines {
				if l.Role == "radiator" {
					sum += l.Length()
				}
			}
			return sum
		}
		if math.Abs(length(f)-length(f.straight)) > 0.02 || f.folded < f.short || f.cost < -1.5 || f.cost > 4 {
			t.Errorf("%s: %.2f m of wire folded from %.2f, %.1f m short, %.1f folded, %.1f dB", y.Name, length(f), length(f.straight), f.short,
				f.folded, f.cost)
		}
		if !strings.Contains(strings.Join(y.Reasons, " "), "hanging down it fits") {
			t.Errorf("%v", y.Reasons)
		}
		// What is carried on says so too.
		if y.Texts["ends_down"] == "" && y.Texts["bend_1_out"] == "" {
			t.Errorf("%s carries %v", y.Name, y.Texts)
		}
	}
	if told == 0 || found == 0 {
		t.Errorf("%d are told to fold, %d offered", told, found)
	}
}

func TestOwnClocksCountForTheirFamily(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
	y := scout(t, c).Candidates[0]
	c.Clocks = map[string][]float64{y.Family: {31, 11, 17, 12}}
	a := scout(t, c)
	for _, x := range a.Candidates {
		if own := x.Family == y.Family; own != strings.Contains(strings.Join(x.Reasons, " "), "by your clock") || own && x.Minutes != 14.5 {
			t.Errorf("%s: %v minutes, %v", x.Name, x.Minutes, x.Reasons)
		}
	}
}

func TestPeopleKeepOffByTheSolvedFields(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: usualBag(t)}
	stay := func(w float64, mode string) float64 {
		c.Purpose.PowerW, c.Purpose.Mode = w, mode
		a := scout(t, c)
		for _, h := range a.Hazards {
			if h.Code == "exposure" && !strings.Contains(h.Figure, "on 20m") {
				t.Errorf("%+v", h)
			}
		}
		return a.Candidates[0].Bands[0].Stay
	}
	low, high, digital := stay(5, "cw"), stay(100, "cw"), stay(100, "digital")
	// The mode changes nothing: Raise gives the same distance.
	if low <= 0 || high <= low || digital != high {
		t.Errorf("%v m with 5 W, %v with 100 W, %v with digital", low, high, digital)
	}
}

func TestPlugsOfPowerAndSound(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	bag := usualBag(t)
	bag[5].Words = map[string]string{"connectors": "BNC; 2.1 mm barrel; mini-DIN"}
	bag[6].Words = map[string]string{"connectors": "blades"}
	bag = append(bag, part(t, "a1", "adapter", "short lead", map[string]string{"connectors": "blades to 2.1 mm barrel", "grams": "30"}))
	c := Case{Site: here("area, 40 by 30 m"), Purpose: day(14.06), Bag: bag}
	c.Purpose.Mode = "digital"
	got := map[string]Packed{}
	for _, g := range scout(t, c).Packing {
		for _, p := range g.Items {
			got[p.ID] = p
		}
	}
	lead, audio, coax := got["adapter-blades-to-2.1-mm-barrel"], got["adapter-mini-DIN-to-USB"], got["adapter-BNC-to-PL"]
	if lead.Name == "" || lead.Missing || !strings.Contains(lead.Name, "short lead") {
		t.Errorf("power: %+v", lead)
	}
	if audio.Name == "" || !audio.Missing || coax.Name == "" || !coax.Missing {
		t.Errorf("sound: %+v, coax: %+v", audio, coax)
	}
	if got["battery-2"].Name == "" || !got["battery-2"].Missing || got["fuse"].Count != 2 {
		t.Errorf("spares: %+v", got)
	}
}

// A slope down towards where one sends is as good as a lower angle there, and as bad behind.
func TestAHillsideSendsDownhill(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 40 by 30 m", "slope 12 degrees towards 290"), Purpose: day(14.06), Bag: usualBag(t), Units: quantity.SI}
	c.Purpose.Far = &Far{290, 3400}
	down := scout(t, c).Candidates[0].Points.Signal
	c.Site.Lines[1] = "slope 12 degrees towards 110"
	up := scout(t, c).Candidates[0].Points.Signal
	if down < up+2 {
		t.Errorf("%.1f dB downhill, %.1f uphill", down, up)
	}
}

// A pole that somebody put too near to a line refuses everything, with the figure; moved away, it fits again, and stands there.
func TestMovingThePoleMendsAPlanUnderALine(t *testing.T) {
	testsize.SkipIfShort(t, "solves many candidates")
	c := Case{Site: here("area, 60 by 40 m", "power line, 60 m at 300 to 60 m at 60, 8 m high"), Purpose: day(14.06), Bag: usualBag(t)}
	c.Purpose.Foot = &site.Spot{0, 19.9}
	c.Site.Lines[1] = "power line, 57 m at 297 to 57 m at 63, 8 m high" // 25.9 m north
	a := scout(t, c)
	if len(a.Candidates) != 0 || len(a.Hazards) == 0 || !a.Hazards[0].Stops || a.Hazards[0].Code != underLine {
		t.Fatalf("%s %+v", a.Sentence, a.Hazards)
	}
	said := false
	for _, u := range a.Unfit {
		said = said || u.Cause == underLine && strings.Contains(u.Says, "where you put its pole")
	}
	if !said {
		t.Errorf("%+v", a.Unfit)
	}
	c.Purpose.Foot = &site.Spot{4, -12}
	a = scout(t, c)
	if len(a.Candidates) == 0 {
		t.Fatal(a.Sentence)
	}
	for _, y := range a.Candidates {
		if y.Placement.At.From(*c.Purpose.Foot) > 0.01 {
			t.Errorf("%s stands at %v", y.Name, y.Placement.At)
		}
		really(t, c, a.Map, y)
	}
	c.Purpose.Foot = &site.Spot{math.NaN(), 0}
	if !antenna.HasError(c.Purpose.Check()) {
		t.Error("a pole nowhere is taken")
	}
}

// An outing may last over midnight: a flash and the hours of the site are those of its night.
func TestTheNightHasItsOwnFlashesAndHours(t *testing.T) {
	night := func(bulletin, hours, from, until string) []string {
		c := Case{Site: here("area, 40 by 30 m", hours), Purpose: day(14.06)}
		c.Purpose.From, c.Purpose.Until, c.Purpose.Bulletin = from, until, bulletin
		mp, _ := site.Read(c.Site.Lines, "m")
		d := danger{Case: c, a: &Answer{Map: mp}}
		d.thunder()
		d.people()
		var codes []string
		for _, h := range d.out {
			codes = append(codes, h.Code)
		}
		return codes
	}
	for _, c := range []struct {
		bulletin, hours, from, until string
		flashes, closed              bool
	}{
		{"lightning 00:30 3 km", "hours 00:00 to 23:59", "20:00", "03:00", true, true},
		{"lightning 19:45 3 km", "hours 18:00 to 06:00", "20:00", "03:00", true, false},
		{"lightning 14:20 3 km", "hours 18:00 to 06:00", "20:00", "03:00", false, false},
		{"lightning 03:30 3 km", "hours 18:00 to 02:00", "20:00", "03:00", false, true},
		{"lightning 10:00 3 km", "hours 08:00 to 20:00", "09:00", "15:00", true, false},
		{"lightning 10:00 3 km", "hours 08:00 to 14:00", "09:00", "15:00", true, true},
	} {
		codes := night(c.bulletin, c.hours, c.from, c.until)
		if slices.Contains(codes, "flashes") != c.flashes || slices.Contains(codes, "hours") != c.closed {
			t.Errorf("%s, %s, from %s to %s: %v", c.bulletin, c.hours, c.from, c.until, codes)
		}
	}
}
