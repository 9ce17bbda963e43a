// Package demo makes the Marram Isles: invented outings in an invented group of islands, through the
// same core and exchange code as everything else, always the same from the same seed.
package demo

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/marks"
	"reed/core/onair"
	"reed/core/phrase"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/rigging"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/internal/exchange"
	"reed/internal/standin"
	"reed/internal/store"
)

// Day is the fixed day on which the first outing was; all others count from it.
var Day = time.Date(2026, 5, 16, 0, 0, 0, 0, time.UTC)

var space = uuid.MustParse("6ba7b810-9dad-41d1-80b4-00c04fd430c8")

func id(parts ...any) string { return uuid.NewSHA1(space, fmt.Append(nil, parts...)).String() }

// revision is one step of a demo deployment: what is changed of the plan as built, and why.
type revision struct {
	reason  string
	minutes int // after the outing began
	change  func(*deployment.Built)
	sweeps  []span // measured then
	fold    bool   // follow the advice of the sweep before
}

type span struct {
	lo, hi  float64
	n       int
	atRadio bool
}

type antennaOf struct {
	name      string
	plan      antenna.Request
	parts     []string // of the bag, by name
	coax      deployment.Coax
	choke     string
	revisions []revision
	lesson    string
	contacts  run
	marks     []float64 // frequencies at which taps were found
	clock     []int     // minutes after the outing began: begun, up, tuned, on the air
	photo     string    // what it shows
	recipe    string    // under which its newest revision is kept
	from      string    // the antenna of whose recipe it was laid out
}

// run is a stretch of operating with one antenna.
type run struct {
	minutes  int // after the outing began
	count    int
	perHour  float64
	band     string
	freq     float64
	mode     string
	km       float64 // typical distance
	direct   float64 // main direction, degrees
	powerW   float64
	reported string
}

type outing struct {
	store.Outing
	days     int
	begin    string
	wind     string
	antennas []antennaOf
}

func m(v float64) quantity.Length {
	v = math.Round(v*100) / 100
	return quantity.Length{M: v, Typed: quantity.Metric(v, 10)}
}

func request(family, variant string, mhz float64, wire, ground string, set func(*antenna.Shape)) antenna.Request {
	r := antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant, FrequencyHz: mhz * 1e6, Wire: wire}, Ground: ground,
		TrimPercent: 2, PowerW: 10}
	if set != nil {
		set(&r.Shape)
	}
	return r
}

// several asks for further frequencies in MHz.
func several(r antenna.Request, more ...float64) antenna.Request {
	for _, f := range more {
		r.More = append(r.More, f*1e6)
	}
	return r
}

// shorten changes the whole radiator by centimetres, on both legs of a dipole.
func shorten(cm float64) func(*deployment.Built) {
	return func(b *deployment.Built) {
		if b.Legs() == 2 {
			b.Put(antenna.Radiator, m(b.Radiator().M-cm/200))
			b.Put(antenna.LegB, m(b.LegB().M-cm/200))
			return
		}
		b.Put(antenna.Radiator, m(b.Radiator().M-cm/100))
	}
}

