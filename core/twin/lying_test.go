package twin

import (
	"math"
	"math/cmplx"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/moment"
	"reed/core/moment/earth"
	"reed/core/quantity"
	"reed/internal/testsize"
)

// asTyped is a set-up as built from the texts of its fields.
func asTyped(t *testing.T, fam, variant string, texts map[string]string) Setup {
	t.Helper()
	p := family.Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: fam, Variant: variant}},
		Typed: entry.Typed{Texts: texts}})
	s, faults := family.Of(p.Shape).Filled("built", texts, "m")
	if antenna.HasError(p.Faults) || antenna.HasError(faults) {
		t.Fatal(p.Faults, faults)
	}
	return Setup{Built: deployment.Built{Shape: s}, Ground: "average"}
}

// atFeed is the impedance at the wires of a set-up.
func atFeed(t *testing.T, s Setup, f float64) complex128 {
	t.Helper()
	c, err := Build(s, f, &engine.Tables)
	if err != nil {
		t.Fatal(err)
	}
	x, err := moment.Solve(t.Context(), c.Model, f)
	if err != nil {
		t.Fatal(err)
	}
	return x.Z
}

func TestRadialsOnTheSoilAreWires(t *testing.T) {
	testsize.SkipIfShort(t, "solves every family")
	const f, n = 10.1e6, 5
	s := asTyped(t, "vertical", "ground-radials", map[string]string{"for": "10.1", "radiator": "7 m", "radials_count": "5",
		"radials_length": "3.5 m"})
	w := s.Built.Conductor()
	wire := func(from, to moment.Vec) moment.Wire {
		return moment.Wire{From: from, To: to, Radius: w.Radius, Resistivity: circuit.CopperResistivity,
			Permittivity: w.Permittivity, Outer: w.Outer}
	}
	foot := moment.Vec{0, 0, lying}
	m := moment.Model{Ground: moment.Real, Earth: s.earth(), Tables: &engine.Tables, Sources: []moment.Source{{Volts: 1}},
		Wires: []moment.Wire{wire(foot, moment.Vec{0, 0, 7 + lying})}}
	for i := range n {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / n)
		m.Wires = append(m.Wires, wire(foot, moment.Vec{3.5 * cos, 3.5 * sin, lying}))
	}
	want, err := moment.Solve(t.Context(), m, f)
	if err != nil {
		t.Fatal(err)
	}
	alone := atFeed(t, s, f)
	if off := cmplx.Abs(alone - want.Z); off > 0.005*cmplx.Abs(want.Z) {
		t.Errorf("%v, and %v wire by wire", alone, want.Z)
	}
	// The coax beside them is one more, unless a choke at the feed holds it off.
	beside := s
	beside.Built.Coax = deployment.Coax{Type: "RG-58", Length: quantity.Metres(9)}
	choked := beside
	choked.Built.Choke.Place = "feed"
	with, without := atFeed(t, beside, f), atFeed(t, choked, f)
	if cmplx.Abs(with-alone) < 3 || cmplx.Abs(without-alone) > cmplx.Abs(with-alone)/3 {
		t.Errorf("%v without coax, %v with it, %v behind a choke", alone, with, without)
	}
	// One whose radials are told apart by their directions is the same antenna.
	towards := asTyped(t, "vertical", "ground-radials", map[string]string{"for": "10.1", "radiator": "7 m", "radials_count": "5",
		"radials_length": "3.5 m", "directions": "0 72 144 216 288"})
	if z := atFeed(t, towards, f); cmplx.Abs(z-alone) > 0.005*cmplx.Abs(alone) {
		t.Errorf("%v towards five directions, %v all round", z, alone)
	}
	got, err := engine.Forecast(t.Context(), s, Options{Region: 1, Band: "30m"}, nil)
	if err != nil {
		t.Fatal(err)
	}
	x := got.Bands[0]
	if dip := x.Spread.Dip; dip[1]-dip[0] < 0.005*x.DipF || dip[0] > x.DipF || dip[1] < x.DipF {
		t.Errorf("dip at %v, between %v", x.DipF, dip)
	}
}

