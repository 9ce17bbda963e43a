package twin

import (
	"context"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/quantity"
)

func TestARecordedChokeTransformerAndTunerAreTheModels(t *testing.T) {
	s := planned(t, "end-fed", "sloper", 14.1)
	s.Planned = false
	s.Built.Coax = deployment.Coax{Type: "RG-58", Length: quantity.Metres(8)}
	s.Built.Choke = deployment.Choke{Place: "radio"}
	forecast := func(s Setup) Forecast {
		t.Helper()
		f, err := engine.Forecast(context.Background(), s, Options{Region: 1, Band: "20m"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	typical := forecast(s)
	choke := kit.Part{Kind: "choke", Name: "three turns"}
	choke.PutWord("impedance", "7:20 28:30")
	transformer := kit.Part{Kind: "transformer", Name: "old ring"}
	transformer.PutNumber("primary", float64(s.Built.Primary()))
	transformer.PutNumber("secondary", float64(s.Built.Secondary()))
	transformer.PutWord("core", "nizn850-36")
	transformer.PutWord("loss", "14:2.5")
	tuner := kit.Part{Kind: "tuner", Name: "small L"}
	tuner.PutWord("network", "L")
	tuner.PutNumber("l_max", 20)
	tuner.PutNumber("c_max", 1000)
	s.Built.Own = map[string]kit.Part{"choke": choke, "transformer": transformer, "tuner": tuner}
	own := forecast(s)
	stage := func(f Forecast, name string) (db float64, why string) {
		for _, x := range f.Bands[0].Budget {
			if x.Name == name {
				return x.DB, x.Why
			}
		}
		return math.NaN(), ""
	}
	if db, why := stage(own, "transformer"); db != 2.5 || why != "old ring, measured" {
		t.Errorf("the transformer loses %v dB, %s", db, why)
	}
	if db, _ := stage(typical, "transformer"); db == 2.5 {
		t.Error("the typical transformer happens to lose the same")
	}
	if _, why := stage(own, "tuner"); !strings.HasPrefix(why, "small L") {
		t.Errorf("the tuner is %q", why)
	}
	if !strings.Contains(strings.Join(own.Bands[0].Assumes, " "), "the choke is 2") {
		t.Errorf("%v", own.Bands[0].Assumes)
	}
	if math.Abs(own.Bands[0].CoaxCurrent-typical.Bands[0].CoaxCurrent) < 1e-3 {
		t.Errorf("a choke of 24 ohm lets through as much as one of 3000: %v", own.Bands[0].CoaxCurrent)
	}
	// Other turns than recorded: the part is not what is there.
	s.Built.PutNumber(antenna.SecondaryTurns, float64(s.Built.Secondary()+1))
	if _, why := stage(forecast(s), "transformer"); strings.Contains(why, "old ring") {
		t.Errorf("turns were changed, yet %q is taken", why)
	}
}

func TestARecipeMovesWithHeightAndGround(t *testing.T) {
	was := planned(t, "dipole", "flat", 14.1)
	was.Built.Put(antenna.FeedHeight, quantity.Metres(8))
	was.Built.Put(antenna.FarHeight, quantity.Metres(8))
	move := func(now Setup) Moved {
		t.Helper()
		m, err := engine.Move(context.Background(), was, now, 1, map[string]float64{"20m": 14.05e6}, nil)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	same := move(was)
	if b := same.Bands[0]; b.Percent != 0 || b.Expect != 14.05e6 || !strings.Contains(same.Sentence, "Put it up as it is") {
		t.Errorf("%+v", same)
	}
	low := was
	low.Built.Put(antenna.FeedHeight, quantity.Metres(3))
	low.Built.Put(antenna.FarHeight, quantity.Metres(3))
	got := move(low)
	b := got.Bands[0]
	// Checked against the resonance that the solver finds by itself, X = 0 at the wires.
	r0, ok0, err0 := engine.Resonance(context.Background(), was, 14.1e6, 13.2e6, 15e6)
	r1, ok1, err1 := engine.Resonance(context.Background(), low, 14.1e6, 13.2e6, 15e6)
	if err0 != nil || err1 != nil || !ok0 || !ok1 {
		t.Fatal(err0, err1)
	}
	if x := 100 * (r1/r0 - 1); math.Abs(b.Percent) < 0.15 || b.Percent*x < 0 || math.Abs(b.Percent-x) > 0.8 {
		t.Errorf("the dip moves by %.2f %%, the resonance by %.2f", b.Percent, x)
	}
	if math.Abs(b.Expect/14.05e6-b.NowHz/b.WasHz) > 1e-12 || !strings.Contains(got.Detail, "on each leg") {
		t.Errorf("%+v", got)
	}
}
