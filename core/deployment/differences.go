package deployment

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

// Difference is one fact that two set-ups do not share, as text.
type Difference struct {
	Field string `json:"field"`
	Label string `json:"label"`
	A     string `json:"a"`
	B     string `json:"b"`
}

// fact is one comparable line of a set-up. Texts that are equal do not differ.
type fact struct{ field, label, text string }

func facts(b Built, units quantity.System) []fact {
	p := printer{units}
	fam := family.Of(b.Shape).Kind()
	variant := b.Variant
	for _, v := range fam.Variants {
		if v.ID == b.Variant {
			variant = v.Name
		}
	}
	wire, _ := b.WireKind()
	out := []fact{
		{"family", "antenna", fam.Name}, {"variant", "hung", variant}, {"radiator", "radiator", p.legs(b)}, {"wire", "wire", wire.Name},
		{"feed_height", "feed point", p.length(b.FeedHeight().M)}, {"far_height", "far end", p.length(b.FarHeight().M)},
		{"pole_height", "pole", p.length(b.PoleHeight().M)}, {"apex_angle", "V angle", p.when(b.ApexAngle() > 0, "%.0f degrees", b.ApexAngle())},
		{"bearing", "bearing", fmt.Sprintf("%.0f degrees", b.Bearing())},
		{"counterpoise", "counterpoise", p.set(b.Counterpoise())}, {"radials", "radials", p.set(b.Radials())},
		{"transformer", "transformer", p.own(p.text(b.Ratio()), b, "transformer")}, {"tuner", "tuner", p.text(b.Own["tuner"].Name)},
		{"ground", "ground", p.ground(b.Ground)}, {"choke", "choke", p.choke(b)},
		{"coax", "coax", p.when(b.Coax.Type != "", "%s of %s", p.length(b.Coax.Length.M), b.Coax.Type)},
		{"metal", "metal near", p.metal(b)}, {"wind", "wind", p.text(b.Wind)}, {"power_w", "power", p.power(b)},
	}
	// What only some families have.
	for _, f := range family.Of(b.Shape).Fields("built") {
		if antenna.Common(f.ID) {
			continue
		}
		t := ""
		if l, ok := b.Sizes[f.ID]; ok {
			t = p.length(l.M)
		} else if n, ok := b.Numbers[f.ID]; ok {
			t = strings.TrimSpace(fmt.Sprintf("%.5g %s", n, f.Unit))
		} else if t, ok = b.Words[f.ID]; !ok {
			continue
		}
		out = append(out, fact{f.ID, strings.ToLower(f.Label), p.text(t)})
	}
	return out
}

// printer prints facts for a reader; what there is none of is "none".
type printer struct{ units quantity.System }

func (p printer) ground(id string) string {
	if g, ok := earth.Kind(id); ok {
		return strings.ToLower(g.Name)
	}
	return "as planned"
}

func (p printer) text(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

func (p printer) when(there bool, format string, args ...any) string {
	if !there {
		return "none"
	}
	return fmt.Sprintf(format, args...)
}

func (p printer) length(m float64) string { return p.when(m != 0, "%s", p.units.Long(m)) }

func (p printer) set(w antenna.WireSet) string {
	t := p.when(w.Count > 0, "%d of %s", w.Count, p.length(w.Length.M))
	if w.Count > 0 && w.Height.M > 0 {
		t += ", ends " + p.length(w.Height.M) + " up"
	}
	return t
}

func (p printer) legs(b Built) string {
	first, second := b.Radiator().M, b.LegB().M
	switch {
	case second > 0 && math.Abs(second-first) > 0.0005:
		return p.length(first) + " and " + p.length(second)
	case second > 0:
		return "2 of " + p.length(first)
	}
	return p.length(first)
}

// own adds the name of one's own thing, where there is anything.
func (p printer) own(text string, b Built, role string) string {
	if part, ok := b.Own[role]; ok && text != "none" {
		return text + ", " + part.Name
	}
	return text
}

func (p printer) choke(b Built) string {
	places := map[string]string{"": "none", "feed": "at the feed", "radio": "at the radio",
		"along": p.length(b.Choke.Distance.M) + " from the feed"}
	return p.own(places[b.Choke.Place], b, "choke")
}

func (p printer) metal(b Built) string {
	var out []string
	for _, m := range b.Metal {
		if m.What == "" {
			m.What = m.Sort().Name
		}
		if m.Size.M > 0 {
			m.What += " of " + p.length(m.Size.M)
		}
		if m.Distance.M > 0 {
			m.What += " at " + p.length(m.Distance.M)
		}
		out = append(out, m.What)
	}
	return p.text(strings.Join(out, ", "))
}

func (p printer) power(b Built) string {
	if b.PowerW > 0 {
		return fmt.Sprintf("%.3g W", b.PowerW)
	}
	return "not recorded"
}

// Differences lists the facts in which two set-ups differ as people would read them.
func Differences(a, b Built, units quantity.System) []Difference {
	if a.Ground == "" || b.Ground == "" {
		a.Ground, b.Ground = "", "" // of one nobody said it
	}
	fa, fb := facts(a, units), facts(b, units)
	of := func(list []fact, f fact) fact {
		for _, x := range list {
			if x.field == f.field {
				return x
			}
		}
		return fact{f.field, f.label, "none"}
	}
	out := []Difference{}
	for _, x := range fa {
		if y := of(fb, x); y.text != x.text {
			out = append(out, Difference{x.field, x.label, x.text, y.text})
		}
	}
	for _, y := range fb {
		if y.text != "none" && !slices.ContainsFunc(fa, func(x fact) bool { return x.field == y.field }) {
			out = append(out, Difference{y.field, y.label, "none", y.text})
		}
	}
	return out
}
