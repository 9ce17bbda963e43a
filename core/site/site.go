// Package site is a place as its visitors pace it: what stands there, where wires may hang and where they must not, in metres
// east and north of where one stood to look.
package site

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/sky"
)

// Spot is metres east and north of where the site was paced from.
type Spot [2]float64

// From is the distance in metres between two spots.
func (p Spot) From(q Spot) float64 { return math.Hypot(p[0]-q[0], p[1]-q[1]) }

// Toward is the spot so many metres away at a bearing in degrees, north 0, east 90.
func (p Spot) Toward(bearing, m float64) Spot {
	a := bearing * math.Pi / 180
	return Spot{p[0] + m*math.Sin(a), p[1] + m*math.Cos(a)}
}

// Polar is a spot as it is paced: metres and a bearing in whole degrees from 0 to 359.
func (p Spot) Polar() (m, bearing float64) {
	return math.Hypot(p[0], p[1]), math.Mod(math.Round(math.Atan2(p[0], p[1])*180/math.Pi)+360, 360)
}

// Kind is a kind of thing at a site. Shape says how it is drawn: a spot, a line or an area.
type Kind struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Shape string   `json:"shape"`
	Words []string `json:"-"`
	// Holds says that a wire may be tied to it or a line thrown over it, Straps that a pole may be strapped to it, Metal
	// that it is of metal.
	Holds  bool    `json:"-"`
	Straps bool    `json:"-"`
	Metal  bool    `json:"-"`
	Closed bool    `json:"-"` // nothing may stand or be tied in it
	High   float64 `json:"-"` // metres, where none are given
	Wide   float64 `json:"-"`
}

// Shapes of a thing.
const (
	AtSpot = "spot"
	Along  = "line"
	Within = "area"
)

// Kinds of things at a site.
const (
	Area      = "area"
	Wet       = "wet"
	Tree      = "tree"
	Post      = "post"
	Bench     = "bench"
	Table     = "table"
	Fence     = "fence"
	Mast      = "mast"
	Vehicle   = "vehicle"
	Wall      = "wall"
	Building  = "building"
	Path      = "path"
	Water     = "water"
	PowerLine = "power-line"
	Lake      = "lake"
	Parking   = "parking"
	Wood      = "wood"
	Unknown   = "unknown"
)

// Kinds lists them.
func Kinds() []Kind {
	return []Kind{
		{ID: Area, Name: "usable area", Shape: Within, Words: []string{"area", "usable area", "clearing", "lawn"}},
		{ID: Wet, Name: "under water at high water", Shape: Within, Words: []string{"wet", "wet area"}},
		{ID: Tree, Name: "tree", Shape: AtSpot, Words: []string{"tree"}, Holds: true, Straps: true, High: 6},
		{ID: Post, Name: "fixed pole", Shape: AtSpot, Words: []string{"post", "pole", "fixed pole", "flagpole"}, Holds: true, Straps: true,
			High: 2},
		{ID: Bench, Name: "bench", Shape: AtSpot, Words: []string{"bench", "seat"}, Straps: true, High: 0.8},
		{ID: Table, Name: "table", Shape: AtSpot, Words: []string{"table"}, Straps: true, High: 0.75},
		{ID: Fence, Name: "fence", Shape: Along, Words: []string{"fence", "railing", "rail"}, Straps: true, High: 1.1},
		{ID: Mast, Name: "mast", Shape: AtSpot, Words: []string{"mast"}, Metal: true, High: 10},
		{ID: Vehicle, Name: "vehicle", Shape: AtSpot, Words: []string{"vehicle", "car", "van"}, Straps: true, Metal: true, High: 1.6},
		{ID: Wall, Name: "wall", Shape: Along, Words: []string{"wall"}, High: 1.2},
		{ID: Building, Name: "building", Shape: Within, Words: []string{"building", "house", "hut"}, High: 4},
		{ID: Path, Name: "path", Shape: Along, Words: []string{"path", "road", "track", "footpath", "street", "railway", "trail"}, Wide: 2},
		{ID: Water, Name: "water line", Shape: Along, Words: []string{"water line", "water", "shore", "stream", "river", "canal", "ditch"}},
		{ID: Lake, Name: "lake or pond", Shape: Within, Closed: true, Words: []string{"lake", "pond", "reservoir"}},
		{ID: Parking, Name: "car park", Shape: Within, Closed: true, Words: []string{"car park", "parking lot", "parking"}},
		{ID: Wood, Name: "wood", Shape: Within, Closed: true, Words: []string{"wood", "woods", "forest", "scrub"}},
		{ID: Unknown, Name: "unknown ground", Shape: Within, Closed: true, Words: []string{"unknown", "unknown ground"}},
		{ID: PowerLine, Name: "overhead line", Shape: Along, Words: []string{"power line", "overhead line", "line overhead", "wires overhead"}},
	}
}

// kinds are those of Kinds by their ID: asked for a million times while a place is looked for.
var kinds = func() map[string]Kind {
	out := map[string]Kind{}
	for _, k := range Kinds() {
		out[k.ID] = k
	}
	return out
}()

