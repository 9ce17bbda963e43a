package family

import (
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

func rectangle() Family {
	return Family{
		ID: "rectangle", Name: "Two-element rectangle with bent tips", Short: "rectangle", Group: "directive", Trims: Wired,
		matters: []string{"depth_waves", "feed_height"},
		Variants: []Variant{
			{ID: "level", Name: "level", Sketch: Sketch{Wire: "M30 22V40H90V22M30 14V8H90V14", Pole: "M60 24V26", Feed: [2]float64{60, 40}}},
		},
		Feeding: Whole,
		Why: "Bent tips couple more than the straight elements of the closed form; width and tails are optimised for match and " +
			"front-to-back.",
		knobs: knobsRectangle, set: setRectangle, beam: &rectangleBeam,
		wires:  func(antenna.Shape) []string { return []string{"width", "driven_tail", "reflector_tail"} },
		mend:   func(Match) string { return ": width and gap set the match; look whether both are as planned." },
		wholes: []whole{{antenna.Radiator, []string{"width", "driven_tail", "driven_tail"}}},
		fields: func(antenna.Shape) []entry.Field {
			built := func(id, label string) entry.Field {
				f := askLength(id, label, 60)
				f.Only = "built"
				return f
			}
			atHand := func(f entry.Field) entry.Field { return planOnly(asAtHand(f, false)) }
			return []entry.Field{askFor(""), askBuilt("radiator", "Driven element, whole"), atHand(askBuilt("radiator", "Driven element, whole")),
				atHand(askLength("reflector", "Reflector, whole", 60)),
				planOnly(askAmount("depth_waves", "Depth, in wavelengths", "", 0.06, 0.25)), askLength("tip_gap", "Gap between the tips", 3),
				built("width", "Width"), built("driven_tail", "Each driven tail"), built("reflector_tail", "Each reflector tail"),
				withHelp(built("half_a", "First half, driven"), "measured between the knots, where the two are not alike"),
				built("half_b", "Second half, driven"), built("reflector", "Reflector, whole"), askFeed, askPole,
				askBearing}
		},
		plan: planRectangle, layout: layRectangle,
	}
}

// Pair holds the figures of two coupled half-wave elements, from their mutual impedance (induced EMF).
type Pair struct{ FrontBack, R float64 }

// reflect is the driven element's resistance and the front-to-back ratio in dB with a reflector of own
// reactance x ohm at a spacing in wavelengths.
func reflect(spacing, x float64) Pair {
	z12 := antenna.MutualHalfWaves(spacing)
	i2 := -z12 / complex(73.1, x)
	phase := cmplx.Exp(complex(0, 2*math.Pi*spacing))
	front, back := cmplx.Abs(1+i2/phase), cmplx.Abs(1+i2*phase)
	return Pair{20 * math.Log10(front/math.Max(back, 1e-6)), real(73.1 + z12*i2)}
}

// Against straight half-waves the bent elements come out so long when the solver optimises them for match and
// front-to-back, on 14, 21 and 28 MHz and of bare and insulated wire alike within 1 %: the driven one, and the reflector
// over that.
const (
	bentDriven    = 0.978
	bentReflector = 1.047
)

// planRectangle begins with the elements that the solver finds for most, both bent so that the tips close the depth but
// for the gap.
func planRectangle(r antenna.Request, w antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	lambda := numeric.Light / r.FrequencyHz
	depthWaves := s.FillNumber("depth_waves", 0.13)
	best := Pair{FrontBack: -99}
	for x := 5.0; x <= 120; x++ {
		if p := reflect(depthWaves, x); p.FrontBack > best.FrontBack {
			best = p
		}
	}
	a := w.EquivalentRadius()
	k := antenna.EndFactor(lambda/4, a) * w.JacketFactor(lambda/4)
	closed := bentDriven * k * lambda / 2
	reflector := antenna.Or(s.M("reflector"), closed*bentReflector)
	driven := antenna.Or(s.Radiator().M, closed)
	depth := depthWaves * lambda
	gap := s.Fill("tip_gap", 0.01*lambda)
	// width + 2 tails on each element, tails and gap make the depth: solved for the width.
	width := (driven+reflector)/2 - (depth - gap)
	tailD, tailR := (driven-width)/2, (reflector-width)/2
	p := antenna.Plan{Factor: antenna.Factor{Value: k, Lo: k * 0.96, Hi: k * 1.03,
		Why: []string{"a half-wave by its thickness and jacket, and what bends and reflector took from it where it was solved",
			"width and tails are optimised for match and front-to-back by the solver"}},
		Provisional: "Provisional until it is solved: cut the tails long, and adjust them first."}
	if tailD < 0.02*lambda || width < 0.2*lambda {
		p.Faults = append(p.Faults, noTips(r, driven, closed, reflector))
		tailD, tailR = math.Max(tailD, 0.01), math.Max(tailR, 0.01)
	}
	driven = settle(&p.Factor, driven, closed)
	s.Fill(antenna.Radiator, driven)
	width, tailD, tailR = s.Fill("width", width), s.Fill("driven_tail", tailD), s.Fill("reflector_tail", tailR)
	reflector, depth = antenna.Or(s.M("reflector"), width+2*tailR), tailD+gap+tailR
	s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, math.Max(5, lambda/2)))
	s.Fill(antenna.PoleHeight, s.FeedHeight().M)
	p.Shape = s
	p.Pieces = []antenna.Piece{piece(r, "driven half", 2, driven/2, 2), piece(r, "reflector", 1, reflector, 2),
		exact("tip cord", "cord", 2, gap, allow("two knots", quantity.Metres(0.2)))}
	p.Figures = []phrase.Figure{
		figure("Width", say(r, width), "of both elements"), figure("Depth", say(r, depth), fmt.Sprintf("%.3g wavelengths", depthWaves)),
		figure("Driven tail", say(r, tailD), "each"), figure("Reflector tail", say(r, tailR), "each"),
		figure("Gap between the tips", say(r, gap), "cord, not wire; most of the coupling is here"),
		figure("Turning radius", say(r, math.Hypot(width, depth)/2), "from the middle of the rectangle"),
		figure("Straight elements would give", fmt.Sprintf("%.0f dB front to back, %.0f ohm", best.FrontBack, best.R),
			"at this spacing; bent tips bring both up"),
	}
	p.Expect = "about 50 ohm once the tips are adjusted; gain some 5 dB over free space, less than full-size elements"
	p.Schools = []antenna.School{school("direction", "rectangle on a mast",
		fmt.Sprintf("%s by %s, %.0f m of wire", say(r, width), say(r, depth), driven+reflector), "turned by hand; nothing towards the back"),
		school("direction", "vertical or dipole", "one wire", "all round; no mast to turn")}
	return p
}

