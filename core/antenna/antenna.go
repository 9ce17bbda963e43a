// Package antenna turns a wish (family, frequencies, wire, heights) into lengths to cut and a layout in
// space. Every family is one file with its fields, a plan and a layout. These are closed forms for a
// first cut; each names the range in which the truth is likely.
package antenna

import (
	"fmt"
	"maps"
	"math"
	"strconv"
	"strings"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Request asks for a plan. Zero values take the family's custom; Ground is an earth preset's ID. Texts,
// when given, are the family's fields as people typed them, Unit what a bare length among them takes;
// they are read before anything else.
type Request struct {
	Shape
	HalfWaves   int               `json:"half_waves,omitempty"`
	Ground      string            `json:"ground,omitempty"`
	Knot        quantity.Length   `json:"knot,omitzero"`
	TrimPercent float64           `json:"trim_percent,omitempty"`
	PowerW      float64           `json:"power_w,omitempty"`
	Texts       map[string]string `json:"texts,omitempty"`
	Unit        string            `json:"unit,omitempty"`
	Imperial    bool              `json:"imperial,omitempty"` // how lengths in sentences are printed
	// Measured are the lengths that were measured after cutting, by the key of the piece.
	Measured map[string]quantity.Length `json:"measured,omitempty"`
	// Solved are lengths that were found by solving the antenna; they stand for those of the closed forms.
	Solved []Solved `json:"solved,omitempty"`
}

// Solved is a length by the solver: Size is that of the shape's field, Electrical that of the piece of the cut
// list. Either name may be empty.
type Solved struct {
	Piece      string          `json:"piece"`
	Field      string          `json:"field"`
	Size       quantity.Length `json:"size"`
	Electrical quantity.Length `json:"electrical"`
}

// solved puts solved lengths into the shape before it is planned.
func (r *Request) solved() {
	for _, x := range r.Solved {
		switch {
		case x.Field == "helix_turns":
			r.PutNumber(x.Field, x.Size.M)
		case x.Field != "" && x.Size.M > 0:
			r.Shape = r.With(x.Field, x.Size)
			if x.Field == "radiator" && r.hasSecondLeg() {
				r.LegB = x.Size
			}
		}
	}
}

func (s Shape) hasSecondLeg() bool {
	for _, f := range s.Fields("built") {
		if f.ID == "leg_b" {
			return true
		}
	}
	return false
}

// recut puts solved lengths into the cut list.
func (p *Plan) recut(r Request) {
	for _, x := range r.Solved {
		for i := range p.Pieces {
			piece := &p.Pieces[i]
			if piece.Name != x.Piece || x.Electrical.M <= 0 {
				continue
			}
			trim := 0.0
			if piece.Electrical.M > 0 {
				trim = piece.Trim.M / piece.Electrical.M
			}
			more := (x.Electrical.M - piece.Electrical.M) * (1 + trim)
			piece.Electrical, piece.Trim = x.Electrical, quantity.Metres(x.Electrical.M*trim)
			piece.Cut = quantity.Metres(piece.Cut.M + more)
			p.Sentence = ""
		}
	}
	if len(r.Solved) > 0 {
		p.Provisional = ""
		p.Factor.Why = append(p.Factor.Why, "lengths taken from the solver")
	}
}

// Allowance is wire that is cut but does not radiate as length.
type Allowance struct {
	Name   string          `json:"name"`
	Length quantity.Length `json:"length"`
}

// Piece is one line of the cut list. Cut = Electrical + Allowances + Trim. Of is what it is cut from.
type Piece struct {
	Name       string          `json:"name"`
	Title      string          `json:"title"` // how many of them, in words
	Of         string          `json:"of"`
	Count      int             `json:"count"`
	Electrical quantity.Length `json:"electrical"`
	Allowances []Allowance     `json:"allowances"`
	Trim       quantity.Length `json:"trim"`
	Cut        quantity.Length `json:"cut"`
}

// Figure is one computed number with what it came from.
type Figure struct {
	Label string `json:"label"`
	Value string `json:"value"`
	Why   string `json:"why,omitempty"`
}

// Table is several answers side by side: bands, lengths to choose from, settings.
type Table struct {
	Title   string     `json:"title"`
	Columns []string   `json:"columns"`
	Rows    [][]string `json:"rows"`
	Note    string     `json:"note,omitempty"`
}

// School is one answer to a question on which practitioners disagree.
type School struct {
	Question string `json:"question"`
	Way      string `json:"way"`
	Figures  string `json:"figures"`
	Says     string `json:"says"`
}

// Mark is a place on a strip in millimetres from its edge.
type Mark struct {
	MM   float64 `json:"mm"`
	Text string  `json:"text"`
}

// Strip is printed at its true size, to be laid on a coil, a whip or a line.
type Strip struct {
	Title string  `json:"title"`
	Edge  string  `json:"edge"` // what the zero is laid against
	MM    float64 `json:"mm"`
	Marks []Mark  `json:"marks"`
}

// Plan answers a Request. Provisional says why its figures will be bettered.
type Plan struct {
	Shape       Shape         `json:"shape"`
	Fields      []entry.Field `json:"fields"`
	Factor      Factor        `json:"factor"`
	Pieces      []Piece       `json:"pieces"`
	Wire        Wire          `json:"wire"`
	Drawing     Drawing       `json:"drawing"`
	Faults      []Fault       `json:"faults"`
	Sentence    string        `json:"sentence"`
	Expect      string        `json:"expect"`
	Schools     []School      `json:"schools"`
	Figures     []Figure      `json:"figures"`
	Tables      []Table       `json:"tables"`
	Strips      []Strip       `json:"strips"`
	Provisional string        `json:"provisional,omitempty"`
	WireUsed    float64       `json:"wire_used_m"`
	WireSays    string        `json:"wire_says"`
	Measure     *Measure      `json:"measure,omitempty"`
}

// Variant is one way to hang a family.
type Variant struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Family is one kind of antenna. Multi says that it is asked for several frequencies.
type Family struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Short    string    `json:"short"`
	Group    string    `json:"group"`
	Variants []Variant `json:"variants"`
	Multi    bool      `json:"multi"`
	Trims    string    `json:"trims"`
	fields   func(Shape) []entry.Field
	plan     func(Request, Wire, earth.Ground) Plan
	layout   func(Shape) (Drawing, []Fault)
	hot      func(s Shape, powerW float64) (where string, volts float64)
	dangers  func(Shape) []Danger // while sending, beside those that every antenna has
}