// KindNamed finds a kind.
func KindNamed(id string) (Kind, bool) {
	k, ok := kinds[id]
	return k, ok
}

// Thing is one thing at a site: where it stands or runs, how high and wide in metres, 0 where it was not given. Line is the
// line of the description that it was read from, counted from 0.
type Thing struct {
	Kind   string  `json:"kind"`
	Name   string  `json:"name,omitempty"`
	Points []Spot  `json:"points"`
	High   float64 `json:"high_m,omitempty"`
	Wide   float64 `json:"wide_m,omitempty"`
	Metal  bool    `json:"metal,omitempty"`
	Line   int     `json:"line"`
	// Stands is how high it is taken to be in metres.
	Stands float64 `json:"stands_m"`
}

// Says is the thing in words.
func (t Thing) Says() string {
	k, _ := KindNamed(t.Kind)
	if t.Name != "" {
		return t.Name
	}
	return k.Name
}

// Height is how high it is in metres, or is taken to be.
func (t Thing) Height() float64 {
	k, _ := KindNamed(t.Kind)
	if t.High > 0 {
		return t.High
	}
	return k.High
}

// IsMetal reports whether it is of metal, by what was said or by its kind.
func (t Thing) IsMetal() bool {
	k, _ := KindNamed(t.Kind)
	return t.Metal || k.Metal
}

// Apart is the least distance in metres of a spot from the thing.
func (t Thing) Apart(p Spot) float64 {
	if len(t.Points) == 1 {
		return p.From(t.Points[0])
	}
	k, _ := KindNamed(t.Kind)
	if k.Shape == Within && Contains(t.Points, p) {
		return 0
	}
	least := math.Inf(1)
	for i := 1; i < len(t.Points); i++ {
		least = math.Min(least, apart(p, t.Points[i-1], t.Points[i]))
	}
	if n := len(t.Points); k.Shape == Within {
		least = math.Min(least, apart(p, t.Points[n-1], t.Points[0]))
	}
	return least
}

// Rules are the rules of the land's owner. Hours are of the UTC day; both empty where none are given.
type Rules struct {
	NoStakes bool   `json:"no_stakes,omitempty"`
	NoTrees  bool   `json:"no_trees,omitempty"`
	From     string `json:"from,omitempty"`
	Until    string `json:"until,omitempty"`
	Ask      string `json:"ask,omitempty"`
}

// Site is a place that is kept for all outings to it. Lines are its description, one thing a line; Ground is a preset's ID.
type Site struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Place   string   `json:"place,omitempty"`
	Ground  string   `json:"ground,omitempty"`
	Noise   string   `json:"noise,omitempty"` // a surrounding's ID
	Unit    string   `json:"unit,omitempty"`  // of bare numbers in the lines
	Lines   []string `json:"lines"`
	Notes   string   `json:"notes,omitempty"`
	Version int      `json:"version"`
	Deleted bool     `json:"deleted,omitempty"`
}

// Map is a site as read from its lines.
type Map struct {
	Things []Thing `json:"things"`
	Rules  Rules   `json:"rules"`
	// Horizon is how far up in degrees the land stands, by bearing.
	Horizon []Angle `json:"horizon,omitempty"`
	Slope   *Angle  `json:"slope,omitempty"` // down towards a bearing
}

// Angle is degrees up, or down, at a bearing in degrees.
type Angle struct {
	Bearing float64 `json:"bearing"`
	Degrees float64 `json:"degrees"`
}

// Of are the things of a kind.
func (m Map) Of(kind string) (out []Thing) {
	for _, t := range m.Things {
		if t.Kind == kind {
			out = append(out, t)
		}
	}
	return out
}

// Allows reports whether a spot lies in the usable area, or anywhere where none was given.
func (m Map) Allows(p Spot) bool {
	any := false
	for _, t := range m.Things {
		if t.Kind != Area {
			continue
		}
		if any = true; Contains(t.Points, p) {
			return true
		}
	}
	return !any
}

// Outside is how far in metres a spot lies outside of the usable area, 0 within.
func (m Map) Outside(p Spot) float64 {
	if m.Allows(p) {
		return 0
	}
	least := math.Inf(1)
	for _, a := range m.Of(Area) {
		least = math.Min(least, a.Apart(p))
	}
	return least
}

// Dry is how many square metres of the usable area stay above high water, and how many there are in all: counted on a grid,
// since areas may be of any shape.
func (m Map) Dry() (dry, all float64) {
	areas := m.Of(Area)
	if len(areas) == 0 {
		return 0, 0
	}
	lo, hi, _ := Map{Things: areas}.Box()
	wet := m.Of(Wet)
	const n = 120
	one := (hi[0] - lo[0]) * (hi[1] - lo[1]) / (n * n)
	for i := range n * n {
		p := Spot{lo[0] + (hi[0]-lo[0])*(float64(i%n)+0.5)/n, lo[1] + (hi[1]-lo[1])*(float64(i/n)+0.5)/n}
		if !m.Allows(p) {
			continue
		}
		all += one
		if !slices.ContainsFunc(wet, func(t Thing) bool { return Contains(t.Points, p) }) {
			dry += one
		}
	}
	return dry, all
}

