package marks

import (
	"fmt"
	"maps"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/entry"
	"reed/core/quantity"
	"reed/core/sweep"
)

// Typed is one mark as people typed it: "hz", "swr", "note" and a text for each control.
type Typed struct {
	ID    string            `json:"id"`
	Texts map[string]string `json:"texts"`
}

// controlFields lists the fields of an antenna's controls, those of small lengths in the reader's small unit.
func controlFields(shape antenna.Shape, units quantity.System) []entry.Field {
	var out []entry.Field
	for _, c := range family.Of(shape).Controls() {
		f := c.Field
		if f.Help == "" {
			f.Help = "from " + c.Edge
		}
		if f.Kind == entry.Size && units == quantity.FeetInches {
			f.Unit = "in"
		}
		out = append(out, f)
	}
	return out
}

// Fields lists what is asked for a mark of this antenna: the frequency, its controls, and what was found.
func Fields(shape antenna.Shape, units quantity.System) []entry.Field {
	out := []entry.Field{{ID: "hz", Label: "Frequency", Kind: entry.Frequencies, Unit: "MHz", Must: true}}
	out = append(out, controlFields(shape, units)...)
	return append(out, entry.Field{ID: "swr", Label: "SWR found", Kind: entry.Amount, Min: 1, Max: 1000},
		entry.Field{ID: "peaked", Label: "Peak reading", Kind: entry.Words, Help: "field strength with its unit, or the noise"},
		entry.Field{ID: "note", Label: "Note", Kind: entry.Words})
}

// Seen is a mark as a sweep shows it, to be kept as it is or changed: texts by field, and what they say.
type Seen struct {
	Says  string            `json:"says"`
	Texts map[string]string `json:"texts"`
}

// FromSweep makes marks of the dips that a sweep shows in the bands, with those of the settings that the swept set-up
// records. An overview shows dips, but is too coarse to mark them.
func FromSweep(s sweep.Sweep, c sweep.Curve, built antenna.Shape, region band.Region, units quantity.System) []Seen {
	var out []Seen
	if s.Wide() {
		return out
	}
	for _, b := range band.All(region) {
		if r, ok := sweep.Read(c, region, b, nil, 2); ok && !r.AtEdge && nearest(region, r.MinAt) == b.Name {
			out = append(out, seen(built, r.MinAt, r.MinSWR, units))
		}
	}
	return out
}

func seen(built antenna.Shape, hz, swr float64, units quantity.System) Seen {
	out := Seen{Texts: map[string]string{"hz": quantity.ToKHz(hz), "swr": fmt.Sprintf("%.2f", swr)}}
	says := []string{quantity.ToKHz(hz) + " MHz", "SWR " + out.Texts["swr"]}
	for _, c := range family.Of(built).Controls() {
		v := built.N(c.ID, 0)
		if c.Kind == entry.Length || c.Kind == entry.Size {
			v = built.M(c.ID)
		}
		if v > 0 {
			out.Texts[c.ID] = print(c, v, units)
			says = append(says, lower(c.Label)+" "+out.Texts[c.ID])
		}
	}
	out.Says = strings.Join(says, ", ")
	return out
}

// Read puts typed marks in the place of those of a set. A mark that stays as it was keeps what it was found
// with; a new or a changed one holds for today. Faults name marks.N.field.
func (s Set) Read(rows []Typed, shape antenna.Shape, today Held, unit string) (Set, []entry.Fault) {
	was := map[string]Mark{}
	for _, m := range s.Marks {
		was[m.ID] = m
	}
	fields := Fields(shape, quantity.In(unit))
	var faults []entry.Fault
	s.Marks = []Mark{}
	for i, row := range rows {
		v, bad := entry.Read(fields, row.Texts, unit)
		if _, two := v.Numbers[entry.Nth("hz", 1)]; two {
			bad = append(bad, entry.Fault{Path: "hz", Severity: "error", Text: "one frequency per mark"})
		}
		for _, f := range bad {
			f.Path = fmt.Sprintf("marks.%d.%s", i, f.Path)
			faults = append(faults, f)
		}
		m := Mark{ID: row.ID, Hz: v.Numbers["hz"], SWR: v.Numbers["swr"], Note: strings.TrimSpace(v.Words["note"]), Held: today,
			Peaked: strings.TrimSpace(v.Words["peaked"])}
		for _, id := range []string{"hz", "swr", "note", "peaked"} {
			v.Drop(id)
		}
		m.Values = v
		if old, ok := was[m.ID]; ok && old.Hz == m.Hz && old.SWR == m.SWR && old.Peaked == m.Peaked && alike(old.Values, m.Values) {
			m.Held = old.Held
		}
		s.Marks = append(s.Marks, m)
	}
	return s, faults
}

// alike compares readings to half a millimetre, since a text may have been printed in between.
func alike(a, b entry.Values) bool {
	if len(a.Sizes) != len(b.Sizes) || !maps.Equal(a.Numbers, b.Numbers) || !maps.Equal(a.Words, b.Words) {
		return false
	}
	for k, l := range a.Sizes {
		if d := l.M - b.Sizes[k].M; d > 5e-4 || d < -5e-4 {
			return false
		}
	}
	return true
}
