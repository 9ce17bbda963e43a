// Package antenna turns a wish (family, frequency, wire, heights) into lengths to cut and a layout in
// space. Every family is one file with a plan and a layout. These are closed forms for a first cut.
package antenna

import (
	"fmt"
	"math"
	"strings"

	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Fault is something to be said about one field. Severity "error" cannot be, "ask" is unlikely and wants
// a second look, "caution" is a danger.
type Fault struct {
	Path     string `json:"path"`
	Severity string `json:"severity"`
	Text     string `json:"text"`
}

// Wires is a set of equal wires: radials or counterpoise. Height is that of their far ends.
type WireSet struct {
	Count  int             `json:"count"`
	Length quantity.Length `json:"length,omitzero"`
	Height quantity.Length `json:"height,omitzero"`
}

// Shape is what the antenna is and how it hangs. Angles in degrees, frequency in hertz.
type Shape struct {
	Family       string          `json:"family"`
	Variant      string          `json:"variant"`
	FrequencyHz  float64         `json:"frequency_hz"`
	Wire         string          `json:"wire,omitempty"`
	Radiator     quantity.Length `json:"radiator,omitzero"` // a dipole's first leg, otherwise the whole radiator
	LegB         quantity.Length `json:"leg_b,omitzero"`    // a dipole's second leg
	FeedHeight   quantity.Length `json:"feed_height,omitzero"`
	FarHeight    quantity.Length `json:"far_height,omitzero"` // of the low or far end
	PoleHeight   quantity.Length `json:"pole_height,omitzero"`
	ApexAngle    float64         `json:"apex_angle,omitempty"`
	Bearing      float64         `json:"bearing,omitempty"`
	Counterpoise WireSet         `json:"counterpoise,omitzero"`
	Radials      WireSet         `json:"radials,omitzero"`
	Primary      int             `json:"primary_turns,omitempty"`
	Secondary    int             `json:"secondary_turns,omitempty"`
}

// Total is the length in metres of the whole radiator.
func (s Shape) Total() float64 { return s.Radiator.M + s.LegB.M }

// Ratio is the transformer's impedance ratio as people write it, "1:49", or empty without one.
func (s Shape) Ratio() string {
	if s.Primary <= 0 || s.Secondary <= 0 {
		return ""
	}
	r := math.Pow(float64(s.Secondary)/float64(s.Primary), 2)
	return fmt.Sprintf("1:%.3g", r)
}

// Request asks for a plan. Zero values take the family's custom; Ground is an earth preset's ID.
type Request struct {
	Shape
	HalfWaves   int             `json:"half_waves,omitempty"`
	Ground      string          `json:"ground,omitempty"`
	Knot        quantity.Length `json:"knot,omitzero"`
	TrimPercent float64         `json:"trim_percent,omitempty"`
	PowerW      float64         `json:"power_w,omitempty"`
}

// Allowance is wire that is cut but does not radiate as length.
type Allowance struct {
	Name   string          `json:"name"`
	Length quantity.Length `json:"length"`
}

// Piece is one line of the cut list. Cut = Electrical + Allowances + Trim.
type Piece struct {
	Name       string          `json:"name"`
	Count      int             `json:"count"`
	Electrical quantity.Length `json:"electrical"`
	Allowances []Allowance     `json:"allowances"`
	Trim       quantity.Length `json:"trim"`
	Cut        quantity.Length `json:"cut"`
}

// Point is a place in metres: x along the antenna, y across, z up.
type Point [3]float64

// Line is one straight run in the drawing. Role is radiator, counterpoise, radial, pole, string or feed.
type Line struct {
	Role string `json:"role"`
	From Point  `json:"from"`
	To   Point  `json:"to"`
}

// Length is the length in metres.
func (l Line) Length() float64 {
	return math.Sqrt(math.Pow(l.To[0]-l.From[0], 2) + math.Pow(l.To[1]-l.From[1], 2) + math.Pow(l.To[2]-l.From[2], 2))
}

// Drawing is a layout in space.
type Drawing struct {
	Lines []Line `json:"lines"`
	Feed  Point  `json:"feed"`
}

// Plan answers a Request.
type Plan struct {
	Shape    Shape    `json:"shape"`
	Factor   Factor   `json:"factor"`
	Pieces   []Piece  `json:"pieces"`
	Wire     Wire     `json:"wire"`
	Drawing  Drawing  `json:"drawing"`
	Faults   []Fault  `json:"faults"`
	Sentence string   `json:"sentence"`
	Expect   string   `json:"expect"`
	Schools  []string `json:"schools"`
	WireUsed float64  `json:"wire_used_m"`
}

// Variant is one way to hang a family.
type Variant struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Family is one kind of antenna.
type Family struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Short    string    `json:"short"`
	Variants []Variant `json:"variants"`
	plan     func(Request, Wire, earth.Ground) Plan
	layout   func(Shape) (Drawing, []Fault)
}