// noTips says which field leaves no wire for the tips: that of a wire at hand that is too short, else the gap's.
func noTips(r antenna.Request, driven, closed, reflector float64) antenna.Fault {
	short := func(id string, has, suits float64) (antenna.Fault, bool) {
		return antenna.Say(id, "error", "%s is too short on %s MHz: bent round this frame it leaves no tips. It takes about %s",
			say(r, has), quantity.ToKHz(r.FrequencyHz), say(r, suits)), r.Shape.M(id) > 0 && has < suits
	}
	if f, is := short(antenna.Radiator, driven, closed); is {
		return f
	}
	if f, is := short("reflector", reflector, closed*bentReflector); is {
		return f
	}
	return antenna.FaultAt("tip_gap", "error",
		"with this depth and gap the tips have no length left; make the depth larger or the gap smaller")
}

func layRectangle(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	h, w := s.FeedHeight().M, s.M("width")
	dt, rt, gap := s.M("driven_tail"), s.M("reflector_tail"), s.M("tip_gap")
	depth := dt + rt + gap
	d := antenna.Drawing{View: "top", Feed: antenna.Point{0, 0, h}}
	line := func(role string, x1, y1, x2, y2 float64, size float64) {
		d.Lines = append(d.Lines, antenna.Line{Role: role, From: antenna.Point{x1, y1, h}, To: antenna.Point{x2, y2, h},
			Size: quantity.Metres(size)})
	}
	// Halves and reflector that were measured by themselves end where they end: the frame stays.
	ends := [2]float64{dt, dt}
	for i, id := range []string{"half_a", "half_b"} {
		if half := s.M(id); half > 0 {
			ends[i] = math.Max(half-w/2, 0.01)
		}
	}
	if whole := s.M("reflector"); whole > 0 {
		rt = math.Max((whole-w)/2, 0.01)
	}
	for i, side := range []float64{-1, 1} {
		x := side * w / 2
		size := func(m float64) float64 {
			if i == 0 {
				return m
			}
			return 0
		}
		line("radiator", 0, 0, x, 0, size(w/2))
		line("radiator", x, 0, x, ends[i], size(ends[i]))
		line("string", x, ends[i], x, depth-rt, size(depth-rt-ends[i]))
	}
	for i, x := range []float64{-w / 2, w / 2} {
		line("radiator", 0, depth, x, depth, 0)
		line("radiator", x, depth, x, depth-rt, []float64{rt, 0}[i])
	}
	d.Lines = append(d.Lines, antenna.Line{Role: "pole", From: antenna.Point{0, depth / 2, 0}, To: antenna.Point{0, depth / 2, h}})
	d.Spots = []antenna.Spot{{Kind: "gap", At: antenna.Point{-w / 2, (ends[0] + depth - rt) / 2, h}, Text: ""},
		{Kind: "forward", At: antenna.Point{0, 0.3 * depth, h}, Text: "forward"}}
	var faults []antenna.Fault
	if total := w + 2*dt; s.Radiator().M > 0 && w > 0 && math.Abs(total-s.Radiator().M) > 0.02*total {
		faults = append(faults, antenna.Say("width", "ask", "width and two tails make %s, the driven element is %s; which is wrong?",
			quantity.Long(total), quantity.Long(s.Radiator().M)))
	}
	return d, faults
}

