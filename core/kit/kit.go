// Package kit is the bag: things of one's own, with the properties that computation needs and the weight
// and packed length that planning needs. A kind of thing is a list of fields; a thing that was used in a
// deployment keeps its identity, so that it has a history.
package kit

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Part is one thing in the bag. Extra columns of a file it came from are kept among its Words.
type Part struct {
	ID      string `json:"id"`
	Kind    string `json:"kind"`
	Name    string `json:"name"`
	Version int    `json:"version"`
	Deleted bool   `json:"deleted,omitempty"`
	entry.Values
}

// ChokeOhms is the default impedance of a common-mode choke, resistive.
const ChokeOhms = 3000

// Kind is a kind of thing with what is asked of it. Fills names the fields of a plan that it answers for;
// Carried says that it goes with any antenna, to be counted and weighed.
type Kind struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Fields  []entry.Field `json:"fields"`
	Fills   []string      `json:"fills,omitempty"`
	Carried bool          `json:"carried,omitempty"`
	Unsaid  string        `json:"unsaid,omitempty"` // what is taken when none is said
	about   func(Part, quantity.System) []phrase.Figure
}

func length(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Length, Max: most}
}

func size(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Size, Unit: "mm", Max: most}
}

func amount(id, label, unit string, lo, hi float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Amount, Unit: unit, Min: lo, Max: hi}
}

func count(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Count, Min: 0, Max: most}
}

func withUsual(f entry.Field, usual string) entry.Field { f.Usual = usual; return f }

func words(id, label, help string) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Words, Help: help}
}

func must(f entry.Field) entry.Field { f.Must = true; return f }

func cores() entry.Field {
	f := entry.Field{ID: "core", Label: "Core", Kind: entry.Choice}
	for _, c := range circuit.Cores() {
		f.Options = append(f.Options, entry.Option{ID: c.ID, Name: c.Name})
	}
	return f
}

// ownMu is the permeability of a core that is known better than as typical of its kind.
func ownMu() entry.Field {
	return words("mu", "Its permeability", "MHz:mu'/mu'', like 1:830/45 7:450/225; typical of its kind if left empty")
}

func cables(list []circuit.Coax) entry.Field {
	f := entry.Field{ID: "type", Label: "Type", Kind: entry.Choice}
	for _, c := range list {
		f.Options = append(f.Options, entry.Option{ID: c.ID, Name: c.Name})
	}
	return f
}

