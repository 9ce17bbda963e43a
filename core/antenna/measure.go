package antenna

import (
	"fmt"

	"reed/core/quantity"
)

// Compared is one piece as measured against its cut length.
type Compared struct {
	Key      string          `json:"key"`
	Name     string          `json:"name"`
	Cut      quantity.Length `json:"cut"`
	Measured quantity.Length `json:"measured,omitzero"`
	DiffMM   float64         `json:"diff_mm"`
	Percent  float64         `json:"percent"`
}

// Measure is the second look at what was cut. Tone is "even" (all as they should be), "tape" (all wrong
// by the same), "piece" (some wrong) or "none" (nothing measured yet).
type Measure struct {
	Rows     []Compared `json:"rows"`
	Tone     string     `json:"tone"`
	Sentence string     `json:"sentence"`
}

// Key names one of the equal wires of a piece, counted from 1.
func (p Piece) Key(n int) string { return fmt.Sprintf("%s %d", p.Name, n) }

// Join lists names, the most of them by their number.
func Join(names []string, most int) string {
	if len(names) > most {
		return fmt.Sprintf("%s and %d more", Join(names[:most], most), len(names)-most)
	}
	out := ""
	for i, n := range names {
		if i > 0 {
			out += ", "
		}
		out += n
	}
	return out
}
