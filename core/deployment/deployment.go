// Package deployment describes antennas as built: the parts, their geometry, its revisions, and the checks
// that find what cannot be or is unlikely.
package deployment

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Choke is a common-mode choke and where it sits: "feed", "radio" or "along" the coax at Distance from the feed.
type Choke struct {
	Place    string          `json:"place,omitempty"`
	Distance quantity.Length `json:"distance,omitzero"`
}

// Coax is the feed line as used.
type Coax struct {
	Type   string          `json:"type,omitempty"`
	Length quantity.Length `json:"length,omitzero"`
	Own    *circuit.Coax   `json:"own,omitempty"` // the data of one's own cable, as they were then
}

// Cable is the cable's data: one's own, or its type's.
func (c Coax) Cable() (circuit.Coax, bool) {
	if c.Own != nil {
		return *c.Own, true
	}
	return circuit.Cable(c.Type)
}

// Built is one revision's facts.
type Built struct {
	antenna.Shape `json:"-"`
	Ground        string  `json:"ground,omitempty"` // the preset's ID of the soil below it; empty where nobody said
	Choke         Choke   `json:"choke,omitzero"`
	Coax          Coax    `json:"coax,omitzero"`
	Metal         []Metal `json:"metal,omitempty"`
	Wind          string  `json:"wind,omitempty"`
	PowerW        float64 `json:"power_w,omitempty"`
	// GoodSWR is the SWR that is good enough for this antenna, 0 for what its tuner matches or the operator's setting.
	GoodSWR      float64  `json:"good_swr,omitempty"`
	SetupMinutes int      `json:"setup_minutes,omitempty"`
	Confirmed    []string `json:"confirmed,omitempty"`
	Notes        string   `json:"notes,omitempty"`
	// Own are the things of the bag that computing with the set-up needs, by role, as they were then: transformer,
	// choke and tuner.
	Own map[string]kit.Part `json:"own,omitempty"`
}

// Bounds of an SWR that is good enough, and what a tuner matches where nothing is known of it.
const (
	leastGood, mostGood = 1.1, 50.0
	usualTuner          = 10.0
)

// GoodEnough is the SWR up to which this antenna is good enough: its own, what the tuner behind it matches, or the usual one.
func (b Built) GoodEnough(usual float64) float64 {
	tuner, has := b.Own["tuner"]
	switch {
	case b.GoodSWR > 0:
		return b.GoodSWR
	case has:
		return math.Max(usual, tuner.N("swr_max", usualTuner))
	case family.Of(b.Shape).Trims() == family.NoTrim:
		return math.Max(usual, usualTuner)
	}
	return usual
}

// Form is a set-up as a form sends it.
type Form = entry.Form[Built]

// Read is the set-up of a form with its texts read in, and what of them was not understood: those of its family's fields,
// the power and the minutes of setting up.
func Read(f Form) (b Built, faults []antenna.Fault) {
	b = f.Record
	if f.Texts != nil {
		b.Shape, faults = family.Of(b.Shape).Filled("built", f.Texts, f.UnitOr())
	}
	read := func(id string, take func(text string) error) {
		text, ok := f.Texts[id]
		if !ok {
			return
		}
		if err := take(strings.TrimSpace(text)); err != nil {
			faults = append(faults, entry.Say(id, "error", "%s", err))
		}
	}
	read("power_w", func(text string) (err error) {
		b.PowerW = 0
		if text != "" {
			b.PowerW, err = quantity.ParsePower(text)
		}
		return err
	})
	read("good_swr", func(text string) (err error) {
		b.GoodSWR = 0
		if text != "" {
			b.GoodSWR, err = strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
			if err != nil || !(b.GoodSWR >= leastGood && b.GoodSWR <= mostGood) {
				err = fmt.Errorf("%q is no SWR from %.1f to %.0f, like 3", text, leastGood, mostGood)
				b.GoodSWR = 0
			}
		}
		return err
	})
	read("setup_minutes", func(text string) (err error) {
		b.SetupMinutes = 0
		if text != "" {
			if b.SetupMinutes, err = strconv.Atoi(text); err != nil {
				err = fmt.Errorf("%q is no number of minutes, like 25", text)
			}
		}
		return err
	})
	return b, faults
}