// Kinds lists what a bag may hold.
func Kinds() []Kind {
	kinds := []Kind{
		{ID: "wire", Name: "Wire", about: aboutWire, Fields: []entry.Field{must(size("conductor", "Conductor diameter", 0.01)),
			size("outer", "Diameter with jacket", 0.02), amount("permittivity", "Permittivity of the jacket", "", 1, 10),
			count("strands", "Strands", 500), amount("factor", "Measured velocity factor", "", 0.7, 1), length("left", "Remaining on reel", 1000),
			words("pieces", "Ready-made pieces", "like 2x 5.03 m, 1x 20.3 m"), amount("grams_per_m", "Weight of a metre", "g", 0, 500)}},
		{ID: "transformer", Fills: []string{"primary_turns", "secondary_turns"}, Name: "Transformer", about: aboutTransformer,
			Unsaid: "a typical core is taken if not specified",
			Fields: []entry.Field{must(count("primary", "Primary turns", 240)), must(count("secondary", "Secondary turns", 240)), cores(),
				ownMu(), count("stack", "Stacked cores", 6),
				amount("leakage_uh", "Leakage", "uH", 0, 10), amount("across_pf", "Capacitor across the primary", "pF", 0, 1000),
				words("loss", "Loss measured", "MHz:dB, like 7:0.6 14:0.5; measured back to back: enter half"),
				amount("power_w", "Rated power", "W", 0, 2000)}},
		{ID: "choke", Carried: true, Name: "Choke", Unsaid: fmt.Sprintf("%d ohm are taken if not specified", ChokeOhms),
			Fields: []entry.Field{words("impedance", "Impedance measured", "MHz:ohm, like 7:3000 14:2500"), cores(),
				ownMu(), count("turns", "Turns", 100), amount("power_w", "Rated power", "W", 0, 2000)}},
		{ID: "coax", Carried: true, Name: "Coax", about: aboutCoax, Fields: []entry.Field{cables(circuit.Cables()),
			must(length("length", "Length", 200)),
			amount("at10", "Loss per 100 m at 10 MHz", "dB", 0, 100), amount("at100", "Loss per 100 m at 100 MHz", "dB", 0, 300),
			amount("vf", "Velocity factor", "", 0.4, 1), amount("z0", "Impedance", "ohm", 20, 100)}},
		{ID: "line", Fills: []string{"line", "line_length", "line_z0", "line_vf"}, Name: "Open line", about: aboutCoax,
			Fields: []entry.Field{cables(circuit.OpenLines()), must(length("length", "Length", 200)), amount("vf", "Velocity factor", "", 0.4, 1),
				amount("z0", "Impedance", "ohm", 20, 1200)}},
		{ID: "pole", Fills: []string{"pole_height"}, Name: "Pole", about: aboutPole,
			Fields: []entry.Field{must(length("length", "Fully extended length", 30)), count("sections", "Sections", 30),
				words("section_lengths", "Lengths of the sections", "from the foot, in m: 1.2 1.2 1.1"), size("base", "Diameter at the foot", 0.3),
				size("top", "Diameter at the tip", 0.3),
				length("usable", "Usable height", 30), amount("rating", "Rated bending moment at the foot", "N m", 0, 5000)}},
		{ID: "whip", Fills: []string{"whip_full", "whip"}, Name: "Whip", Fields: []entry.Field{
			must(length("whip_full", "Fully extended length", 12)),
			count("whip_sections", "Sections", 30), size("whip_radius", "Mean diameter", 0.1)}},
		{ID: "coil", Fills: []string{"coil_former"}, Name: "Coil", about: aboutCoil,
			Fields: []entry.Field{must(size("coil_former", "Former", 0.3)), must(size("coil_wire", "Wire", 0.01)),
				must(amount("turns", "Turns", "", 0.5, 2000)), size("coil_length", "Winding", 1),
				words("taps", "Taps", "turns from the feed's end, like 4 9 17")}},
		{ID: "spreader", Name: "Spreader", Fields: []entry.Field{must(length("length", "Length", 15)), count("count", "How many", 20)}},
		{ID: "stake", Name: "Stake or anchor", Fields: []entry.Field{length("length", "Length", 3), count("count", "How many", 100)}},
		{ID: "radio", Name: "Radio", Fields: []entry.Field{words("power", "Power by battery voltage", "V:W, like 13.8:10 12:7.5 11:5"),
			amount("receive_a", "Draws on receive", "A", 0, 20), amount("transmit_a", "Draws on transmit", "A", 0, 100)}},
		{ID: "tuner", Carried: true, Name: "Tuner", Fields: []entry.Field{{ID: "network", Label: "Network", Kind: entry.Choice,
			Options: Networks}, amount("l_max", "Coil up to", "uH", 0.1, 200), amount("c_min", "Capacitor from", "pF", 0, 500),
			amount("c_max", "to", "pF", 5, 10000), amount("q_l", "Q of the coil", "", 5, 1000),
			withUsual(amount("swr_max", "Matches up to SWR", "", 1.5, 100), "10"), amount("power_w", "Rated power", "W", 0, 2000)}},
		{ID: "battery", Name: "Battery", about: aboutBattery, Fields: []entry.Field{must(amount("amp_hours", "Capacity", "Ah", 0.1, 500)),
			must(amount("volts", "Nominal voltage", "V", 1, 60)), amount("milliohm", "Inner resistance", "mohm", 0, 2000),
			amount("fuse_a", "Fuse at the battery", "A", 0, 100)}},
		{ID: "adapter", Name: "Adapter or lead"},
	}
	for i := range kinds {
		switch kinds[i].ID {
		case "coax", "choke", "transformer", "tuner":
			kinds[i].Fields = append(kinds[i].Fields, words("connectors", "Connectors", "like BNC, or PL, SMA; binding post"))
		case "radio", "battery", "adapter":
			kinds[i].Fields = append(kinds[i].Fields, words("connectors", "Connectors", "like BNC; 2.1 mm barrel; 3.5 mm"))
		}
		kinds[i].Fields = append(kinds[i].Fields, amount("grams", "Weight", "g", 0, 50000), length("packed", "Packed length", 5),
			words("notes", "Notes", ""))
	}
	return kinds
}

// Networks are the matching networks a tuner may have.
var Networks = []entry.Option{{ID: "L", Name: "L: coil and one capacitor"}, {ID: "T", Name: "T: capacitor, coil, capacitor"},
	{ID: "pi", Name: "pi: coil between capacitors"}}