func outings() []outing {
	fortySpan, twentySpan, wide := span{6.6e6, 7.6e6, 101, false}, span{13.4e6, 14.9e6, 101, false}, span{6.5e6, 15.5e6, 361, false}
	return []outing{
		{
			Outing: store.Outing{Name: "Gannet Spit", Place: "46.5208 N 12.2083 W", Ground: "sea", Scheme: "ten-a-day", OwnRef: "MI-0001",
				Until: "20:30",
				Notes: "Salt-water beach at half tide. Firm sand for the pole, no trees. Walkers along the tide line: flag the far end."},
			begin: "13:00", wind: "light",
			antennas: []antennaOf{
				{
					name: "Heron", parts: []string{"Black reel, PVC", "49:1 on one ring", "10 m of RG-58", "Seven metre pole"},
					coax: deployment.Coax{Type: "RG-58", Length: m(10)}, choke: "radio",
					plan: request("end-fed", "sloper", 7.1, "pvc", "sea", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(1))
						s.Put(antenna.FarHeight, m(5.6))
						s.Put(antenna.PoleHeight, m(6))
					}),
					revisions: []revision{
						{reason: "as cut, with the trim margin on", minutes: 9, change: shorten(-78), sweeps: []span{fortySpan}},
						{reason: "far end raised clear of the marram", minutes: 31, change: func(b *deployment.Built) {
							b.Put(antenna.FarHeight,
								m(6))
							b.Put(antenna.PoleHeight, m(6.2))
						}, sweeps: []span{fortySpan}},
						{minutes: 58, fold: true, sweeps: []span{wide, fortySpan}},
					},
					clock: []int{0, 9, 61, 75}, recipe: "Beach end-fed", photo: "far end clear of the marram",
					lesson:   "Keep the metal clip off the far end; string and a bead pull no frequency.",
					contacts: run{75, 18, 14, "40m", 7.032, "CW", 900, 60, 10, "579"},
				},
				{
					name: "Stilt", parts: []string{"Thin grey, PE", "8 m of thin coax", "Seven metre pole"},
					coax: deployment.Coax{Type: "RG-316", Length: m(8)}, choke: "feed",
					plan: request("vertical", "raised-radials", 14.06, "pe", "sea", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(1.5))
						s.Put(antenna.PoleHeight, m(7))
						s.PutRadials(antenna.WireSet{Count: 4, Height: m(0.6)})
					}),
					revisions: []revision{
						{reason: "as cut", minutes: 160, change: shorten(-14), sweeps: []span{twentySpan}},
						{minutes: 181, fold: true, sweeps: []span{twentySpan}},
					},
					contacts: run{190, 21, 19, "20m", 14.061, "CW", 2600, 290, 10, "559"},
				},
				{
					name: "Curlew", recipe: "Pole dipole", parts: []string{"Thin grey, PE", "8 m of thin coax", "Seven metre pole"},
					coax: deployment.Coax{Type: "RG-316", Length: m(8)}, choke: "feed",
					plan: request("dipole", "inverted-v", 14.06, "pe", "sea", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(6))
						s.Put(antenna.PoleHeight, m(6))
						s.PutNumber(antenna.ApexAngle, 120)
					}),
					revisions: []revision{
						{reason: "as cut", minutes: 262, change: shorten(-20), sweeps: []span{twentySpan}},
						{minutes: 275, fold: true, sweeps: []span{twentySpan}},
					},
					contacts: run{285, 13, 13, "20m", 14.061, "CW", 1500, 45, 10, "559"},
				},
			},
		},
		{
			Outing: store.Outing{Name: "Hollow Fell", Place: "46.6375 N 12.0625 W", Ground: "rock", Scheme: "four-stations", OwnRef: "MI-0014",
				Until: "17:00",
				Notes: "Bare rock, 410 m. No stakes: stones and string. Thunder from the south-west at 14:50, everything down by 14:58."},
			days: 7, begin: "12:10", wind: "fresh",
			antennas: []antennaOf{
				{
					name: "Plover", from: "Curlew", coax: deployment.Coax{Type: "RG-174", Length: m(12)}, choke: "feed",
					plan: request("dipole", "flat", 14.2, "ptfe", "rock", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(5))
						s.Put(antenna.PoleHeight, m(5.5))
					}),
					revisions: []revision{{reason: "as cut", minutes: 14, change: shorten(-16), sweeps: []span{{13.4e6, 14.9e6, 101, true}}},
						{minutes: 27, fold: true, sweeps: []span{{13.4e6, 14.9e6, 101, true}}}},
					lesson:   "Thin coax hides the mismatch: 1.4 at the radio was 1.7 at the feed.",
					contacts: run{36, 7, 10, "20m", 14.285, "SSB", 1300, 50, 10, "55"},
				},
				{
					name: "Dunlin", coax: deployment.Coax{Type: "RG-174", Length: m(6)},
					plan: request("vertical", "ground-radials", 14.2, "pe", "rock", func(s *antenna.Shape) {
						s.Put(antenna.PoleHeight, m(6))
						s.PutNumber(antenna.RadialsCount, 8)
					}),
					revisions: []revision{{reason: "as cut, radials over the rock", minutes: 95, change: shorten(-9), sweeps: []span{twentySpan}}},
					contacts:  run{105, 5, 9, "20m", 14.285, "SSB", 2400, 280, 10, "53"},
				},
			},
		},
		{
			Outing: store.Outing{Name: "Alder Common", Place: "IN36xl", Ground: "average", Scheme: "ten-a-day", OwnRef: "MI-0007", Until: "19:00",
				Notes: "Park on loam, two alders 30 m apart. Ropes in trees allowed, stakes not near the path."},
			days: 21, begin: "15:20", wind: "calm",
			antennas: []antennaOf{
				{
					name: "Bittern", coax: deployment.Coax{Type: "RG-58", Length: m(15)}, choke: "radio",
					plan: request("end-fed", "inverted-v", 7.09, "pvc", "average", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(1.2))
						s.Put(antenna.FarHeight, m(2.6))
						s.Put(antenna.PoleHeight, m(8))
					}),
					revisions: []revision{
						{reason: "as cut over the alder", minutes: 12, change: shorten(-40), sweeps: []span{fortySpan}},
						{reason: "3:24 turns instead of 2:14", minutes: 26, change: func(b *deployment.Built) {
							b.PutNumber(antenna.PrimaryTurns, 3)
							b.PutNumber(antenna.SecondaryTurns, 24)
						}, sweeps: []span{fortySpan}},
						{minutes: 40, fold: true, sweeps: []span{wide, fortySpan}},
					},
					contacts: run{50, 16, 16, "40m", 7.09, "SSB", 700, 70, 10, "57"},
				},
				{
					name: "Rail", coax: deployment.Coax{Type: "RG-8X", Length: m(15)}, choke: "feed",
					plan: request("dipole", "sloper", 10.12, "ptfe", "average", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(4.5))
						s.Put(antenna.PoleHeight, m(8))
					}),
					revisions: []revision{{reason: "as cut", minutes: 118, change: shorten(-10), sweeps: []span{{9.5e6, 10.8e6, 91, false}}},
						{minutes: 124, fold: true, sweeps: []span{{9.5e6, 10.8e6, 91, false}}}},
					contacts: run{128, 9, 12, "30m", 10.118, "CW", 1400, 120, 10, "579"},
				},
				{
					name: "Godwit", parts: []string{"Thin grey, PE", "10 m of RG-58", "Ten metre pole"},
					plan: several(request("linked-dipole", "inverted-v", 7.1, "pe", "average", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight, m(8))
						s.Put(antenna.PoleHeight, m(8))
					}), 10.12, 14.06),
				},
				{
					name: "Pipit", parts: []string{"Black reel, PVC", "9:1 on one ring", "10 m of RG-58", "Ten metre pole", "L tuner"},
					plan: several(request("random-wire", "sloper", 7.1, "pvc", "average", func(s *antenna.Shape) {
						s.PutNumber(antenna.PrimaryTurns, 9)
						s.PutNumber(antenna.SecondaryTurns, 27)
						s.Put(antenna.PoleHeight, m(8))
					}), 10.12, 14.06),
				},
				{
					name: "Wigeon", parts: []string{"Thin grey, PE", "8 m of thin coax", "Long whip"},
					plan: several(request("loaded-whip", "ground-radials", 7.1, "pe", "average", func(s *antenna.Shape) {
						s.Put("whip", m(3.2))
						s.PutNumber(antenna.RadialsCount, 8)
					}), 10.12, 14.06),
					coax:      deployment.Coax{Type: "RG-316", Length: m(8)},
					revisions: []revision{{reason: "taps by the table, radials over the grass", minutes: 140}},
					marks:     []float64{7.03e6, 7.1e6, 7.16e6, 10.12e6, 14.06e6, 14.25e6},
				},
			},
		},
		{
			Outing: store.Outing{Name: "Sedge Quay", Place: "46.4542 N 12.1250 W", Ground: "sea", Scheme: "ten-a-day", OwnRef: "MI-0022",
				Until: "21:00",
				Notes: "Small boat harbour, steel rigging on both sides. Called for an hour on 15 m after sunset: nobody, not even noise bursts. " +
					"The band was closed, the antenna was right."},
			days: 28, begin: "19:10", wind: "light",
			antennas: []antennaOf{
				{
					name: "Teal", coax: deployment.Coax{Type: "RG-316", Length: m(6)}, choke: "feed",
					plan: request("vertical", "ground-radials", 21.2, "pe", "sea", func(s *antenna.Shape) {
						s.Put(antenna.PoleHeight, m(5))
						s.PutNumber(antenna.RadialsCount, 12)
					}),
					revisions: []revision{{reason: "as cut", minutes: 15, change: shorten(-5), sweeps: []span{{20e6, 22.4e6, 101, false}}},
						{reason: "two masts further from the rigging", minutes: 33, change: func(b *deployment.Built) {
							b.Metal = []deployment.Metal{{What: "steel rigging", Kind: deployment.MetalRigging, Distance: m(9), Size: m(11)}}
						}, sweeps: []span{{20e6, 22.4e6, 101, false}}}},
				},
				{
					name: "Snipe", coax: deployment.Coax{Type: "RG-316", Length: m(6)}, choke: "feed",
					plan: request("end-fed", "upright", 14.1, "pe", "sea", func(s *antenna.Shape) {
						s.Put(antenna.FeedHeight,
							m(0.8))
						s.Put(antenna.PoleHeight, m(12))
					}),
				},
				{
					name: "Crake", coax: deployment.Coax{Type: "RG-316", Length: m(6)}, choke: "feed",
					plan: several(request("small-loop", "upright", 14.06, "", "sea", func(s *antenna.Shape) {
						s.Put("tube", quantity.Metres(0.016))
						s.Put(antenna.Radiator, m(2.8))
					}), 21.1),
					revisions: []revision{{reason: "on the quay wall, two metres from the rail", minutes: 70, change: func(b *deployment.Built) {
						b.Metal = []deployment.Metal{{What: "steel rail", Kind: deployment.MetalFence, Distance: m(2)}}
					}, sweeps: []span{{13.6e6, 14.3e6, 351, false}}}},
				},
			},
		},
	}
}

