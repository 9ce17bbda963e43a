package scout

import (
	"fmt"
	"math"
	"time"

	"reed/core/kit"
	"reed/core/place"
	"reed/core/rigging"
	"reed/core/site"
)

// Hazard is a danger of the plan with its figure. Stops says that the plan is not fit until something moves; it cannot be
// ticked away.
type Hazard struct {
	Code   string `json:"code"`
	Title  string `json:"title"`
	Text   string `json:"text"`
	Figure string `json:"figure,omitempty"`
	Stops  bool   `json:"stops,omitempty"`
}

func hours(n int) time.Duration { return time.Duration(n) * time.Hour }

// hazards are those that Raise asks to confirm, and those of the site, the weather and the hours.
func (c Case) hazards(a *Answer, g ground, at place.Point) []Hazard {
	out := []Hazard{}
	add := func(code, title, text, figure string, stops bool) {
		out = append(out, Hazard{code, title, text, figure, stops})
	}
	under := 0
	for _, u := range a.Unfit {
		if u.Cause == underLine {
			under++
		}
	}
	if len(a.Candidates) == 0 && under > 0 {
		add(underLine, "An overhead line is within reach",
			"Nothing of this may stand here: go farther from the line, or take a shorter pole and "+
				"wire. There is no way to confirm this away.", fmt.Sprintf("%d candidates refused", under), true)
	}
	if c.Purpose.Storm {
		add("lightning", "Thunderstorms are forecast",
			"Put nothing up. At the first thunder take everything down, and wait 30 minutes after the last.",
			"30 minutes", true)
	}
	if d, ok := a.drawn(); ok {
		first := a.Candidates[0]
		for _, x := range rigging.Cautions(first.from.built.Shape, d, c.Purpose.power(), c.Units) {
			figure := x.Figure
			if x.Code == "power-lines" && first.Placement.Clear > 0 {
				figure = fmt.Sprintf("%s; the line that you told of is %s from the foot", x.Figure, c.Units.Rough(first.Placement.Clear))
			}
			add(x.Code, x.Title, x.Text, figure, false)
		}
		if x, ok := c.wind(first); ok {
			out = append(out, x)
		}
		c.crossed(g, first, add)
	}
	c.site(a, at, add)
	return out
}

// wind is what the foreseen wind does to the pole.
func (c Case) wind(y Candidate) (Hazard, bool) {
	b := bag{c.Bag, len(c.Bag) == 0}
	p, ok := b.best("pole")
	if !ok || y.Placement.Poles == 0 || c.Purpose.WindMS <= 0 {
		return Hazard{}, false
	}
	up := y.from.foot.high()
	w := rigging.Blow(pole(p, up), c.Purpose.WindMS)
	h := Hazard{Code: "wind-load", Title: "Wind on the pole",
		Text:   "Guy it at two thirds of its height; each of three guys holds this when the wind blows along it.",
		Figure: fmt.Sprintf("%.0f N, %.0f N m at the clamp, %.0f N in a guy at %.0f m/s", w.Force, w.Moment, w.Guy, c.Purpose.WindMS)}
	if rating := p.N("rating", 0); rating > 0 && w.Moment > rating {
		h.Stops = true
		h.Text = fmt.Sprintf("That is over the pole's %.0f N m. Lower it to %s, or guy it.", rating, c.Units.Long(rigging.LowerTo(pole(p, up),
			c.Purpose.WindMS, rating)))
	}
	return h, true
}

// pole is a pole of the bag, so far out, for the wind.
func pole(p kit.Part, up float64) rigging.Pole {
	base, top := p.M("base"), p.M("top")
	if base == 0 {
		base = 0.04
	}
	if top == 0 {
		top = base / 5
	}
	return rigging.Pole{Height: up, Foot: base, Tip: base + (top-base)*math.Min(1, up/math.Max(p.M("length"), up))}
}