// Box returns the bounds of the site in metres east and north; ok is false for an empty one.
func (m Map) Box() (lo, hi Spot, ok bool) {
	lo, hi = Spot{math.Inf(1), math.Inf(1)}, Spot{math.Inf(-1), math.Inf(-1)}
	for _, t := range m.Things {
		for _, p := range t.Points {
			for i := range p {
				lo[i], hi[i] = math.Min(lo[i], p[i]), math.Max(hi[i], p[i])
			}
		}
	}
	return lo, hi, !math.IsInf(lo[0], 1)
}

// RiseAt returns the horizon's elevation at a bearing, in degrees: that of the nearest given one within 30 degrees.
func (m Map) RiseAt(bearing float64) float64 {
	best, up := 30.0, 0.0
	for _, h := range m.Horizon {
		if off := math.Abs(math.Mod(h.Bearing-bearing+540, 360) - 180); off <= best {
			best, up = off, h.Degrees
		}
	}
	return up
}

// TiltAt is how many degrees the ground falls toward a bearing: what leaves level there leaves so much higher over the slope.
func (m Map) TiltAt(bearing float64) float64 {
	if m.Slope == nil {
		return 0
	}
	return m.Slope.Degrees * math.Cos((bearing-m.Slope.Bearing)*math.Pi/180)
}

// Check says what of a site cannot be, by field; lines are lines.0 and so on.
func (s Site) Check() (Map, []entry.Fault) {
	m, out := Read(s.Lines, s.Unit)
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	if strings.TrimSpace(s.Name) == "" {
		bad("name", "a name is missing; what people call the place will do")
	}
	if s.Place != "" {
		if _, err := place.ParsePosition(s.Place); err != nil {
			bad("place", "%s", err)
		}
	}
	if _, ok := earth.Kind(s.Ground); s.Ground != "" && !ok {
		bad("ground", "%q is not a known kind of ground", s.Ground)
	}
	if _, ok := sky.SurroundingNamed(s.Noise); !ok {
		bad("noise", "%q is not a known surrounding", s.Noise)
	}
	return m, out
}

// at is a spot as it is written in a line.
func at(p Spot, units quantity.System) string {
	m, b := p.Polar()
	return fmt.Sprintf("%s at %.0f", units.Long(m), b)
}

// Write is a thing as a line that reads back to it, to a centimetre and half a degree.
func (t Thing) Write(units quantity.System) string {
	k, _ := KindNamed(t.Kind)
	parts := make([]string, len(t.Points))
	for i, p := range t.Points {
		parts[i] = at(p, units)
	}
	out := k.Words[0]
	if t.Name != "" {
		out += " (" + t.Name + ")"
	}
	out += ", " + strings.Join(parts, " to ")
	if t.High > 0 {
		out += ", " + units.Long(t.High) + " high"
	}
	if t.Wide > 0 {
		out += ", " + units.Long(t.Wide) + " wide"
	}
	if t.Metal && !k.Metal {
		out += ", metal"
	}
	return out
}

// Moved is the line of a thing with one of its points elsewhere.
func (t Thing) Moved(point int, to Spot, units quantity.System) (string, bool) {
	if point < 0 || point >= len(t.Points) {
		return "", false
	}
	t.Points = append([]Spot(nil), t.Points...)
	t.Points[point] = to
	return t.Write(units), true
}

// Drawn is the line of a thing that was drawn; ok is false where its kind is not known or it has too few points.
func Drawn(kind string, points []Spot, units quantity.System) (line string, ok bool) {
	k, ok := KindNamed(kind)
	least := map[string]int{AtSpot: 1, Along: 2, Within: 3}[k.Shape]
	if !ok || len(points) < least {
		return "", false
	}
	return Thing{Kind: kind, Points: points}.Write(units), true
}

// Pattern is a plain site to start from.
type Pattern struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Lines []string `json:"lines"`
}

// Patterns lists them.
func Patterns() []Pattern {
	return []Pattern{
		{"beach", "Open beach", []string{"area, 80 by 30 m", "water line, 43 m at 292 to 43 m at 68", "path, 42 m at 252 to 42 m at 108"}},
		{"clearing", "Clearing with one tree", []string{"area, 40 by 30 m", "tree, 10 m at 320, 12 m high", "table, 6 m at 90, 0.75 m high"}},
		{"summit", "Summit", []string{"area, 25 by 20 m towards 45", "mast, 30 m at 200, 8 m high"}},
		{"harbour", "Harbour wall", []string{"area, 40 by 6 m", "wall, 20 m at 278 to 20 m at 82, 1.1 m high",
			"water line, 20.4 m at 281 to 20.4 m at 79", "fence, 20 m at 262 to 20 m at 98, 1.1 m high, metal", "no stakes"}},
		{"garden", "Garden end", []string{"area, 18 by 12 m", "tree, 8 m at 40, 7 m high", "building, 14 by 8 m around 18 m at 180, 6 m high"}},
	}
}