// Fill writes the demo data into an empty store.
func Fill(ctx context.Context, st *store.Store) error {
	segments := band.DefaultSegments(1)
	if _, err := st.PutMe(ctx, store.Me{Call: "Q1REED", Region: 1, Segments: segments, PowerW: 10, GoodSWR: 2}, 0); err != nil {
		return err
	}
	if err := fillBag(ctx, st); err != nil {
		return fmt.Errorf("filling the bag: %w", err)
	}
	engine := &twin.Engine{}
	for i, o := range outings() {
		if err := fillOuting(ctx, st, engine, o, uint64(i+1)); err != nil {
			return fmt.Errorf("making %s: %w", o.Name, err)
		}
	}
	return nil
}

// things lists the bag, by kind, name and texts.
func things() []thing {
	return []thing{
		{"wire", "Black reel, PVC", texts{"conductor": "0.9 mm", "outer": "2.0 mm", "permittivity": "3.2", "strands": "16", "left": "62 m"}},
		{"wire", "Thin grey, PE", texts{"conductor": "0.48 mm", "outer": "1.1 mm", "permittivity": "2.3", "left": "48 m",
			"pieces": "4x 2.52 m, 2x 5.03 m"}},
		{"transformer", "49:1 on one ring", texts{"primary": "2", "secondary": "14", "core": "nizn850-36", "across_pf": "100",
			"loss": "3.6:1.5 7:0.8 14:0.6 28:0.9", "power_w": "30", "grams": "58"}},
		{"transformer", "9:1 on one ring", texts{"primary": "9", "secondary": "27", "core": "nizn250-36", "power_w": "50", "grams": "64"}},
		{"choke", "Choke, 12 turns", texts{"impedance": "3.6:1900 7:3000 14:2600 28:1400", "core": "nizn850-36", "turns": "12", "grams": "71"}},
		{"coax", "10 m of RG-58", texts{"type": "RG-58", "length": "10 m", "connectors": "BNC both ends"}},
		{"coax", "8 m of thin coax", texts{"type": "RG-316", "length": "8 m", "connectors": "BNC both ends"}},
		{"line", "12 m of window line", texts{"type": "window-450", "length": "12 m"}},
		{"pole", "Seven metre pole", texts{"length": "7 m", "sections": "6", "usable": "6.2 m", "base": "36 mm", "top": "5 mm", "grams": "890",
			"packed": "1.32 m"}},
		{"pole", "Ten metre pole", texts{"length": "10 m", "sections": "9", "usable": "8 m", "base": "52 mm", "top": "6 mm", "grams": "1650",
			"packed": "1.25 m"}},
		{"whip", "Long whip", texts{"whip_full": "5.6 m", "whip_sections": "11", "whip_radius": "8 mm", "grams": "420", "packed": "62 cm"}},
		{"coil", "White coil", texts{"coil_former": "40 mm", "coil_wire": "1 mm", "turns": "34", "coil_length": "44 mm", "grams": "95"}},
		{"stake", "Stakes", texts{"length": "22 cm", "count": "5", "grams": "310"}},
		{"radio", "Small radio", texts{"power": "13.8:10 12:7.5 11:5", "receive_a": "0.4", "transmit_a": "2.1", "grams": "1100"}},
		{"tuner", "L tuner", texts{"network": "L", "l_max": "20", "c_min": "12", "c_max": "1200", "q_l": "90", "power_w": "20", "grams": "290"}},
		{"battery", "LiFePO4, 4.5 Ah", texts{"amp_hours": "4.5", "volts": "12.8", "milliohm": "60", "fuse_a": "5", "grams": "610"}},
	}
}

