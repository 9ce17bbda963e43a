package family

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

// What is planned of a stick is resonant by its own line theory: the rods' reactance is the coil's.
func TestAStickIsPlannedResonant(t *testing.T) {
	for _, v := range []string{"ground-radials", "mount", "pair"} {
		for _, mhz := range []float64{3.6, 7.1, 14.06, 21.1, 28.2} {
			p := Design(antenna.Request{Shape: antenna.Shape{Family: "loading-stick", Variant: v, FrequencyHz: mhz * 1e6}, PowerW: 20})
			if antenna.HasError(p.Faults) {
				t.Fatalf("%s %v: %v", v, mhz, p.Faults)
			}
			s := p.Shape
			x := stickOf(&s)
			if coil := imag(x.coil.Z(s.FrequencyHz)); math.Abs(x.left(s.FrequencyHz, x.tip)) > 0.03*coil {
				t.Errorf("%s %v MHz: %.0f ohm of %.0f are left over with whole turns", v, mhz, x.left(s.FrequencyHz, x.tip), coil)
			}
			if whole := s.M("rod") + s.M("coil_length") + s.M("tip"); math.Abs(whole-s.M(antenna.Radiator)) > 1e-9 {
				t.Errorf("%s %v MHz: parts make %v, not %v", v, mhz, whole, s.M(antenna.Radiator))
			}
			if v == "pair" && s.Legs() != 2 {
				t.Error("a pair has two sticks")
			}
			if _, volts := Of(s).Hot(20); volts < 100 {
				t.Errorf("%s %v MHz: %v V at 20 W", v, mhz, volts)
			}
		}
	}
}

// A known winding: 100 turns on 20 mm over 40 cm are 10.4 uH (Nagaoka); with the tip it dips where tip and turns agree,
// and a longer tip wants fewer turns.
func TestTurnsAndTipOfAStickTradeAgainstEachOther(t *testing.T) {
	at := func(tip, turns float64) (antenna.Shape, antenna.Plan) {
		s := antenna.Shape{Family: "loading-stick", Variant: "ground-radials", FrequencyHz: 14.06e6}.With("tip_least", quantity.Metres(0.5))
		if tip > 0 {
			s.Put("tip", quantity.Metres(tip))
		}
		if turns > 0 {
			s.PutNumber("coil_turns", turns)
		}
		p := Design(antenna.Request{Shape: s})
		return p.Shape, p
	}
	short, _ := at(0.6, 0)
	long, _ := at(1.2, 0)
	if short.N("coil_turns", 0) <= long.N("coil_turns", 0) {
		t.Errorf("%v turns for a short tip, %v for a long one", short.N("coil_turns", 0), long.N("coil_turns", 0))
	}
	back, _ := at(0, short.N("coil_turns", 0))
	if math.Abs(back.M("tip")-0.6) > 0.02 {
		t.Errorf("the turns of a tip of 0.6 m want one of %v", back.M("tip"))
	}
	for turns, says := range map[float64]string{125: "meets the winding", 105: "meets the winding", 40: "wind on"} {
		if _, p := at(0, turns); !strings.Contains(faultTexts(p.Faults), says) {
			t.Errorf("%v turns: %v", turns, p.Faults)
		}
	}
	if _, p := at(0.8, 900); !antenna.HasError(p.Faults) {
		t.Errorf("900 turns of 0.8 mm on 40 cm: %v", p.Faults)
	}
}

func faultTexts(fs []antenna.Fault) string {
	var out []string
	for _, f := range fs {
		out = append(out, f.Text)
	}
	return strings.Join(out, "; ")
}

func TestATipSlidesBetweenItsEnds(t *testing.T) {
	p := Design(antenna.Request{Shape: antenna.Shape{Family: "loading-stick", Variant: "pair", FrequencyHz: 14.06e6}})
	k, ok := Of(p.Shape).Slider()
	if !ok || k.Legs != 2 || k.Bound(0.1) != 0.4 || k.Bound(3) != 1.3 || k.Bound(0.9) != 0.9 {
		t.Fatalf("%+v", k)
	}
	moved := k.Set(p.Shape, 0.7)
	if moved.M("tip") != 0.7 || math.Abs(moved.M(antenna.Radiator)-1.4) > 1e-9 || moved.M(antenna.LegB) != moved.M(antenna.Radiator) {
		t.Errorf("%+v", moved.Sizes)
	}
	if p.Shape.M("tip") == 0.7 {
		t.Error("the plan was changed")
	}
}

func TestAStickOnMetalSaysWhatItStandsOn(t *testing.T) {
	on := antenna.Shape{Family: "loading-stick", Variant: "mount", FrequencyHz: 14.06e6}
	p := Design(antenna.Request{Shape: on})
	if d := Of(p.Shape).Dangers(quantity.SI); len(d) != 1 || !strings.Contains(d[0].Text, "drive") {
		t.Errorf("%v", d)
	}
	count := func(s antenna.Shape) (n int) {
		d, _ := Of(s).Layout()
		for _, l := range d.Lines {
			if l.Role == "radial" {
				n++
			}
		}
		return n
	}
	rail := p.Shape
	rail.Put("metal_wide", quantity.Length{})
	if count(p.Shape) != 4 || count(rail) != 2 {
		t.Errorf("%d wires for a vehicle, %d for a rail", count(p.Shape), count(rail))
	}
	if of := Of(p.Shape); of.Feeding() != Whole || Of(on).Kind().Feeding != Radial {
		t.Error("metal is its other half; a stake needs radials")
	}
}