// KindNamed finds a kind.
func KindNamed(id string) (Kind, bool) {
	for _, k := range Kinds() {
		if k.ID == id {
			return k, true
		}
	}
	return Kind{}, false
}

// Read makes a part of typed texts. Faults name the fields.
func Read(kind, name string, texts map[string]string, unit string) (Part, []entry.Fault) {
	k, ok := KindNamed(kind)
	if !ok {
		return Part{}, []entry.Fault{{Path: "kind", Severity: "error",
			Text: fmt.Sprintf("%q is not a kind of thing in the bag; choose one of %s", kind, kindIDs())}}
	}
	p := Part{Kind: kind, Name: strings.TrimSpace(name)}
	var faults []entry.Fault
	p.Values, faults = entry.Read(k.Fields, texts, unit)
	if p.Name == "" {
		faults = append(faults, entry.Fault{Path: "name", Severity: "error",
			Text: "a name is missing; use one you will recognise, like 15 m of thin coax"})
	}
	for _, id := range []string{"loss", "impedance", "power"} {
		if w := p.Words[id]; w != "" {
			if _, err := Pairs(w); err != nil {
				faults = append(faults, entry.Fault{Path: id, Severity: "error", Text: err.Error()})
			}
		}
	}
	if _, err := Permeability(p.Words["mu"]); err != nil {
		faults = append(faults, entry.Fault{Path: "mu", Severity: "error", Text: err.Error()})
	}
	if c, o := p.M("conductor"), p.M("outer"); c > 0 && o > 0 && o < c {
		faults = append(faults, entry.Fault{Path: "outer", Severity: "error", Text: "the jacket cannot be thinner than the conductor"})
	}
	if kind == "coax" && p.W("type", "") == "" && (p.N("at10", 0) == 0 || p.N("at100", 0) == 0) {
		faults = append(faults, entry.Fault{Path: "type", Severity: "error", Text: "choose a type, or give its loss at 10 and at 100 MHz"})
	}
	if total, lengths := p.M("length"), lengthsOf(p.Words["section_lengths"]); kind == "pole" && len(lengths) > 0 {
		sum := 0.0
		for _, l := range lengths {
			sum += l
		}
		if sum < total*0.98 {
			faults = append(faults, entry.Say("section_lengths", "ask", "the sections make %s, less than %s all out", quantity.Long(sum),
				quantity.Long(total)))
		}
	}
	return p, faults
}

func kindIDs() string {
	var ids []string
	for _, k := range Kinds() {
		ids = append(ids, k.ID)
	}
	return strings.Join(ids, ", ")
}

func lengthsOf(text string) (out []float64) {
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' }) {
		if n, err := entry.Number(t); err == nil && n > 0 {
			out = append(out, n)
		}
	}
	return out
}

// Pair is a measured value at a frequency, or a power at a voltage.
type Pair struct{ At, Value float64 }

// Pairs reads "7:0.6 14:0.5".
func Pairs(text string) ([]Pair, error) {
	var out []Pair
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' }) {
		a, b, ok := strings.Cut(t, ":")
		x, err := entry.Number(a)
		y, err2 := entry.Number(b)
		if !ok || err != nil || err2 != nil {
			return nil, fmt.Errorf("%q was not understood; write pairs like 7:0.6 14:0.5", t)
		}
		if slices.ContainsFunc(out, func(p Pair) bool { return p.At == x }) {
			return nil, fmt.Errorf("%g is given twice", x)
		}
		out = append(out, Pair{x, y})
	}
	sort.Slice(out, func(i, k int) bool { return out[i].At < out[k].At })
	return out, nil
}

// About returns figures derived from a part's entries: those that computations with it use.
func (p Part) About(units quantity.System) []phrase.Figure {
	k, ok := KindNamed(p.Kind)
	if !ok || k.about == nil {
		return []phrase.Figure{}
	}
	return k.about(p, units)
}

// Texts fills a form with the part.
func (p Part) Texts(units quantity.System) map[string]string {
	k, _ := KindNamed(p.Kind)
	return entry.Texts(k.Fields, p.Values, units)
}

// Keep carries over from the thing as it was what no field of its kind asks for.
func (p Part) Keep(was Part) Part {
	k, _ := KindNamed(p.Kind)
	asked := map[string]bool{}
	for _, f := range k.Fields {
		asked[f.ID] = true
	}
	for id, w := range was.Words {
		if !asked[id] && p.Words[id] == "" {
			p.PutWord(id, w)
		}
	}
	return p
}

