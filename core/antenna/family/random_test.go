package family

import (
	"math"
	"math/rand/v2"
	"testing"

	"reed/core/antenna"
	"reed/core/numeric"
	"reed/core/quantity"
	"reed/internal/testsize"
)

// TestNoWishBreaksTheArithmetic asks for hundreds of odd set-ups: whatever is asked, lengths are finite
// and positive or a fault is named, nothing is drawn below ground without an error, and every drawn
// radiator has the length that is recorded.
func TestNoWishBreaksTheArithmetic(t *testing.T) {
	testsize.SkipIfShort(t, "plans thousands of antennas")
	rng := rand.New(rand.NewPCG(11, 12))
	maybe := func(most float64) quantity.Length {
		if rng.IntN(3) == 0 {
			return quantity.Length{}
		}
		m := most * rng.Float64()
		return quantity.Length{M: m, Typed: quantity.Metric(m, 1)}
	}
	wires, all := antenna.Wires(), Families()
	for range 1500 {
		fam := all[rng.IntN(len(all))]
		r := antenna.Request{Shape: antenna.Shape{Family: fam.ID, Variant: fam.Variants[rng.IntN(len(fam.Variants))].ID,
			FrequencyHz: 1.8e6 + rng.Float64()*50e6, Wire: wires[rng.IntN(len(wires))].ID}.With(antenna.FeedHeight,
			maybe(12)).With(antenna.FarHeight, maybe(15)).With(antenna.PoleHeight, maybe(15)).WithNumber(antenna.ApexAngle,
			float64(rng.IntN(2))*(30+150*rng.Float64())).WithRadials(antenna.WireSet{Count: rng.IntN(40), Length: maybe(20),
			Height: maybe(5)}).WithCounterpoise(antenna.WireSet{Count: rng.IntN(3), Length: maybe(10)}), HalfWaves: rng.IntN(5),
			TrimPercent: rng.Float64() * 10, Ground: []string{"", "sea", "rock"}[rng.IntN(3)]}
		p := Design(r)
		for _, f := range p.Faults {
			if f.Path == "" || f.Text == "" || f.Severity == "" {
				t.Fatalf("a fault without place or words: %+v", f)
			}
		}
		for _, piece := range p.Pieces {
			if !(piece.Cut.M > 0) || math.IsInf(piece.Cut.M, 0) || piece.Cut.M < piece.Electrical.M {
				t.Fatalf("%+v: piece %+v", r, piece)
			}
		}
		if plain := fam.ID == "dipole" || fam.ID == "end-fed" || fam.ID == "vertical"; plain && (p.Factor.Value < 0.7 || p.Factor.Value > 1.05) {
			t.Fatalf("%s %s at %.2f MHz: factor %v", fam.ID, r.Variant, r.FrequencyHz/1e6, p.Factor.Value)
		}
		drawn := 0.0
		for _, l := range p.Drawing.Lines {
			for _, at := range []antenna.Point{l.From, l.To} {
				for _, v := range at {
					if math.IsNaN(v) || math.IsInf(v, 0) {
						t.Fatalf("%+v: drawn at %v", r, at)
					}
				}
				if at[2] < -0.02 && !antenna.HasError(p.Faults) {
					t.Fatalf("%s %s: drawn %.2f m below the ground without a word", fam.ID, r.Variant, -at[2])
				}
			}
			if l.Role == "radiator" {
				drawn += l.Length()
			}
		}
		if fam.ID != "multi-vertical" && fam.ID != "rectangle" && fam.ID != "small-loop" && math.Abs(drawn-p.Shape.Total()) > 1e-6*drawn &&
			!antenna.HasError(p.Faults) {
			t.Fatalf("%s %s: drawn %v m of %v", fam.ID, r.Variant, drawn, p.Shape.Total())
		}
	}
}

func TestHigherDipolesSettleAtTheirFreeSpaceValue(t *testing.T) {
	var last float64
	for _, lambdas := range []float64{0.5, 1, 2, 4} {
		g := antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 28.5e6}.With(antenna.FeedHeight,
			quantity.Metres(lambdas*numeric.Light/28.5e6)), Ground: "average"}
		p := Design(g)
		last = p.Factor.Value
		if p.Factor.Value <= 0 {
			t.Fatal(p.Factor)
		}
	}
	far := Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 28.5e6}.With(antenna.FeedHeight,
		quantity.Metres(18)), Ground: "dry-sand"})
	if math.Abs(far.Factor.Value-last) > 0.01 {
		t.Errorf("high up the ground should not matter: %v over dry sand, %v over average soil", far.Factor.Value, last)
	}
}
