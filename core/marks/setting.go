package marks

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Value is one control as it is to stand. Range is how far off it may be, empty for a mark itself.
type Value struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Text  string `json:"text"`
	Range string `json:"range,omitempty"`
	Edge  string `json:"edge"`
}

// Setting is the advice what to set now. How is "marked", "between", "beyond" or "none".
type Setting struct {
	Hz       float64  `json:"hz"`
	How      string   `json:"how"`
	Sentence string   `json:"sentence"`
	Detail   string   `json:"detail"`
	Values   []Value  `json:"values"`
	Warnings []string `json:"warnings"`
}

// Today is the present set-up, compared with the one that the marks were found with. Built without a family is not up
// yet.
type Today struct {
	Built         deployment.Built
	Place, Ground string
}

// near is how close in frequency a mark stands for itself.
const near = 0.001

// For says what to set for a frequency. shape is the antenna whose law is taken.
func (s Set) For(hz float64, shape antenna.Shape, now Today, region band.Region, units quantity.System) Setting {
	out := Setting{Hz: hz, How: "none", Values: []Value{}, Warnings: []string{}}
	mhz := quantity.ToKHz(hz)
	if len(s.Marks) == 0 {
		out.Sentence = "No marks yet."
		out.Detail = "Save the first setting that you find, and use it next time."
		return out
	}
	// Marks that were found as it stands today come first, when they say anything of this frequency.
	own := s
	own.Marks = nil
	for _, m := range s.Marks {
		if len(m.Held.differs(now, units)) == 0 {
			own.Marks = append(own.Marks, m)
		}
	}
	used := s
	if x, ok := own.best(hz, shape); len(own.Marks) > 0 && ok && x.how != "beyond" {
		used = own
	}
	b, ok := used.best(hz, shape)
	if !ok && b.short {
		out.Sentence = fmt.Sprintf("It does not reach to %s MHz.", mhz)
		out.Detail = "By this antenna's tuning law, fitted to your marks, that is out of its range: " +
			"load it differently, or leave the frequency out."
		return out
	}
	if !ok {
		out.Sentence = fmt.Sprintf("No mark near %s MHz.", mhz)
		out.Detail = "Marks on other bands do not predict a dial here. Tune it, and save what it shows."
		if m, ok := used.closest(hz); ok && nearest(region, m.Hz) == nearest(region, hz) {
			out.Detail = fmt.Sprintf("Begin at your mark of %s MHz: %s.", quantity.ToKHz(m.Hz), strings.Join(s.readings(m, shape, units), ", "))
		}
		return out
	}
	out.How = b.how
	var says []string
	for _, c := range s.controls(shape) {
		v, ok := b.values[c.ID]
		if !ok {
			continue
		}
		x := Value{ID: c.ID, Label: c.Label, Text: print(c, v, units), Edge: s.Edge(c)}
		if v == 0 && b.how == "beyond" {
			x.Text += ", the coil bridged"
		}
		if c.ID == b.moved && b.how != "marked" {
			x.Range = give(c, roundUp(c, 2*b.sd), units)
		}
		out.Values = append(out.Values, x)
		says = append(says, lower(c.Label)+" "+x.Text)
	}
	joined := strings.Join(says, ", ")
	out.Sentence = upper(joined) + "."
	swr := ""
	if b.mark.SWR > 0 {
		swr = fmt.Sprintf(" SWR was %.1f there.", b.mark.SWR)
	} else if b.mark.Peaked != "" {
		swr = fmt.Sprintf(" It was peaked to %s there.", b.mark.Peaked)
	}
	switch b.how {
	case "marked":
		out.Detail = fmt.Sprintf("As marked for %s MHz.%s", quantity.ToKHz(b.mark.Hz), swr)
	case "between":
		out.Detail = fmt.Sprintf("Between your marks at %s and %s MHz, by this antenna's tuning law fitted to %s. Measure, then mark it.",
			quantity.ToKHz(b.lo), quantity.ToKHz(b.hi), phrase.Count(b.of, "mark"))
	default:
		out.Detail = fmt.Sprintf("Beyond your marks, which end at %s MHz: extrapolated by this antenna's tuning law fitted to %s. Begin with "+
			"low power, measure, then mark it.", quantity.ToKHz(math.Max(b.lo, b.hi)), phrase.Count(b.of, "mark"))
	}
	out.Warnings = append(out.Warnings, b.mark.Held.differs(now, units)...)
	if band := nearest(region, hz); band == "" {
		out.Warnings = append(out.Warnings, fmt.Sprintf("%s MHz is in no amateur band.", mhz))
	}
	return out
}

