package family

import (
	"fmt"
	"math"
	"strings"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func linked() Family {
	return Family{
		ID: "linked-dipole", Name: "Linked dipole", Short: "linked dipole", Group: "fed in the middle", Multi: true, Trims: Wired,
		matters: []string{"pole_height", "apex_angle"},
		Variants: []Variant{
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M8 40L28 29M33 26.5L60 12L87 26.5M92 29L112 40", Pole: "M60 12V46",
				Feed: [2]float64{60, 12}}},
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M6 14H28M34 14H86M92 14H114", Pole: "M60 14V46", Feed: [2]float64{60, 14}}},
		},
		Feeding: Whole, Why: "What hangs beyond an open link, and the ground under a V, are in the solved lengths.",
		knobs: knobsLinked, set: setLegs, mend: mendLegs, electric: electricLinked,
		wires: func(s antenna.Shape) (out []string) {
			for i := range s.More {
				out = append(out, LinkID(i))
			}
			return out
		},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one for each band, like 7.1 10.12 14.06"), askBuilt("radiator", "First leg"),
				askBuilt("leg_b", "Second leg")}
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

// legOf is the field of what hangs on the i-th band from the highest: to its link, or the whole leg.
func legOf(s antenna.Shape, i int) string {
	if i < len(s.More) {
		return LinkID(i)
	}
	return antenna.Radiator
}

func planLinked(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, 6))
	s.Fill(antenna.PoleHeight, s.FeedHeight().M)
	gap := s.Fill("link_gap", 0.02)
	all := s.All()
	if s.Variant == "inverted-v" {
		s.PutNumber(antenna.ApexAngle, antenna.Or(s.ApexAngle(), 120))
	}
	p := antenna.Plan{}
	least, most := math.Inf(1), 0.0
	t := antenna.Table{Title: "Links by band", Columns: []string{"MHz", "each leg", "links closed", "expect"},
		Note: "Trim the highest band first: every section further out begins at its link."}
	before := 0.0
	for i, f := range all {
		k, res := hung(s, f, w, g)
		least, most = math.Min(least, res), math.Max(most, res)
		leg := k.Value * quarterWave(f)
		if i == 0 {
			p.Factor = k
			p.Factor.Why = append(p.Factor.Why, "what hangs beyond an open link pulls the band below by up to 1 %")
			leg = settle(&p.Factor, s.M(legOf(s, i)), leg)
		}
		leg = antenna.Or(s.M(legOf(s, i)), leg)
		section := leg - before
		if i > 0 {
			section -= gap
		}
		typed := s.M(legOf(s, i)) > 0
		switch {
		case section >= 0.05:
		case typed && i == 0:
			p.Faults = append(p.Faults, antenna.Say(legOf(s, i), "error", "%s is too short for a leg; expected 5 cm or more", say(r, leg)))
		case typed:
			p.Faults = append(p.Faults, antenna.Say(legOf(s, i), "error", "%s for %s MHz is no longer than the %s for %s MHz", say(r, leg),
				quantity.ToKHz(f), say(r, before), quantity.ToKHz(all[i-1])))
		default:
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask", "%s and %s MHz need legs only %s apart: one setting serves both",
				quantity.ToKHz(all[i-1]), quantity.ToKHz(f), say(r, math.Max(0, leg-before))))
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
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), say(r, leg), closed,
			fmt.Sprintf("%.0f ohm, SWR %.1f", res, antenna.SWR50(complex(res, 0)))})
		if i < len(all)-1 {
			s.Put(LinkID(i), antenna.LengthOr(s.Sizes[LinkID(i)], leg))
		}
		before = leg
	}
	s.Fill(antenna.Radiator, before)
	s.Fill(antenna.LegB, before)
	p.Expect = fmt.Sprintf("about %.0f to %.0f ohm with the links of a band set; only one band at a time", least, most)
	if most-least < 1 {
		p.Expect = fmt.Sprintf("about %.0f ohm with the links of a band set; only one band at a time", most)
	}
	p.Shape, p.Tables = s, []antenna.Table{t}
	var cuts []string
	for _, x := range p.Pieces {
		cuts = append(cuts, say(r, x.Cut.M))
	}
	p.Sentence = fmt.Sprintf("Cut for each leg, from the feed outward: %s.", strings.Join(cuts, ", "))
	p.Schools = []antenna.School{
		school("several bands", "links, lowered to change", fmt.Sprintf("%d links each side, no loss", len(all)-1),
			"resonant, no tuner; each change costs a walk"),
		school("several bands", "doublet, open line and tuner", "line and tuner 0.3 to 2 dB", "any band from the chair; tuner needed"),
	}
	return p
}

func layLinked(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layDipole(s)
	for i := range len(s.More) {
		if m := s.M(LinkID(i)); m > 0 && len(d.Lines) > 1 {
			for _, l := range d.Lines {
				if l.Role == "radiator" && l.Length() > m {
					d.Spots = append(d.Spots, antenna.Spot{Kind: "link", At: antenna.Between(l.From, l.To, m/l.Length()),
						Text: fmt.Sprintf("link %d", i+1)})
				}
			}
		}
	}
	for i := 1; i < len(s.More); i++ {
		if a, b := s.M(LinkID(i-1)), s.M(LinkID(i)); a > 0 && b > 0 && b <= a {
			faults = append(faults, antenna.Say(LinkID(i), "error", "link %d at %s lies inside link %d at %s", i+1, quantity.Long(b), i,
				quantity.Long(a)))
		}
	}
	if n := len(s.More); n > 0 && s.Radiator().M > 0 && s.M(LinkID(n-1)) >= s.Radiator().M {
		faults = append(faults, antenna.FaultAt(LinkID(n-1), "error", "the outermost link lies beyond the leg's end"))
	}
	return d, faults
}

// knobsLinked are the legs up to each link, and the whole legs.
func knobsLinked(s antenna.Shape) (out []Knob) {
	for i, f := range s.All() {
		out = append(out, Knob{Field: legOf(s, i), Piece: fmt.Sprintf("section %d, to %s MHz", i+1, quantity.ToKHz(f)),
			Label: "leg up to its link for " + quantity.ToKHz(f) + " MHz", F: f, Legs: 2, Nested: true})
	}
	return out
}

// electricLinked opens the links beyond those of the wanted band.
func electricLinked(s antenna.Shape, f float64, e *antenna.Electric) {
	all := s.All()
	band := 0
	for i := range all {
		if math.Abs(all[i]-f) < math.Abs(all[band]-f) {
			band = i
		}
	}
	e.Gap = math.Max(0.01, s.M("link_gap"))
	for i := band; i < len(all)-1; i++ {
		if at := s.M(LinkID(i)); at > 0 && at < s.Radiator().M {
			e.Open = append(e.Open, at)
		}
	}
}
