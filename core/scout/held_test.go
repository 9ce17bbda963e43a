package scout

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/site"
	"reed/core/twin"
)

// unheldEnd returns an end or corner of an antenna on the site that nothing holds, by the lines of its placement alone: no pole, tree or
// post within reach of a string, and no wire that pulls the other way.
func unheldEnd(a Answer, y Candidate) (site.Spot, bool) {
	type end struct{ at, on site.Spot }
	var ends, all []end
	var feet []site.Spot
	high := map[site.Spot]float64{}
	for _, l := range y.Placement.Lines {
		switch l.Role {
		case "pole":
			feet = append(feet, l.From)
		case "radiator":
			for i, at := range []site.Spot{l.From, l.To} {
				h, other, on := []float64{l.FromM, l.ToM}[i], []float64{l.ToM, l.FromM}[i], []site.Spot{l.To, l.From}[i]
				all = append(all, end{at, on})
				if h > leastPole && h >= other-0.3 && at.From(on) > 1 {
					ends = append(ends, end{at, on})
					high[at] = h
				}
			}
		}
	}
	// Whatever the placement counts as a support, as far as it goes beyond the drawn poles.
	for _, c := range y.Placement.Falls {
		feet = append(feet, c.At)
	}
	for _, e := range ends {
		held := slices.ContainsFunc(feet, func(f site.Spot) bool { return f.From(e.at) < 1 })
		for _, o := range all {
			if o.at.From(e.at) < 0.7 && o.on.From(e.on) > 0.95*(o.on.From(o.at)+e.on.From(e.at)) {
				held = true
			}
		}
		for _, t := range a.Map.Things {
			if k, _ := site.KindNamed(t.Kind); k.Holds && t.Apart(e.at) <= beyond+1 && t.Height() >= high[e.at] {
				held = true
			}
		}
		if !held {
			return e.at, true
		}
	}
	return site.Spot{}, false
}

func TestEveryEndOfEveryCandidateIsHeld(t *testing.T) {
	long := day(7.1, 14.06)
	far := day(14.06)
	far.Far = &Far{290, 5200}
	for name, c := range map[string]Case{
		"one pole and wire": {Site: here("area, 60 by 60 m"), Purpose: day(7.1), Bag: usualBag(t)},
		"on 20 m":           {Site: here("area, 60 by 60 m"), Purpose: far, Bag: wide(t)},
		"two trees": {Site: here("area, 60 by 60 m", "tree, 20 m at 90, 12 m high", "tree, 20 m at 270, 12 m high"), Purpose: long,
			Bag: usualBag(t)},
		"an empty bag":        {Site: here("area, 80 by 80 m"), Purpose: long},
		"a garden, empty bag": {Site: here("area, 4 by 3 m"), Purpose: day(14.06)},
		"no pole, no tree":    {Site: here("area, 60 by 60 m"), Purpose: day(7.1), Bag: without(usualBag(t), "pole")},
		"a post, no pole":     {Site: here("area, 60 by 60 m", "post, 5 m at 0, 6 m high"), Purpose: day(14.06), Bag: without(wide(t), "pole")},
	} {
		t.Run(name, func(t *testing.T) {
			a := scout(t, c)
			for _, y := range a.Candidates {
				if at, un := unheldEnd(a, y); un && family.Of(y.from.built.Shape).Beam() == nil {
					t.Errorf("%s: nothing holds it at %v: %+v", y.Name, at, y.Placement.Lines)
				}
				for _, l := range y.Placement.Lines {
					if math.Max(l.FromM, l.ToM) > carried+0.1 && y.from.tree == 0 {
						t.Errorf("%s reaches %.1f m up", y.Name, math.Max(l.FromM, l.ToM))
					}
				}
				poles := 0
				for _, p := range c.Bag {
					if p.Kind == "pole" {
						poles++
					}
				}
				if len(c.Bag) > 0 && y.Placement.Poles > poles {
					t.Errorf("%s takes %d poles of %d", y.Name, y.Placement.Poles, poles)
				}
			}
			if len(c.Bag) > 0 {
				for _, u := range a.cause("rectangle", "") {
					if u == "bag" {
						return
					}
				}
				t.Errorf("a beam without spreaders is not refused for the bag: %v", a.cause("rectangle", ""))
			}
		})
	}
}

