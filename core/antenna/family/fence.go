package family

import (
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func fence() Family {
	return Family{
		ID: "fence-wire", Name: "Wire along a fence", Short: "fence wire", Group: "fed at the end", Multi: true, Trims: NoTrim,
		matters: []string{"radiator", "feed_height"},
		Variants: []Variant{
			{ID: "wooden", Name: "posts of wood, no wire of its own", Sketch: Sketch{Wire: "M12 28H112",
				Thin: "M28 24V46M50 24V46M72 24V46M94 24V46", Feed: [2]float64{12, 28}}},
			{ID: "wired", Name: "a fence with wire or mesh",
				Sketch: Sketch{Wire: "M12 26H112", Thin: "M28 24V46M50 24V46M72 24V46M94 24V46M22 36H112", Feed: [2]float64{12, 26}}},
		},
		Feeding: Counterpoise, Trust: trustEndFed, Why: "Tried at five lengths within a tenth of the planned one, low over the soil.",
		knobs: func(antenna.Shape) []Knob { return []Knob{{Field: antenna.Radiator, Piece: "radiator"}} },
		electric: func(s antenna.Shape, _ float64, e *antenna.Electric) {
			if s.Variant == "wired" {
				e.Near, e.NearSays = fenceWires(s), "the fence has two wires of its own, 15 cm behind and below yours"
			}
		},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "every band that the tuner shall reach"), askRadiator("radiator", "Along the fence", 200),
				askLength("feed_height", "Wire up", 10)}
			out = append(append(append(out, askCounterpoise()...), askTurns()...), askBearing)
			return append(out, askBends(s)...)
		},
		plan: planFence, layout: layFence,
		dangers: func(s antenna.Shape, _ quantity.System) []antenna.Danger {
			if s.Variant != "wired" {
				return nil
			}
			return []antenna.Danger{{Code: "fence", Title: "The fence's own metal carries current",
				Text: "Never an electric fence; nobody and no animal may touch it while you send; ask the owner."}}
		},
	}
}

// Overhead is the power straight up of a level half-wave at a height over ground, in dB against the same
// wire in free space with the same power in: |1 + G exp(-j2kh)|^2 by the resistance that the ground makes
// of 73.1 ohm (induced EMF with a plane-wave image; rough below a tenth of a wave, where it flatters).
func Overhead(height float64, g earth.Ground, f float64) float64 {
	h := height * f / numeric.Light
	direct := cmplx.Abs(1 + g.Normal(f)*cmplx.Exp(complex(0, -4*math.Pi*h)))
	r := 73.1 + real(g.Normal(f)*antenna.MutualHalfWaves(2*h))
	return 10 * math.Log10(direct*direct*73.1/math.Max(r, 5))
}

func planFence(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	all := s.All()
	if s.Primary() == 0 && s.Secondary() == 0 {
		s.PutNumber(antenna.PrimaryTurns, 9)
		s.PutNumber(antenna.SecondaryTurns, 27)
	}
	s.Fill(antenna.FeedHeight, 1.2)
	ratio := s.Transforms()
	longest := math.Min(60, 0.75*numeric.Light/s.Lowest())
	best := Gap{Best: longest, Worst: math.Inf(1)}
	for _, x := range Gaps(all, w, ratio, longest) {
		if x.Worst < best.Worst {
			best = x
		}
	}
	s.Fill(antenna.Radiator, best.Best)
	if !s.Said(antenna.CounterpoiseCount) {
		s.PutNumber(antenna.CounterpoiseCount, 1)
	}
	s.Fill(antenna.CounterpoiseLength, counterpoiseFor(all, w))
	const clear = 6.0
	t := antenna.Table{Title: "What the low height costs, straight up", Columns: []string{"MHz", "half-waves", "SWR at the tuner", "here",
		fmt.Sprintf("at %s up", say(r, clear)), "cost"},
		Estimates: []int{2},
		Note: "Against a half-wave in free space. The plane-wave picture flatters very low wires: expect the cost to be 3 to 6 dB more " +
			"until it is solved with the real ground."}
	worst, cost := 0.0, 0.0
	for _, f := range all {
		x := antenna.SWR50(antenna.EndFed(f, s.Radiator().M, w) / complex(ratio, 0))
		here, up := Overhead(s.FeedHeight().M, g, f), Overhead(clear, g, f)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.2f", s.Radiator().M*2*f/numeric.Light), fmt.Sprintf("%.1f", x),
			fmt.Sprintf("%+.0f dB", here), fmt.Sprintf("%+.0f dB", up), fmt.Sprintf("%.0f dB", up-here)})
		worst, cost = math.Max(worst, x), math.Max(cost, up-here)
	}
	p := antenna.Plan{Shape: s, Tables: []antenna.Table{t}, Factor: antenna.Factor{Value: 1, Lo: 0.9, Hi: 1.1,
		Why: []string{"a low wire is loaded by the soil: its length is chosen between the high ends, then tuned"}},
		Pieces: []antenna.Piece{piece(r, "radiator", 1, s.Radiator().M, 2), piece(r, "counterpoise", s.Counterpoise().Count,
			s.Counterpoise().Length.M, 1)},
		Expect: fmt.Sprintf("a worst SWR of %.0f at the tuner, and %.0f to %.0f dB less than a wire in the clear: short range, quiet, out "+
			"of sight", worst, math.Max(0, cost), math.Max(0, cost)+6),
		Schools: []antenna.School{
			school("height", "along the fence", fmt.Sprintf("%.0f dB below a wire at %s", cost, say(r, clear)), "no pole; quiet on receive"),
			school("height", "on a pole", "reference", "needs the pole and room to fall"),
		}}
	if s.Variant == "wired" {
		p.Faults = append(p.Faults, antenna.FaultAt("variant", "caution",
			"Metal in the fence takes current: joints may arc and make noise, and everything that touches the fence becomes part of the "+
				"antenna. Never use an electric fence, and none that keeps animals in without its owner's word."))
	}
	return p
}

func layFence(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	h, l := s.FeedHeight().M, s.Radiator().M
	feed, end := antenna.Point{0, 0, h}, antenna.Point{l, 0, h}
	d := antenna.Drawing{Feed: feed, Lines: []antenna.Line{{Role: "radiator", From: feed, To: end, Size: quantity.Metres(l)}}}
	lines, faults, bent := course(s, feed, l)
	if bent {
		d.Lines = lines
	}
	for x := 0.0; x <= l+0.01; x += math.Max(2.5, l/20) {
		d.Lines = append(d.Lines, antenna.Line{Role: "fence", From: antenna.Point{x, 0, 0}, To: antenna.Point{x, 0, h}})
	}
	d.Lines = append(d.Lines, counterpoise(s, feed)...)
	return d, faults
}

// fenceWires are the fence's own two wires, behind and below the antenna.
func fenceWires(s antenna.Shape) (out []antenna.Line) {
	h, l := s.FeedHeight().M, s.Radiator().M
	for _, z := range []float64{0.35, 0.7} {
		out = append(out, antenna.Line{From: antenna.Point{-1, 0.15, z * h}, To: antenna.Point{l + 1, 0.15, z * h}})
	}
	return out
}
