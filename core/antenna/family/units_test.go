package family

import (
	"regexp"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// metric finds a length in metres, centimetres or millimetres, as it would be printed.
var metric = regexp.MustCompile(`\d (m|cm|mm)\b`)

// Who thinks in feet is told of every family's plan, and of what is wrong with it, in feet.
func TestPlansSpeakTheReadersUnits(t *testing.T) {
	for _, f := range Families() {
		for _, v := range f.Variants {
			for name, texts := range map[string]map[string]string{
				"usual": {"for": "14.06"},
				"tight": {"for": "14.06", "feed_height": "1", "far_height": "90", "pole_height": "2", "line_length": "3", "radials_length": "400"},
			} {
				p := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: f.ID, Variant: v.ID}, PowerW: 20},
					Typed: entry.Typed{Texts: texts, Unit: quantity.FeetInches.Unit()}})
				said := []string{p.Sentence, p.Expect, p.WireSays}
				for _, x := range p.Faults {
					said = append(said, x.Text)
				}
				for _, x := range p.Figures {
					said = append(said, x.Value)
				}
				said = append(said, p.Drawing.Onsite(quantity.FeetInches)...)
				for _, x := range said {
					if metric.MatchString(x) {
						t.Errorf("%s %s, %s: %q", f.ID, v.ID, name, x)
					}
				}
			}
		}
	}
}