// Danger is what one family has to be careful of beside the others.
type Danger struct{ Code, Title, Text, Figure string }

// families is every family in the order in which they are offered.
var families = []func() Family{
	dipole, linked, doublet, whipPair,
	endFed, endFedLoaded, random, jPole, fence,
	vertical, multiVertical, whip, loadedWhip, helix,
	rectangle, loop,
}

// Families lists every family in the order in which they are offered.
func Families() []Family {
	out := make([]Family, len(families))
	for i, f := range families {
		out[i] = f()
	}
	return out
}

// Named finds a family.
func Named(id string) (Family, bool) {
	for _, f := range families {
		if fam := f(); fam.ID == id {
			return fam, true
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

// extra are the fields that every plan has beside its family's.
func extra() []entry.Field {
	return []entry.Field{
		{ID: "knot", Label: "Each knot", Kind: entry.Length, Max: 2, Usual: "8 cm"},
		{ID: "trim_percent", Label: "To trim", Kind: entry.Amount, Unit: "%", Max: 20, Usual: "2"},
	}
}

// Read is the request with its texts read in, and what of them was not understood.
func (r Request) Read() (Request, []Fault) {
	if r.Texts == nil {
		return r, nil
	}
	var faults []Fault
	r.Shape, faults = r.Filled("plan", r.Texts, r.unit())
	v, more := entry.Read(extra(), r.Texts, r.unit())
	r.Knot, r.TrimPercent = v.Sizes["knot"], v.N("trim_percent", 2)
	if n, ok := r.Numbers["half_waves"]; ok {
		r.HalfWaves = int(n)
	}
	for key, text := range r.Texts {
		piece, ok := strings.CutPrefix(key, "measured.")
		if !ok || strings.TrimSpace(text) == "" {
			continue
		}
		l, err := quantity.Typed(strings.TrimSpace(text), r.unit())
		if err != nil {
			faults = append(faults, fault(key, "error", err.Error()))
			continue
		}
		measured := map[string]quantity.Length{}
		maps.Copy(measured, r.Measured)
		measured[piece] = l
		r.Measured = measured
	}
	r.Imperial = r.Imperial || r.Unit == "ft"
	r.Texts, r.Unit = nil, ""
	return r, append(faults, more...)
}

func (r Request) unit() string {
	if r.Unit == "" {
		return "m"
	}
	return r.Unit
}

// FormTexts writes a request as the texts of its form.
func (r Request) FormTexts(imperial bool) map[string]string {
	r.Shape = r.copied() // its maps are the stored plan's
	if r.HalfWaves > 0 {
		r.PutNumber("half_waves", float64(r.HalfWaves))
	}
	out := r.Shape.Texts("plan", imperial)
	var v entry.Values
	if !r.Knot.IsZero() {
		v.Put("knot", r.Knot)
	}
	v.PutNumber("trim_percent", r.TrimPercent)
	for id, text := range entry.Texts(extra(), v, imperial) {
		out[id] = text
	}
	for key, l := range r.Measured {
		out["measured."+key] = entry.Text(entry.Field{}, l, imperial)
	}
	return out
}

// Design computes the plan. The faults in it name the fields of the request; with an error among them
// the lengths are not computed.
func Design(r Request) Plan {
	r, unread := r.Read()
	p := Plan{Shape: r.Shape, Faults: append(unread, r.Check()...), Fields: append(r.Fields("plan"), extra()...)}
	w, _ := r.kind()
	g, ok := earth.Kind(r.Ground)
	if !ok {
		if r.Ground != "" {
			p.Faults = append(p.Faults, fault("ground", "error", fmt.Sprintf("%q is not a known kind of ground", r.Ground)))
		}
		g, _ = earth.Kind("average")
	}
	if r.TrimPercent < 0 || r.TrimPercent > 20 {
		p.Faults = append(p.Faults, fault("trim_percent", "error", fmt.Sprintf("%.3g %% found; expected 0 to 20", r.TrimPercent)))
	}
	if r.Knot.Problem() != nil {
		p.Faults = append(p.Faults, fault("knot", "error", r.Knot.Problem().Error()))
	}
	for i, f := range p.Fields {
		if f.Kind == entry.Frequencies && r.FrequencyHz > 0 {
			var seen []string
			for _, hz := range append([]float64{r.FrequencyHz}, r.More...) {
				seen = append(seen, quantity.ToKHz(hz)+" MHz")
			}
			p.Fields[i].Seen = strings.Join(seen, ", ")
		}
	}
	if HasError(p.Faults) {
		return p
	}
	fam, _ := Named(r.Family)
	asked := r.Shape
	r.Shape = r.Shape.copied()
	r.solved()
	out := fam.plan(r, w, g)
	out.recut(r)
	out.Wire, out.Fields = w, p.Fields
	out.Faults = append(p.Faults, out.Faults...)
	if len(out.Pieces) > 0 && out.Sentence == "" {
		out.Sentence = r.sentence(out.Pieces)
	}
	for _, piece := range out.Pieces {
		if piece.Of == "wire" {
			out.WireUsed += piece.Cut.M * float64(piece.Count)
		}
	}
	if w.Left > 0 && out.WireUsed > w.Left {
		out.Faults = append(out.Faults, fault("wire", "ask", fmt.Sprintf("this takes %s of wire, the reel has %s", r.say(out.WireUsed), r.say(w.Left))))
	}
	drawing, faults := out.Shape.Layout()
	out.Drawing, out.Faults = drawing, append(out.Faults, faults...)
	out.Measure = r.twice(out.Pieces)
	out.usual(asked, r.Imperial)
	out.WireSays = r.say(out.WireUsed)
	return out
}

// copied is a shape whose maps are its own, so that a plan may fill them.
func (s Shape) copied() Shape {
	var v entry.Values
	for k, l := range s.Sizes {
		v.Put(k, l)
	}
	for k, n := range s.Numbers {
		v.PutNumber(k, n)
	}
	for k, w := range s.Words {
		v.PutWord(k, w)
	}
	s.Values = v
	return s
}

// usual says for every field that was left empty what the plan took.
func (p *Plan) usual(asked Shape, imperial bool) {
	took, given := p.Shape.values(p.Fields), asked.values(p.Fields)
	for i, f := range p.Fields {
		if f.Usual != "" {
			continue
		}
		switch f.Kind {
		case entry.Length, entry.Size:
			if l, ok := took.Sizes[f.ID]; ok && given.Sizes[f.ID].IsZero() {
				p.Fields[i].Usual = entry.Text(f, quantity.Metres(math.Round(l.M*1e4)/1e4), imperial)
				if f.Kind == entry.Length && !imperial {
					p.Fields[i].Usual = quantity.Metric(l.M, 10)
				}
			}
		case entry.Count, entry.Amount:
			if n, ok := took.Numbers[f.ID]; ok {
				if _, typed := given.Numbers[f.ID]; !typed {
					p.Fields[i].Usual = strconv.FormatFloat(quantity.Digits(n, 3), 'f', -1, 64)
				}
			}
		case entry.Choice:
			for _, o := range f.Options {
				if o.ID == took.Words[f.ID] && given.Words[f.ID] == "" {
					p.Fields[i].Usual = o.Name
				}
			}
		}
	}
}

func (r Request) sentence(pieces []Piece) string {
	parts := make([]string, 0, len(pieces))
	for _, x := range pieces {
		parts = append(parts, x.Title+" of "+r.say(x.Cut.M))
	}
	if n := len(parts); n > 3 {
		return fmt.Sprintf("Cut %s and %d more.", strings.Join(parts[:2], ", "), n-2)
	}
	return "Cut " + strings.Join(parts, " and ") + "."
}

// title is how many of what a piece is.
func title(name string, n int) string {
	switch {
	case n == 1:
		return "1 " + name
	case strings.Contains(name, " "):
		return fmt.Sprintf("%d × %s", n, name)
	}
	return fmt.Sprintf("%d %ss", n, name)
}

// say prints a length in the reader's system, to the centimetre or sixteenth.
func (r Request) say(m float64) string {
	if r.Imperial {
		return quantity.Imperial(m, 16)
	}
	return quantity.Metric(m, 10)
}

// fine prints a short length to the millimetre or thirty-second.
func (r Request) fine(m float64) string {
	if r.Imperial {
		return quantity.Imperial(m, 32)
	}
	if math.Abs(m) < 0.1 {
		return fmt.Sprintf("%.1f mm", m*1000)
	}
	return quantity.Metric(m, 1)
}

// piece adds up one line of the cut list; knots is the number of tied ends.
func piece(r Request, name string, count int, electrical float64, knots int) Piece {
	knot := r.Knot.M
	if r.Knot.IsZero() {
		knot = 0.08
	}
	p := Piece{Name: name, Title: title(name, count), Of: "wire", Count: count, Electrical: quantity.Metres(electrical), Trim: quantity.Metres(electrical * r.TrimPercent / 100), Allowances: []Allowance{}}
	cut := electrical + p.Trim.M
	if knots > 0 {
		p.Allowances = append(p.Allowances, Allowance{fmt.Sprintf("knot or loop, %d", knots), quantity.Metres(knot * float64(knots))})
		cut += knot * float64(knots)
	}
	p.Allowances = append(p.Allowances, Allowance{"solder at the feed", quantity.Metres(0.02)})
	p.Cut = quantity.Metres(cut + 0.02)
	return p
}

// exact is a piece that is cut as it is, with what is lost at its ends.
func exact(name, of string, count int, length float64, allowances ...Allowance) Piece {
	p := Piece{Name: name, Title: title(name, count), Of: of, Count: count, Electrical: quantity.Metres(length), Allowances: []Allowance{}}
	cut := length
	for _, a := range allowances {
		p.Allowances = append(p.Allowances, a)
		cut += a.Length.M
	}
	p.Cut = quantity.Metres(cut)
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

// size keeps a given length among the Values and otherwise sets a computed one; it returns its metres.
func (s *Shape) size(id string, m float64) float64 {
	l := lengthOr(s.Sizes[id], m)
	s.Put(id, l)
	return l.M
}

// number keeps a given number among the Values and otherwise sets a usual one.
func (s *Shape) number(id string, otherwise float64) float64 {
	n := s.N(id, otherwise)
	s.PutNumber(id, n)
	return n
}