func TestWhatIsNotInTheBagIsNamed(t *testing.T) {
	a := scout(t, Case{Site: here("area, 60 by 60 m"), Purpose: day(7.1), Bag: without(usualBag(t), "pole")})
	said := ""
	for _, u := range a.Unfit {
		said += u.Says + "\n"
	}
	if !strings.Contains(said, "pole, which is not in the bag") || !strings.Contains(said, "spreaders of") {
		t.Error(said)
	}
	for _, y := range a.Candidates {
		if y.Placement.Poles > 0 {
			t.Errorf("%s stands on a pole that nobody has", y.Name)
		}
	}
	// A tuner matches a wire without a transformer, which an end-fed half-wave needs.
	tuned := append(without(usualBag(t), "transformer"), part(t, "tu", "tuner", "tuner", map[string]string{"network": "L"}))
	a = scout(t, Case{Site: here("area, 60 by 60 m"), Purpose: day(7.1, 14.06), Bag: tuned})
	if a.place("random-wire") < 0 || a.place("end-fed") >= 0 {
		t.Errorf("random wire at place %d, end-fed at %d: %+v", a.place("random-wire"), a.place("end-fed"), a.Unfit)
	}
}

func TestABeamHangsBetweenSpreadersOfTheBag(t *testing.T) {
	c := Case{Site: here("area, 60 by 60 m"), Purpose: day(14.06), Bag: append(usualBag(t),
		part(t, "sp", "spreader", "arms", map[string]string{"length": "5 m", "count": "4", "grams": "400"}))}
	m, _ := c.Site.Check()
	for _, x := range candidates(c, m) {
		if x.family.ID == "rectangle" && (x.lacks != "" || x.kg < 2.9 || x.spread < 3 || x.spread > 5) {
			t.Errorf("%q, %.1f kg, arms of %.1f m", x.lacks, x.kg, x.spread)
		}
	}
}

// A recipe that worked once does not stand in a storm either.
func TestARecipeDoesNotStandInAStorm(t *testing.T) {
	p := day(14.06)
	p.Bulletin = "gusts 34 m/s"
	built := deployment.Built{PowerW: 10, Shape: antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: 14.06e6}}
	for field, m := range map[string]float64{"radiator": 10, "feed_height": 6, "pole_height": 6, "apex_angle": 120} {
		built.Put(field, quantity.Metres(m))
	}
	c := Case{Site: here("area, 60 by 60 m"), Purpose: p, Bag: wide(t), Recipes: []deployment.Recipe{{ID: "r", Name: "Pole V", Built: built}}}
	m, _ := c.Site.Check()
	if x := candidates(c, m)[0]; x.recipe != "r" || !strings.Contains(x.lacks, "nothing goes up") {
		t.Errorf("%s: %q", x.name, x.lacks)
	}
}

func TestALoopOfManySidesIsOnePiece(t *testing.T) {
	a := scout(t, Case{Site: here("area, 4 by 3 m"), Purpose: day(14.06)})
	// It is in one of the two lists, whatever else fits.
	if i := a.place("small-loop"); i < 0 && len(a.cause("small-loop", "")) == 0 {
		t.Errorf("a small loop is in neither list: %+v", a.Unfit)
	}
	m, _ := here("area, 4 by 3 m").Check()
	for _, x := range candidates(Case{Site: here("area, 4 by 3 m"), Purpose: day(14.06)}, m) {
		if x.family.ID == "small-loop" && (x.cannot != "" || x.minutes > 25) {
			t.Errorf("%s: %.0f minutes, %q", x.name, x.minutes, x.cannot)
		}
	}
}