// Use fills in what the parts of a set-up say of themselves, as they are now, so that the record stays true
// when the bag changes later. A thing that is out of the bag by now stays as it was recorded.
func (b Built) Use(bag map[string]kit.Part) Built {
	own := map[string]kit.Part{}
	for _, role := range []string{"transformer", "choke", "tuner"} {
		id := b.Parts[role]
		if p, ok := bag[id]; ok && p.Kind == role {
			own[role] = p
		} else if was, ok := b.Own[role]; ok && was.ID == id {
			own[role] = was
		}
	}
	b.Own = nil
	if len(own) > 0 {
		b.Own = own
	}
	if p, ok := bag[b.Parts["wire"]]; ok && p.Kind == "wire" {
		w := p.Wire()
		b.Wire, b.WireData = p.ID, &w
	}
	if p, ok := bag[b.Parts["coax"]]; ok {
		if c, found := p.Line(); found {
			b.Coax.Type, b.Coax.Own = c.ID, &c
			if b.Coax.Length.IsZero() {
				b.Coax.Length = p.Sizes["length"]
			}
		}
	}
	return b
}

// Winds are the steps of wind that are recorded, with the Beaufort range in the name.
var Winds = []string{"", "calm", "light", "fresh", "strong"}

// Revision is a state of a deployment that stays as it was.
type Revision struct {
	ID           string    `json:"id"`
	DeploymentID string    `json:"deployment_id"`
	Seq          int       `json:"seq"`
	At           time.Time `json:"at"`
	Reason       string    `json:"reason"`
	Built        Built     `json:"built"`
}

// RevisionForm is a revision as its form sends it.
type RevisionForm struct {
	Revision
	Built Form `json:"built"`
}

// DeploymentForm is a deployment as its form sends it.
type DeploymentForm struct {
	Deployment
	Plan antenna.Form `json:"plan"`
}

// Deployment is one antenna put up at one outing.
type Deployment struct {
	ID        string          `json:"id"`
	OutingID  string          `json:"outing_id"`
	Name      string          `json:"name"`
	Letter    string          `json:"letter"` // A, B, C ... for the log
	Plan      antenna.Request `json:"plan"`
	Lesson    string          `json:"lesson,omitempty"`
	Clock     Clock           `json:"clock,omitzero"`
	Recipe    string          `json:"recipe,omitempty"` // the recipe that it was laid out from
	CreatedAt time.Time       `json:"created_at"`
	Version   int             `json:"version"`
	Deleted   bool            `json:"deleted,omitempty"`
}

// GroundAt is the ground that a set-up of it stands on: what the set-up says, otherwise its plan, otherwise that of the outing.
func (d Deployment) GroundAt(b Built, outing string) string {
	if b.Ground != "" {
		return b.Ground
	}
	if d.Plan.Ground != "" {
		return d.Plan.Ground
	}
	return outing
}

