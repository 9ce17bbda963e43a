package antenna

import (
	"fmt"
	"math"
	"strings"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func linked() Family {
	return Family{
		ID: "linked-dipole", Name: "Linked dipole", Short: "linked", Group: "balanced", Multi: true, Trims: "wire",
		Variants: []Variant{{"inverted-v", "inverted V"}, {"flat", "flat"}},
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one for each band, like 7.1 10.12 14.06"), askBuilt("radiator", "First leg"), askBuilt("leg_b", "Second leg")}
			for i := range len(s.More) {
				f := askLength(LinkID(i), fmt.Sprintf("Link %d from the feed", i+1), 100)
				f.Only = "built"
				out = append(out, f)
			}
			out = append(out, askFeed, askPole)
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			return append(out, askLength("link_gap", "Gap of an open link", 1), askBearing)
		},
		plan: planLinked, layout: layLinked,
	}
}

// LinkID is the field of the i-th link from the feed, counted from 0.
func LinkID(i int) string { return fmt.Sprintf("link_%d", i+1) }

func planLinked(r Request, w Wire, g earth.Ground) Plan {
	s := r.Shape
	s.FeedHeight = lengthOr(s.FeedHeight, or(s.PoleHeight.M, 6))
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
	gap := s.size("link_gap", 0.02)
	all := s.All()
	bend := 1.0
	if s.Variant == "inverted-v" {
		s.ApexAngle = or(s.ApexAngle, 120)
		bend, _ = vFactor(s.ApexAngle)
	}
	p := Plan{Expect: "about 50 to 75 ohm on each band with its links set; only one band at a time"}
	t := Table{Title: "Links by band", Columns: []string{"MHz", "each leg", "links closed", "expect"},
		Note: "Trim the highest band first: every section further out begins at its link."}
	before := 0.0
	for i, f := range all {
		k, z := halfWaveFactor(f, s.FeedHeight.M, w, g)
		leg := k.Value * bend * Light / f / 4
		if i == 0 {
			p.Factor = Factor{Value: k.Value * bend, Lo: k.Lo * bend, Hi: k.Hi * bend, Why: append(k.Why, fmt.Sprintf("V %.3f", bend), "what hangs beyond an open link pulls the band below by up to 1 %")}
		}
		section := leg - before
		if i > 0 {
			section -= gap
		}
		if section < 0.05 {
			p.Faults = append(p.Faults, fault("frequency_hz", "ask", fmt.Sprintf("%s and %s MHz need legs only %s apart: one setting serves both", quantity.ToKHz(all[i-1]), quantity.ToKHz(f), r.say(math.Max(0, leg-before)))))
			section = math.Max(section, 0.01)
			leg = before + section
		}
		name := fmt.Sprintf("section %d, to %s MHz", i+1, quantity.ToKHz(f))
		p.Pieces = append(p.Pieces, piece(r, name, 2, section, 2))
		closed := fmt.Sprintf("%d", i)
		if i == 0 {
			closed = "none"
		} else if i == len(all)-1 {
			closed = "all"
		}
		res := real(z) * bend * bend
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), r.say(leg), closed, fmt.Sprintf("%.0f ohm, SWR %.1f", res, math.Max(res/50, 50/res))})
		if i < len(all)-1 {
			s.Put(LinkID(i), lengthOr(s.Sizes[LinkID(i)], leg))
		}
		before = leg
	}
	s.Radiator, s.LegB = lengthOr(s.Radiator, before), lengthOr(s.LegB, before)
	p.Shape, p.Tables = s, []Table{t}
	var cuts []string
	for _, x := range p.Pieces {
		cuts = append(cuts, r.say(x.Cut.M))
	}
	p.Sentence = fmt.Sprintf("Cut for each leg, from the feed outward: %s.", strings.Join(cuts, ", "))
	p.Schools = []School{
		{"several bands", "links, lowered to change", fmt.Sprintf("%d links each side, no loss", len(all)-1), "resonant, no tuner; each change costs a walk"},
		{"several bands", "doublet, open line and tuner", "line and tuner 0.3 to 2 dB", "any band from the chair; tuner needed"},
	}
	return p
}

func layLinked(s Shape) (Drawing, []Fault) {
	d, faults := layDipole(s)
	for i := range len(s.More) {
		if m := s.M(LinkID(i)); m > 0 && len(d.Lines) > 1 {
			for _, l := range d.Lines {
				if l.Role == "radiator" && l.Length() > m {
					d.Spots = append(d.Spots, Spot{"link", between(l.From, l.To, m/l.Length()), fmt.Sprintf("link %d", i+1)})
				}
			}
		}
	}
	for i := 1; i < len(s.More); i++ {
		if a, b := s.M(LinkID(i-1)), s.M(LinkID(i)); a > 0 && b > 0 && b <= a {
			faults = append(faults, fault(LinkID(i), "error", fmt.Sprintf("link %d at %s lies inside link %d at %s", i+1, quantity.Metric(b, 10), i, quantity.Metric(a, 10))))
		}
	}
	if n := len(s.More); n > 0 && s.Radiator.M > 0 && s.M(LinkID(n-1)) >= s.Radiator.M {
		faults = append(faults, fault(LinkID(n-1), "error", "the outermost link lies beyond the leg's end"))
	}
	return d, faults
}
