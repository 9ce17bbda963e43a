package family

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// solved puts solved lengths into the shape before it is planned. What the operator typed stays as it is, and so does what the
// plan chose with its own lengths and what these were found with.
func solved(r *antenna.Request) {
	if len(r.Solved) == 0 {
		return
	}
	typed := r.Given()
	isTyped := func(id string) bool { return slices.Contains(typed, id) || Of(r.Shape).Fixed(typed, id) }
	bare := *r
	bare.Solved = nil
	before := Of(design(bare, nil).Shape)
	for _, id := range before.kind.stands {
		if v := before.N(id, 0); v > 0 && r.N(id, 0) == 0 {
			r.PutNumber(id, v)
		}
	}
	// The whole element of a beam follows its parts: with one of them typed it is not the solver's.
	partTyped := before.kind.beam != nil && slices.ContainsFunc(before.kind.beam.Lengths, func(p Part) bool { return isTyped(p.Field) })
	turns := map[string]bool{}
	for _, k := range before.Knobs() {
		turns[k.Field] = k.Turns()
	}
	for _, x := range r.Solved {
		switch {
		case x.FrequencyHz > 0: // a setting on one band: the shape is that of all
		case isTyped(x.Field), partTyped && x.Piece != "":
		case turns[x.Field]:
			r.PutNumber(x.Field, math.Round(x.Size.M*10)/10)
		case x.Field != "" && x.Size.M > 0:
			r.Shape = r.With(x.Field, x.Size)
			if x.Field == antenna.Radiator && hasSecondLeg(r.Shape) && !isTyped(antenna.LegB) {
				r.Put(antenna.LegB, x.Size)
			}
		}
	}
}

func hasSecondLeg(s antenna.Shape) bool {
	for _, f := range Of(s).Fields("built") {
		if f.ID == "leg_b" {
			return true
		}
	}
	return false
}

// settle returns a length: the shape's, from the solver or as typed, and otherwise the closed form's
// gives it. The plan's factor goes with it.
func settle(f *antenna.Factor, told, closed float64) float64 {
	if told <= 0 || math.Abs(told/closed-1) < 1e-4 {
		return antenna.Or(told, closed)
	}
	f.Value *= told / closed
	f.Lo, f.Hi = f.Value*(1-solvedWithin), f.Value*(1+solvedWithin)
	f.Why = append(f.Why, fmt.Sprintf("from the solver %.3f", told/closed))
	return told
}

// extra are the fields that every plan has beside its family's.
func extra() []entry.Field {
	return []entry.Field{
		{ID: "knot", Label: "Each knot", Kind: entry.Length, Max: 2, Usual: "8 cm", Aside: true},
		{ID: "trim_percent", Label: "To trim", Kind: entry.Amount, Unit: "%", Max: 20, Usual: "2", Aside: true},
	}
}

// Read is the request with its texts read in, and what of them was not understood.
func Read(f antenna.Form) (antenna.Request, []antenna.Fault) {
	r, unit := f.Record, f.UnitOr()
	if f.Texts == nil {
		return r, nil
	}
	var faults []antenna.Fault
	r.Shape, faults = Of(r.Shape).Filled("plan", f.Texts, unit)
	v, more := entry.Read(extra(), f.Texts, unit)
	r.Knot, r.TrimPercent = v.Sizes["knot"], v.N("trim_percent", 2)
	if n, ok := r.Numbers["half_waves"]; ok {
		r.HalfWaves = int(n)
	}
	for key, text := range f.Texts {
		piece, ok := strings.CutPrefix(key, "measured.")
		if !ok || strings.TrimSpace(text) == "" {
			continue
		}
		l, err := quantity.Typed(strings.TrimSpace(text), unit)
		if err != nil {
			faults = append(faults, antenna.FaultAt(key, "error", err.Error()))
			continue
		}
		measured := map[string]quantity.Length{}
		maps.Copy(measured, r.Measured)
		measured[piece] = l
		r.Measured = measured
	}
	if as, given := f.Texts[measuredAs]; given {
		r.Hung = as == asHung
	}
	r.Units = r.Units || quantity.In(unit)
	return r, append(faults, more...)
}

// What was measured after cutting: the field, and its answer for wires that hang.
const (
	measuredAs = "measured_as"
	asHung     = "hung"
)