// Families lists every family in the order in which they are offered.
func Families() []Family { return []Family{dipole(), endFed(), vertical()} }

// Named finds a family.
func Named(id string) (Family, bool) {
	for _, f := range Families() {
		if f.ID == id {
			return f, true
		}
	}
	return Family{}, false
}

func (f Family) variant(id string) bool {
	for _, v := range f.Variants {
		if v.ID == id {
			return true
		}
	}
	return false
}

// Check says what in a shape cannot be or is unlikely, by field. Limits of "unlikely" are a few times
// what portable people carry; they ask, they do not refuse.
func (s Shape) Check() []Fault {
	var out []Fault
	fam, ok := Named(s.Family)
	switch {
	case !ok:
		out = append(out, Fault{"family", "error", fmt.Sprintf("%q is not a family of antenna known here; choose one of %s", s.Family, familyIDs())})
	case !fam.variant(s.Variant):
		out = append(out, Fault{"variant", "error", fmt.Sprintf("%q is not a way to hang a %s", s.Variant, strings.ToLower(fam.Name))})
	}
	if s.FrequencyHz < 1.8e6 || s.FrequencyHz > 54e6 {
		out = append(out, Fault{"frequency_hz", "error", fmt.Sprintf("%s MHz found; expected a frequency from 1.8 to 54 MHz", quantity.MHz(s.FrequencyHz))})
	}
	if _, ok := WireNamed(s.Wire); !ok {
		out = append(out, Fault{"wire", "error", fmt.Sprintf("%q is not a known kind of wire", s.Wire)})
	}
	for _, l := range []struct {
		path string
		l    quantity.Length
		max  float64
	}{
		{"radiator", s.Radiator, 100}, {"leg_b", s.LegB, 100}, {"feed_height", s.FeedHeight, 20}, {"far_height", s.FarHeight, 20},
		{"pole_height", s.PoleHeight, 20}, {"counterpoise.length", s.Counterpoise.Length, 50}, {"counterpoise.height", s.Counterpoise.Height, 20},
		{"radials.length", s.Radials.Length, 50}, {"radials.height", s.Radials.Height, 20},
	} {
		switch {
		case l.l.Problem() != nil:
			out = append(out, Fault{l.path, "error", l.l.Problem().Error()})
		case l.l.M > l.max:
			out = append(out, Fault{l.path, "ask", fmt.Sprintf("%s found; more than %.0f m is rare in the field. Is the unit right?", quantity.Metric(l.l.M, 10), l.max)})
		}
	}
	for path, n := range map[string]int{"counterpoise.count": s.Counterpoise.Count, "radials.count": s.Radials.Count, "primary_turns": s.Primary, "secondary_turns": s.Secondary} {
		if n < 0 || n > 240 {
			out = append(out, Fault{path, "error", fmt.Sprintf("%d found; expected 0 to 240", n)})
		}
	}
	if s.ApexAngle != 0 && (s.ApexAngle < 30 || s.ApexAngle > 180) {
		out = append(out, Fault{"apex_angle", "error", fmt.Sprintf("%.0f degrees found; expected 30 to 180 between the legs", s.ApexAngle)})
	}
	if s.Bearing < 0 || s.Bearing > 360 {
		out = append(out, Fault{"bearing", "error", fmt.Sprintf("%.0f degrees found; expected 0 to 360", s.Bearing)})
	}
	return out
}

func familyIDs() string {
	var ids []string
	for _, f := range Families() {
		ids = append(ids, f.ID)
	}
	return strings.Join(ids, ", ")
}

