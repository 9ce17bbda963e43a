package family

import (
	"math"
	"slices"
	"sort"
	"strings"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// Filled is a shape with the typed texts of its family's fields read into it, and what was not
// understood. stage is "plan" or "built"; unit is the unit of a bare number.
func (a Antenna) Filled(stage string, texts map[string]string, unit string) (antenna.Shape, []antenna.Fault) {
	s := a.Shape
	if !a.known {
		return s, nil
	}
	// The frequencies, choices and counts say which further fields there are, and those again.
	for asked := 0; asked != len(Of(s).Fields(stage)); {
		fields := Of(s).Fields(stage)
		asked = len(fields)
		first, _ := entry.Read(fields, texts, unit)
		s.Take(first)
	}
	for _, f := range Of(s).Fields(stage) {
		if text, given := texts[f.ID]; given && strings.TrimSpace(text) == "" {
			s.Drop(f.ID)
		}
	}
	v, faults := entry.Read(Of(s).Fields(stage), texts, unit)
	s.Take(v)
	if stage == "built" {
		s = a.prefilled(s, texts, quantity.In(unit))
		s = a.summed(s)
		if whole := driven(s); whole > 0 && s.M(antenna.Radiator) > 0 && math.Abs(s.M(antenna.Radiator)-a.M(antenna.Radiator)) < retyped {
			s.Put(antenna.Radiator, quantity.Metres(whole)) // halves that were measured make the whole, unless that was typed too
		}
	}
	return s, faults
}

// prefilled keeps what the record has where a field's text still is how the record prints it: what nobody touched was not typed, and
// has all its digits.
func (a Antenna) prefilled(s antenna.Shape, texts map[string]string, units quantity.System) antenna.Shape {
	for id, own := range a.Texts("built", units) {
		if text, given := texts[id]; !given || strings.TrimSpace(text) != own {
			continue
		}
		if l, ok := a.Sizes[id]; ok && !l.IsZero() {
			s.Put(id, l)
		}
		if n, ok := a.Numbers[id]; ok {
			s.PutNumber(id, n)
		}
	}
	return s
}

// whole is a length that is the sum of others, the last of which gives way to it where it is the radiator: a second leg may be
// another for itself.
type whole struct {
	field string
	parts []string
}

// retyped is how far a length is off another one that was typed anew: writing it out moves it by less.
const retyped = 0.0015

// summed keeps wholes and their parts together where one of them was typed anew and the other was left as it was. Where both
// were, or they did not agree before, both stay as they are typed.
func (a Antenna) summed(s antenna.Shape) antenna.Shape {
	for _, w := range a.kind.wholes {
		differs := func(id string) bool { return math.Abs(a.M(id)-s.M(id)) > retyped }
		before, sum, last := 0.0, 0.0, w.parts[len(w.parts)-1]
		moved, times := false, 0.0
		for _, id := range w.parts {
			before, sum = before+a.M(id), sum+s.M(id)
			moved = moved || differs(id)
			if id == last {
				times++
			}
		}
		was := a.M(w.field)
		if was <= 0 || s.M(last) <= 0 || math.Abs(before-was) > 0.03*was+0.03 {
			continue
		}
		switch {
		case moved && !differs(w.field):
			s.Put(w.field, quantity.Metres(was+sum-before))
		case differs(w.field) && !moved && w.field == antenna.Radiator:
			if rest := s.M(last) + (s.M(w.field)-was)/times; rest > leastWire {
				s.Put(last, quantity.Metres(rest))
			}
		}
	}
	return s
}

// Fields lists what is asked of this shape when it is planned or recorded as built.
func (a Antenna) Fields(stage string) []entry.Field {
	if !a.known {
		return nil
	}
	var out []entry.Field
	for _, f := range a.kind.fields(a.Shape) {
		if stage == "plan" && f.Only == "built" && a.trimmed(f.ID) {
			f = asAtHand(f, a.Feeding() == Whole)
		}
		if f.Only == "" || f.Only == stage {
			f.Aside = !f.Must && !slices.Contains(a.kind.matters, f.ID)
			out = append(out, f)
		}
	}
	return out
}

// trimmed reports whether a field is a length that brings the antenna to its frequencies.
func (a Antenna) trimmed(id string) bool {
	return slices.ContainsFunc(a.lengths(), func(k Knob) bool { return k.Field == id && len(k.Parts) == 0 })
}

// asAtHand is a recorded length as it is asked for in a plan: of a wire that exists already. Left empty it is computed.
func asAtHand(f entry.Field, legs bool) entry.Field {
	f.Only, f.Must, f.Help = "", false, "if you have it already; computed if left empty"
	if legs && f.ID == antenna.Radiator {
		f.Label = "Each leg"
	}
	return f
}

// Texts writes a shape as the texts of its fields.
func (a Antenna) Texts(stage string, units quantity.System) map[string]string {
	fields := a.Fields(stage)
	return entry.Texts(fields, a.ValuesOf(fields), units)
}

// Check says what in a shape cannot be or is unlikely, by field. Limits of "unlikely" are a few times
// what portable people carry; they ask, they do not refuse.
func (a Antenna) Check() []antenna.Fault {
	var out []antenna.Fault
	s, fam, ok := a.Shape, a.kind, a.known
	switch {
	case !ok:
		out = append(out, antenna.Say("family", "error", "%q is not a family of antenna known here; choose one of %s", s.Family, familyIDs()))
	case !fam.variant(s.Variant):
		out = append(out, antenna.Say("variant", "error", "%q is not a way to hang a %s", s.Variant, strings.ToLower(fam.Name)))
	}
	if n := len(s.More) + 1; n > antenna.MostFrequencies {
		out = append(out, antenna.Say("frequency_hz", "error", "%d frequencies found; at most %d are taken", n, antenna.MostFrequencies))
	}
	for _, f := range append([]float64{s.FrequencyHz}, s.More...) {
		if !(f >= antenna.LeastHz && f <= antenna.MostHz) {
			out = append(out, antenna.Say("frequency_hz", "error", "%s MHz found; expected a frequency from 1.8 to 54 MHz", quantity.MHz(f)))
			break
		}
	}
	if ok && !fam.Multi && len(s.More) > 0 {
		out = append(out, antenna.Say("frequency_hz", "ask", "this antenna works on one frequency: %s MHz is taken", quantity.MHz(s.FrequencyHz)))
	}
	if _, ok := s.WireKind(); !ok {
		out = append(out, antenna.Say("wire", "error", "%q is not a known kind of wire", s.Wire))
	}
	for _, id := range sortedKeys(s.Sizes) {
		l, most := s.Sizes[id], rare(id)
		switch {
		case l.Problem() != nil:
			out = append(out, antenna.FaultAt(id, "error", l.Problem().Error()))
		case !(l.M >= 0 && l.M <= antenna.LongestWire):
			out = append(out, antenna.Say(id, "error", "%s found; expected at most %s", quantity.Long(l.M), quantity.Whole(antenna.LongestWire)))
		case l.M > most:
			out = append(out, antenna.Say(id, "ask", "%s found; more than %s is rare in the field. Is the unit right?", quantity.Long(l.M),
				quantity.Whole(most)))
		}
	}
	for _, id := range []string{antenna.CounterpoiseCount, antenna.RadialsCount, antenna.PrimaryTurns, antenna.SecondaryTurns} {
		if n := s.N(id, 0); n < 0 || n > antenna.MostWires {
			out = append(out, antenna.Say(id, "error", "%.0f found; expected 0 to %d", n, antenna.MostWires))
		}
	}
	for _, id := range sortedKeys(s.Numbers) {
		if n := s.Numbers[id]; math.IsNaN(n) || math.Abs(n) > 1e9 {
			out = append(out, antenna.Say(id, "error", "%g found; that is no number for this", n))
		}
	}
	if v := s.ApexAngle(); v != 0 && (v < 30 || v > 180) {
		out = append(out, antenna.Say(antenna.ApexAngle, "error", "%.0f degrees found; expected 30 to 180 between the legs", v))
	}
	if v := s.Bearing(); v < 0 || v > 360 {
		out = append(out, antenna.Say(antenna.Bearing, "error", "%.0f degrees found; expected 0 to 360", v))
	}
	return append(out, a.outside(out)...)
}

// rare is the length in metres beyond which people hardly ever go in the field.
func rare(id string) float64 {
	switch id {
	case antenna.FeedHeight, antenna.FarHeight, antenna.PoleHeight, antenna.CounterpoiseHeight, antenna.RadialsHeight:
		return 20
	case antenna.CounterpoiseLength, antenna.RadialsLength:
		return 50
	}
	return 100
}

// outside says which values lie outside what their fields take, where that was not said already: they may come
// from elsewhere than from a form.
func (a Antenna) outside(said []antenna.Fault) (out []antenna.Fault) {
	seen := map[string]bool{}
	for _, f := range said {
		seen[f.Path] = true
	}
	for _, stage := range []string{"plan", "built"} {
		fields := a.Fields(stage)
		v := a.ValuesOf(fields)
		for _, f := range fields {
			if fault, is := f.Outside(v); is && !seen[f.ID] {
				seen[f.ID] = true
				out = append(out, fault)
			}
		}
	}
	return out
}

func errorsOf(all []antenna.Fault) []antenna.Fault {
	return slices.DeleteFunc(all, func(f antenna.Fault) bool { return f.Severity != "error" })
}

func sortedKeys[T any](m map[string]T) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// Layout places a shape in space, and says where its lengths and heights do not close. What cannot be at all
// (Check) is not laid out.
func (a Antenna) Layout() (antenna.Drawing, []antenna.Fault) {
	if faults := a.Check(); !a.known || antenna.HasError(faults) {
		return antenna.Drawing{}, errorsOf(faults)
	}
	d, faults := a.kind.layout(a.Shape)
	if a.M(antenna.Rod) > 0 {
		d.Lines = append(d.Lines, antenna.Line{Role: "rod", From: d.Feed, To: antenna.Point{d.Feed[0], d.Feed[1], 0}})
	}
	if d.View == "" {
		d.View = "side"
	}
	return d.Marked(a.Fields("built"), a.Fields("plan")), faults
}