type texts = map[string]string

type thing struct {
	kind, name string
	texts      texts
}

func fillBag(ctx context.Context, st *store.Store) error {
	var list []kit.Part
	for _, t := range things() {
		p, faults := kit.Read(t.kind, t.name, t.texts, "m")
		if len(faults) > 0 {
			return fmt.Errorf("%s: %v", t.name, faults)
		}
		p.ID = id("part", t.name)
		list = append(list, p)
	}
	_, err := st.PutParts(ctx, list)
	return err
}

func fillOuting(ctx context.Context, st *store.Store, engine *twin.Engine, o outing, seed uint64) error {
	day := Day.AddDate(0, 0, o.days)
	begin, err := time.Parse("15:04", o.begin)
	if err != nil {
		return err
	}
	at := func(minutes int) time.Time {
		return day.Add(time.Duration(begin.Hour()*60+begin.Minute()+minutes) * time.Minute)
	}
	o.ID, o.Date = id("outing", o.Name), day.Format(time.DateOnly)
	if err := fillSite(ctx, st, &o, at(0)); err != nil {
		return err
	}
	if _, err := st.PutOuting(ctx, o.Outing, 0); err != nil {
		return err
	}
	home, err := place.ParsePosition(o.Place)
	if err != nil {
		return err
	}
	lines := lineState{rng: rand.New(rand.NewPCG(seed, 77)), home: home, letters: map[string]string{}}
	for k, a := range o.antennas {
		a.plan.Parts = map[string]string{}
		for _, name := range a.parts {
			p, err := st.Part(ctx, id("part", name))
			if err != nil {
				return err
			}
			a.plan.Parts[p.Kind] = p.ID
			if p.Kind == "wire" {
				w := p.Wire()
				a.plan.Wire, a.plan.WireData = p.ID, &w
			}
		}
		if trims := family.Of(a.plan.Shape).Trims(); len(a.revisions) > 0 && trims == "wire" {
			if a.plan.Solved, err = solved(ctx, engine, a.plan); err != nil {
				return fmt.Errorf("%s: %w", a.name, err)
			}
		}
		d := deployment.Deployment{ID: id("deployment", a.name), OutingID: o.ID, Name: a.name, Plan: a.plan, Lesson: a.lesson, CreatedAt: at(k)}
		if a.from != "" {
			d.Recipe = id("recipe", a.from)
		}
		d, err := st.PutDeployment(ctx, d, 0)
		if err != nil {
			return err
		}
		lines.letters[d.Letter] = d.ID
		if err := fillRevisions(ctx, st, engine, a, o, d.ID, seed*10+uint64(k), at); err != nil {
			return err
		}
		if len(a.clock) == 4 {
			d.Clock = deployment.Clock{Begun: at(a.clock[0]), Up: at(a.clock[1]), Tuned: at(a.clock[2]), OnAir: at(a.clock[3])}
			if _, err := st.PutDeployment(ctx, d, d.Version); err != nil {
				return err
			}
		}
		if a.photo != "" {
			if err := fillPhoto(ctx, st, a, d.ID, at(a.clock[len(a.clock)-1])); err != nil {
				return fmt.Errorf("the photo of %s: %w", a.name, err)
			}
		}
		if a.recipe != "" {
			if err := fillRecipe(ctx, st, a, o, d); err != nil {
				return fmt.Errorf("the recipe of %s: %w", a.name, err)
			}
		}
		if err := fillMarks(ctx, st, engine, a, o, d.ID, seed); err != nil {
			return fmt.Errorf("the marks of %s: %w", a.name, err)
		}
		if err := lines.log(ctx, st, o, a.contacts, d.Letter, at); err != nil {
			return err
		}
	}
	return fillHeard(ctx, st, engine, o, home, at)
}