// lower and upper write the first letter small or large.
func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }
func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// roundUp gives a range no more digits than it has.
func roundUp(c family.Control, v float64) float64 {
	step := 1.0
	if c.Kind == entry.Length || c.Kind == entry.Size {
		step = 0.001
		if v > 0.02 {
			step = 0.01
		}
	} else if v < 2 {
		step = 0.1
	}
	return math.Ceil(v/step) * step
}

// choice is one way to set a frequency: one control moved, the others left as at a mark.
type choice struct {
	how    string
	moved  string
	values map[string]float64
	sd     float64
	of     int
	lo, hi float64
	mark   Mark // the nearest of those it rests on
	score  float64
	short  bool // nothing is proposed because the part does not reach
}

// closest is the mark nearest to a frequency; ok is false without any.
func (s Set) closest(hz float64) (out Mark, ok bool) {
	for _, m := range s.Marks {
		if !ok || math.Abs(math.Log(m.Hz/hz)) < math.Abs(math.Log(out.Hz/hz)) {
			out, ok = m, true
		}
	}
	return out, ok
}

// readings returns a mark's readings in words.
func (s Set) readings(m Mark, shape antenna.Shape, units quantity.System) (out []string) {
	for _, c := range s.Used(shape) {
		if v, ok := reading(c, m); ok {
			out = append(out, lower(c.Label)+" "+print(c, v, units))
		}
	}
	return out
}

// best is the surest way to set a frequency: a mark itself, otherwise the control whose marks around the frequency
// foresee it best. ok is false when no mark says anything of it.
func (s Set) best(hz float64, shape antenna.Shape) (choice, bool) {
	controls := s.Used(shape)
	closest, _ := s.closest(hz)
	values := func(m Mark) map[string]float64 {
		out := map[string]float64{}
		for _, c := range controls {
			if v, ok := reading(c, m); ok {
				out[c.ID] = v
			}
		}
		return out
	}
	if at := values(closest); math.Abs(closest.Hz/hz-1) < near && len(at) > 0 {
		return choice{how: "marked", values: at, mark: closest, lo: closest.Hz, hi: closest.Hz, of: 1}, true
	}
	var out, joint choice // the best of all, and of the controls that marks with other lengths count for
	for _, c := range controls {
		if c.ID == "sections" && slices.ContainsFunc(controls, func(o family.Control) bool { return o.ID == "radiator" }) {
			continue // said beside the length
		}
		for _, m := range s.Marks {
			if _, ok := reading(c, m); !ok {
				continue
			}
			others := s.held(controls, c, m, shape)
			x := s.along(c, others, shape, hz)
			out.short = out.short || x.short
			if !x.ok || x.sd > 0.5*math.Abs(x.value)+1e-9 {
				continue
			}
			if s.stepped(c) {
				x.value, x.sd = math.Round(x.value), math.Max(x.sd, 0.25)
			}
			now := choice{how: "beyond", moved: c.ID, values: others, sd: x.sd, of: x.of, lo: x.lo, hi: x.hi, mark: m}
			// How far it has to be carried decides, then how sure it is.
			now.score = x.sd/math.Max(math.Abs(x.value), 1e-6) + math.Abs(math.Log(m.Hz/hz))
			if x.inside {
				now.how = "between"
			} else {
				now.score += 1
			}
			now.values[c.ID] = x.value
			if law, _ := s.lawOf(c, others, shape); law.Joint && (joint.how == "" || now.score < joint.score) {
				joint = now
			}
			if out.how == "" || now.score < out.score {
				now.short = out.short
				out = now
			}
		}
	}
	switch {
	case out.how == "between":
	case joint.how != "":
		out = joint // a coil is tapped further rather than its whip moved far
	default:
		for _, c := range controls {
			for _, l := range family.Of(shape).Controls() {
				if x, ok := s.both(c, l, shape, hz); ok && l.Kind == entry.Length && c.ID != l.ID && !sections(c, l) {
					return x, true
				}
			}
		}
	}
	if out.moved == "radiator" {
		for _, c := range controls {
			if x := s.along(c, s.held(controls, c, out.mark, shape), shape, hz); c.ID == "sections" && x.ok {
				out.values[c.ID] = x.value
			}
		}
	}
	return out, out.how != ""
}

