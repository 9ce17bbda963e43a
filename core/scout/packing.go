package scout

import (
	"fmt"
	"slices"
	"strings"

	"reed/core/antenna/family"
	"reed/core/kit"
)

// PackedGroup is the part of the packing list that is needed at one time.
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
	toSpare   = "spares"
	toStay    = "for yourself"
)

// What a plug carries.
const (
	radioFrequency = "rf"
	supply         = "power"
	sound          = "audio"
)

// plugs are the kinds of a connector, by what people call them.
var plugs = []struct {
	id, carries string
	words       []string
}{{"PL", radioFrequency, []string{"pl", "pl259", "pl-259", "so239", "so-239", "uhf"}}, {"BNC", radioFrequency, []string{"bnc"}},
	{"N", radioFrequency, []string{"n"}}, {"SMA", radioFrequency, []string{"sma"}},
	{"binding post", radioFrequency, []string{"binding post", "posts", "banana", "wing nut"}},
	{"2.1 mm barrel", supply, []string{"2.1 mm barrel", "barrel 2.1", "barrel"}}, {"2.5 mm barrel", supply,
		[]string{"2.5 mm barrel", "barrel 2.5"}},
	{"blades", supply, []string{"blades", "blade", "red and black blades"}}, {"rings", supply, []string{"rings", "ring terminals",
		"bare wire"}},
	{"12 V socket", supply, []string{"12 v socket", "car socket"}},
	{"3.5 mm", sound, []string{"3.5 mm", "3.5", "jack"}}, {"6.3 mm", sound, []string{"6.3 mm", "6.35 mm"}}, {"mini-DIN", sound,
		[]string{"mini-din", "din"}},
	{"USB", sound, []string{"usb", "usb-c", "usb-b", "usb-a"}}}

// plugsOf reads what a part's connectors of a kind are.
func plugsOf(text, carries string) (out []string) {
	text = strings.ReplaceAll(strings.ToLower(text), " to ", ";")
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(",;/+", r) }) {
		w = strings.TrimSpace(w)
		for _, x := range plugs {
			if x.carries == carries && slices.Contains(x.words, w) {
				out = append(out, x.id)
			}
		}
	}
	return out
}

// adapter names the adapter between two lists of plugs; empty where they fit, or where one is not known.
func adapter(from, to []string) string {
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

// Adapter names the adapter between two parts of a coax run; empty where they fit, or where one is not known.
func Adapter(a, b kit.Part) string {
	return adapter(plugsOf(a.W("connectors", ""), radioFrequency), plugsOf(b.W("connectors", ""), radioFrequency))
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
	list.work(c)
	list.add(toSpare, Packed{ID: "tape", Name: "tape, ties, knife", Count: 1})
	list.add(toSpare, Packed{ID: "string", Name: "spare string", Count: 1, Why: "10 m"})
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
	for _, when := range []string{forgotten, toPutUp, toFeed, toWork, toSpare, toStay} {
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

// putUp lists what holds it.
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
		for _, s := range l.bag.parts("stake") {
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
		l.adapt(toFeed, Adapter(chain[i-1], chain[i]), radioFrequency, "between "+chain[i-1].Name+" and "+chain[i].Name)
	}
}

// adapt adds the adapter that is named, from the bag where it has one that carries so from the one plug to the other.
func (l packer) adapt(when, name, carries, why string) {
	if name == "" {
		return
	}
	from, to, _ := strings.Cut(name, " to ")
	x := Packed{ID: "adapter-" + strings.ReplaceAll(name, " ", "-"), Name: "adapter " + name, Count: 1, Why: why, Missing: !l.bag.empty}
	for _, p := range l.bag.parts("adapter") {
		if has := plugsOf(p.W("connectors", ""), carries); slices.Contains(has, from) && slices.Contains(has, to) {
			x.Name, x.Grams, x.Missing = p.Name+", "+name, p.Grams(), false
			break
		}
	}
	l.add(when, x)
}

// work lists the station: radio, battery, adapters between them, and what feeds them.
func (l packer) work(c Case) {
	l.add(toWork, Packed{ID: "key", Name: "microphone or key", Count: 1})
	l.add(toWork, Packed{ID: "log", Name: "log, pencil", Count: 1, Why: "for when the phone is empty"})
	radio, _ := l.part(toWork, "radio", "radio", "")
	cell, powered := l.part(toWork, "battery", "battery, charged", "")
	plug := func(p kit.Part, carries string) []string { return plugsOf(p.W("connectors", ""), carries) }
	l.adapt(toWork, adapter(plug(cell, supply), plug(radio, supply)), supply, "between "+cell.Name+" and "+radio.Name)
	fuse := "spare fuse"
	if a := cell.N("fuse_a", 0); a > 0 {
		fuse = fmt.Sprintf("spare fuse, %.4g A", a)
	}
	l.add(toSpare, Packed{ID: "fuse", Name: fuse, Count: 2})
	if need, lasts := c.lasting(); powered && lasts > 0 && lasts < need {
		second := Packed{ID: "battery-2", Name: "second battery", Count: 1, Why: fmt.Sprintf("one lasts %.1f of %.1f hours", lasts, need),
			Missing: !l.bag.empty}
		if list := l.bag.parts("battery"); len(list) > 1 {
			other := list[0]
			if other.ID == cell.ID {
				other = list[1]
			}
			second.Name, second.Grams, second.Missing = other.Name, other.Grams(), false
		}
		l.add(toWork, second)
	}
	if c.Purpose.Mode == "digital" {
		l.add(toWork, Packed{ID: "audio", Name: "computer and audio cable", Count: 1, Why: "slow digital modes"})
		l.adapt(toWork, adapter(plug(radio, sound), []string{"USB", "3.5 mm"}), sound, "between "+radio.Name+" and the computer")
	}
}
