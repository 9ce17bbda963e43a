package sweep

import (
	"fmt"
	"math"
	"strings"

	"reed/core/phrase"
	"reed/core/quantity"
)

// Facts returns the figures of a reading. Where it was taken through a cable, which is named, feed is the same
// sweep at the antenna's end of it.
func Facts(r, feed Reading, cable string) []phrase.Figure {
	out := []phrase.Figure{{Label: "lowest SWR", Value: quantity.FineSWR(r.MinSWR), Why: "at " + quantity.ToKHz(r.MinAt) + " MHz"}}
	at := r
	if cable != "" {
		out = append(out, phrase.Figure{Label: "at the feed point", Value: quantity.FineSWR(feed.MinSWR), Why: "without " + cable})
		if feed.HasZ {
			at = feed
		}
	}
	if r.HasZ {
		sign := "+"
		if at.X < -0.5 {
			sign = "−"
		}
		out = append(out, phrase.Figure{Label: "R and X there", Value: fmt.Sprintf("%.0f %s j%.0f Ω", at.R, sign, math.Abs(at.X))})
	} else {
		out = append(out, phrase.Figure{Label: "R and X there", Value: "not known", Why: "only SWR was measured"})
	}
	out = append(out, resonant(at, r.HasZ)...)
	out = append(out, widths(r))
	covered := phrase.Figure{Label: fmt.Sprintf("segment under %g", r.Limit), Value: "none here"}
	switch {
	case len(r.Own) > 0 && r.Measured < 1:
		covered.Value = "not read"
	case len(r.Own) > 0:
		covered.Value = fmt.Sprintf("%.0f %%", r.Coverage)
	}
	var edges []string
	for _, e := range r.Edges {
		edges = append(edges, quantity.ToKHz(e.F)+": "+quantity.FineSWR(e.SWR))
	}
	covered.Why = strings.Join(edges, ", ")
	if len(r.Own) > 0 && r.Measured < whole && r.Measured >= 1 {
		covered.Why = strings.TrimSuffix(fmt.Sprintf("of the %.0f %% that was measured; %s", r.Measured, covered.Why), "; ")
	}
	return append(out, covered)
}

// resonant says where there is no reactance: the first two places.
func resonant(r Reading, known bool) []phrase.Figure {
	const label = "resonant, X = 0"
	switch {
	case !known:
		return []phrase.Figure{{Label: label, Value: "not known"}}
	case len(r.Resonances) == 0:
		return []phrase.Figure{{Label: label, Value: "nowhere here"}}
	}
	var out []phrase.Figure
	for i, x := range r.Resonances[:min(2, len(r.Resonances))] {
		f := phrase.Figure{Label: label, Value: quantity.ToKHz(x.F), Why: fmt.Sprintf("MHz, %s, %.0f Ω", x.Kind, x.R)}
		if i > 0 {
			f.Label = "and"
		}
		out = append(out, f)
	}
	return out
}

// Says is the width in kilohertz: more than that where the sweep ends before the limit.
func (w Width) Says() string {
	if w.Open {
		return fmt.Sprintf("over %.0f kHz", w.Hz/1e3)
	}
	return fmt.Sprintf("%.0f kHz", w.Hz/1e3)
}

// widths says how wide the curve lies under 2, and beside it how wide under the other limits.
func widths(r Reading) phrase.Figure {
	out := phrase.Figure{Label: "width under 2", Value: "none"}
	var others []string
	for _, w := range r.Widths {
		if w.Limit == 2 {
			out.Value = w.Says()
		} else {
			others = append(others, fmt.Sprintf("under %g: %s", w.Limit, w.Says()))
		}
	}
	out.Why = strings.Join(others, ", ")
	return out
}