func TestContactsWithTheSoil(t *testing.T) {
	g := earth.Ground{Permittivity: 20, Conductivity: 0.01}
	// At low frequencies a hemisphere has 1/(2 pi sigma a), at high ones it is a capacitor.
	if r := Stake(g, 100, 0.2); math.Abs(real(r)-1/(2*math.Pi*0.01*0.2)) > 0.1 || math.Abs(imag(r)) > 0.1 {
		t.Errorf("%v", r)
	}
	if r := Stake(g, 100e6, 0.2); math.Abs(imag(r)) < 2*math.Abs(real(r)) {
		t.Errorf("%v at 100 MHz", r)
	}
	// Textbooks give some 0.9/(sigma) ohm for a metre of rod of a finger's thickness.
	if r := real(Rod(g, 100, 1, 0.006)); r < 80 || r > 95 {
		t.Errorf("%v ohm for 1 m of rod", r)
	}
	bare := asTyped(t, "vertical", "ground-radials", map[string]string{"for": "7.05", "radiator": "10 m", "radials_count": "0"})
	rod := asTyped(t, "vertical", "ground-radials", map[string]string{"for": "7.05", "radiator": "10 m", "radials_count": "0",
		"earth_rod": "1.2 m"})
	a, b := atFeed(t, bare, 7.05e6), atFeed(t, rod, 7.05e6)
	if want := real(Stake(bare.earth(), 7.05e6, stakeRadius)); math.Abs(real(a)-want-48) > 12 {
		t.Errorf("a stake of %.0f ohm alone: %v", want, a)
	}
	if real(b) >= real(a) {
		t.Errorf("%v with a rod, %v with a stake", b, a)
	}
}

// A coil whose Q is only computed may lose much more, and little less; one whose Q was measured has a narrow range.
func TestACoilsLossIsARange(t *testing.T) {
	texts := map[string]string{"for": "7.05", "whip": "2.4 m", "radiator": "2.4 m", "radials_count": "4", "radials_length": "4 m"}
	width := func() float64 {
		f, err := engine.Forecast(t.Context(), asTyped(t, "loaded-whip", "raised-radials", texts), Options{Region: 1, Band: "40m"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		x := f.Bands[0]
		if x.Spread.Sky[0] > x.Sky || x.Spread.Sky[1] < x.Sky {
			t.Errorf("%v to the sky, between %v", x.Sky, x.Spread.Sky)
		}
		return x.Spread.Sky[1] / x.Spread.Sky[0]
	}
	computed := width()
	texts["coil_q"] = "180"
	if measured := width(); measured >= computed*0.97 {
		t.Errorf("the range of a measured Q is %.2f wide, of a computed one %.2f", measured, computed)
	}
	low := texts["coil_q"]
	texts["coil_q"] = "60"
	worse := atFeed(t, asTyped(t, "loaded-whip", "raised-radials", texts), 7.05e6)
	texts["coil_q"] = low
	if better := atFeed(t, asTyped(t, "loaded-whip", "raised-radials", texts), 7.05e6); real(worse) < real(better)+5 {
		t.Errorf("%v with a Q of 60, %v with one of 180", worse, better)
	}
}

// Radials on the soil are solved as well by long segments as by short ones, on the lowest band too.
func TestRadialsOnTheSoilConverge(t *testing.T) {
	for _, mhz := range []float64{1.85, 3.6} {
		s := planned(t, "vertical", "ground-radials", mhz)
		c, err := Build(s, mhz*1e6, &engine.Tables)
		if err != nil {
			t.Fatal(err)
		}
		var all []complex128
		for _, density := range []float64{20, 36, 90} {
			c.Model.Density = density
			sol, err := moment.Solve(t.Context(), c.Model, mhz*1e6)
			if err != nil {
				t.Fatal(err)
			}
			all = append(all, sol.Z)
		}
		if cmplx.Abs(all[0]-all[2]) > 1.5 || cmplx.Abs(all[1]-all[2]) > 0.9 {
			t.Errorf("%v MHz, 20, 36 and 90 segments a wave: %.2f", mhz, all)
		}
	}
}
