package antenna

import (
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func rectangle() Family {
	return Family{
		ID: "rectangle", Name: "Two-element rectangle with bent tips", Short: "rectangle", Group: "directive", Trims: "wire",
		Variants: []Variant{{"level", "level"}},
		fields: func(Shape) []entry.Field {
			built := func(id, label string) entry.Field {
				f := askLength(id, label, 60)
				f.Only = "built"
				return f
			}
			return []entry.Field{askFor(""), askBuilt("radiator", "Driven element, whole"), planOnly(askAmount("depth_waves", "Depth, in wavelengths", "", 0.06, 0.25)), askLength("tip_gap", "Gap between the tips", 3),
				built("width", "Width"), built("driven_tail", "Each driven tail"), built("reflector_tail", "Each reflector tail"), askFeed, askPole, askBearing}
		},
		plan: planRectangle, layout: layRectangle,
	}
}

// Pair is what two coupled half-wave elements do, from their mutual impedance (induced EMF).
type Pair struct{ FrontBack, R float64 }

// reflect is the driven element's resistance and the front-to-back ratio in dB with a reflector of own
// reactance x ohm at a spacing in wavelengths.
func reflect(spacing, x float64) Pair {
	z12 := MutualHalfWaves(spacing)
	i2 := -z12 / complex(73.1, x)
	phase := cmplx.Exp(complex(0, 2*math.Pi*spacing))
	front, back := cmplx.Abs(1+i2/phase), cmplx.Abs(1+i2*phase)
	return Pair{20 * math.Log10(front/math.Max(back, 1e-6)), real(73.1 + z12*i2)}
}

// planRectangle scales two half-wave elements: the driven one resonant, the reflector longer by the
// reactance that gives the best front-to-back ratio of straight elements, both bent so that the tips
// close the depth but for the gap.
func planRectangle(r Request, w Wire, _ earth.Ground) Plan {
	s := r.Shape
	lambda := Light / r.FrequencyHz
	depthWaves := s.number("depth_waves", 0.13)
	best, reactance := Pair{FrontBack: -99}, 0.0
	for x := 5.0; x <= 120; x++ {
		if p := reflect(depthWaves, x); p.FrontBack > best.FrontBack {
			best, reactance = p, x
		}
	}
	a := w.EquivalentRadius()
	k := endFactor(lambda/4, a) * w.JacketFactor(lambda/4)
	za := 120 * (math.Log(lambda/2/a) - 1)
	driven := k * lambda / 2
	reflector := driven * (1 + 2/math.Pi*math.Atan(reactance/za))
	depth := depthWaves * lambda
	gap := s.size("tip_gap", 0.01*lambda)
	// width + 2 tails on each element, tails and gap make the depth: solved for the width.
	width := (driven+reflector)/2 - (depth - gap)
	tailD, tailR := (driven-width)/2, (reflector-width)/2
	p := Plan{Factor: Factor{Value: k, Lo: k * 0.96, Hi: k * 1.03, Why: []string{"driven element as a straight half-wave; its bends and the reflector move it", fmt.Sprintf("reflector longer by %.0f ohm of reactance for the best front-to-back of straight elements", reactance)}},
		Provisional: "Provisional: scaled from straight coupled elements. Bent tips couple more; the width and the tails will be optimised for match and front-to-back with the wire solver. Cut the tails long, and adjust them first."}
	if tailD < 0.02*lambda || width < 0.2*lambda {
		p.Faults = append(p.Faults, fault("tip_gap", "error", "with this depth and gap the tips have no length left; make the depth larger or the gap smaller"))
		tailD, tailR = math.Max(tailD, 0.01), math.Max(tailR, 0.01)
	}
	s.Radiator = lengthOr(s.Radiator, driven)
	for id, m := range map[string]float64{"width": width, "driven_tail": tailD, "reflector_tail": tailR} {
		s.Put(id, lengthOr(s.Sizes[id], m))
	}
	s.FeedHeight = lengthOr(s.FeedHeight, or(s.PoleHeight.M, math.Max(5, lambda/2)))
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
	p.Shape = s
	p.Pieces = []Piece{piece(r, "driven half", 2, driven/2, 2), piece(r, "reflector", 1, reflector, 2),
		exact("tip cord", "cord", 2, gap, Allowance{"two knots", quantity.Metres(0.2)})}
	p.Figures = []Figure{
		{"Width", r.say(width), "of both elements"}, {"Depth", r.say(depth), fmt.Sprintf("%.3g wavelengths", depthWaves)},
		{"Driven tail", r.say(tailD), "each"}, {"Reflector tail", r.say(tailR), "each"}, {"Gap between the tips", r.say(gap), "cord, not wire; most of the coupling is here"},
		{"Turning radius", r.say(math.Hypot(width, depth) / 2), "from the middle of the rectangle"},
		{"Straight elements would give", fmt.Sprintf("%.0f dB front to back, %.0f ohm", best.FrontBack, best.R), "at this spacing; bent tips bring both up"},
	}
	p.Expect = "about 50 ohm once the tips are adjusted; gain some 5 dB over free space, less than full-size elements"
	p.Schools = []School{{"direction", "rectangle on a mast", fmt.Sprintf("%s by %s, %.0f m of wire", r.say(width), r.say(depth), driven+reflector), "turned by hand; nothing towards the back"},
		{"direction", "vertical or dipole", "one wire", "all round; no mast to turn"}}
	return p
}

func layRectangle(s Shape) (Drawing, []Fault) {
	h, w := s.FeedHeight.M, s.M("width")
	dt, rt, gap := s.M("driven_tail"), s.M("reflector_tail"), s.M("tip_gap")
	depth := dt + rt + gap
	d := Drawing{View: "top", Feed: Point{0, 0, h}}
	line := func(role string, x1, y1, x2, y2 float64, size float64) {
		d.Lines = append(d.Lines, Line{Role: role, From: Point{x1, y1, h}, To: Point{x2, y2, h}, Size: quantity.Metres(size)})
	}
	line("radiator", -w/2, 0, w/2, 0, w)
	line("radiator", -w/2, 0, -w/2, dt, dt)
	line("radiator", w/2, 0, w/2, dt, 0)
	line("radiator", -w/2, depth, w/2, depth, 0)
	line("radiator", -w/2, depth, -w/2, depth-rt, rt)
	line("radiator", w/2, depth, w/2, depth-rt, 0)
	line("string", -w/2, dt, -w/2, dt+gap, gap)
	line("string", w/2, dt, w/2, dt+gap, 0)
	d.Lines = append(d.Lines, Line{Role: "pole", From: Point{0, depth / 2, 0}, To: Point{0, depth / 2, h}})
	d.Spots = []Spot{{"gap", Point{-w / 2, dt + gap/2, h}, ""}, {"forward", Point{0, 0.3 * depth, h}, "forward"}}
	var faults []Fault
	if total := w + 2*dt; s.Radiator.M > 0 && w > 0 && math.Abs(total-s.Radiator.M) > 0.02*total {
		faults = append(faults, fault("width", "ask", fmt.Sprintf("width and two tails make %s, the driven element is %s; which is wrong?", quantity.Metric(total, 10), quantity.Metric(s.Radiator.M, 10))))
	}
	return d, faults
}
