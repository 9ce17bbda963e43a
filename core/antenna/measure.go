package antenna

import (
	"fmt"
	"math"

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

// twice compares what was measured with what was to be cut. A difference that is the same share in every
// piece, or the same length, is the tape's and not the cutter's: with at least two pieces, off by 0.5 % or
// 1 cm and more, and three times as much as they scatter.
func (r Request) twice(pieces []Piece) *Measure {
	m := Measure{Rows: []Compared{}, Tone: "none"}
	var known []Compared
	for _, p := range pieces {
		for n := 1; n <= min(p.Count, 24); n++ {
			row := Compared{Key: p.Key(n), Name: p.Name, Cut: p.Cut}
			if p.Count > 1 {
				row.Name = row.Key
			}
			if l, ok := r.Measured[row.Key]; ok && l.M > 0 && p.Cut.M > 0 {
				row.Measured = l
				row.DiffMM, row.Percent = (l.M-p.Cut.M)*1000, (l.M/p.Cut.M-1)*100
				known = append(known, row)
			}
			m.Rows = append(m.Rows, row)
		}
	}
	if len(known) == 0 {
		m.Sentence = "Measure every piece again after cutting, from its very end, and enter what you find."
		return &m
	}
	var percent, shift, worst, shortest, longest float64
	shortest = math.Inf(1)
	for _, k := range known {
		percent += k.Percent / float64(len(known))
		shift += k.DiffMM / float64(len(known))
		shortest, longest = math.Min(shortest, k.Cut.M), math.Max(longest, k.Cut.M)
		if math.Abs(k.Percent) > math.Abs(worst) {
			worst = k.Percent
		}
	}
	var scatter, scatterMM, shareMM float64 // what is left over of each picture
	for _, k := range known {
		scatter = math.Max(scatter, math.Abs(k.Percent-percent))
		scatterMM = math.Max(scatterMM, math.Abs(k.DiffMM-shift))
		shareMM = math.Max(shareMM, math.Abs(k.DiffMM-percent*k.Cut.M*10))
	}
	way := "long"
	if percent < 0 {
		way = "short"
	}
	tellApart := longest > 1.15*shortest
	switch {
	case len(known) > 1 && tellApart && math.Abs(shift) >= 10 && scatterMM*3 <= math.Abs(shift) && scatterMM < shareMM:
		m.Tone = "tape"
		m.Sentence = fmt.Sprintf("All %d pieces are %s by the same length, %.0f mm give or take %.0f: a probable tape mistake, counted from the hook or a torn-off end. Check where its zero is before you cut anything.", len(known), way, math.Abs(shift), math.Max(scatterMM, 1))
	case len(known) > 1 && math.Abs(percent) >= 0.5 && scatter*3 <= math.Abs(percent):
		m.Tone = "tape"
		m.Sentence = fmt.Sprintf("All %d pieces are %s by the same share, %.1f %% give or take %.1f: a probable tape mistake, not %d cutting mistakes. Lay the tape against another one before you cut anything.", len(known), way, math.Abs(percent), math.Max(scatter, 0.1), len(known))
	case math.Abs(worst) < 0.5:
		m.Tone = "even"
		m.Sentence = fmt.Sprintf("The %d measured agree with the list: the largest difference is %.1f %%.", len(known), math.Abs(worst))
	default:
		m.Tone = "piece"
		var names []string
		for _, k := range known {
			if math.Abs(k.Percent) >= 0.5 {
				names = append(names, fmt.Sprintf("%s by %+.0f mm (%+.1f %%)", k.Name, k.DiffMM, k.Percent))
			}
		}
		m.Sentence = fmt.Sprintf("%d of %d differ from the list: %s.", len(names), len(known), join(names, 3))
	}
	return &m
}

func join(names []string, most int) string {
	if len(names) > most {
		return fmt.Sprintf("%s and %d more", join(names[:most], most), len(names)-most)
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