// solved returns a plan's lengths by the solver, for its cut list.
func solved(ctx context.Context, engine *twin.Engine, plan antenna.Request) ([]antenna.Solved, error) {
	p := family.Design(plan)
	r, err := engine.Refine(ctx, twin.Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Given: plan.Given(),
		Ground: plan.Ground}, nil)
	if err != nil {
		return nil, err
	}
	return r.Solved, nil
}

func fillRevisions(ctx context.Context, st *store.Store, engine *twin.Engine, a antennaOf, o outing, deploymentID string, seed uint64,
	at func(int) time.Time) error {
	p := family.Design(a.plan)
	if antenna.HasError(p.Faults) {
		return fmt.Errorf("%s cannot be planned: %v", a.name, p.Faults)
	}
	b := deployment.Built{Shape: p.Shape, Coax: a.coax, Choke: deployment.Choke{Place: a.choke}, Wind: o.wind, PowerW: 10,
		SetupMinutes: 12 + int(seed%9)}
	b.Put(antenna.Radiator, m(b.Radiator().M))
	if b.LegB().M > 0 {
		b.Put(antenna.LegB, m(b.LegB().M))
	}
	bag := map[string]kit.Part{}
	list, err := st.Bag(ctx)
	if err != nil {
		return err
	}
	for _, p := range list {
		bag[p.ID] = p
	}
	length := b.Coax.Length
	b = b.Use(bag)
	b.Coax.Length = length
	device := standin.Analyser{Seed: seed, Noise: 0.0008, Ground: o.Ground, Engine: engine}
	for i, r := range a.revisions {
		reason := r.reason
		if r.change != nil {
			r.change(&b)
		}
		if r.fold {
			measured, err := device.Sweep(ctx, b, false, b.FrequencyHz*0.92, b.FrequencyHz*1.08, 161)
			if err != nil {
				return fmt.Errorf("%s: %w", a.name, err)
			}
			b, reason = advised(measured, b)
		}
		drawing, _ := family.Of(b.Shape).Layout()
		b.Confirmed = nil
		for _, c := range rigging.Cautions(b.Shape, drawing, b.PowerW, quantity.SI) {
			b.Confirmed = append(b.Confirmed, c.Code)
		}
		rev, err := st.AddRevision(ctx, deployment.Revision{ID: id("revision", a.name, i), DeploymentID: deploymentID, At: at(r.minutes),
			Reason: reason, Built: b})
		if err != nil {
			return err
		}
		for k, sp := range r.sweeps {
			// Through a file and the reader, as a user's would come.
			measured, err := device.Sweep(ctx, b, sp.atRadio, sp.lo, sp.hi, sp.n)
			if err != nil {
				return fmt.Errorf("%s: %w", a.name, err)
			}
			text := exchange.WriteTouchstone(measured, standin.Mark+"\n"+a.name)
			name := fmt.Sprintf("%s-r%d.s1p", strings.ToLower(a.name), i+1)
			read, err := exchange.Read(ctx, strings.NewReader(text), name, exchange.Options{Region: 1})
			if err != nil {
				return err
			}
			where := "feed"
			if sp.atRadio {
				where = "radio"
			}
			if _, err := st.PutSweep(ctx, store.Sweep{ID: id("sweep", a.name, i, k), RevisionID: rev.ID, Name: name, Where: where,
				TakenAt: at(r.minutes + 3 + k), Simulated: true, Curve: *read.Sweep, File: []byte(text)}, 0); err != nil {
				return err
			}
		}
	}
	return nil
}

