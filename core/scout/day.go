package scout

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/bulletin"
	"reed/core/clock"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/site"
	"reed/core/sky"
)

// BandHour is an hour of a band over all wanted paths: the state of the best, and what share of them carries.
type BandHour struct {
	At    time.Time `json:"at"`
	State string    `json:"state"`
	Share float64   `json:"share"`
	MUF   float64   `json:"muf_mhz"`
	Lost  float64   `json:"absorbed_db"`
	Over  float64   `json:"over_db"`
	paths []sky.Hour
}

// carries is how much an hour's path counts: all when open, a part when it is open on some days only.
func carries(state string) float64 {
	switch state {
	case sky.Open:
		return 1
	case sky.Perhaps:
		return 0.4
	}
	return 0
}

// sum makes one hour of its paths: open where at least a quarter of them is.
func (h *BandHour) sum(gain float64) {
	h.Over, h.MUF, h.Lost, h.Share = math.Inf(-1), 0, math.Inf(1), 0
	shut := 0
	for _, p := range h.paths {
		p = p.With(gain)
		h.Share += carries(p.State) / float64(len(h.paths))
		h.MUF = math.Max(h.MUF, p.MUF/1e6)
		if p.State == sky.Shut {
			shut++
		}
		if p.Over > h.Over {
			h.Over, h.Lost = p.Over, p.Lost
		}
	}
	switch {
	case h.Share >= 0.5:
		h.State = sky.Open
	case h.Share >= 0.1:
		h.State = sky.Perhaps
	case 2*shut >= len(h.paths):
		h.State = sky.Shut
	default:
		h.State = sky.Weak
	}
}

// BandHours is a band through the outing.
type BandHours struct {
	MHz   float64    `json:"mhz"`
	Name  string     `json:"name"`
	Hours []BandHour `json:"hours"`
	Says  string     `json:"says"`
}

// with returns the hours as they are with an antenna of so many dBi.
func (b BandHours) with(gain float64) BandHours {
	b.Hours = slices.Clone(b.Hours)
	for i := range b.Hours {
		b.Hours[i].sum(gain)
	}
	b.says()
	return b
}

// share is how many of its hours carry, counted by how much.
func (b BandHours) share() (sum float64) {
	for _, h := range b.Hours {
		sum += h.Share
	}
	return sum
}

// says tells when it is open, and why it is not.
func (b *BandHours) says() {
	b.Name = quantity.ToKHz(b.MHz*1e6) + " MHz"
	if bd, ok := band.At(1, b.MHz*1e6); ok {
		b.Name = bd.Name
	}
	var spans []string
	begin := -1
	for i := 0; i <= len(b.Hours); i++ {
		open := i < len(b.Hours) && b.Hours[i].State == sky.Open
		if open && begin < 0 {
			begin = i
		}
		if !open && begin >= 0 {
			spans = append(spans, b.Hours[begin].At.Format("15:04")+" to "+b.Hours[i-1].At.Add(time.Hour).Format("15:04"))
			begin = -1
		}
	}
	if len(spans) > 0 {
		b.Says = "open " + join(spans)
		return
	}
	best := BandHour{Over: math.Inf(-1)}
	for _, h := range b.Hours {
		if h.Share > best.Share || h.Share == best.Share && h.Over > best.Over {
			best = h
		}
	}
	switch best.State {
	case sky.Perhaps:
		b.Says = fmt.Sprintf("open on some days, best about %s", best.At.Format("15:04"))
	case sky.Weak:
		b.Says = fmt.Sprintf("too weak: D-layer absorption %.0f dB", best.Lost)
	default:
		b.Says = fmt.Sprintf("closed: nothing above %.1f MHz is reflected", best.MUF)
	}
}

// Event is a moment of the day.
type Event struct {
	At   time.Time `json:"at"`
	Kind string    `json:"kind"`
	Says string    `json:"says"`
}

// Day is the outing's day: sun, twilights, the events in their order, bands, and what to mind in sentences.
type Day struct {
	From     time.Time      `json:"from"`
	Until    time.Time      `json:"until"`
	Sun      place.Sun      `json:"sun"`
	Twilight place.Twilight `json:"twilight"`
	Bands    []BandHours    `json:"bands"`
	Events   []Event        `json:"events"`
	Says     []string       `json:"says"`
}

// Day is the outing's day on a site where setting up takes so many minutes and the battery lasts so many hours, 0 where that
// is not known.
func (c Case) Day(at place.Point, rules site.Rules, setup float64) Day {
	_, lasts := c.lasting()
	return c.Purpose.plan(at, rules, c.Purpose.Hours(at, c.Site.Noise), setup, lasts)
}

// soon is how long ahead a moment is announced.
const soon = 2 * time.Hour

