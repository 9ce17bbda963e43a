// Package rigging answers for what hangs and stands: where ends come down, what may fall where, and how
// far to stay away. Its figures are estimates; local rules, the land's owner and the licence come first.
package rigging

import (
	"fmt"
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/exposure"
	"reed/core/numeric"
	"reed/core/quantity"
)

// HeadClearance is the least height in metres of a wire's end above where people walk.
const HeadClearance = 2.5

// Caution is one danger of a set-up with its computed figure. Code is stable, for confirming it.
type Caution struct {
	Code   string `json:"code"`
	Title  string `json:"title"`
	Text   string `json:"text"`
	Figure string `json:"figure,omitempty"`
}

// FallRadius is the distance in metres from the feed point on the ground within which anything may fall:
// each part where it stands, and its height beyond that, since it may fall outward; a tenth of margin.
func FallRadius(d antenna.Drawing) float64 {
	r := 0.0
	for _, l := range d.Lines {
		for _, p := range []antenna.Point{l.From, l.To} {
			r = math.Max(r, math.Hypot(p[0]-d.Feed[0], p[1]-d.Feed[1])+p[2])
		}
	}
	return 1.1 * r
}

// LowEnds counts the places where radiating or counterpoise wires end or are fed between ankle and head height.
func LowEnds(d antenna.Drawing) int {
	low := map[antenna.Point]bool{}
	for _, l := range d.Lines {
		if l.Role == "pole" || l.Role == "string" || l.Role == "fence" || l.Role == "loop" || l.Role == "line" {
			continue
		}
		for _, p := range []antenna.Point{l.From, l.To} {
			if p[2] > 0.15 && p[2] < HeadClearance {
				low[p] = true
			}
		}
	}
	return len(low)
}

// ExposureDistance is a cautious distance in metres from any radiating part at which the stricter of
// both limits is met: the far field of a half-wave dipole doubled by the ground, with all the power,
// averaged by the duty (0 to 1). Near the wire the far field says too little, so the answer is not below
// a metre from one watt on, and not below a twelfth of a wavelength above five.
func ExposureDistance(powerW, duty, f float64) float64 {
	d := exposure.Far(powerW, duty, f)
	if powerW*duty > 5 {
		d = math.Max(d, numeric.Light/f/(2*math.Pi)/2)
	}
	if powerW*duty >= 1 {
		d = math.Max(d, 1)
	}
	return math.Max(d, 0.3)
}

// keepOff is how far people stay away from a set-up: by its far field, and by its near one where its kind is known for it.
func keepOff(s antenna.Shape, powerW float64) float64 {
	worst := 0.0
	for _, f := range s.All() {
		worst = math.Max(worst, math.Max(ExposureDistance(powerW, exposure.Duty, f), family.Of(s).Near(powerW*exposure.Duty, f)))
	}
	return worst
}

// Cautions lists what to check before anyone raises this set-up, most deadly first.
func Cautions(s antenna.Shape, d antenna.Drawing, powerW float64, units quantity.System) []Caution {
	fall := FallRadius(d)
	out := []Caution{
		{"power-lines", "No power line within falling distance",
			"What stands may fall, and a wire may swing: no power line in this circle about the feed, or another place. " +
				"Never throw a line over a power line.",
			fmt.Sprintf("clear radius %s", units.Rough(fall))},
		{"storm", "No thunderstorm near",
			"Take down at the first thunder or crackle of static; a wire in the air can charge without lightning.", ""},
	}
	if n := LowEnds(d); n > 0 {
		out = append(out, Caution{"low-ends", "Wire ends where people walk",
			"Tie them higher or flag them so that nobody walks into or touches one.",
			fmt.Sprintf("%d below %s", n, units.Rough(HeadClearance))})
	}
	if powerW > 0 {
		if where, volts := family.Of(s).Hot(powerW); volts >= 50 {
			out = append(out, Caution{"end-voltage", "High voltage when transmitting", "Touching it burns: " + where + ". Keep it out of reach.",
				fmt.Sprintf("up to %.0f V at %s", math.Ceil(volts/10)*10, quantity.Watts(powerW))})
		}
		for _, d := range family.Of(s).Dangers(units) {
			out = append(out, Caution{d.Code, d.Title, d.Text, d.Figure})
		}
		out = append(out, Caution{"exposure", "Keep people away from the wire while you send",
			"By the strictest public level of " + exposure.Names() + ", 50 % duty cycle; your authority's procedure goes first. " +
				"At the wire's ends the field is higher: keep more.",
			fmt.Sprintf("stay %s away", units.Rough(math.Ceil(keepOff(s, powerW)*10)/10))})
	}
	return append(out, Caution{"wind", "Pole, guys and stakes",
		"A telescoping pole is not used at full length in wind. Guy it, and mark guys and stakes against tripping.", ""})
}

// Open counts the cautions that are not among the confirmed codes.
func Open(all []Caution, confirmed []string) int {
	n := 0
	for _, c := range all {
		if !slices.Contains(confirmed, c.Code) {
			n++
		}
	}
	return n
}