// fillPhoto paints what a camera would have seen: sky, sea, a dune with a pole, and the wire going down from it.
func fillPhoto(ctx context.Context, st *store.Store, a antennaOf, deploymentID string, at time.Time) error {
	const w, h = 640, 420
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for x := range w {
		dune := 300 + int(34*math.Sin(float64(x)/110)+9*math.Sin(float64(x)/23))
		for y := range h {
			c := color.RGBA{uint8(196 - y/6), uint8(214 - y/9), 222, 255}
			switch {
			case y > dune:
				c = color.RGBA{uint8(206 - (y-dune)/4), uint8(186 - (y-dune)/4), 138, 255}
			case y > 262:
				c = color.RGBA{74, 124, uint8(138 + (y*7+x)%9), 255}
			}
			img.Set(x, y, c)
		}
	}
	stroke := func(x0, y0, x1, y1, thick int, c color.RGBA) {
		for i := range 1000 {
			x, y := x0+(x1-x0)*i/1000, y0+(y1-y0)*i/1000
			draw.Draw(img, image.Rect(x, y, x+thick, y+thick), image.NewUniform(c), image.Point{}, draw.Src)
		}
	}
	stroke(452, 310, 458, 52, 5, color.RGBA{52, 56, 52, 255})
	stroke(458, 54, 96, 332, 2, color.RGBA{150, 84, 44, 255})
	var file bytes.Buffer
	if err := jpeg.Encode(&file, img, nil); err != nil {
		return err
	}
	clean, err := exchange.CleanPhoto(file.Bytes())
	if err != nil {
		return err
	}
	_, err = st.PutPhoto(ctx, store.Photo{ID: id("photo", a.name), DeploymentID: deploymentID, Caption: a.photo, Width: clean.Width,
		Height: clean.Height, At: at, File: clean.JPEG}, 0)
	return err
}

