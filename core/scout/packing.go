package scout

import (
	"fmt"
	"slices"
	"strings"

	"reed/core/antenna/family"
	"reed/core/kit"
)

// PackedGroup is what is needed at one time.
type PackedGroup struct {
	When  string   `json:"when"`
	Items []Packed `json:"items"`
}

// Packed is one thing to pack. Missing says that the bag has none of it.
type Packed struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Count   int     `json:"count"`
	Grams   float64 `json:"grams,omitempty"`
	Why     string  `json:"why,omitempty"`
	Missing bool    `json:"missing,omitempty"`
}

// When things are needed, in that order.
const (
	forgotten = "forgotten last time"
	toPutUp   = "to put it up"
	toFeed    = "to feed it"
	toWork    = "on the air"
	toStay    = "for yourself"
)

// Plugs are the kinds of a connector, by what people call them.
var plugs = []struct {
	id    string
	words []string
}{{"PL", []string{"pl", "pl259", "pl-259", "so239", "so-239", "uhf"}}, {"BNC", []string{"bnc"}}, {"N", []string{"n"}},
	{"SMA", []string{"sma"}}, {"binding post", []string{"binding post", "posts", "banana", "wing nut"}}}

// plugsOf reads what a part's connectors are.
func plugsOf(p kit.Part) (out []string) {
	for _, w := range strings.FieldsFunc(strings.ToLower(p.W("connectors", "")),
		func(r rune) bool { return strings.ContainsRune(",;/+", r) }) {
		w = strings.TrimSpace(w)
		for _, x := range plugs {
			if slices.Contains(x.words, w) {
				out = append(out, x.id)
			}
		}
	}
	return out
}

// Adapter is what goes between two parts that are plugged together; empty where they fit, or where one of them does not say.
func Adapter(a, b kit.Part) string {
	from, to := plugsOf(a), plugsOf(b)
	if len(from) == 0 || len(to) == 0 {
		return ""
	}
	for _, x := range from {
		if slices.Contains(to, x) {
			return ""
		}
	}
	return from[len(from)-1] + " to " + to[0]
}

// packing lists what the first choice takes.
func (c Case) packing(a *Answer) []PackedGroup {
	if len(a.Candidates) == 0 {
		return []PackedGroup{}
	}
	y := a.Candidates[0]
	b := bag{c.Bag, len(c.Bag) == 0}
	list := packer{bag: b, groups: map[string][]Packed{}}
	for i, name := range c.Forgotten {
		list.add(forgotten, Packed{ID: fmt.Sprintf("forgotten-%d", i), Name: name, Count: 1})
	}
	list.putUp(c, y)
	list.feed(y)
	list.add(toWork, Packed{ID: "key", Name: "microphone or key", Count: 1})
	list.add(toWork, Packed{ID: "log", Name: "log, pencil", Count: 1, Why: "for when the phone is empty"})
	list.part(toWork, "radio", "radio", "")
	list.part(toWork, "battery", "battery, charged", "")
	list.add(toWork, Packed{ID: "fuse", Name: "spare fuse", Count: 2})
	if slices.ContainsFunc(c.Purpose.MHz, func(float64) bool { return c.Purpose.Mode == "digital" }) {
		list.add(toWork, Packed{ID: "audio", Name: "computer and audio cable", Count: 1, Why: "slow digital modes"})
	}
	list.add(toStay, Packed{ID: "water", Name: "water, layers", Count: 1})
	for _, e := range a.Hazards {
		switch e.Code {
		case "dark":
			list.add(toStay, Packed{ID: "lamp", Name: "lamp", Count: 1, Why: "dark from " + e.Figure})
		case "permission":
			list.add(toStay, Packed{ID: "permission", Name: "the permission, written", Count: 1, Why: e.Text})
		}
	}
	var out []PackedGroup
	for _, when := range []string{forgotten, toPutUp, toFeed, toWork, toStay} {
		items := list.groups[when]
		for i, p := range items {
			if slices.ContainsFunc(c.Unused, func(u string) bool { return strings.EqualFold(u, p.Name) }) {
				items[i].Why = strings.TrimSpace(p.Why + " (not used last time)")
			}
		}
		if len(items) > 0 {
			out = append(out, PackedGroup{when, items})
		}
	}
	return out
}

type packer struct {
	bag    bag
	groups map[string][]Packed
}

func (l packer) add(when string, p Packed) { l.groups[when] = append(l.groups[when], p) }

// part adds the bag's best of a kind, or says that it is missing.
func (l packer) part(when, kind, name, why string) (kit.Part, bool) {
	p, ok := l.bag.best(kind)
	if ok {
		l.add(when, Packed{ID: kind, Name: p.Name, Count: 1, Grams: p.Grams(), Why: why})
	} else {
		l.add(when, Packed{ID: kind, Name: name, Count: 1, Why: why, Missing: !l.bag.empty})
	}
	return p, ok
}

// putUp is what holds it.
func (l packer) putUp(c Case, y Candidate) {
	p := y.Placement
	for range p.Poles {
		l.part(toPutUp, "pole", "pole", c.Units.Long(y.from.foot.high())+" up")
	}
	if p.Poles == 0 && y.from.foot.high() > 2 {
		l.add(toPutUp, Packed{ID: "throw", Name: "throw line and weight", Count: 1, Why: "into the " + p.Support})
	}
	if p.Stakes > 0 {
		stakes := 0
		for _, s := range l.bag.of("stake") {
			stakes += max(1, int(s.N("count", 1)))
		}
		l.add(toPutUp, Packed{ID: "stakes", Name: "stakes", Count: p.Stakes + 1, Why: "one to spare", Missing: !l.bag.empty && stakes < p.Stakes})
		l.add(toPutUp, Packed{ID: "strings", Name: "strings with tighteners", Count: p.Stakes, Why: "and flags for them"})
	}
	for _, k := range kit.Kinds() {
		// What else the plan is made of: whip, coil, open line.
		if y.Parts[k.ID] != "" && !k.Carried && !slices.Contains([]string{"wire", "transformer", "pole"}, k.ID) && len(k.Fills) > 0 {
			l.part(toPutUp, k.ID, k.Name, "")
		}
	}
	if y.WireM > 0 {
		l.add(toPutUp, Packed{ID: "wire", Name: y.Name + ", wires", Count: 1, Grams: y.WireM * y.from.built.Conductor().Grams,
			Why: c.Units.Long(y.WireM) + " in all"})
	}
}

// feed is the way from the radio to the wires, with the adapters between.
func (l packer) feed(y Candidate) {
	var chain []kit.Part
	take := func(kind, name, why string) {
		if p, ok := l.part(toFeed, kind, name, why); ok {
			chain = append(chain, p)
		}
	}
	if r, ok := l.bag.best("radio"); ok {
		chain = append(chain, r)
	}
	if y.from.family.Trims == family.NoTrim {
		take("tuner", "tuner", "it is not resonant")
	}
	take("coax", "coax", "")
	take("choke", "common-mode choke", "keeps the radio's current off the coax")
	if y.from.built.Transforms() != 1 {
		take("transformer", fmt.Sprintf("transformer %s", y.from.built.Ratio()), "")
	}
	for i := 1; i < len(chain); i++ {
		if x := Adapter(chain[i-1], chain[i]); x != "" {
			l.add(toFeed, Packed{ID: "adapter-" + strings.ReplaceAll(x, " ", "-"), Name: "adapter " + x, Count: 1,
				Why: "between " + chain[i-1].Name + " and " + chain[i].Name})
		}
	}
}
