package twin

import (
	"context"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
)

func besideSetup(name, kind, variant string, hz float64, more ...float64) Named {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: kind, Variant: variant, FrequencyHz: hz, More: more}})
	return Named{name, Setup{Built: deployment.Built{Shape: p.Shape}, PowerW: 10}}
}

// A low flat dipole sends overhead, a vertical to the horizon: the model says so, and what it says holds both ways round.
func TestTwoAntennasAreLaidSideBySide(t *testing.T) {
	low := besideSetup("Dunlin", "dipole", "flat", 14.1e6)
	up := besideSetup("Stilt", "vertical", "raised-radials", 14.1e6)
	e := new(Engine)
	got, err := e.Beside(context.Background(), low, up, Options{Region: 1, Coarse: true}, nil)
	if err != nil || len(got.Tables) != 1 || len(got.Tables[0].Rows) != 6 {
		t.Fatalf("%v %+v", err, got)
	}
	if !strings.Contains(got.Sentence, "on 20 m") || !strings.Contains(got.Sentence, "Dunlin sends") ||
		!strings.Contains(got.Sentence, "towards near places") {
		t.Error(got.Sentence)
	}
	back, err := e.Beside(context.Background(), up, low, Options{Region: 1, Coarse: true}, nil)
	if err != nil || !strings.Contains(back.Sentence, "Dunlin sends") || back.Tables[0].Rows[3][1] != got.Tables[0].Rows[3][2] {
		t.Errorf("%v %s / %s", err, got.Sentence, back.Sentence)
	}
	f, err := e.Forecast(context.Background(), low.Setup, Options{Region: 1, Coarse: true}, nil)
	if err != nil {
		t.Fatal(err)
	}
	b := f.Bands[0]
	// What reaches the sky by the budget and by the pattern's losses is the same.
	left := b.Budget[len(b.Budget)-1].Watts / f.PowerW
	if by := b.Sky * math.Pow(10, -b.lost()/10); math.Abs(by-left) > 1e-6 {
		t.Errorf("%.6f of the power by the budget, %.6f with what is lost", left, by)
	}
	if b.Toward(30) > b.Pattern.Gain || !math.IsInf(b.Toward(-4), -1) {
		t.Errorf("%g towards 30 degrees, %g at the most", b.Toward(30), b.Pattern.Gain)
	}
}

func TestNothingIsLaidBesideAnotherBand(t *testing.T) {
	a, b := besideSetup("Dunlin", "dipole", "flat", 14.1e6), besideSetup("Knot", "dipole", "flat", 7.1e6)
	got, err := new(Engine).Beside(context.Background(), a, b, Options{Region: 1}, nil)
	if err != nil || len(got.Tables) != 0 || !strings.Contains(got.Sentence, "share no band") {
		t.Errorf("%v %+v", err, got)
	}
	two := besideSetup("Heron", "end-fed", "sloper", 7.1e6, 14.1e6)
	if got := shared(Options{Region: 1, Band: "20m"}, two.Setup, two.Setup); len(got) != 2 || got[0] != "20m" {
		t.Error(got)
	}
}

// Cut and Raise tell one voltage: that which is warned of, told in tens, and never less than half of what the solver finds.
func TestOneVoltageIsTold(t *testing.T) {
	e := new(Engine)
	for _, s := range []Named{besideSetup("Heron", "end-fed", "sloper", 7.1e6), besideSetup("Crake", "small-loop", "upright", 14.06e6)} {
		where, volts := family.Of(s.Built.Shape).Hot(10)
		f, err := e.Forecast(context.Background(), s.Setup, Options{Region: 1, Coarse: true}, nil)
		if err != nil {
			t.Fatal(err)
		}
		told := f.Bands[0].Voltages
		if len(told) != 2 || told[1].Where != where || told[1].Volts != volts || math.Mod(volts, 10) != 0 || volts < 100 {
			t.Errorf("%s: %v told, %v V warned of", s.Name, told, volts)
		}
	}
}
