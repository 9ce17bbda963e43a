package family

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

// On a band of a linked dipole the links further in are closed, that band's and all beyond are open.
func TestLinksAreOpenFromTheirBandOutward(t *testing.T) {
	p := Design(antenna.Request{Shape: antenna.Shape{Family: "linked-dipole", Variant: "flat", FrequencyHz: 7.1e6,
		More: []float64{14.06e6, 21.1e6}}})
	for hz, want := range map[float64][]string{21.1e6: {LinkID(0), LinkID(1)}, 14.06e6: {LinkID(1)}, 7.1e6: {}} {
		open := Of(p.Shape).Electrics(hz).Open
		if len(open) != len(want) {
			t.Errorf("%v Hz: open at %v, want %v", hz, open, want)
			continue
		}
		for i, id := range want {
			if open[i] != p.Shape.M(id) {
				t.Errorf("%v Hz: %v is open, want %v of %s", hz, open[i], p.Shape.M(id), id)
			}
		}
	}
}

// What is set of a family hangs with it what hangs on it.
func TestALengthTakesWithItWhatHangsOnIt(t *testing.T) {
	v := Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: 7.1e6}}).Shape
	set := Of(v).Set(antenna.Radiator, 9)
	drop := 9 * math.Cos(v.ApexAngle()*math.Pi/360)
	if set.M(antenna.LegB) != 9 || math.Abs(set.M(antenna.FarHeight)-math.Max(0, set.M(antenna.FeedHeight)-drop)) > 1e-9 {
		t.Errorf("%+v", set.Sizes)
	}
	tailed := Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed-loaded", Variant: "flat", FrequencyHz: 7.1e6,
		More: []float64{14.1e6}}}).Shape
	if s := Of(tailed).Set("tail", 2.5); math.Abs(s.M(antenna.Radiator)-s.M("coil_at")-2.5) > 1e-9 {
		t.Errorf("%+v", s.Sizes)
	}
	up := Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "upright", FrequencyHz: 14.1e6}}).Shape
	if s := Of(up).Set(antenna.Radiator, 8); math.Abs(s.M(antenna.FarHeight)-s.M(antenna.FeedHeight)-8) > 1e-9 {
		t.Errorf("%+v", s.Sizes)
	}
	beam := Design(antenna.Request{Shape: antenna.Shape{Family: "rectangle", Variant: "level", FrequencyHz: 28.2e6}}).Shape
	s := Of(beam).Set(antenna.Radiator, beam.M(antenna.Radiator)*0.98)
	if off := beam.M("driven_tail") - s.M("driven_tail"); math.Abs(2*off-0.02*beam.M(antenna.Radiator)) > 1e-9 ||
		s.M("width") != beam.M("width") {
		t.Errorf("tails are %v shorter, the frame %v wide", off, s.M("width"))
	}
	if closed := Of(beam).Beam().Close(beam.With("driven_tail", quantity.Metres(1))); closed.M(antenna.Radiator) != beam.M("width")+2 {
		t.Errorf("%v", closed.M(antenna.Radiator))
	}
}

// Knobs say how a length is changed, and in what steps.
func TestKnobsOfEveryFamily(t *testing.T) {
	ways := map[string]string{"whip": Slide, "loading-stick": Slide, "helix": Wind}
	for _, f := range Families() {
		shape := antenna.Shape{Family: f.ID, Variant: f.Variants[0].ID, FrequencyHz: 14.06e6}
		if f.Multi {
			shape.FrequencyHz, shape.More = 7.1e6, []float64{14.06e6}
		}
		a := Of(Design(antenna.Request{Shape: shape}).Shape)
		for _, k := range a.Knobs() {
			want := ways[f.ID]
			if want == "" || k.Radials {
				want = Fold
			}
			if k.Way != want || k.Legs < 1 || k.F <= 0 || k.Label == "" || k.Within[0] >= 1 || k.Within[1] <= 1 || k.Length(a.Shape) <= 0 {
				t.Errorf("%s: %+v of %v", f.ID, k, k.Length(a.Shape))
			}
			if got := k.Length(k.Set(a.Shape, k.Length(a.Shape)*1.01)); math.Abs(got/k.Length(a.Shape)-1.01) > 1e-9 {
				t.Errorf("%s: %s cannot be set", f.ID, k.Field)
			}
		}
		if tuned := f.Trims == NoTrim; tuned != (len(a.Knobs()) == 0 && f.Trims != Settings) {
			t.Errorf("%s: %d knobs", f.ID, len(a.Knobs()))
		}
	}
	wire, turns := Knob{Way: Fold}, Knob{Way: Wind}
	for change, want := range map[float64]float64{0.0024: 0, 0.0034: 0.003, -0.0126: -0.013} {
		if got := wire.Step(change); math.Abs(got-want) > 1e-12 {
			t.Errorf("a change of %v is made as %v", change, got)
		}
	}
	if turns.Step(1.3) != 1.5 || turns.Step(-0.2) != 0 {
		t.Error("turns go by halves")
	}
}