// FormTexts writes a request as the texts of its form.
func FormTexts(r antenna.Request, units quantity.System) map[string]string {
	if r.HalfWaves > 0 {
		r.PutNumber("half_waves", float64(r.HalfWaves))
	}
	out := Of(r.Shape).Texts("plan", units)
	var v entry.Values
	if !r.Knot.IsZero() {
		v.Put("knot", r.Knot)
	}
	v.PutNumber("trim_percent", r.TrimPercent)
	for id, text := range entry.Texts(extra(), v, units) {
		out[id] = text
	}
	if r.Hung {
		out[measuredAs] = asHung
	}
	for key, l := range r.Measured {
		out["measured."+key] = entry.Text(entry.Field{}, l, units)
	}
	return out
}

// Design computes the plan. The faults in it name the fields of the request; with an error among them
// the lengths are not computed.
func Design(r antenna.Request) antenna.Plan { return Planned(r, nil) }

// Drawn computes the plan of a form; what of its texts was not understood is among the faults.
func Drawn(f antenna.Form) antenna.Plan { return Planned(Read(f)) }

// Planned computes the plan of a request with what of its texts was not understood.
func Planned(r antenna.Request, unread []antenna.Fault) antenna.Plan {
	p := design(r, unread)
	p.Faults = entry.In(r.Units, p.Faults)
	p.Record = p.Shape.Record()
	return p
}

func design(r antenna.Request, unread []antenna.Fault) antenna.Plan {
	found := Of(r.Shape).Check()
	if slices.ContainsFunc(unread, func(f antenna.Fault) bool { return f.Path == "for" }) {
		// That there is no frequency follows from what was not read.
		found = slices.DeleteFunc(found, func(f antenna.Fault) bool { return f.Path == "frequency_hz" })
	}
	p := antenna.Plan{Shape: r.Shape, Faults: append(unread, found...), Fields: append(Of(r.Shape).Fields("plan"), extra()...)}
	w, _ := r.WireKind()
	g, ok := earth.Kind(r.Ground)
	if !ok {
		if r.Ground != "" {
			p.Faults = append(p.Faults, antenna.Say("ground", "error", "%q is not a known kind of ground", r.Ground))
		}
		g, _ = earth.Kind("average")
	}
	if r.TrimPercent < 0 || r.TrimPercent > 20 {
		p.Faults = append(p.Faults, antenna.Say("trim_percent", "error", "%.3g %% found; expected 0 to 20", r.TrimPercent))
	}
	if r.Knot.Problem() != nil {
		p.Faults = append(p.Faults, antenna.FaultAt("knot", "error", r.Knot.Problem().Error()))
	}
	for i, f := range p.Fields {
		if f.Kind == entry.Frequencies && r.FrequencyHz > 0 {
			var seen, bands []string
			for _, hz := range append([]float64{r.FrequencyHz}, r.More...) {
				b, _ := band.Anywhere(hz)
				seen, bands = append(seen, quantity.ToKHz(hz)+" MHz"), append(bands, b.Name)
			}
			p.Fields[i].Seen, p.Fields[i].Bands = strings.Join(seen, ", "), bands
		}
	}
	if antenna.HasError(p.Faults) {
		return p
	}
	fam, _ := Named(r.Family)
	asked := r.Shape
	solved(&r)
	out := fam.plan(r, w, g)
	if len(r.Solved) > 0 {
		out.Provisional = ""
	}
	out.Wire, out.Fields = w, p.Fields
	out.Pieces = slices.DeleteFunc(out.Pieces, func(x antenna.Piece) bool { return x.Count == 0 })
	out.Faults = append(p.Faults, out.Faults...)
	keepAtHand(out, asked)
	if len(out.Pieces) > 0 && out.Sentence == "" {
		out.Sentence = sentence(r, out.Pieces)
	}
	for _, piece := range out.Pieces {
		if piece.Of == "wire" && !piece.AtHand {
			out.WireUsed += piece.Cut.M * float64(piece.Count)
		}
	}
	if w.Left > 0 && out.WireUsed > w.Left {
		out.Faults = append(out.Faults, antenna.Say("wire", "ask", "this takes %s of wire, the reel has %s", say(r, out.WireUsed),
			say(r, w.Left)))
	}
	drawing, faults := Of(out.Shape).Layout()
	out.Drawing, out.Faults = drawing, append(out.Faults, faults...)
	out.Measure = twice(r, out.Pieces)
	usual(&out, asked, r.Units)
	out.WireSays, out.Likely, out.Called = say(r, out.WireUsed), likely(out, r, asked), called(fam, r)
	return out
}