// Check says what in a recorded set-up cannot be, is unlikely, or contradicts the plan. planned may be
// the zero Shape.
func Check(b Built, planned antenna.Shape) []antenna.Fault {
	out := family.Of(b.Shape).Check()
	add := func(path, severity, format string, args ...any) {
		out = append(out, antenna.Say(path, severity, format, args...))
	}
	if b.Radiator().IsZero() {
		add("radiator", "error", "the radiator's length is missing; measure it and type it, like 10.15 m")
	} else if b.Radiator().Problem() == nil && b.Radiator().M == 0 {
		add("radiator", "error", "the radiator's length cannot be zero; type it like 10.15 m")
	}
	if p := planned.Radiator().M; p > 0 && b.Radiator().M > 0 && planned.Family == b.Family && b.Radiator().M <= 100 {
		if off := b.Radiator().M/p - 1; math.Abs(off) > 0.15 {
			add("radiator", "ask", "%s found, the plan says %s: %+.0f %%. Is the unit or a digit wrong?", quantity.Long(b.Radiator().M),
				quantity.Long(p), off*100)
		}
	}
	if b.LegB().M > 0 && b.Radiator().M > 0 {
		if off := b.LegB().M / b.Radiator().M; off > 1.3 || off < 0.77 {
			add("leg_b", "ask", "the legs are %s and %s: on purpose?", quantity.Long(b.Radiator().M), quantity.Long(b.LegB().M))
		}
	}
	if b.Coax.Type != "" {
		if _, ok := b.Coax.Cable(); !ok {
			add("coax.type", "error", "%q is not in the table of cables", b.Coax.Type)
		}
	}
	for path, l := range map[string]quantity.Length{"coax.length": b.Coax.Length, "choke.distance": b.Choke.Distance} {
		if l.Problem() != nil {
			add(path, "error", "%s", l.Problem())
		} else if l.M > 100 {
			add(path, "ask", "%s found; more than %s is rare in the field. Is the unit right?", quantity.Long(l.M), quantity.Whole(100))
		}
	}
	if _, ok := earth.Kind(b.Ground); b.Ground != "" && !ok {
		add("ground", "error", "%q is not a known kind of ground", b.Ground)
	}
	switch b.Choke.Place {
	case "", "feed", "radio":
	case "along":
		if b.Choke.Distance.M > b.Coax.Length.M && b.Coax.Length.M > 0 {
			add("choke.distance", "error", "the choke is %s along a coax of %s", quantity.Long(b.Choke.Distance.M), quantity.Long(b.Coax.Length.M))
		}
	default:
		add("choke.place", "error", "%q found; expected feed, along or radio", b.Choke.Place)
	}
	for i, m := range b.Metal {
		if p := m.Distance.Problem(); p != nil {
			add(fmt.Sprintf("metal.%d.distance", i), "error", "%s", p)
		}
		if p := m.Size.Problem(); p != nil {
			add(fmt.Sprintf("metal.%d.size", i), "error", "%s", p)
		}
		if m.Size.M < 0 || m.Size.M > 200 {
			add(fmt.Sprintf("metal.%d.size", i), "error", "%s found; expected at most 200 m", quantity.Long(m.Size.M))
		}
		if strings.TrimSpace(m.What) == "" && m.Kind == "" {
			add(fmt.Sprintf("metal.%d.kind", i), "error", "say what it is, like table or fence")
		}
	}
	if b.PowerW < 0 || b.PowerW > 2000 {
		add("power_w", "error", "%.4g W found; expected 0 to 2000", b.PowerW)
	}
	if b.SetupMinutes < 0 || b.SetupMinutes > 1440 {
		add("setup_minutes", "error", "%d minutes found; expected 0 to 1440", b.SetupMinutes)
	}
	if !antenna.HasError(out) {
		_, faults := family.Of(b.Shape).Layout()
		out = append(out, faults...)
	}
	return out
}

// Tag is the small label under which a deployment is shown everywhere.
type Tag struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Letter   string `json:"letter"`
	Family   string `json:"family"`
	Variant  string `json:"variant"`
	Radiator string `json:"radiator"`
	Detail   string `json:"detail"` // transformer ratio, or number of radials
	Height   string `json:"height"`
	State    string `json:"state"` // planned, up, swept or worked
}

// MakeTag describes a deployment by its newest revision, or by its plan without one.
func MakeTag(d Deployment, revs []Revision, sweeps int, worked bool, units quantity.System) Tag {
	if n := len(revs); n > 0 {
		return TagOf(d, revs[n-1].Built, true, sweeps, worked, units)
	}
	return TagOf(d, Built{Shape: family.Design(d.Plan).Shape}, false, sweeps, worked, units)
}

// TagOf describes a deployment by what it is: as it is up, or as it is planned.
func TagOf(d Deployment, b Built, up bool, sweeps int, worked bool, units quantity.System) Tag {
	s, state := b.Shape, "planned"
	if up {
		state = "up"
	}
	switch {
	case worked:
		state = "worked"
	case sweeps > 0:
		state = "swept"
	}
	t := Tag{ID: d.ID, Name: d.Name, Letter: d.Letter, Family: s.Family, Variant: s.Variant, State: state, Radiator: units.Long(s.Total())}
	switch {
	case s.Ratio() != "":
		t.Detail = s.Ratio()
	default:
		t.Detail = quantity.MHz(s.FrequencyHz) + " MHz"
		if n := len(s.More); n > 0 {
			t.Detail = fmt.Sprintf("%d bands", n+1)
		} else if s.Radials().Count > 0 {
			t.Detail = fmt.Sprintf("%d radials", s.Radials().Count)
		}
	}
	// The pole may be taller than what hangs on it.
	if top := math.Max(s.FeedHeight().M, s.FarHeight().M); top > 0.05 {
		t.Height = units.Long(top) + " up"
	}
	return t
}