// matters are the facts of a set-up that move a setting.
var matters = []string{"variant", "radials", "counterpoise", "coax", "choke", "transformer", "feed_height", "metal", "wire"}

// differs says what of today is not as it was for a mark. What is not up yet does not differ.
func (h Held) differs(now Today, units quantity.System) []string {
	out := []string{}
	if now.Built.Family == "" {
		return out
	}
	if h.Built.Family == "" {
		return []string{"It is not known what this mark was found with: measure before you trust it."}
	}
	for _, d := range deployment.Differences(h.Built, now.Built, units) {
		if slices.Contains(matters, d.Field) {
			out = append(out, fmt.Sprintf("%s: %s then, %s now.", upper(d.Label), d.A, d.B))
		}
	}
	if h.Place != "" && now.Place != "" && h.Place != now.Place {
		out = append(out, fmt.Sprintf("Found at %s, now at %s.", h.Place, now.Place))
	}
	if h.Ground != "" && now.Ground != "" && h.Ground != now.Ground {
		out = append(out, "The ground is of another kind.")
	}
	return out
}

// Row is a mark as it is shown and printed.
type Row struct {
	ID       string            `json:"id"`
	MHz      string            `json:"mhz"`
	Band     string            `json:"band"`
	SWR      string            `json:"swr"`
	Settings []string          `json:"settings"`
	With     string            `json:"with"`
	Note     string            `json:"note,omitempty"`
	Texts    map[string]string `json:"texts"`
	Warnings []string          `json:"warnings"`
}

// Card is a set as it is shown and printed: one row a mark, and strips at true size.
type Card struct {
	Columns []string        `json:"columns"`
	Edges   []string        `json:"edges"`
	Rows    []Row           `json:"rows"`
	Strips  []antenna.Strip `json:"strips"`
	With    string          `json:"with,omitempty"` // what all of them were found with, when it is the same
	Missing string          `json:"missing,omitempty"`
}

// Card lays a set out in rising frequency. wanted are the frequencies that the antenna was planned for.
func (s Set) Card(shape antenna.Shape, wanted []float64, now Today, region band.Region, units quantity.System) Card {
	out := Card{Columns: []string{}, Edges: []string{}, Rows: []Row{}, Strips: []antenna.Strip{}}
	used := s.Used(shape)
	fields := controlFields(shape, units)
	for _, c := range used {
		out.Columns = append(out.Columns, c.Label)
		out.Edges = append(out.Edges, s.Edge(c))
	}
	list := slices.Clone(s.Marks)
	slices.SortStableFunc(list, func(a, b Mark) int { return cmp.Compare(a.Hz, b.Hz) })
	for _, m := range list {
		r := Row{ID: m.ID, MHz: quantity.ToKHz(m.Hz), Band: nearest(region, m.Hz), Settings: []string{}, Note: m.Note, With: m.Held.says(units),
			Texts: m.texts(fields, units), Warnings: m.Held.differs(now, units)}
		if m.SWR > 0 {
			r.SWR = fmt.Sprintf("%.1f", m.SWR)
		}
		if m.Peaked != "" {
			r.Note = strings.Trim("peaked to "+m.Peaked+", "+m.Note, ", ")
		}
		for _, c := range used {
			t := ""
			if v, ok := reading(c, m); ok {
				t = print(c, v, units)
			}
			r.Settings = append(r.Settings, t)
		}
		out.Rows = append(out.Rows, r)
	}
	if n := len(out.Rows); n > 0 && !slices.ContainsFunc(out.Rows, func(r Row) bool { return r.With != out.Rows[0].With }) {
		out.With = out.Rows[0].With
		for i := range out.Rows {
			out.Rows[i].With = ""
		}
	}
	for _, c := range used {
		out.Strips = append(out.Strips, s.strip(c, list, units)...)
	}
	var missing []string
	for _, hz := range wanted {
		if !slices.ContainsFunc(list, func(m Mark) bool { return band.Nearest(region, m.Hz).Name == band.Nearest(region, hz).Name }) {
			missing = append(missing, quantity.ToKHz(hz))
		}
	}
	if len(missing) > 0 && len(list) > 0 {
		out.Missing = "No mark yet for " + strings.Join(missing, ", ") + " MHz."
	}
	return out
}

// Typed are the marks as their form has them.
func (s Set) Typed(shape antenna.Shape, units quantity.System) []Typed {
	fields := controlFields(shape, units)
	out := []Typed{}
	for _, m := range s.Marks {
		out = append(out, Typed{ID: m.ID, Texts: m.texts(fields, units)})
	}
	return out
}