// HasError reports whether any fault is an error.
func HasError(fs []Fault) bool {
	for _, f := range fs {
		if f.Severity == "error" {
			return true
		}
	}
	return false
}

// Layout places a shape in space, and says where its lengths and heights do not close.
func (s Shape) Layout() (Drawing, []Fault) {
	f, ok := Named(s.Family)
	if !ok {
		return Drawing{}, nil
	}
	return f.layout(s)
}

// Design computes the plan. The faults in it name the fields of the request; with an error among them
// the lengths are not computed.
func Design(r Request) Plan {
	p := Plan{Shape: r.Shape, Faults: r.Check()}
	w, _ := WireNamed(r.Wire)
	g, ok := earth.Kind(r.Ground)
	if !ok {
		if r.Ground != "" {
			p.Faults = append(p.Faults, Fault{"ground", "error", fmt.Sprintf("%q is not a known kind of ground", r.Ground)})
		}
		g, _ = earth.Kind("average")
	}
	if r.TrimPercent < 0 || r.TrimPercent > 20 {
		p.Faults = append(p.Faults, Fault{"trim_percent", "error", fmt.Sprintf("%.3g %% found; expected 0 to 20", r.TrimPercent)})
	}
	if r.Knot.Problem() != nil {
		p.Faults = append(p.Faults, Fault{"knot", "error", r.Knot.Problem().Error()})
	}
	if HasError(p.Faults) {
		return p
	}
	fam, _ := Named(r.Family)
	out := fam.plan(r, w, g)
	out.Wire, out.Faults = w, p.Faults
	if len(out.Pieces) > 0 {
		var parts []string
		for _, x := range out.Pieces {
			name := x.Name
			if x.Count > 1 {
				name += "s"
			}
			parts = append(parts, fmt.Sprintf("%d %s of %s", x.Count, name, quantity.Metric(x.Cut.M, 10)))
		}
		out.Sentence = "Cut " + strings.Join(parts, " and ") + "."
	}
	for _, piece := range out.Pieces {
		out.WireUsed += piece.Cut.M * float64(piece.Count)
	}
	drawing, faults := out.Shape.Layout()
	out.Drawing, out.Faults = drawing, append(out.Faults, faults...)
	return out
}

// piece adds up one line of the cut list; knots is the number of tied ends.
func piece(r Request, name string, count int, electrical float64, knots int) Piece {
	knot := r.Knot.M
	if r.Knot.IsZero() {
		knot = 0.08
	}
	p := Piece{Name: name, Count: count, Electrical: quantity.Metres(electrical), Trim: quantity.Metres(electrical * r.TrimPercent / 100)}
	cut := electrical + p.Trim.M
	if knots > 0 {
		p.Allowances = append(p.Allowances, Allowance{fmt.Sprintf("knot or loop, %d", knots), quantity.Metres(knot * float64(knots))})
		cut += knot * float64(knots)
	}
	p.Allowances = append(p.Allowances, Allowance{"solder at the feed", quantity.Metres(0.02)})
	p.Cut = quantity.Metres(cut + 0.02)
	return p
}

func or(v, otherwise float64) float64 {
	if v == 0 {
		return otherwise
	}
	return v
}

// lengthOr keeps a given length and otherwise sets a computed one.
func lengthOr(l quantity.Length, m float64) quantity.Length {
	if l.IsZero() {
		return quantity.Metres(m)
	}
	return l
}

func mutualFault(path string, length, from, to float64) Fault {
	return Fault{path, "error", fmt.Sprintf("a wire of %s cannot reach from %s to %s up; check the length and both heights",
		quantity.Metric(length, 10), quantity.Metric(from, 10), quantity.Metric(to, 10))}
}

func pole(x, height float64) Line { return Line{"pole", Point{x, 0, 0}, Point{x, 0, height}} }

// tie is the string from a wire's end down to a stake: it goes on in the wire's direction when that
// points down, and otherwise slopes down at 45 degrees.
func tie(from, end Point) Line {
	dx, dz := end[0]-from[0], end[2]-from[2]
	run := end[2]
	if dz < -1e-6 && math.Abs(dx/dz) < 3 {
		run = end[2] * math.Abs(dx/dz)
	}
	return Line{"string", end, Point{end[0] + math.Copysign(run, dx), end[1], 0}}
}
