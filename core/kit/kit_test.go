package kit

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/quantity"
)

func part(t *testing.T, kind string, texts map[string]string) Part {
	t.Helper()
	p, faults := Read(kind, "the "+kind, texts, "m")
	if len(faults) > 0 {
		t.Fatal(kind, faults)
	}
	p.ID = "id-" + kind
	return p
}

// whole is a full set of texts for every kind.
var whole = map[string]map[string]string{
	"wire":        {"conductor": "0.9", "outer": "2.0 mm", "permittivity": "3.2", "left": "40 m", "strands": "16"},
	"transformer": {"primary": "2", "secondary": "14", "core": "nizn850-36", "loss": "7:0.8 14:0.6"},
	"choke":       {"impedance": "7:3000 14:2500"},
	"coax":        {"type": "RG-58", "length": "15 m"},
	"line":        {"type": "window-450", "length": "12 m"},
	"pole":        {"length": "7 m", "usable": "5.8 m", "sections": "6"},
	"whip":        {"whip_full": "5.6 m", "whip_sections": "10"},
	"coil":        {"coil_former": "40", "coil_wire": "1", "turns": "34", "coil_length": "50"},
	"spreader":    {"length": "4.5 m", "count": "4", "grams": "350"},
	"stake":       {"length": "20 cm", "count": "4"},
	"radio":       {"power": "13.8:10 12:7.5"},
	"tuner":       {"network": "T", "l_max": "20", "c_max": "250"},
	"battery":     {"amp_hours": "4.5", "volts": "12.8"},
}

func TestEveryKindReadsAndFillsItsFormAgain(t *testing.T) {
	for _, k := range Kinds() {
		p := part(t, k.ID, whole[k.ID])
		back := p.Texts(false)
		again, faults := Read(k.ID, p.Name, back, "m")
		if len(faults) > 0 {
			t.Errorf("%s: its own texts %v are refused: %v", k.ID, back, faults)
		}
		for id, l := range p.Sizes {
			if math.Abs(again.M(id)-l.M) > 1e-9 {
				t.Errorf("%s %s: %v came back as %v", k.ID, id, l.M, again.M(id))
			}
		}
		for _, f := range p.About(quantity.SI) {
			if f.Label == "" || f.Value == "" || strings.Contains(f.Value, "NaN") {
				t.Errorf("%s says %+v", k.ID, f)
			}
		}
	}
}

func TestBadPartsAreRefusedAtTheirField(t *testing.T) {
	for _, c := range []struct {
		kind, path string
		texts      map[string]string
	}{
		{"wire", "conductor", map[string]string{}},
		{"wire", "outer", map[string]string{"conductor": "2", "outer": "1"}},
		{"coax", "type", map[string]string{"length": "10 m"}},
		{"transformer", "loss", map[string]string{"primary": "2", "secondary": "14", "loss": "7 MHz half a dB"}},
		{"radio", "power", map[string]string{"power": "12:10 12:9"}},
		{"pole", "section_lengths", map[string]string{"length": "7", "section_lengths": "1.2 1.1"}},
		{"sail", "kind", nil},
	} {
		_, faults := Read(c.kind, "x", c.texts, "m")
		found := false
		for _, f := range faults {
			found = found || f.Path == c.path
		}
		if !found {
			t.Errorf("%s %v: %v, want a fault at %s", c.kind, c.texts, faults, c.path)
		}
	}
	if _, faults := Read("stake", "  ", nil, "m"); len(faults) != 1 || faults[0].Path != "name" {
		t.Errorf("a nameless thing: %v", faults)
	}
}

func TestWhatAPartIsForComputing(t *testing.T) {
	w := part(t, "wire", whole["wire"]).Wire()
	if math.Abs(w.Radius-0.00045) > 1e-12 || math.Abs(w.Outer-0.001) > 1e-12 || w.Left != 40 {
		t.Errorf("wire %+v", w)
	}
	if w.Grams < 6 || w.Grams > 11 {
		t.Errorf("0.6 mm2 of copper in a PVC jacket weighs %v g a metre", w.Grams)
	}
	learned := part(t, "wire", map[string]string{"conductor": "0.9", "factor": "0.957"}).Wire()
	if learned.JacketFactor(3) != 0.957 {
		t.Error("the learned factor is not used")
	}
	coax, ok := part(t, "coax", map[string]string{"length": "10", "at10": "5", "at100": "17", "vf": "0.8"}).Line()
	if !ok || coax.VF != 0.8 || math.Abs(coax.MatchedLoss(10e6, 100)-5) > 1e-9 {
		t.Errorf("own cable %+v", coax)
	}
	tr := part(t, "transformer", whole["transformer"])
	if db, how := tr.Loss(10.5e6, 2450); how != "measured" || math.Abs(db-0.7) > 1e-9 {
		t.Errorf("between 7 and 14 MHz: %v dB %s", db, how)
	}
	if db, _ := tr.Loss(28e6, 2450); db != 0.6 {
		t.Errorf("beyond the table: %v", db)
	}
	if db, how := part(t, "transformer", map[string]string{"primary": "2", "secondary": "14", "core": "nizn850-36"}).Loss(7e6,
		2450); !strings.Contains(how, "computed") || db <= 0 {
		t.Errorf("from its core: %v %s", db, how)
	}
	if _, how := part(t, "transformer", map[string]string{"primary": "1", "secondary": "2"}).Loss(7e6, 200); how != "" {
		t.Error("a loss out of nothing")
	}
	if g := part(t, "coax", whole["coax"]).Grams(); math.Abs(g-15*37) > 1e-9 {
		t.Errorf("15 m of RG-58 weigh %v g", g)
	}
	if g := part(t, "stake", map[string]string{"grams": "80"}).Grams(); g != 80 {
		t.Errorf("a stake of 80 g weighs %v", g)
	}
}