// fillRecipe keeps the newest revision to be laid out again, with the dip that its newest sweep found.
func fillRecipe(ctx context.Context, st *store.Store, a antennaOf, o outing, d deployment.Deployment) error {
	revisions, err := st.Revisions(ctx, d.ID)
	if err != nil {
		return err
	}
	sweeps, err := st.Sweeps(ctx, d.ID)
	if err != nil {
		return err
	}
	rev := revisions[len(revisions)-1]
	dips := map[string]float64{}
	c, err := sweeps[len(sweeps)-1].Curve.Curve()
	if err != nil {
		return err
	}
	if b, ok := band.At(1, a.plan.FrequencyHz); ok {
		if r, ok := sweep.Read(c, 1, b, nil, 2); ok {
			dips[b.Name] = r.MinAt
		}
	}
	_, err = st.PutRecipe(ctx, deployment.MakeRecipe(id("recipe", a.name), a.recipe, d, rev, o.Name, o.Date, o.Ground, dips), 0)
	return err
}

// fillMarks notes taps as an operator would have found them: those of a coil and a whip that are not quite what
// was written down, read off to half a millimetre, with the SWR that the solver foresees for the set-up.
func fillMarks(ctx context.Context, st *store.Store, engine *twin.Engine, a antennaOf, o outing, deploymentID string, seed uint64) error {
	if len(a.marks) == 0 {
		return nil
	}
	revisions, err := st.Revisions(ctx, deploymentID)
	if err != nil {
		return err
	}
	truth := a.plan
	truth.Shape = family.Design(a.plan).Shape
	truth.FrequencyHz, truth.More = a.marks[0], a.marks[1:]
	for id, share := range map[string]float64{"whip": 0.985, "coil_former": 1.02} {
		truth.Shape = truth.With(id, quantity.Metres(truth.M(id)*share))
	}
	held := marks.Held{Built: revisions[len(revisions)-1].Built, Place: o.Name, Ground: o.Ground, Date: o.Date}
	f, err := engine.Forecast(ctx, twin.Setup{Built: held.Built, Ground: o.Ground}, twin.Options{Region: 1, Coarse: true}, nil)
	if err != nil {
		return err
	}
	found := map[string]float64{}
	for _, b := range f.Bands {
		found[b.Name] = b.FeedBest
	}
	set := marks.Set{ID: id("marks", a.name), Name: a.name + ", white coil", Family: a.plan.Family, DeploymentID: deploymentID}
	rng := rand.New(rand.NewPCG(seed, 78))
	for _, strip := range family.Design(truth).Strips {
		for _, x := range strip.Marks {
			hz, err := quantity.ParseFrequency(x.Text, "MHz")
			if err != nil {
				return err
			}
			mark := marks.Mark{ID: id("mark", a.name, x.Text), Hz: hz.Value, SWR: math.Round(10*found[band.Nearest(1,
				hz.Value).Name]*(1+0.04*rng.NormFloat64())) / 10, Held: held}
			mark.Put("tap", quantity.Metres(math.Round(2*x.MM)/2000))
			set.Marks = append(set.Marks, mark)
		}
	}
	_, err = st.PutMarks(ctx, set, 0)
	return err
}

