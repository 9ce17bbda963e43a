package deployment

import (
	"fmt"
	"math"

	"reed/core/antenna/family"
	"reed/core/kit"
	"reed/core/quantity"
)

// Effort holds the cost of a set-up: the minutes until it was on the air, its known weight, its wire, its footprint,
// strings and all, and how high it stands. 0 is not known.
type Effort struct {
	Minutes    int
	Clocked    bool
	Grams      float64
	Unweighed  bool // a pole or another part whose weight is not known is not in the grams
	Wire       float64
	Long, Wide float64
	High       float64
}

// EffortOf is the effort of a set-up, with the things of the bag that it is built of.
func EffortOf(b Built, c Clock, bag map[string]kit.Part) Effort {
	e := Effort{Minutes: c.Minutes(), Clocked: true}
	if e.Minutes == 0 {
		e.Minutes, e.Clocked = b.SetupMinutes, false
	}
	drawing, _ := family.Of(b.Shape).Layout()
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	line := false
	for _, l := range drawing.Lines {
		switch line = line || l.Role == "line"; l.Role {
		case "pole", "string", "fence", "rod", "line": // a line is a part of the bag
		default:
			e.Wire += l.Length()
		}
		if l.Role != "string" {
			e.High = math.Max(e.High, math.Max(l.From[2], l.To[2]))
		}
		for _, p := range [][3]float64{l.From, l.To} {
			for i := range lo {
				lo[i], hi[i] = math.Min(lo[i], p[i]), math.Max(hi[i], p[i])
			}
		}
	}
	if len(drawing.Lines) > 0 {
		e.Long, e.Wide = math.Max(hi[0]-lo[0], hi[1]-lo[1]), math.Min(hi[0]-lo[0], hi[1]-lo[1])
	}
	e.Grams = e.Wire * b.Conductor().Grams
	if cable, ok := b.Coax.Cable(); ok {
		e.Grams += b.Coax.Length.M * cable.Grams
	}
	for _, k := range kit.Kinds() {
		if k.ID == "wire" || k.ID == "coax" {
			continue
		}
		part, ok := bag[b.Parts[k.ID]]
		e.Grams += part.Grams()
		e.Unweighed = e.Unweighed || ok && part.Grams() == 0 || !ok && (k.ID == "pole" && e.High > 1.5 || k.ID == "line" && line)
	}
	return e
}

// Efforts lays two efforts beside each other.
func Efforts(a, b Effort, units quantity.System) []Difference {
	var out []Difference
	row := func(field, label string, text func(Effort) string) {
		if x, y := text(a), text(b); x != "" || y != "" {
			if x == "" {
				x = "not known"
			}
			if y == "" {
				y = "not known"
			}
			out = append(out, Difference{field, label, x, y})
		}
	}
	row("minutes", "on the air after", func(e Effort) string {
		switch {
		case e.Minutes == 0:
			return ""
		case e.Clocked:
			return fmt.Sprintf("%d min by the clock", e.Minutes)
		}
		return fmt.Sprintf("%d min as noted", e.Minutes)
	})
	row("grams", "weight", func(e Effort) string {
		said := fmt.Sprintf("%.1f kg", e.Grams/1000)
		if e.Unweighed {
			said += " some items have no weight"
		}
		return said
	})
	row("wire", "wire", func(e Effort) string { return units.Long(e.Wire) })
	row("ground", "footprint", func(e Effort) string {
		if e.Long == 0 {
			return ""
		}
		return fmt.Sprintf("%s by %s, %.0f m2", units.Whole(e.Long), units.Whole(math.Max(e.Wide, 1)), math.Max(e.Long, 1)*math.Max(e.Wide, 1))
	})
	row("high", "highest point", func(e Effort) string {
		if e.High == 0 {
			return ""
		}
		return units.Long(e.High)
	})
	return out
}