func TestAPlanTakesWhatItsPartsSay(t *testing.T) {
	bag := map[string]Part{}
	for kind, texts := range whole {
		p := part(t, kind, texts)
		bag[p.ID] = p
	}
	r := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper",
		Parts: map[string]string{"wire": "id-wire", "transformer": "id-transformer", "pole": "id-pole"}}},
		Typed: entry.Typed{Texts: map[string]string{"for": "3.6", "pole_height": ""}}}
	r, faults := Apply(r, bag)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	p := family.Drawn(r)
	if p.Wire.ID != "id-wire" || p.Shape.Primary() != 2 || p.Shape.Secondary() != 14 || math.Abs(p.Shape.PoleHeight().M-5.8) > 1e-9 {
		t.Errorf("wire %s, %d:%d, pole %v", p.Wire.ID, p.Shape.Primary(), p.Shape.Secondary(), p.Shape.PoleHeight().M)
	}
	found := false
	for _, f := range p.Faults {
		found = found || f.Path == "wire" && strings.Contains(f.Text, "reel")
	}
	if !found {
		t.Errorf("40 m on the reel for an 80 m half-wave goes unsaid: %v", p.Faults)
	}
	typed := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper",
		Parts: map[string]string{"transformer": "id-transformer"}}}, Typed: entry.Typed{Texts: map[string]string{"for": "7.1",
		"primary_turns": "3", "secondary_turns": "24"}}}
	typed, _ = Apply(typed, bag)
	if got := family.Drawn(typed).Shape.Secondary(); got != 24 {
		t.Errorf("what was typed does not stand: %d", got)
	}
	gone := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Parts: map[string]string{"wire": "lost"}}}}
	if _, faults := Apply(gone, bag); len(faults) != 1 || faults[0].Severity != "error" {
		t.Errorf("a part that is gone: %v", faults)
	}
}

// One's own figures of a cable count when there are two of them; one alone leaves those of its type.
func TestACablesOwnFiguresAreTwo(t *testing.T) {
	own := part(t, "coax", map[string]string{"type": "RG-58", "length": "10 m", "at10": "20", "at100": "60"})
	half := part(t, "coax", map[string]string{"type": "RG-58", "length": "10 m", "at10": "20"})
	typed, _ := circuit.Cable("RG-58")
	a, _ := own.Line()
	b, _ := half.Line()
	if got := a.MatchedLoss(10e6, 100); math.Abs(got-20) > 0.1 {
		t.Errorf("own: %v dB", got)
	}
	if got, want := b.MatchedLoss(10e6, 100), typed.MatchedLoss(10e6, 100); math.Abs(got-want) > 1e-9 {
		t.Errorf("half: %v dB, want %v", got, want)
	}
}

func TestACoreOfOnesOwn(t *testing.T) {
	usual, _ := Read("choke", "ten turns", map[string]string{"core": "nizn850-36", "turns": "10"}, "m")
	own, faults := Read("choke", "ten turns", map[string]string{"core": "nizn850-36", "turns": "10", "mu": "30:10/5 1:100/10"}, "m")
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	z, how := usual.Choke(7e6)
	less, _ := own.Choke(7e6)
	if how == "" || real(z) < 500 || real(less) > real(z)/2 {
		t.Errorf("%v %s, %v", z, how, less)
	}
	measured, _ := Read("choke", "measured", map[string]string{"impedance": "7:2000", "core": "nizn850-36", "turns": "10"}, "m")
	if z, _ := measured.Choke(7e6); z != 2000 {
		t.Errorf("%v", z)
	}
	if _, how := (Part{Kind: "choke"}).Choke(7e6); how != "" {
		t.Errorf("%s of nothing", how)
	}
	for _, bad := range []string{"7:450", "7:450/x", "seven", "7:450/2 7:3/4", "0:1/1"} {
		if _, faults := Read("transformer", "x", map[string]string{"primary": "2", "secondary": "14", "mu": bad}, "m"); len(faults) == 0 ||
			faults[0].Path != "mu" {
			t.Errorf("%q: %v", bad, faults)
		}
	}
	line, _ := Read("line", "mine", map[string]string{"type": "window-450", "length": "12", "z0": "390"}, "m")
	if l, ok := line.Line(); !ok || l.Z0 != 390 {
		t.Errorf("%+v", l)
	}
}