func TestNothingStandsOnAPoleBeyondWhatItHolds(t *testing.T) {
	p := day(14.06)
	p.WindMS = 24
	p.Bulletin = "wind 20 m/s, gusts 34 m/s"
	a := scout(t, Case{Site: here("area, 60 by 60 m"), Purpose: p, Bag: wide(t)})
	for _, y := range a.Candidates {
		if y.Placement.Poles > 0 {
			t.Errorf("%s stands on a pole in gusts of 34 m/s", y.Name)
		}
	}
	if !strings.Contains(a.cause("vertical", "")[0], "bag") || !slices.ContainsFunc(a.Unfit, func(u Unfit) bool {
		return strings.Contains(u.Says, "it blows 34 m/s")
	}) {
		t.Errorf("%+v", a.Unfit)
	}
	// In less it is lowered to where it holds, and says so.
	p.WindMS, p.Bulletin = 22, ""
	tall := part(t, "p", "pole", "twelve metres", map[string]string{"length": "12 m", "usable": "11 m", "base": "40", "top": "5"})
	c := Case{Purpose: p, Bag: []kit.Part{tall}}
	b := bag{c.Bag, false}
	low := c.stormLimit(b)
	p.WindMS = 12
	calm := Case{Purpose: p, Bag: c.Bag}.stormLimit(b)
	if low.up > 11 || low.up < 4 || !math.IsInf(calm.up, 1) || low.stops != "" {
		t.Errorf("in 22 m/s %+v, in 12 m/s %+v", low, calm)
	}
}

func TestNothingStandsInALakeOrACarPark(t *testing.T) {
	a := scout(t, Case{Site: here("area, 60 by 60 m", "lake, 60 by 30 m around 15 m at 0", "car park, 20 by 20 m around 20 m at 180"),
		Purpose: day(14.06), Bag: wide(t)})
	if len(a.Candidates) == 0 {
		t.Fatal("nothing fits")
	}
	for _, y := range a.Candidates {
		for _, kind := range []string{site.Lake, site.Parking} {
			for _, area := range a.Map.Of(kind) {
				if site.Contains(area.Points, y.Placement.At) || site.Contains(area.Points, y.Placement.Feed) {
					t.Errorf("%s stands in the %s", y.Name, kind)
				}
			}
		}
	}
}

// Gains, margins and the highest frequency change smoothly with the distance: one kilometre must not turn the advice round.
func TestNothingTurnsRoundAtASingleDistance(t *testing.T) {
	c := Case{Site: here("area, 80 by 80 m"), Purpose: day(7.1, 14.06, 21.1), Bag: wide(t)}
	c.Purpose.From, c.Purpose.Until = "11:00", "20:00"
	m, _ := c.Site.Check()
	g := c.ground(m)
	at := place.Point{Lat: 46.5, Lon: -12}
	type series struct {
		beams map[float64]twin.Beam
		last  []Band
	}
	list := map[string]*series{}
	for _, x := range candidates(c, m) {
		tried := slices.Contains([]string{"doublet", "vertical", "linked-dipole"}, x.family.ID)
		if tried && x.cannot == "" && list[x.family.ID] == nil {
			beams, err := c.beams(context.Background(), &engine, x)
			if err != nil {
				t.Fatal(err)
			}
			list[x.family.ID] = &series{beams: beams}
		}
	}
	if len(list) < 2 {
		t.Fatalf("%d antennas", len(list))
	}
	var before []BandHours
	for km := 500.0; km <= 12000; km += 50 {
		c.Purpose.Far = &Far{290, km}
		hours := c.Purpose.Hours(at, "")
		for name, s := range list {
			now := c.heard(g, hours, s.beams)(58)
			for i := range now {
				if s.last != nil && math.Abs(now[i].Relative-s.last[i].Relative) > 2 {
					t.Errorf("%s on %s: %.1f dBi at %.0f km, %.1f before", name, now[i].Name, now[i].Relative, km, s.last[i].Relative)
				}
			}
			s.last = now
		}
		for i := range hours {
			for k := range hours[i].Hours {
				if before == nil {
					continue
				}
				a, b := hours[i].Hours[k], before[i].Hours[k]
				if math.Abs(a.Over-b.Over) > 3 || math.Abs(a.MUF/b.MUF-1) > 0.06 {
					t.Errorf("%s at %s: %.1f dB and %.1f MHz at %.0f km, %.1f and %.1f before", hours[i].Name, a.At.Format("15:04"), a.Over, a.MUF,
						km, b.Over, b.MUF)
				}
			}
		}
		before = hours
	}
}