// texts are a mark as its form shows it.
func (m Mark) texts(fields []entry.Field, units quantity.System) map[string]string {
	out := entry.Texts(fields, m.Values, units)
	out["hz"], out["note"], out["peaked"] = quantity.MHz(m.Hz), m.Note, m.Peaked
	if m.SWR > 0 {
		out["swr"] = fmt.Sprintf("%.4g", m.SWR)
	}
	return out
}

// says describes in few words what a mark was found with.
func (h Held) says(units quantity.System) string {
	if h.Built.Family == "" {
		return ""
	}
	var out []string
	for _, x := range deployment.Differences(deployment.Built{Shape: antenna.Shape{Family: h.Built.Family, Variant: h.Built.Variant}},
		h.Built, units) {
		if slices.Contains([]string{"radials", "coax"}, x.Field) {
			out = append(out, x.Label+" "+x.B)
		}
	}
	if h.Place != "" {
		out = append(out, h.Place)
	}
	if h.Date != "" {
		out = append(out, h.Date)
	}
	return strings.Join(out, ", ")
}

// longest is the usable width of a sheet in millimetres.
const longest = 250.0

// strip is a control's marks at true size. Where they lie further out than a sheet reaches, it begins at a whole
// decimetre that is to be marked once with a tape; where one sheet is not enough it goes on over several, each laid with its
// cross on the last one's.
func (s Set) strip(c family.Control, list []Mark, units quantity.System) (out []antenna.Strip) {
	if c.Kind != entry.Length && c.Kind != entry.Size {
		return nil
	}
	lo, hi := math.Inf(1), 0.0
	for _, m := range list {
		if v, ok := reading(c, m); ok {
			lo, hi = math.Min(lo, v*1000), math.Max(hi, v*1000)
		}
	}
	if hi == 0 {
		return nil
	}
	title, edge, begin := s.Name+", "+lower(c.Label), s.Edge(c), 0.0
	if hi > longest {
		begin = math.Floor(lo/100) * 100
		if begin > 0 {
			edge = fmt.Sprintf("a mark made with a tape %s from %s", units.Long(begin/1000), edge)
		}
	}
	sheets := int(math.Max(1, math.Ceil((hi-begin)/longest)))
	for i := range sheets {
		from := begin + float64(i)*longest
		x := antenna.Strip{Title: title, Edge: edge, Marks: []antenna.Mark{}, MM: longest}
		if sheets > 1 {
			x.Title = fmt.Sprintf("%s, sheet %d of %d", title, i+1, sheets)
		}
		if i > 0 {
			x.Edge = fmt.Sprintf("the cross at the end of sheet %d", i)
			x.Marks = append(x.Marks, antenna.Mark{Text: cross})
		}
		last := i == sheets-1
		if last {
			x.MM = math.Ceil((hi-from)/10)*10 + 10
		}
		for _, m := range list {
			if v, ok := reading(c, m); ok && v*1000 >= from-1e-9 && (v*1000 < from+longest || last) {
				x.Marks = append(x.Marks, antenna.Mark{MM: v*1000 - from, Text: quantity.ToKHz(m.Hz)})
			}
		}
		if !last {
			x.Marks = append(x.Marks, antenna.Mark{MM: longest, Text: cross})
		}
		out = append(out, x)
	}
	return out
}

// cross is where one sheet of a strip is laid on the next.
const cross = "+"

// Guide is the order in which a tuner or a loop is brought to resonance, with its figures at the power in watts.
func Guide(shape antenna.Shape, powerW float64) []string {
	out := []string{
		"Receive first. Turn for the most noise on an empty frequency: coarse, then fine. Note the dials.",
		fmt.Sprintf("Then at most %s, on a frequency that is yours and clear, with your call: turn for the least reflected power. Note the "+
			"dials again: these are the marks.", quantity.Watts(math.Min(5, math.Max(powerW/10, 0.5)))),
		fmt.Sprintf("Then %s, and look once more; nobody touches the antenna while you send.", quantity.Watts(powerW)),
		"After every change of band, and after rain, again from the first step.",
	}
	if where, volts := family.Of(shape).Hot(powerW); volts > 0 {
		out[2] += fmt.Sprintf(" At %s about %.0f V peak stand at %s: an estimate; keep hands and face away.", quantity.Watts(powerW),
			math.Round(volts/10)*10, where)
	}
	return out
}