// Sum says in a sentence what a bag holds and weighs.
func Sum(bag []Part) string {
	if len(bag) == 0 {
		return "The bag is empty. Add what you own: a wire, a pole, a transformer."
	}
	grams, unknown := 0.0, 0
	for _, p := range bag {
		g := p.Grams()
		if g <= 0 {
			unknown++
		}
		grams += g
	}
	sum := fmt.Sprintf("%s, %.1f kg", phrase.Count(len(bag), "item"), grams/1000)
	if unknown > 0 {
		sum += fmt.Sprintf(" known (%d not weighed)", unknown)
	}
	return sum + "."
}

// Grams is the weight as given, or what wire and cable weigh by their length.
func (p Part) Grams() float64 {
	if g := p.N("grams", 0); g > 0 {
		return g
	}
	switch p.Kind {
	case "wire":
		return p.M("left") * p.Wire().Grams
	case "coax", "line":
		if c, ok := p.Line(); ok {
			return p.M("length") * c.Grams
		}
	}
	return 0
}

// Wire is a wire of the bag as a kind of wire. Without a weight, that of its copper and jacket is taken.
func (p Part) Wire() antenna.Wire {
	w := antenna.Wire{ID: p.ID, Name: p.Name, Radius: p.M("conductor") / 2, Outer: math.Max(p.M("outer"), p.M("conductor")) / 2,
		Permittivity: p.N("permittivity", 2.3), Factor: p.N("factor", 0), Left: p.M("left"), Grams: p.N("grams_per_m", 0)}
	if w.Outer <= w.Radius {
		w.Permittivity = 1
	}
	if w.Grams == 0 {
		w.Grams = math.Pi * (w.Radius*w.Radius*8.9e6 + (w.Outer*w.Outer-w.Radius*w.Radius)*1.3e6)
	}
	return w
}

// Line is a coax or open line of the bag as line data: its type's, with what was measured of one's own.
func (p Part) Line() (circuit.Coax, bool) {
	find := circuit.Cable
	if p.Kind == "line" {
		find = circuit.OpenLine
	}
	c, ok := find(p.W("type", ""))
	if a, b := p.N("at10", 0), p.N("at100", 0); a > 0 && b > 0 {
		c, ok = circuit.FromTwo(p.Name, p.N("z0", 50), p.N("vf", 0.66), a, b, c.Grams), true
	}
	c.VF, c.Z0 = p.N("vf", c.VF), p.N("z0", c.Z0)
	return c, ok
}

// core is the core of a part, with the permeability that was measured of it.
func (p Part) core() (circuit.Core, bool) {
	core, ok := circuit.CoreNamed(p.W("core", ""))
	if points, err := Permeability(p.W("mu", "")); err == nil && len(points) > 0 {
		core.Points = points
	}
	return core, ok
}

// Permeability reads "1:830/45 7:450/225": megahertz, and the permeability's two parts there.
func Permeability(text string) ([]circuit.MuPoint, error) {
	var out []circuit.MuPoint
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' }) {
		at, mu, ok := strings.Cut(t, ":")
		a, b, ok2 := strings.Cut(mu, "/")
		var n [3]float64
		var err error
		for i, x := range []string{at, a, b} {
			if n[i], err = entry.Number(x); err != nil || n[i] < 0 {
				ok = false
			}
		}
		if !ok || !ok2 || n[0] == 0 || n[1]+n[2] == 0 {
			return nil, fmt.Errorf("%q was not understood; write like 1:830/45 7:450/225", t)
		}
		out = append(out, circuit.MuPoint{F: n[0] * 1e6, Real: n[1], Imag: n[2]})
	}
	sort.Slice(out, func(i, k int) bool { return out[i].F < out[k].F })
	for i := 1; i < len(out); i++ {
		if out[i].F == out[i-1].F {
			return nil, fmt.Errorf("%g MHz is given twice", out[i].F/1e6)
		}
	}
	return out, nil
}

// Transformer is a transformer of the bag; ok is false when its core is not described.
func (p Part) Transformer() (circuit.Transformer, bool) {
	core, ok := p.core()
	return circuit.Transformer{Core: core, Stack: int(p.N("stack", 1)), Primary: p.N("primary", 1), Secondary: p.N("secondary", 1),
		Leakage: p.N("leakage_uh", 0) * 1e-6, Across: p.N("across_pf", 0) * 1e-12}, ok
}

