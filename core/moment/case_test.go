package moment

import (
	"context"
	"encoding/json"
	"math"
	"strings"
	"testing"

	"reed/core/numeric"
)

func read(t *testing.T, text string) Case {
	t.Helper()
	var c Case
	if err := json.Unmarshal([]byte(text), &c); err != nil {
		t.Fatal(err)
	}
	return c
}

func TestCaseFromAFile(t *testing.T) {
	c := read(t, `{"frequencies_mhz":[14.1],"ground":{"kind":"real","permittivity":13,"conductivity":0.005},
		"wires":[{"from":[0,0,2],"to":[0,0,7.1],"radius_mm":0.5,"conductor":"copper","insulation":{"permittivity":2.3,"outer_mm":0.9}},
			{"from":[0,0,2],"to":[4.9,0,0.6],"radius_mm":0.5},{"from":[0,0,2],"to":[-4.9,0,0.6],"radius_mm":0.5}],
		"feed":{"wire":0,"at":0.0},"loads":[{"wire":0,"at":0.6,"r_ohm":1,"l_uh":0.2,"c_pf":0,"kind":"series"}],"segments_per_wavelength":40}`)
	p, err := c.Predict(context.Background(), 14.1)
	if err != nil {
		t.Fatal(err)
	}
	if p.R < 15 || p.R > 90 || p.Efficiency <= 0.05 || p.Efficiency >= 0.6 || p.Unknowns < 20 || p.SWR < 1 {
		t.Errorf("%+v", p)
	}
	if p.Elevation < 10 || p.Elevation > 40 || p.GainMax > 3 || p.GainMax < -6 {
		t.Errorf("a vertical over soil is strongest %.0f degrees up with %.1f dBi", p.Elevation, p.GainMax)
	}
}

func TestBadCasesSayWhat(t *testing.T) {
	const wire = `"from":[0,0,0],"to":[0,0,5],"radius_mm":0.5`
	for text, says := range map[string]string{
		`{"wires":[{` + wire + `,"conductor":"tin"}]}`:                                                              "tin",
		`{"wires":[{` + wire + `,"insulation":{"permittivity":2,"outer_mm":0.1}}]}`:                                 "insulation",
		`{"wires":[{` + wire + `}],"loads":[{"wire":0,"kind":"sideways"}]}`:                                         "sideways",
		`{"wires":[{` + wire + `}],"segments_per_wavelength":1e6}`:                                                  "segments_per_wavelength",
		`{"wires":[{` + wire + `}],"feed":{"wire":0,"at":1}}`:                                                       "no current",
		`{"wires":[{` + wire + `}],"feed":{"wire":4,"at":0}}`:                                                       "no wire",
		`{"wires":[{"from":[0,0,0.0003],"to":[0,0,5],"radius_mm":0.5}],"ground":{"kind":"real","permittivity":13}}`: "dips into the ground",
		`{"wires":[]}`: "no wire",
	} {
		if _, err := read(t, text).Predict(context.Background(), 14); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", text, err, says)
		}
	}
}

func TestNearFieldMeetsTheFarField(t *testing.T) {
	// Two waves away the field of a half-wave in free space is sqrt(30 P G)/d, and E/H is 376.7 ohm.
	c := read(t, `{"wires":[{"from":[0,0,-0.24],"to":[0,0,0.24],"radius_mm":0.05}],`+
		`"feed":{"wire":0,"at":0.5},"near_field":[[4,0,0],[0.02,0,0.1],[0,0,4]],"power_w":100}`)
	p, err := c.Predict(context.Background(), f0/1e6)
	if err != nil {
		t.Fatal(err)
	}
	near2(t, "E four waves away", p.Near[0].E, math.Sqrt(30*100*math.Pow(10, p.GainMax/10))/4, 0.3)
	near2(t, "E over H there", p.Near[0].E/p.Near[0].H, numeric.Eta0, 8)
	if p.Near[1].E < 5*p.Near[0].E || p.Near[2].H > 0.01*p.Near[0].H {
		t.Errorf("beside the wire %+v, off its end %+v", p.Near[1], p.Near[2])
	}
	// Over a perfect ground the field along the ground vanishes with the height.
	c.Ground.Kind = Perfect
	c.Wires[0].From, c.Wires[0].To = [3]float64{-0.24, 0, 0.3}, [3]float64{0.24, 0, 0.3}
	c.NearField = [][3]float64{{0, 3, 1e-4}, {0, 3, 1.5}}
	p, err = c.Predict(context.Background(), f0/1e6)
	if err != nil || p.Near[0].E > 0.02*p.Near[1].E {
		t.Errorf("%v: on the ground %v, above %v", err, p.Near[0].E, p.Near[1].E)
	}
	// Over soil of air it is that of free space.
	free := c
	free.Ground.Kind = Free
	free.NearField = [][3]float64{{0.4, 0.7, 0.2}, {1, 1, 1}}
	soil := free
	soil.Ground = CaseGround{Kind: Real, Permittivity: 1.0000001}
	a, err := free.Predict(context.Background(), f0/1e6)
	b, err2 := soil.Predict(context.Background(), f0/1e6)
	if err != nil || err2 != nil {
		t.Fatal(err, err2)
	}
	for i := range a.Near {
		near2(t, "E over air", b.Near[i].E/a.Near[i].E, 1, 0.01)
		near2(t, "H over air", b.Near[i].H/a.Near[i].H, 1, 0.01)
	}
	soil.NearField = [][3]float64{{0, 1, -1}}
	if _, err := soil.Predict(context.Background(), f0/1e6); err == nil {
		t.Error("a point in the soil has a field")
	}
}
