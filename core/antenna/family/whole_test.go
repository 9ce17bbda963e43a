package family

import (
	"math"
	"testing"

	"reed/core/antenna"
)

// A length that is the sum of others follows them, and its last part follows it; what is typed of both stays as typed.
func TestAWholeFollowsItsParts(t *testing.T) {
	for _, c := range []struct {
		kind, variant string
		typed         map[string]string
		want          map[string]float64
	}{
		{"end-fed-loaded", "sloper", map[string]string{"tail": "2.4"}, map[string]float64{"radiator": 12.4, "tail": 2.4}},
		{"end-fed-loaded", "sloper", map[string]string{"coil_at": "9.5"}, map[string]float64{"radiator": 11.5, "tail": 2}},
		{"end-fed-loaded", "sloper", map[string]string{"radiator": "11.7"}, map[string]float64{"coil_at": 10, "tail": 1.7}},
		{"end-fed-loaded", "sloper", map[string]string{"radiator": "11.7", "tail": "1.9"}, map[string]float64{"radiator": 11.7, "tail": 1.9}},
		{"loading-stick", "pair", map[string]string{"tip": "0.8"}, map[string]float64{"radiator": 1.5, "leg_b": 1.5}},
		{"loading-stick", "pair", map[string]string{"leg_b": "1.62"}, map[string]float64{"radiator": 1.6, "tip": 0.9}},
		{"loaded-whip", "ground-radials", map[string]string{"whip": "3.1"}, map[string]float64{"radiator": 4.1}},
		{"rectangle", "level", map[string]string{"radiator": "5.1"}, map[string]float64{"driven_tail": 0.75, "width": 3.6}},
		{"rectangle", "level", map[string]string{"driven_tail": "0.65"}, map[string]float64{"radiator": 4.9}},
	} {
		s := Design(antenna.Request{Shape: antenna.Shape{Family: c.kind, Variant: c.variant, FrequencyHz: 14.1e6}}).Shape
		for id, m := range map[string]map[string]float64{
			"end-fed-loaded": {"radiator": 12, "coil_at": 10, "tail": 2},
			"loading-stick":  {"radiator": 1.6, "leg_b": 1.6, "rod": 0.3, "coil_length": 0.4, "tip": 0.9},
			"loaded-whip":    {"radiator": 3.5, "mast": 1, "whip": 2.5},
			"rectangle":      {"radiator": 5, "width": 3.6, "driven_tail": 0.7},
		}[c.kind] {
			s = setLength(s, id, m)
		}
		texts := Of(s).Texts("built", false)
		for id, text := range c.typed {
			texts[id] = text
		}
		got, _ := Of(s).Filled("built", texts, "m")
		for id, want := range c.want {
			if math.Abs(got.M(id)-want) > 0.002 {
				t.Errorf("%s %v: %s of %v m, want %v", c.kind, c.typed, id, got.M(id), want)
			}
		}
	}
	// What did not agree before stays in dispute.
	s := Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed-loaded", Variant: "sloper", FrequencyHz: 14.1e6}}).Shape
	for id, m := range map[string]float64{"radiator": 14, "coil_at": 10, "tail": 2} {
		s = setLength(s, id, m)
	}
	texts := Of(s).Texts("built", false)
	texts["tail"] = "2.1"
	if got, _ := Of(s).Filled("built", texts, "m"); math.Abs(got.M("radiator")-14) > 1e-3 {
		t.Errorf("a whole of 14 m beside parts of 12 m became %v m", got.M("radiator"))
	}
}