// crossed are guys and ends near paths.
func (c Case) crossed(g ground, y Candidate, add func(code, title, text, figure string, stops bool)) {
	for _, t := range g.m.Of(site.Path) {
		least := math.Inf(1)
		for _, l := range y.Placement.Lines {
			if math.Min(l.FromM, l.ToM) < rigging.HeadClearance {
				least = math.Min(least, math.Min(t.Apart(l.From), t.Apart(l.To)))
			}
		}
		if least < 5 {
			add("path", "Low wire or string near the "+t.Says(), "Flag it, and keep somebody by it when people come.",
				c.Units.Rough(least)+" away", false)
		}
	}
}

// site are the dangers of place, weather and hours.
func (c Case) site(a *Answer, at place.Point, add func(code, title, text, figure string, stops bool)) {
	p := c.Purpose
	from, until := p.window()
	for _, t := range a.Map.Of(site.PowerLine) {
		if t.High == 0 {
			add("line-height", "An overhead line of unknown height",
				"It counts as in reach of whatever falls. Never throw a line over it.", "", false)
		}
	}
	if g := c.ground(a.Map); g.wet && len(a.Map.Of(site.Wet))+len(a.Map.Of(site.Water)) > 0 {
		add("tide", "High water while you are there", "Be above the line two hours before, with a way back that stays dry.",
			join(p.High)+" UTC", false)
	}
	if dusk := place.TwilightOn(at, from.Add(until.Sub(from)/2)).Civil.Set; !dusk.IsZero() && until.After(dusk) {
		add("dark", "It gets dark while you are there", "Have a lamp, and mark guys so that they are seen.", dusk.Format("15:04")+" UTC", false)
	}
	switch {
	case p.Celsius != nil && *p.Celsius >= 30:
		add("heat", "Heat", "Shade and water; glue and tape let go.", fmt.Sprintf("%.0f degrees C", *p.Celsius), false)
	case p.Celsius != nil && *p.Celsius <= 2:
		add("cold", "Cold", "Dry gloves; a battery gives a fifth less, poles and ties are slippery.", fmt.Sprintf("%.0f degrees C",
			*p.Celsius), false)
	}
	if p.Alone {
		add("alone", "Alone", "Tell somebody where you are and when you will be back.", until.Format("15:04")+" UTC", false)
	}
	if a.Map.Rules.Ask != "" {
		add("permission", "Permission", "Ask "+a.Map.Rules.Ask+". What the land's owner says goes first.", "", false)
	}
	if a.Map.Rules.From != "" {
		opens, _ := p.at(a.Map.Rules.From)
		closes, _ := p.at(a.Map.Rules.Until)
		if from.Before(opens) || until.After(closes) {
			add("hours", "The site is closed for a part of it", "Be out when it closes.", a.Map.Rules.From+" to "+a.Map.Rules.Until+" UTC", false)
		}
	}
	c.battery(add)
}

// battery is whether it lasts, with a third of the time sent.
func (c Case) battery(add func(code, title, text, figure string, stops bool)) {
	b := bag{c.Bag, len(c.Bag) == 0}
	cell, ok := b.best("battery")
	if !ok {
		return
	}
	if cell.N("fuse_a", 0) == 0 {
		add("fuse", "No fuse at the battery", "A short circuit in the bag burns. Put one at its pole.", "", false)
	}
	radio, ok := b.best("radio")
	if !ok {
		return
	}
	from, until := c.Purpose.window()
	need := until.Sub(from).Hours()
	lasts := BatteryHours(cell, radio)
	if lasts > 0 && need < 24 && lasts < need {
		add("battery", "The battery does not last", "Bring a second, send less, or stop earlier.",
			fmt.Sprintf("about %.1f of %.1f hours", lasts, need), false)
	}
}

// Shares of the time that a radio sends, and of a battery's charge that comes out before its voltage falls too far.
const (
	sending = 0.25
	gives   = 0.8
)

// BatteryHours is how long a battery of the bag feeds a radio of it in hours; 0 where too little is known.
func BatteryHours(cell, radio kit.Part) float64 {
	draw := sending*radio.N("transmit_a", 0) + (1-sending)*radio.N("receive_a", 0)
	if draw <= 0 {
		return 0
	}
	return gives * cell.N("amp_hours", 0) / draw
}
