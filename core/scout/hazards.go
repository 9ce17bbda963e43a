package scout

import (
	"fmt"
	"math"
	"time"

	"reed/core/bulletin"
	"reed/core/clock"
	"reed/core/exposure"
	"reed/core/kit"
	"reed/core/place"
	"reed/core/quantity"
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

// Limits of the hazards: metres from a path within which a low end is one, and degrees C.
const (
	nearPath = 5.0
	hot      = 30.0
	freezing = 2.0
)

// danger gathers the dangers of a plan.
type danger struct {
	Case
	a   *Answer
	g   ground
	at  place.Point
	b   bag
	out []Hazard
}

func (d *danger) add(code, title, text, figure string, stops bool) {
	d.out = append(d.out, Hazard{code, title, text, figure, stops})
}

// hazards are those that Raise asks to confirm, and those of the site, the weather and the hours.
func (c Case) hazards(a *Answer, g ground, at place.Point) []Hazard {
	d := danger{Case: c, a: a, g: g, at: at, b: bag{c.Bag, len(c.Bag) == 0}, out: []Hazard{}}
	d.overhead()
	d.thunder()
	if drawn, ok := a.drawn(); ok {
		first := a.Candidates[0]
		for _, x := range rigging.Cautions(first.from.built.Shape, drawn, c.Purpose.power(), c.Units) {
			switch {
			case x.Code == "power-lines" && first.Placement.Clear > 0:
				x.Figure = fmt.Sprintf("the power line you entered is %s from the foot, %s beyond all that may fall or swing there and its margin",
					c.Units.Rough(first.Placement.Clear), c.Units.Rough(first.Placement.spare))
			case x.Code == "exposure":
				x.Text, x.Figure = c.stays(first, x.Text, x.Figure)
			}
			d.add(x.Code, x.Title, x.Text, x.Figure, false)
		}
		d.wind(first)
		d.crossed(first)
	}
	d.water()
	d.light()
	d.warmth()
	d.people()
	d.battery()
	return d.out
}

// stays returns the safety distance by the solved near fields, band by band, or the one given where they are not known.
func (c Case) stays(y Candidate, told, figure string) (string, string) {
	var parts []string
	for _, b := range y.Bands {
		if b.Stay > 0 {
			parts = append(parts, fmt.Sprintf("%s on %s", c.Units.Rough(b.Stay), b.Name))
		}
	}
	if len(parts) == 0 {
		return told, figure
	}
	return "Drawn in the plan, by the solver's near fields and the strictest of the public levels of " + exposure.Names() + ", " +
			"averaged and, up to 10 MHz, at any moment, " +
			"50 % duty cycle in any mode, as in Raise; it does not replace your authority's procedure.",
		fmt.Sprintf("stay %s away with %s", join(parts), quantity.Watts(c.Purpose.power()))
}

// overhead is that lines are in reach, or of unknown height.
func (d *danger) overhead() {
	under := 0
	for _, u := range d.a.Unfit {
		if u.Cause == underLine {
			under++
		}
	}
	if len(d.a.Candidates) == 0 && under > 0 {
		d.add(underLine, "An overhead line is within reach",
			"Do not raise it here: put the pole farther from the line, or take a shorter pole and "+
				"wire. This check cannot be ticked off.", fmt.Sprintf("%d candidates refused", under), true)
	}
	for _, t := range d.a.Map.Of(site.PowerLine) {
		if t.High == 0 {
			d.add("line-height", "An overhead line of unknown height",
				"It counts as in reach of whatever falls. Never throw a line over it.", "", false)
		}
	}
}

// thunder returns the hazards of lightning by the bulletin and the 30-minute rule.
func (d *danger) thunder() {
	p := d.Purpose
	b := p.bulletin()
	from, until := p.window()
	if p.Storm || b.Thunders() {
		figure := "30 minutes"
		if b.Thunder != nil {
			figure = fmt.Sprintf("%.0f %% likely; 30 minutes after the last thunder", 100**b.Thunder)
		}
		d.add("lightning", "Thunderstorms are forecast",
			"Put nothing up. At the first thunder take everything down, and wait 30 minutes after the last.", figure, true)
	}
	if clear, nearest, ok := b.Clear(until); ok && clear.After(from) {
		d.add("flashes", "Lightning within reach", "Nothing stands until 30 minutes after the last flash within "+sayKM(bulletin.Reach)+".",
			fmt.Sprintf("nearest %s; not before %s UTC", sayKM(nearest), clear.Format("15:04")), true)
	}
}

// wind returns the load of the forecast wind on the pole.
func (d *danger) wind(y Candidate) {
	blows := d.Purpose.wind()
	p, ok := d.b.best("pole")
	if !ok && !d.b.empty || y.Placement.Poles == 0 || blows <= 0 {
		return
	}
	up := y.from.foot.high()
	w := rigging.Blow(pole(p, up), blows)
	h := Hazard{Code: "wind-load", Title: "Wind on the pole",
		Text:   "Guy it at two thirds of its height; each of three guys holds this when the wind blows along it.",
		Figure: fmt.Sprintf("%.0f N, %.0f N m at the clamp, %.0f N in a guy at %.0f m/s", w.Force, w.Moment, w.Guy, blows)}
	if p.M("base") == 0 {
		h.Text += " A pole of 40 mm at the foot is taken."
	}
	if rating := p.N("rating", 0); rating > 0 && w.Moment > rating {
		h.Stops = true
		h.Text = fmt.Sprintf("That is over the pole's %.0f N m. Lower it to %s, or guy it.", rating, d.Units.Long(rigging.LowerTo(pole(p, up),
			blows, rating)))
	}
	d.out = append(d.out, h)
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
func (d *danger) crossed(y Candidate) {
	for _, t := range d.g.m.Of(site.Path) {
		least := math.Inf(1)
		for _, l := range y.Placement.Lines {
			if math.Min(l.FromM, l.ToM) < rigging.HeadClearance {
				least = math.Min(least, math.Min(t.Apart(l.From), t.Apart(l.To)))
			}
		}
		if least < nearPath {
			d.add("path", "Low wire or string near the "+t.Says(), "Flag it, and keep somebody by it when people come.",
				d.Units.Rough(least)+" away", false)
		}
	}
}

// water is the tide, and what it leaves of the area.
func (d *danger) water() {
	m := d.a.Map
	if !d.g.wet || len(m.Of(site.Wet))+len(m.Of(site.Water)) == 0 {
		return
	}
	figure := join(d.Purpose.High) + " UTC"
	if dry, all := m.Dry(); all > 0 && dry < all {
		figure += fmt.Sprintf("; %.0f of %.0f m2 stay dry", dry, all)
	}
	d.add("tide", "High water while you are there", "Be above the line two hours before, with a way back that stays dry.", figure, false)
}

// light is that it gets dark.
func (d *danger) light() {
	from, until := d.Purpose.window()
	if dusk := place.TwilightOn(d.at, from.Add(until.Sub(from)/2)).Civil.Set; !dusk.IsZero() && until.After(dusk) {
		d.add("dark", "It gets dark while you are there", "Have a lamp, and mark guys so that they are seen.", dusk.Format("15:04")+" UTC", false)
	}
}

func (d *danger) warmth() {
	low, high, ok := d.Purpose.warmth()
	if ok && high >= hot {
		d.add("heat", "Heat", "Shade and water; glue and tape let go.", fmt.Sprintf("%.0f degrees C", high), false)
	}
	if ok && low <= freezing {
		d.add("cold", "Cold", "Dry gloves; a battery gives a fifth less, poles and ties are slippery.", fmt.Sprintf("%.0f degrees C", low), false)
	}
}

// people are oneself, and whom one asks.
func (d *danger) people() {
	p, rules := d.Purpose, d.a.Map.Rules
	from, until := p.window()
	if p.Alone {
		d.add("alone", "Alone", "Tell somebody where you are and when you will be back.", until.Format("15:04")+" UTC", false)
	}
	if rules.Ask != "" {
		d.add("permission", "Permission", "Ask "+rules.Ask+". What the land's owner says goes first.", "", false)
	}
	if rules.From != "" {
		opens, err := clock.Parse(rules.From)
		closes, err2 := clock.Parse(rules.Until)
		if err == nil && err2 == nil && !(clock.Span{From: opens, Until: closes}).Covers(from, until) {
			d.add("hours", "The site is closed for a part of it", "Be out when it closes.", rules.From+" to "+rules.Until+" UTC", false)
		}
	}
}

// sending is the share of the time that a radio sends.
const sending = 0.25

// leads is the resistance of supply leads and a fuse in ohms.
const leads = 0.05

// powered is the bag's battery and radio; ok is false where it lacks one.
func (c Case) powered() (cell rigging.Cell, d rigging.Draw, radio kit.Part, ok bool) {
	b := bag{c.Bag, len(c.Bag) == 0}
	p, have := b.best("battery")
	radio, too := b.best("radio")
	return rigging.Cell{AmpHours: p.N("amp_hours", 0), Volts: p.N("volts", 0), Ohms: p.N("milliohm", 0) / 1000, Fuse: p.N("fuse_a", 0)},
		rigging.Draw{Receive: radio.N("receive_a", 0), Transmit: radio.N("transmit_a", 0)}, radio, have && too
}

// lasting is how many hours the outing takes, and how many the battery lasts; 0 where too little is known of it.
func (c Case) lasting() (need, lasts float64) {
	from, until := c.Purpose.window()
	cell, draw, _, ok := c.powered()
	if !ok {
		return until.Sub(from).Hours(), 0
	}
	mild := freezing + 1
	if low, _, told := c.Purpose.warmth(); told {
		mild = low
	}
	return until.Sub(from).Hours(), cell.Hours(draw, sending, mild)
}

// battery is its fuse, whether it lasts, and what it sags to while sending.
func (d *danger) battery() {
	if p, ok := d.b.best("battery"); ok && p.N("fuse_a", 0) == 0 {
		d.add("fuse", "No fuse at the battery", "A short circuit in the bag burns. Put one at its pole.", "", false)
	}
	cell, draw, radio, ok := d.powered()
	if !ok {
		return
	}
	if cell.Fuse > 0 && draw.Transmit > cell.Fuse {
		d.add("fuse-small", "The fuse blows when you send", "Take one just above what the radio draws, and no more than the leads bear.",
			fmt.Sprintf("%.4g A drawn, %.4g A fused", draw.Transmit, cell.Fuse), false)
	}
	if need, lasts := d.lasting(); lasts > 0 && need < 24 && lasts < need {
		d.add("battery", "The battery does not last", "Bring a second, send less, or stop earlier.",
			fmt.Sprintf("about %.1f of %.1f hours", lasts, need), false)
	}
	under := cell.Under(draw.Transmit, leads)
	full, told := radio.PowerAt(cell.Volts)
	if left, _ := radio.PowerAt(under); told && left < 0.9*full {
		d.add("sag", "The battery sags while you send", "Shorter or thicker leads, or a larger battery; some radios then reset.",
			fmt.Sprintf("%.1f V under %.4g A: %s of %s, %.1f dB less", under, draw.Transmit, quantity.Watts(left), quantity.Watts(full),
				10*math.Log10(full/math.Max(left, 1e-3))), false)
	}
}