// Ahead tells what comes within two hours of a moment of the outing: the dark, the gate, high water, the last moment to pack, and
// where a scheme counts by the UTC day its end, half an hour before.
func (c Case) Ahead(at place.Point, rules site.Rules, setup float64, now time.Time, byDay bool) (out []string) {
	_, lasts := c.lasting()
	d := c.Purpose.plan(at, rules, nil, setup, lasts)
	for _, e := range d.Events {
		switch e.Kind {
		case "begin", "on-air", "dawn", "sunrise", "thunder":
			continue
		}
		if left := e.At.Sub(now); left > 0 && left <= soon {
			out = append(out, fmt.Sprintf("%s in %s, at %s", capital(e.Says), lastsFor(left), e.At.Format("15:04")))
		}
	}
	if end := now.UTC().Truncate(24 * time.Hour).Add(24 * time.Hour); byDay && end.Sub(now) <= soon/4 {
		out = append(out, fmt.Sprintf("The UTC day ends in %s: what counts by the day begins anew", lastsFor(end.Sub(now))))
	}
	return out
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// lastsFor is a time in hours and minutes, rounded up.
func lastsFor(d time.Duration) string {
	m := int(math.Ceil(d.Minutes()))
	if m >= 60 {
		return fmt.Sprintf("%d:%02d h", m/60, m%60)
	}
	return fmt.Sprintf("%d min", m)
}

// plan fills the day: what ends it, when to begin packing, which band to change to.
func (p Purpose) plan(at place.Point, rules site.Rules, bands []BandHours, setup, lasts float64) Day {
	from, until := p.window()
	noon := from.Add(until.Sub(from) / 2)
	d := Day{From: from, Until: until, Sun: place.SunOn(at, noon), Twilight: place.TwilightOn(at, noon), Bands: bands,
		Events: []Event{}, Says: []string{}}
	add := func(t time.Time, kind, says string) {
		if !t.IsZero() && !t.Before(from.Add(-6*time.Hour)) && !t.After(until.Add(6*time.Hour)) {
			d.Events = append(d.Events, Event{t, kind, says})
		}
	}
	add(d.Twilight.Civil.Rise, "dawn", "daylight begins")
	add(d.Sun.Rise, "sunrise", "sunrise")
	add(d.Sun.Set, "sunset", "sunset")
	add(d.Twilight.Civil.Set, "dusk", "too dark to see guys and knots")
	for _, h := range p.High {
		if t, err := clock.Parse(h); err == nil {
			add(t.From(from), "high-water", "high water")
		}
	}
	end, why := until, "your end time"
	if closes, err := clock.Parse(rules.Until); err == nil {
		t := closes.From(from)
		add(t, "gate", "the site closes")
		if t.Before(end) {
			end, why = t, "the site closes"
		}
	}
	if dusk := d.Twilight.Civil.Set; dusk.After(from) && dusk.Before(end) {
		end, why = dusk, "it gets dark"
	}
	down := time.Duration(math.Ceil(setup*packing/5)*5) * time.Minute
	up := time.Duration(math.Ceil(setup/5)*5) * time.Minute
	add(from, "begin", "begin to set up")
	add(from.Add(up), "on-air", "on the air")
	add(end.Add(-down), "pack", "begin to pack: "+why)
	d.Says = append(d.Says, fmt.Sprintf("Begin to pack by %s at the latest: %s at %s, and packing takes about %.0f minutes.",
		end.Add(-down).Format("15:04"), why, end.Format("15:04"), down.Minutes()))
	if !end.Add(-down).After(from.Add(up)) {
		d.Says = append(d.Says, "That leaves no time on the air.")
	}
	p.weather(&d, add)
	if out := from.Add(up).Add(time.Duration(lasts * float64(time.Hour))); lasts > 0 && out.Before(end) {
		add(out, "battery", "battery empty, estimated")
		d.Says = append(d.Says, fmt.Sprintf("The battery lasts to about %s, sending a quarter of the time.", out.Format("15:04")))
	}
	d.Says = append(d.Says, changes(bands)...)
	sort.SliceStable(d.Events, func(i, j int) bool { return d.Events[i].At.Before(d.Events[j].At) })
	return d
}

// weather adds what the bulletin says of the day: lightning, and a magnetic storm.
func (p Purpose) weather(d *Day, add func(t time.Time, kind, says string)) {
	b := p.bulletin()
	if clear, nearest, ok := b.Clear(d.Until); ok {
		add(clear, "thunder", fmt.Sprintf("30 minutes after the last flash; the nearest was %s off", sayKM(nearest)))
	}
	if b.K != nil && *b.K >= bulletin.Storm {
		d.Says = append(d.Says, fmt.Sprintf("Magnetic storm, K %.0f: the upper bands close earlier than shown, most on paths "+
			"near the poles.", *b.K))
	}
	if b.Simulated {
		d.Says = append(d.Says, "The bulletin is simulated: read a real one before you go.")
	}
}

// changes says when an open band shuts and which other is open then.
func changes(bands []BandHours) (out []string) {
	for _, b := range bands {
		for i := 1; i < len(b.Hours); i++ {
			if b.Hours[i-1].State != sky.Open || carries(b.Hours[i].State) > 0 {
				continue
			}
			next := ""
			best := 0.0
			for _, o := range bands {
				if o.Name != b.Name && i < len(o.Hours) && o.Hours[i].Share > best {
					next, best = o.Name, o.Hours[i].Share
				}
			}
			s := fmt.Sprintf("%s closes at about %s", b.Name, b.Hours[i].At.Format("15:04"))
			if next != "" {
				s += "; have " + next + " ready"
			}
			out = append(out, s+".")
			break
		}
	}
	return out
}