// Loss is a transformer's loss in dB at f hertz, measured where it was and otherwise computed from its
// core; how says which, and is empty when neither is known.
func (p Part) Loss(f float64, load complex128) (db float64, how string) {
	if pairs, err := Pairs(p.W("loss", "")); err == nil && len(pairs) > 0 {
		return between(pairs, f/1e6), "measured"
	}
	if t, ok := p.Transformer(); ok {
		return t.Loss(f, load), "computed from its core"
	}
	return 0, ""
}

// Choke is a choke's impedance in ohms at f hertz: as it was measured, taken as resistive, or computed from its turns and
// core, with a capacitance between the turns beside them. how says which, and is empty when neither is known.
func (p Part) Choke(f float64) (z complex128, how string) {
	if pairs, err := Pairs(p.W("impedance", "")); err == nil && len(pairs) > 0 {
		return complex(between(pairs, f/1e6), 0), "as measured, taken as resistive"
	}
	core, ok := p.core()
	turns := p.N("turns", 0)
	if !ok || turns == 0 {
		return 0, ""
	}
	// Turns of coax side by side on a ring: 1 to 4 pF are measured.
	const between = 2.5e-12
	z = circuit.Transformer{Core: core, Primary: turns, Secondary: turns}.Magnetising(f)
	return z / (1 + complex(0, 2*math.Pi*f*between)*z), "computed from its turns and core"
}

// Unit is a tuner of the bag; ok is false when its network or its parts are not described.
func (p Part) Unit() (circuit.Unit, bool) {
	u := circuit.Unit{Kind: p.W("network", ""), LMin: 0.05e-6, LMax: p.N("l_max", 0) * 1e-6, CMin: p.N("c_min", 10) * 1e-12,
		CMax: p.N("c_max", 0) * 1e-12, QL: p.N("q_l", 100), QC: 1000}
	return u, u.Kind != "" && u.LMax > 0 && u.CMax > 0
}

// between reads a table linearly, level beyond its ends.
func between(pairs []Pair, x float64) float64 {
	if x <= pairs[0].At {
		return pairs[0].Value
	}
	for i := 1; i < len(pairs); i++ {
		if a, b := pairs[i-1], pairs[i]; x <= b.At {
			return a.Value + (b.Value-a.Value)*(x-a.At)/(b.At-a.At)
		}
	}
	return pairs[len(pairs)-1].Value
}

// PowerAt returns the watts that a radio sends at a battery's voltage; ok is false where that is not recorded.
func (p Part) PowerAt(volts float64) (watts float64, ok bool) {
	pairs, err := Pairs(p.W("power", ""))
	if err != nil || len(pairs) == 0 {
		return 0, false
	}
	return between(pairs, volts), true
}

// Coil is a coil of the bag.
func (p Part) Coil() circuit.Coil {
	return circuit.Coil{Turns: p.N("turns", 0), Former: p.M("coil_former"), Wire: p.M("coil_wire"), Length: p.M("coil_length")}
}

// Apply fills what a plan takes from the things it names: the wire's data, the transformer's turns, the
// pole's height, whip and line. What was typed stands. Things that are gone or of another kind are faults.
func Apply(f antenna.Form, bag map[string]Part) (antenna.Form, []entry.Fault) {
	r := &f.Record
	var faults []entry.Fault
	set := func(id, text string) {
		if f.Texts == nil || text == "" || strings.TrimSpace(f.Texts[id]) != "" {
			return
		}
		f.Texts = maps.Clone(f.Texts)
		f.Texts[id] = text
	}
	for role, id := range r.Parts {
		p, ok := bag[id]
		if !ok {
			faults = append(faults, entry.Fault{Path: "parts." + role, Severity: "error",
				Text: "this thing is not in the bag any more; choose another"})
			continue
		}
		t := p.Texts(false)
		switch p.Kind {
		case "wire":
			w := p.Wire()
			r.WireData, r.Wire = &w, id
		case "transformer":
			set("primary_turns", t["primary"])
			set("secondary_turns", t["secondary"])
		case "pole":
			if u := t["usable"]; u != "" {
				set("pole_height", u)
			} else {
				set("pole_height", t["length"])
			}
		case "line":
			set("line", t["type"])
			set("line_length", t["length"])
			set("line_vf", t["vf"])
		case "whip":
			for _, f := range []string{"whip_full", "whip_sections", "whip_radius"} {
				set(f, t[f])
			}
			set("whip", t["whip_full"])
		case "coil":
			set("coil_former", t["coil_former"])
			set("coil_wire", t["coil_wire"])
			set("coil_length", t["coil_length"])
		}
	}
	if r.Parts["wire"] == "" && r.WireData != nil {
		r.WireData = nil
	}
	return f, faults
}