// advised follows what the reading of a sweep says, to the centimetre.
func advised(s sweep.Sweep, b deployment.Built) (deployment.Built, string) {
	c, err := s.Curve()
	if err != nil {
		return b, "left alone"
	}
	in := band.Nearest(1, b.FrequencyHz)
	r, _ := sweep.Read(c, 1, in, band.Own(band.DefaultSegments(1), in.Name), 1.05)
	knob := family.Of(b.Shape).Knobs()[0]
	step := 0.02
	if target, ok := r.Target(b.FrequencyHz); ok && math.Abs(r.MinAt/target-1) > 0.003 {
		step = math.Round(0.8*50*knob.Length(b.Shape)*(1-r.MinAt/target)) / 50
	}
	did := phrase.Action{Verb: phrase.Fold, Piece: knob.Label, Metres: math.Abs(step), Legs: knob.Legs, StepMM: 10}
	if step < 0 {
		did.Verb = phrase.Add
	}
	b.Shape = knob.Set(b.Shape, knob.Length(b.Shape)-step)
	return b, did.Done(quantity.SI)
}

// lineState types log lines as an operator would, and keeps what stays from line to line.
type lineState struct {
	rng     *rand.Rand
	home    place.Point
	letters map[string]string
	used    map[string]bool
}

func (l *lineState) call() string {
	if l.used == nil {
		l.used = map[string]bool{}
	}
	for {
		c := fmt.Sprintf("Q%d", l.rng.IntN(10))
		for range 2 + l.rng.IntN(2) {
			c += string(rune('A' + l.rng.IntN(26)))
		}
		if l.rng.IntN(6) == 0 {
			c += "/P"
		}
		if !l.used[c] {
			l.used[c] = true
			return c
		}
	}
}

// there is the locator of a place at a lognormal distance around a direction.
func (l *lineState) there(km, direction float64) string {
	d := km * math.Exp(0.45*l.rng.NormFloat64()) / (place.EarthRadius / 1000)
	az := (direction + 35*l.rng.NormFloat64()) * math.Pi / 180
	lat, lon := l.home.Lat*math.Pi/180, l.home.Lon*math.Pi/180
	lat2 := math.Asin(math.Sin(lat)*math.Cos(d) + math.Cos(lat)*math.Sin(d)*math.Cos(az))
	lon2 := lon + math.Atan2(math.Sin(az)*math.Sin(d)*math.Cos(lat), math.Cos(d)-math.Sin(lat)*math.Sin(lat2))
	return place.Locator(place.Point{Lat: lat2 * 180 / math.Pi, Lon: lon2 * 180 / math.Pi}, 4)
}

func (l *lineState) log(ctx context.Context, st *store.Store, o outing, r run, letter string, at func(int) time.Time) error {
	when := at(r.minutes)
	for i := range r.count {
		when = when.Add(time.Duration((0.4 + l.rng.ExpFloat64()) / 1.4 / r.perHour * float64(time.Hour)))
		line := fmt.Sprintf("%s %s %s @%s %.3f %s %.0fW #%s ~%s", l.call(), r.reported, vary(r.reported, l.rng),
			when.Format("2006-01-02T15:04:05"),
			r.freq, r.mode, r.powerW, l.there(r.km, r.direct), letter)
		if l.rng.IntN(5) == 0 {
			line += fmt.Sprintf(" =MI-%04d", 2+l.rng.IntN(60))
		}
		c, problems := onair.ParseLine(line, onair.Context{Now: when.Add(time.Minute), Region: 1, OwnRef: o.OwnRef, Deployments: l.letters})
		if len(problems) > 0 {
			return fmt.Errorf("line %q: %v", line, problems)
		}
		c.ID, c.OutingID = id("contact", o.Name, letter, i), o.ID
		if _, err := st.PutContact(ctx, c, 0); err != nil {
			return err
		}
	}
	return nil
}

// vary moves the strength of a report by up to two steps.
func vary(report string, rng *rand.Rand) string {
	b := []byte(report)
	b[1] = min('9', max('1', b[1]+byte(rng.IntN(4))-2))
	return string(b)
}
