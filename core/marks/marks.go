// Package marks keeps the settings of antennas that are set, not cut: tap, whip, sections and dials per
// frequency with the SWR found there and what they hold for. It says what to set for another frequency, by a
// law of the antenna fitted to the marks, and warns when today's set-up is not that of the marks.
package marks

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/quantity"
)

// Held records what a mark was found with: the set-up, its place and its ground (a preset's ID).
type Held struct {
	Built  deployment.Built `json:"built"`
	Place  string           `json:"place,omitempty"`
	Ground string           `json:"ground,omitempty"`
	Date   string           `json:"date,omitempty"`
}

// Mark is one found setting. SWR of 0 was not noted.
type Mark struct {
	ID  string  `json:"id"`
	Hz  float64 `json:"hz"`
	SWR float64 `json:"swr,omitempty"`
	// Peaked is the reading that it was turned to instead: a field strength, the noise.
	Peaked string `json:"peaked,omitempty"`
	Note   string `json:"note,omitempty"`
	Held   Held   `json:"held"`
	entry.Values
}

// Set is the marks of one antenna. Edges says, by control, from where readings are counted, where that is not
// the usual place.
type Set struct {
	ID           string            `json:"id"`
	Name         string            `json:"name"`
	Family       string            `json:"family"`
	DeploymentID string            `json:"deployment_id"` // where it was begun
	Edges        map[string]string `json:"edges,omitempty"`
	Marks        []Mark            `json:"marks"`
	Version      int               `json:"version"`
	Deleted      bool              `json:"deleted,omitempty"`
}

// Edge is from where a control of this set is counted.
func (s Set) Edge(c family.Control) string {
	if e := strings.TrimSpace(s.Edges[c.ID]); e != "" {
		return e
	}
	return c.Edge
}

// reading is a control's setting as one number: metres for lengths, counts otherwise.
func reading(c family.Control, m Mark) (float64, bool) {
	if c.Kind == entry.Length || c.Kind == entry.Size {
		l, ok := m.Sizes[c.ID]
		return l.M, ok && !l.IsZero()
	}
	n, ok := m.Numbers[c.ID]
	return n, ok
}

// controls are those of the antenna, each as the set's marks read it.
func (s Set) controls(shape antenna.Shape) []family.Control {
	out := family.Of(shape).Controls()
	for i, c := range out {
		if k := slices.IndexFunc(s.Marks, func(m Mark) bool { _, ok := reading(c, m); return ok }); k >= 0 {
			out[i].Marked = s.Marks[k].Words[c.ID]
		}
	}
	return out
}

// stepped reports whether a control has positions and nothing between them: a switch, or letters that never were read between.
func (s Set) stepped(c family.Control) bool {
	return c.Marked == entry.Positions || c.Marked == entry.Letters && !slices.ContainsFunc(s.Marks, func(m Mark) bool {
		v, ok := reading(c, m)
		return ok && v != math.Trunc(v)
	})
}

// Used are the controls that at least one mark of the set names.
func (s Set) Used(shape antenna.Shape) []family.Control {
	var out []family.Control
	for _, c := range s.controls(shape) {
		if slices.ContainsFunc(s.Marks, func(m Mark) bool { _, ok := reading(c, m); return ok }) {
			out = append(out, c)
		}
	}
	return out
}

// print writes a reading as one reads it off.
func print(c family.Control, v float64, units quantity.System) string {
	switch c.Kind {
	case entry.Size:
		return units.Small(v)
	case entry.Length:
		return units.Exact(v)
	}
	return entry.WriteDial(v, c.Marked)
}

// give is how far to both sides a setting is unsure, as one says it.
func give(c family.Control, v float64, units quantity.System) string {
	unit := map[string]string{entry.Letters: "letter", entry.Positions: "position"}[c.Marked]
	switch {
	case unit == "":
		return "± " + print(c, v, units)
	case v <= 1:
		return "± one " + unit
	}
	return fmt.Sprintf("± %.0f %ss", math.Ceil(v), unit)
}

// Check says what of a set cannot be or is unlikely. Paths are marks.N.field. A mark that the others do not
// foresee is asked after: most often it is a slip of the pen.
func (s Set) Check(region band.Region, shape antenna.Shape, units quantity.System) []entry.Fault {
	var out []entry.Fault
	add := func(i int, field, severity, format string, args ...any) {
		out = append(out, entry.Fault{Path: fmt.Sprintf("marks.%d.%s", i, field), Severity: severity, Text: fmt.Sprintf(format, args...)})
	}
	if strings.TrimSpace(s.Name) == "" {
		out = append(out, entry.Fault{Path: "name", Severity: "error",
			Text: "a name is missing; what stands on the coil, like loaded whip, short radials"})
	}
	controls := s.controls(shape)
	for i, m := range s.Marks {
		for _, c := range controls {
			if _, ok := reading(c, m); ok && c.Kind == entry.Dial && m.Words[c.ID] != c.Marked {
				add(i, c.ID, "error", "%s stands beside %s on the same dial: write all of them in one way, by numbers, letters or positions",
					entry.WriteDial(m.Numbers[c.ID], m.Words[c.ID]), s.first(c))
			}
		}
		switch {
		case m.Hz < 1e5 || m.Hz > 60e6:
			add(i, "hz", "error", "%s MHz found; expected 0.1 to 60", quantity.MHz(m.Hz))
		case nearest(region, m.Hz) == "":
			add(i, "hz", "ask", "%s MHz is in no amateur band: is it what you meant?", quantity.MHz(m.Hz))
		}
		if m.SWR != 0 && (m.SWR < 1 || m.SWR > 1000) {
			add(i, "swr", "error", "SWR of %.3g found; it is never under 1", m.SWR)
		}
		if !slices.ContainsFunc(controls, func(c family.Control) bool { _, ok := reading(c, m); return ok }) {
			add(i, controls[0].ID, "error", "no setting is noted; type at least one")
		}
	}
	if len(out) > 0 {
		return out
	}
	for i, m := range s.Marks {
		others := s
		others.Marks = slices.Delete(slices.Clone(s.Marks), i, i+1)
		for _, c := range controls {
			at, ok := reading(c, m)
			if !ok {
				continue
			}
			want := others.along(c, others.held(controls, c, m, shape), shape, m.Hz)
			// Only between other marks are the others good judges.
			if !want.ok || !want.inside || want.of < 2 {
				continue
			}
			if off := math.Abs(at - want.value); off > 4*want.sd && off > 0.12*math.Abs(want.value) {
				add(i, c.ID, "ask", "%s MHz: the marks beside it foresee %s, not %s; look whether this is a slip", quantity.ToKHz(m.Hz),
					print(c, want.value, units), print(c, at, units))
			}
		}
	}
	return out
}

// first is a dial's reading of the first mark that has one.
func (s Set) first(c family.Control) string {
	for _, m := range s.Marks {
		if n, ok := reading(c, m); ok {
			return entry.WriteDial(n, m.Words[c.ID])
		}
	}
	return ""
}

// nearest is the band that holds a frequency, empty without one.
func nearest(region band.Region, hz float64) string {
	if b := band.Nearest(region, hz); hz >= b.Lo*0.995 && hz <= b.Hi*1.005 {
		return b.Name
	}
	return ""
}

// sections and whip length are two readings of the same thing.
func sections(a, b family.Control) bool {
	return a.ID == "sections" && b.ID == "radiator" || a.ID == "radiator" && b.ID == "sections"
}