func knobsRectangle(s antenna.Shape) []Knob {
	// A tail is what is left of its half, or of the reflector, beyond the frame.
	tail := func(half, field string) func(antenna.Shape) float64 {
		return func(s antenna.Shape) float64 {
			if l := s.M(half); l > 0 {
				return l - s.M("width")/2
			}
			return s.M(field)
		}
	}
	parts := []Part{{Field: "driven_tail", Label: "each driven tail"}}
	if s.M("half_a") > 0 || s.M("half_b") > 0 {
		parts = []Part{{"driven_tail", "the first driven tail", tail("half_a", "driven_tail")},
			{"driven_tail", "the second driven tail", tail("half_b", "driven_tail")}}
	}
	parts = append(parts, Part{"reflector_tail", "each reflector tail",
		func(s antenna.Shape) float64 { return (reflector(s) - s.M("width")) / 2 }})
	return []Knob{{Field: antenna.Radiator, Label: "both elements, by their tails", Legs: 1, Parts: parts, of: driven}}
}

// driven is the whole driven element in metres: its halves where they were measured by themselves.
func driven(s antenna.Shape) float64 {
	a, b := s.M("half_a"), s.M("half_b")
	if a <= 0 && b <= 0 {
		return s.M(antenna.Radiator)
	}
	return antenna.Or(a, b) + antenna.Or(b, a)
}

// reflector is the whole reflector in metres.
func reflector(s antenna.Shape) float64 {
	return antenna.Or(s.M("reflector"), s.M("width")+2*s.M("reflector_tail"))
}

// setRectangle sets the driven element, and with it the reflector to what it is to be against that, whatever it was
// recorded as: the frame stays, the tails make the difference, and both halves come out alike.
func setRectangle(s antenna.Shape, id string, m float64) antenna.Shape {
	width := s.M("width")
	if id != antenna.Radiator || s.M(antenna.Radiator) <= 0 || width <= 0 {
		return setLength(s, id, m)
	}
	for id, whole := range map[string]float64{"driven_tail": m, "reflector_tail": m * bentReflector} {
		s.Put(id, quantity.Metres(math.Max(leastTail, (whole-width)/2)))
	}
	for _, id := range []string{"half_a", "half_b", "reflector"} {
		s.Drop(id)
	}
	s.Put(antenna.Radiator, quantity.Metres(m))
	return s
}

// rectangleBeam lists the lengths that are optimised together.
var rectangleBeam = Beam{
	Lengths: []Part{{Field: "width", Label: "width"}, {Field: "driven_tail", Label: "each driven tail"},
		{Field: "reflector_tail", Label: "each reflector tail"}},
	Wholes: []WholeWire{
		{Field: antenna.Radiator, Piece: "driven half", Label: "driven element, whole", AtHand: antenna.Radiator, Tail: "driven_tail",
			Length: driven},
		{Piece: "reflector", Label: "reflector, whole", AtHand: "reflector", Tail: "reflector_tail", Length: reflector},
	},
	Close: func(s antenna.Shape) antenna.Shape {
		for _, id := range []string{"half_a", "half_b", "reflector"} {
			s.Drop(id)
		}
		return s.With(antenna.Radiator, quantity.Metres(s.M("width")+2*s.M("driven_tail")))
	},
}