// keepAtHand leaves pieces whose length was typed as they are: nobody cuts a wire that exists to another length.
func keepAtHand(p antenna.Plan, asked antenna.Shape) {
	for i := range p.Pieces {
		x := &p.Pieces[i]
		typed := func(k Knob) bool { return k.Piece == x.Name && asked.M(k.Field) > 0 }
		bent := func(w WholeWire) bool { return w.Piece == x.Name && w.AtHand != "" && asked.M(w.AtHand) > 0 }
		beam := Of(p.Shape).kind.beam
		if x.Of == "wire" && (slices.ContainsFunc(Of(p.Shape).lengths(), typed) || beam != nil && slices.ContainsFunc(beam.Wholes, bent)) {
			x.AtHand, x.Trim, x.Allowances, x.Cut = true, quantity.Length{}, []antenna.Allowance{}, x.Electrical
		}
	}
}

// called returns the default name of an antenna: its kind and its bands.
func called(f Family, r antenna.Request) string {
	var bands []string
	for _, hz := range slices.Sorted(slices.Values(r.All())) {
		if b, ok := band.Anywhere(hz); ok && !slices.Contains(bands, strings.TrimSuffix(b.Name, "m")) {
			bands = append(bands, strings.TrimSuffix(b.Name, "m"))
		}
	}
	name := strings.ToUpper(f.Short[:1]) + f.Short[1:]
	switch {
	case len(bands) > 3:
		return fmt.Sprintf("%s %s to %s m", name, bands[0], bands[len(bands)-1])
	case len(bands) > 0:
		return name + " " + strings.Join(bands, "/") + " m"
	}
	return name
}

// solvedWithin is the share by which a solved length may be off where it really hangs: what sags, leans, stands near and
// soaks the ground, all of which the model does not see.
const solvedWithin = 0.015

// likely says between which lengths the right one of the first piece lies, before allowances; nothing of a length that was asked for.
func likely(p antenna.Plan, r antenna.Request, asked antenna.Shape) string {
	if len(p.Pieces) == 0 || p.Pieces[0].Of != "wire" || p.Factor.Value <= 0 || p.Factor.Lo <= 0 {
		return ""
	}
	first := p.Pieces[0]
	if slices.ContainsFunc(Of(p.Shape).lengths(), func(k Knob) bool { return k.Piece == first.Name && asked.M(k.Field) > 0 }) {
		return "" // it is as long as was typed
	}
	lo, hi := p.Factor.Lo/p.Factor.Value, p.Factor.Hi/p.Factor.Value
	if slices.ContainsFunc(r.Solved, func(x antenna.Solved) bool { return x.Piece == first.Name }) {
		lo, hi = 1-solvedWithin, 1+solvedWithin
	}
	if hi-lo < 1e-4 {
		return ""
	}
	return fmt.Sprintf("%s to %s", r.Units.Long(first.Electrical.M*lo), r.Units.Long(first.Electrical.M*hi))
}

