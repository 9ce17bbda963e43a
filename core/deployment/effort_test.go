package deployment

import (
	"math"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/kit"
	"reed/core/quantity"
)

// A quarter-wave vertical over four radials: its wire, its ground and its weight by hand.
func TestTheEffortOfASetUp(t *testing.T) {
	plan := antenna.Request{Shape: antenna.Shape{Family: "vertical", Variant: "raised-radials", FrequencyHz: 14.1e6}}
	shape := family.Design(plan).Shape
	b := Built{Shape: shape, Coax: Coax{Type: "RG-58", Length: quantity.Metres(10)}, SetupMinutes: 14}
	b.Parts = map[string]string{"pole": "p"}
	pole := kit.Part{ID: "p", Kind: "pole", Name: "Seven metre pole"}
	pole.PutNumber("grams", 900)
	bag := map[string]kit.Part{"p": pole}
	e := EffortOf(b, Clock{}, bag)
	drawing, _ := family.Of(shape).Layout()
	wire := 0.0
	for _, l := range drawing.Lines {
		if l.Role == "radiator" || l.Role == "radial" {
			wire += l.Length()
		}
	}
	cable, _ := b.Coax.Cable()
	grams := 900 + 10*cable.Grams + wire*shape.Conductor().Grams
	if math.Abs(e.Wire-wire) > 1e-9 || math.Abs(e.Grams-grams) > 1e-6 || e.Unweighed || e.Minutes != 14 || e.Clocked || e.High < 5 ||
		e.Long < 9 || e.Wide < 9 {
		t.Errorf("%+v, wire %.2f, %.0f g", e, wire, grams)
	}
	begin := time.Date(2026, 5, 16, 9, 0, 0, 0, time.UTC)
	with := EffortOf(b, Clock{Begun: begin, Up: begin.Add(25 * time.Minute)}, nil)
	if with.Minutes != 25 || !with.Clocked || !with.Unweighed {
		t.Errorf("%+v", with)
	}
	rows := Efforts(e, with, false)
	if len(rows) != 5 || rows[0].A != "14 min as noted" || rows[0].B != "25 min by the clock" || !strings.Contains(rows[1].B, "no weight") {
		t.Errorf("%+v", rows)
	}
	// What cannot be laid out has no size, and says so.
	if rows := Efforts(e, EffortOf(Built{}, Clock{}, nil), false); rows[0].B != "not known" || rows[len(rows)-1].B != "not known" {
		t.Errorf("%+v", rows)
	}
}
