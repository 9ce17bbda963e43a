package deployment

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
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

func facts(b Built, imperial bool) []fact {
	length := func(m float64) string {
		if m == 0 {
			return "none"
		}
		return Print(m, imperial)
	}
	set := func(w antenna.WireSet) string {
		if w.Count == 0 {
			return "none"
		}
		t := fmt.Sprintf("%d of %s", w.Count, length(w.Length.M))
		if w.Height.M > 0 {
			t += ", ends " + length(w.Height.M) + " up"
		}
		return t
	}
	text := func(s string) string {
		if s == "" {
			return "none"
		}
		return s
	}
	fam, _ := antenna.Named(b.Family)
	variant := b.Variant
	for _, v := range fam.Variants {
		if v.ID == b.Variant {
			variant = v.Name
		}
	}
	legs := length(b.Radiator.M)
	if b.LegB.M > 0 && math.Abs(b.LegB.M-b.Radiator.M) > 0.0005 {
		legs += " and " + length(b.LegB.M)
	} else if b.LegB.M > 0 {
		legs = "2 of " + legs
	}
	angle := "none"
	if b.ApexAngle > 0 {
		angle = fmt.Sprintf("%.0f degrees", b.ApexAngle)
	}
	coax := "none"
	if b.Coax.Type != "" {
		coax = fmt.Sprintf("%s of %s", length(b.Coax.Length.M), b.Coax.Type)
	}
	choke := map[string]string{"": "none", "feed": "at the feed", "radio": "at the radio", "along": length(b.Choke.Distance.M) + " from the feed"}[b.Choke.Place]
	var metal []string
	for _, m := range b.Metal {
		if m.Distance.M > 0 {
			m.What += " at " + length(m.Distance.M)
		}
		metal = append(metal, m.What)
	}
	wire, _ := antenna.WireNamed(b.Wire)
	if b.WireData != nil {
		wire = *b.WireData
	}
	if p, ok := b.Own["choke"]; ok && b.Choke.Place != "" {
		choke += ", " + p.Name
	}
	transformer := text(b.Ratio())
	if p, ok := b.Own["transformer"]; ok && b.Ratio() != "" {
		transformer += ", " + p.Name
	}
	tuner := "none"
	if p, ok := b.Own["tuner"]; ok {
		tuner = p.Name
	}
	power := "not recorded"
	if b.PowerW > 0 {
		power = fmt.Sprintf("%.3g W", b.PowerW)
	}
	out := []fact{
		{"family", "antenna", fam.Name}, {"variant", "hung", variant}, {"radiator", "radiator", legs}, {"wire", "wire", wire.Name},
		{"feed_height", "feed point", length(b.FeedHeight.M)}, {"far_height", "far end", length(b.FarHeight.M)},
		{"pole_height", "pole", length(b.PoleHeight.M)}, {"apex_angle", "V angle", angle}, {"bearing", "bearing", fmt.Sprintf("%.0f degrees", b.Bearing)},
		{"counterpoise", "counterpoise", set(b.Counterpoise)}, {"radials", "radials", set(b.Radials)}, {"transformer", "transformer", transformer}, {"tuner", "tuner", tuner},
		{"choke", "choke", choke}, {"coax", "coax", coax}, {"metal", "metal near", text(strings.Join(metal, ", "))}, {"wind", "wind", text(b.Wind)},
		{"power_w", "power", power},
	}
	// What only some families have.
	for _, f := range b.Fields("built") {
		t := ""
		if l, ok := b.Sizes[f.ID]; ok {
			t = length(l.M)
		} else if n, ok := b.Numbers[f.ID]; ok {
			t = strings.TrimSpace(fmt.Sprintf("%.5g %s", n, f.Unit))
		} else if t, ok = b.Words[f.ID]; !ok {
			continue
		}
		out = append(out, fact{f.ID, strings.ToLower(f.Label), text(t)})
	}
	return out
}

// Differences lists the facts in which two set-ups differ as people would read them.
func Differences(a, b Built, imperial bool) []Difference {
	fa, fb := facts(a, imperial), facts(b, imperial)
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