// usual says for every field that was left empty what the plan took.
func usual(p *antenna.Plan, asked antenna.Shape, units quantity.System) {
	took, given := p.Shape.ValuesOf(p.Fields), asked.ValuesOf(p.Fields)
	for i, f := range p.Fields {
		if f.Usual != "" {
			continue
		}
		switch f.Kind {
		case entry.Length, entry.Size:
			if l, ok := took.Sizes[f.ID]; ok && given.Sizes[f.ID].IsZero() {
				p.Fields[i].Usual = entry.Text(f, quantity.Metres(math.Round(l.M*1e4)/1e4), units)
				if f.Kind == entry.Length {
					p.Fields[i].Usual = units.Long(l.M)
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

func sentence(r antenna.Request, pieces []antenna.Piece) string {
	var cut, use []string
	for _, x := range pieces {
		part := x.Title + " of " + say(r, x.Cut.M)
		if x.AtHand {
			use = append(use, part)
		} else {
			cut = append(cut, part)
		}
	}
	var out []string
	for _, x := range []struct {
		verb  string
		parts []string
	}{{"Use", use}, {"Cut", cut}} {
		switch n := len(x.parts); {
		case n > 3:
			out = append(out, fmt.Sprintf("%s %s and %d more.", x.verb, strings.Join(x.parts[:2], ", "), n-2))
		case n > 0:
			out = append(out, x.verb+" "+strings.Join(x.parts, " and ")+".")
		}
	}
	return strings.Join(out, " ")
}

// AsCut returns the plan's shape with the lengths of the cut list, as they hang before anything is trimmed: the
// electrical length and the trim margin, knots and solder not counted. A record begins with it.
func AsCut(p antenna.Plan) antenna.Shape {
	s := p.Shape
	for _, f := range Of(s).Fields("built") {
		if f.Kind != entry.Length {
			continue
		}
		if margin := margin(p, s.M(f.ID)); margin > 0 {
			s = s.With(f.ID, quantity.Metres(math.Round((s.M(f.ID)+margin)*1000)/1000))
		}
	}
	return s
}

// margin is the trim margin in metres of a length: that of the piece, or of the two pieces, that it is.
func margin(p antenna.Plan, m float64) float64 {
	const same = 1e-4
	if m <= 0 {
		return 0
	}
	for _, a := range p.Pieces {
		if math.Abs(a.Electrical.M-m) < same {
			return a.Trim.M
		}
		if n := float64(a.Count); math.Abs(n*a.Electrical.M-m) < same {
			return n * a.Trim.M // as an element of two halves
		}
	}
	for i, a := range p.Pieces {
		for _, b := range p.Pieces[:i] {
			if math.Abs(a.Electrical.M+b.Electrical.M-m) < same {
				return a.Trim.M + b.Trim.M
			}
		}
	}
	return 0
}

// twice compares what was measured with what was to be cut. A difference that is the same share in every
// piece, or the same length, is the tape's and not the cutter's: with at least two pieces, off by 0.5 % or
// 1 cm and more, and three times as much as they scatter.
func twice(r antenna.Request, pieces []antenna.Piece) *antenna.Measure {
	m := antenna.Measure{Rows: []antenna.Compared{}, Tone: "none"}
	var known []antenna.Compared
	for _, p := range pieces {
		for n := 1; n <= min(p.Count, 24); n++ {
			row := antenna.Compared{Key: p.Key(n), Name: p.Name, Cut: p.Cut}
			if r.Hung { // without what is in knots and joints
				row.Cut = quantity.Metres(p.Electrical.M + p.Trim.M)
			}
			if p.Count > 1 {
				row.Name = row.Key
			}
			if l, ok := r.Measured[row.Key]; ok && l.M > 0 && row.Cut.M > 0 {
				row.Measured = l
				row.DiffMM, row.Percent = (l.M-row.Cut.M)*1000, (l.M/row.Cut.M-1)*100
				known = append(known, row)
			}
			m.Rows = append(m.Rows, row)
		}
	}
	if len(known) == 0 {
		m.Sentence = "Measure every piece again after cutting, from its very end, and enter what you find."
		if r.Hung {
			m.Sentence = "Measure every piece as it hangs, from knot to knot, and enter what you find: knots and joints are not counted."
		}
		return &m
	}
	var percent, shift, worst, shortest, longest float64
	shortest = math.Inf(1)
	for _, k := range known {
		percent += k.Percent / float64(len(known))
		shift += k.DiffMM / float64(len(known))
		shortest, longest = math.Min(shortest, k.Cut.M), math.Max(longest, k.Cut.M)
		if math.Abs(k.Percent) > math.Abs(worst) {
			worst = k.Percent
		}
	}
	var scatter, scatterMM, shareMM float64 // what is left over of each picture
	for _, k := range known {
		scatter = math.Max(scatter, math.Abs(k.Percent-percent))
		scatterMM = math.Max(scatterMM, math.Abs(k.DiffMM-shift))
		shareMM = math.Max(shareMM, math.Abs(k.DiffMM-percent*k.Cut.M*10))
	}
	way := "long"
	if percent < 0 {
		way = "short"
	}
	tellApart := longest > 1.15*shortest
	switch {
	case len(known) > 1 && tellApart && math.Abs(shift) >= 10 && scatterMM*3 <= math.Abs(shift) && scatterMM < shareMM:
		m.Tone = "tape"
		m.Sentence = fmt.Sprintf("All %d pieces are %s by the same length, %.0f mm give or take %.0f: a probable tape mistake, counted from "+
			"the hook or a torn-off end. Check where its zero is before you cut anything.", len(known), way, math.Abs(shift), math.Max(scatterMM, 1))
	case len(known) > 1 && math.Abs(percent) >= 0.5 && scatter*3 <= math.Abs(percent):
		m.Tone = "tape"
		m.Sentence = fmt.Sprintf("All %d pieces are %s by the same share, %.1f %% give or take %.1f: a probable tape mistake, not %d "+
			"cutting mistakes. Lay the tape against another one before you cut anything.", len(known), way, math.Abs(percent),
			math.Max(scatter, 0.1), len(known))
	case math.Abs(worst) < 0.5:
		m.Tone = "even"
		m.Sentence = fmt.Sprintf("The %d measured agree with the list: the largest difference is %.1f %%.", len(known), math.Abs(worst))
	default:
		m.Tone = "piece"
		var names []string
		for _, k := range known {
			if math.Abs(k.Percent) >= 0.5 {
				names = append(names, fmt.Sprintf("%s by %+.0f mm (%+.1f %%)", k.Name, k.DiffMM, k.Percent))
			}
		}
		m.Sentence = fmt.Sprintf("%d of %d differ from the list: %s.", len(names), len(known), antenna.Join(names, 3))
	}
	return &m
}
