// Package diagnose asks why a sweep is not as the model says: it fits single explanations to the measured
// curve, ranks them by how much better each does with its freedom counted, and says which check tells the
// first two apart.
package diagnose

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"sort"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/moment/earth"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// Subject is a set-up as recorded with its sweep, referred to the antenna's end of the coax. AtRadio says that
// it was measured through that coax; Lo and Hi are the range in hertz that is explained.
type Subject struct {
	Setup    twin.Setup
	Feed     sweep.Curve
	AtRadio  bool
	Lo, Hi   float64
	Imperial bool
}

// Around is the range in hertz that is explained of a band with a dip at a frequency: both, and a little to
// either side.
func Around(b band.Band, dip float64) (lo, hi float64) {
	return math.Min(b.Lo, dip) * 0.96, math.Max(b.Hi, dip) * 1.04
}

// Point is a foretold SWR where it was measured.
type Point struct {
	F   float64 `json:"hz"`
	SWR float64 `json:"swr"`
}

// Explanation is one single cause, fitted. Misfit is the root mean square of what is left of the reflection
// coefficient; Share is its part of all the explanations' weight, in per cent.
type Explanation struct {
	ID     string  `json:"id"`
	Title  string  `json:"title"`
	Says   string  `json:"says"`
	Check  string  `json:"check"`
	Misfit float64 `json:"misfit"`
	Share  float64 `json:"share"`
	Curve  []Point `json:"curve"`
	bic    float64
}

// Diagnosis is the ranked list. Nothing says that none of them explains the sweep well.
type Diagnosis struct {
	Sentence     string        `json:"sentence"`
	Separate     string        `json:"separate"`
	Nothing      bool          `json:"nothing"`
	Explanations []Explanation `json:"explanations"`
}

const (
	points = 25
	// model is what the solver's reflection coefficient of a rightly recorded set-up may be off by.
	model = 0.03
	// independent is how many of the points count as independent, since a curve in one band is smooth.
	independent = 10
	// poor is the misfit beyond which nothing explains a sweep.
	poor = 0.075
)

// cause is an explanation before it is fitted: what it does to the set-up, or to the curve.
type cause struct {
	id, title, check string
	from, to         float64 // of its value; equal when it has none
	values           []float64
	apply            func(s twin.Setup, v float64) twin.Setup
	bend             func(g complex128, v float64) complex128
	say              func(v float64) string
}

func plain(text string) func(float64) string { return func(float64) string { return text } }

// causes lists what may be the matter with a set-up.
func (x Subject) causes() []cause {
	b := x.Setup.Built
	length := func(m float64) string { return deployment.Print(m, x.Imperial) }
	scaled := func(s twin.Setup, by float64, fields ...string) twin.Setup {
		for _, id := range fields {
			if l := s.Built.Size(id); l > 0 {
				s.Built.Shape = s.Built.With(id, quantity.Metres(l*by))
			}
		}
		return s
	}
	// What is set by coil or capacitor is set for its frequency by the model, whatever its lengths: what differs is
	// the setting, and where the dip is says which.
	wanted := b.Wanted(math.Sqrt(x.Lo * x.Hi))
	set := b.Electrics(wanted).Knob
	tuned := set == "coil" || set == "capacitor"
	out := []cause{{id: "recorded", title: "It is as recorded", check: "nothing to check", apply: func(s twin.Setup, _ float64) twin.Setup { return s }, say: plain("the model explains the sweep as it is")}}
	lengths := cause{id: "lengths", title: "All lengths are off", check: "measure every wire again with another tape", from: -0.09, to: 0.09,
		apply: func(s twin.Setup, v float64) twin.Setup {
			fields := []string{"radiator", "leg_b", "coil_at", "tail", "width", "driven_tail", "reflector_tail"}
			for i := range s.Built.More {
				fields = append(fields, antenna.LinkID(i), antenna.WireID(i))
			}
			s = scaled(s, 1+v, fields...)
			if s.Built.FarHeight.Typed == "" && s.Built.Variant == "inverted-v" {
				s.Built.FarHeight = quantity.Metres(math.Max(0.1, s.Built.FeedHeight.M-s.Built.Radiator.M*math.Cos(s.Built.ApexAngle*math.Pi/360)))
			}
			return s
		},
		say: func(v float64) string {
			return fmt.Sprintf("every wire %.1f %% %s than recorded", 100*math.Abs(v), more(v))
		}}
	if tuned {
		out = append(out, x.settings(wanted)...)
	} else {
		out = append(out, lengths)
	}
	if b.LegB.M > 0 {
		out = append(out, cause{id: "one-wire", title: "One leg is off", check: "lay both legs beside each other", from: -0.2, to: 0.2,
			apply: func(s twin.Setup, v float64) twin.Setup { return scaled(s, 1+v, "leg_b") },
			say: func(v float64) string {
				return fmt.Sprintf("one leg %s %s than the other", length(b.LegB.M*math.Abs(v)), more(v))
			}})
	}
	if b.Variant != "ground-radials" && b.Family != "small-loop" {
		out = append(out, cause{id: "height", title: "It hangs at another height", check: "measure how high the ends are", from: 0.35, to: 1.9,
			apply: func(s twin.Setup, v float64) twin.Setup {
				shift := s.Built.FeedHeight.M * (v - 1)
				if s.Built.FeedHeight.M < 2 && s.Built.FarHeight.M > 2 { // fed near the ground: the far end is what hangs
					return scaled(s, v, "far_height", "pole_height")
				}
				s.Built.FeedHeight = quantity.Metres(s.Built.FeedHeight.M + shift)
				if s.Built.FarHeight.M > 0 {
					s.Built.FarHeight = quantity.Metres(math.Max(0.1, s.Built.FarHeight.M+shift))
				}
				if s.Built.Radials.Height.M > 0 {
					s.Built.Radials.Height = quantity.Metres(math.Max(0.1, s.Built.Radials.Height.M+shift))
				}
				return s
			},
			say: func(v float64) string {
				h := math.Max(b.FeedHeight.M, b.FarHeight.M)
				return fmt.Sprintf("about %s up instead of %s", length(math.Round(h*v*10)/10), length(h))
			}})
	}
	kinds := earth.Kinds()
	grounds := []float64{}
	for i, g := range kinds {
		if g.ID != x.Setup.Ground {
			grounds = append(grounds, float64(i))
		}
	}
	out = append(out, cause{id: "ground", title: "The ground is another", check: "dig a hand's depth, or ask how wet it is below", values: grounds,
		apply: func(s twin.Setup, v float64) twin.Setup { s.Ground = kinds[int(v)].ID; return s },
		say:   func(v float64) string { return "like " + kinds[int(v)].Name }})
	ended := b.Family == "end-fed" || b.Family == "end-fed-loaded" || b.Family == "random-wire" || b.Family == "fence-wire"
	if ended && b.Counterpoise.Count > 0 {
		out = append(out, cause{id: "no-counterpoise", title: "The counterpoise is not connected", check: "follow the counterpoise to its clip",
			apply: func(s twin.Setup, _ float64) twin.Setup { s.Built.Counterpoise.Count = 0; return s }, say: plain("as if it hung loose")})
		out = append(out, cause{id: "long-counterpoise", title: "Something longer acts as counterpoise", check: "clip a choke on the coax and sweep again", from: 1.6, to: 8,
			apply: func(s twin.Setup, v float64) twin.Setup { return scaled(s, v, "counterpoise_length") },
			say: func(v float64) string {
				return fmt.Sprintf("about %s of it: the coax, most likely", length(b.Counterpoise.Length.M*v))
			}})
	}
	if b.Primary > 0 && b.Secondary > 0 {
		ratio := math.Pow(float64(b.Secondary)/float64(b.Primary), 2)
		var others []float64
		for _, r := range []float64{4, 9, 16, 36, 49, 64, 81} {
			if math.Abs(r/ratio-1) > 0.1 {
				others = append(others, r)
			}
		}
		out = append(out, cause{id: "transformer", title: "It is another transformer", check: "read or count its turns", values: others,
			apply: func(s twin.Setup, v float64) twin.Setup {
				s.Built.Secondary = int(math.Round(float64(s.Built.Primary) * math.Sqrt(v)))
				return s
			}, say: func(v float64) string { return fmt.Sprintf("like 1:%.0f", v) }})
	}
	if b.Choke.Place != "" && b.Coax.Length.M > 0 && b.Variant != "ground-radials" {
		out = append(out, cause{id: "no-choke", title: "The choke does not choke", check: "hold the coax, or move it: does the dip move?",
			apply: func(s twin.Setup, _ float64) twin.Setup { s.Built.Choke.Place = ""; return s }, say: plain("the coax's outside is part of the antenna")})
	}
	out = append(out, cause{id: "metal", title: "A metal pole stands beside it", check: "look for metal upright within a few metres, or move the feed a step", from: 0.15, to: 2.5,
		apply: func(s twin.Setup, v float64) twin.Setup {
			s.Built.Metal = append(append([]deployment.Metal(nil), s.Built.Metal...), deployment.Metal{What: "mast", Distance: quantity.Metres(v)})
			return s
		}, say: func(v float64) string { return fmt.Sprintf("some %s away", length(math.Round(v*10)/10)) }})
	if x.AtRadio {
		out = append(out, cause{id: "cable", title: "The cable loses more than its data say", check: "short its far end and sweep: the return loss is twice its loss", from: 0.2, to: 6,
			bend: func(g complex128, v float64) complex128 { return g * complex(math.Pow(10, -v/10), 0) }, say: func(v float64) string { return fmt.Sprintf("about %.1f dB more", v) }})
	}
	out = append(out,
		cause{id: "open", title: "The feed is open", check: "an ohmmeter across the feed", bend: func(complex128, float64) complex128 { return 0.98 }, say: plain("nothing is connected behind the plug")},
		cause{id: "short", title: "The feed is shorted", check: "an ohmmeter across the feed", bend: func(complex128, float64) complex128 { return -0.98 }, say: plain("the plug or the feed is shorted")})
	return out
}

// settings is the cause that what is set is set for another frequency: the one at which the sweep dips.
func (x Subject) settings(wanted float64) []cause {
	dip, width, ok := x.dip()
	if !ok {
		return nil
	}
	var about []float64
	for k := -3.0; k <= 3; k++ {
		about = append(about, (dip+k*width/20)/wanted)
	}
	return []cause{{id: "setting", title: "It is set for another frequency", check: "set it anew and see whether the dip comes", values: about,
		apply: func(s twin.Setup, v float64) twin.Setup {
			s.Built.FrequencyHz, s.Built.More = wanted*v, nil
			return s
		},
		say: func(v float64) string {
			return fmt.Sprintf("for %s MHz instead of %s", quantity.ToKHz(wanted*v), quantity.ToKHz(wanted))
		}}}
}

func more(v float64) string {
	if v > 0 {
		return "longer"
	}
	return "shorter"
}

// measured is the sweep at the points that are explained; phase says whether it has one.
type measured struct {
	f     []float64
	g     []complex128
	phase bool
}

// span is the part of the sweep that is explained.
func (x Subject) span() (lo, hi float64, ok bool) {
	lo, hi = x.Feed.Span()
	lo, hi = math.Max(lo, x.Lo), math.Min(hi, x.Hi)
	return lo, hi, hi > lo*1.002
}

// shallow is a reflection above which the least of a sweep is noise, or a fault, and no dip.
const shallow = 0.9

// dip is where what is explained dips, and how wide.
func (x Subject) dip() (at, width float64, ok bool) {
	lo, hi, ok := x.span()
	if !ok {
		return 0, 0, false
	}
	at, w := x.Feed.Dip(lo, hi)
	return at, w.Hz, x.Feed.Mag(at) < shallow
}

func (x Subject) measured() (measured, error) {
	lo, hi, ok := x.span()
	if !ok {
		return measured{}, fmt.Errorf("the sweep does not reach %s to %s MHz", quantity.MHz(x.Lo), quantity.MHz(x.Hi))
	}
	// A narrow dip would fall between the points.
	if at, width, ok := x.dip(); ok && width < (hi-lo)/8 {
		lo, hi = math.Max(lo, at-3*width), math.Min(hi, at+3*width)
	}
	out := measured{phase: true}
	for i := range points {
		f := lo + (hi-lo)*float64(i)/(points-1)
		g, ok := x.Feed.Gamma(f)
		if !ok {
			out.phase = false
			g = complex(x.Feed.Mag(f), 0)
		}
		out.f, out.g = append(out.f, f), append(out.g, g)
	}
	return out, nil
}

// misfit is the root mean square of what foretold reflection coefficients miss.
func (m measured) misfit(foretold []complex128) float64 {
	sum := 0.0
	for i, g := range foretold {
		d := cmplx.Abs(g - m.g[i])
		if !m.phase {
			d = math.Abs(cmplx.Abs(g) - cmplx.Abs(m.g[i]))
		}
		sum += d * d
	}
	return math.Sqrt(sum / float64(len(foretold)))
}

// foretell is the model's reflection coefficients at the measured points.
func (x Subject) foretell(ctx context.Context, e *twin.Engine, m measured, s twin.Setup) ([]complex128, error) {
	at, err := e.Curve(ctx, s, m.f[0], m.f[len(m.f)-1])
	if err != nil {
		return nil, err
	}
	out := make([]complex128, len(m.f))
	for i, f := range m.f {
		out[i] = circuit.Gamma(at(f), sweep.Reference)
	}
	return out, nil
}

// Diagnose fits every explanation. It calls done after each.
func Diagnose(ctx context.Context, e *twin.Engine, x Subject, done func(step, of int)) (Diagnosis, error) {
	m, err := x.measured()
	if err != nil {
		return Diagnosis{}, err
	}
	base, err := x.foretell(ctx, e, m, x.Setup)
	if err != nil {
		return Diagnosis{}, err
	}
	list, at := x.causes(), x
	cable, known := x.Setup.Built.Coax.Cable()
	var out Diagnosis
	for n, c := range list {
		try := func(v float64) ([]complex128, float64) {
			if c.bend != nil {
				g := make([]complex128, len(base))
				for i := range g {
					g[i] = c.bend(base[i], v)
				}
				return g, m.misfit(g)
			}
			g, err := x.foretell(ctx, e, m, c.apply(x.Setup, v))
			if err != nil {
				return nil, math.Inf(1) // a set-up that cannot be is no explanation
			}
			return g, m.misfit(g)
		}
		best, g, miss := fit(c, try)
		if err := ctx.Err(); err != nil {
			return Diagnosis{}, err
		}
		if done != nil {
			done(n+1, len(list))
		}
		if math.IsInf(miss, 1) {
			continue
		}
		free := 0.0
		switch {
		case c.from != c.to:
			free = 1
		case len(c.values) > 0:
			free = 0.8
		case c.id != "recorded":
			free = 0.4
		}
		x := Explanation{ID: c.id, Title: c.title, Says: c.say(best), Check: c.check, Misfit: miss}
		x.bic = independent*sq(miss/model) + free*math.Log(independent)
		for i, f := range m.f {
			seen := g[i]
			if known && at.AtRadio {
				seen = cable.AtInput(seen, f, at.Setup.Built.Coax.Length.M)
			}
			x.Curve = append(x.Curve, Point{f, circuit.SWR(math.Min(cmplx.Abs(seen), 0.9999))})
		}
		out.Explanations = append(out.Explanations, x)
	}
	out.rank()
	return out, nil
}

// fit finds the value of a cause that explains best: steps over its range, then closing in.
func fit(c cause, try func(v float64) ([]complex128, float64)) (best float64, g []complex128, miss float64) {
	miss = math.Inf(1)
	look := func(v float64) {
		if a, m := try(v); m < miss {
			best, g, miss = v, a, m
		}
	}
	switch {
	case len(c.values) > 0:
		for _, v := range c.values {
			look(v)
		}
	case c.from == c.to:
		look(c.from)
	default:
		const steps = 6
		for i := range steps {
			look(c.from + (c.to-c.from)*float64(i)/(steps-1))
		}
		for d := (c.to - c.from) / (steps - 1) / 2; d > (c.to-c.from)/60; d /= 2 {
			at := best
			for _, v := range []float64{at - d, at + d} {
				if v >= c.from && v <= c.to {
					look(v)
				}
			}
		}
	}
	return best, g, miss
}

// rank orders the explanations and puts the answer into words.
func (d *Diagnosis) rank() {
	sort.SliceStable(d.Explanations, func(i, j int) bool { return d.Explanations[i].bic < d.Explanations[j].bic })
	if len(d.Explanations) == 0 {
		d.Nothing, d.Sentence = true, "No explanation could be computed."
		return
	}
	first := d.Explanations[0]
	sum := 0.0
	for i := range d.Explanations {
		d.Explanations[i].Share = math.Exp(-(d.Explanations[i].bic - first.bic) / 2)
		sum += d.Explanations[i].Share
	}
	for i := range d.Explanations {
		d.Explanations[i].Share *= 100 / sum
	}
	if first.Misfit > poor {
		d.Nothing = true
		d.Sentence = "Nothing on the list explains this sweep well by itself. Calibrate, sweep again in a quiet minute, and look for two things at once."
		return
	}
	d.Sentence = fmt.Sprintf("Most likely: %s, %s.", lower(first.Title), first.Says)
	if first.ID == "recorded" {
		d.Sentence = "The sweep is what the set-up as recorded should give."
	}
	if len(d.Explanations) > 1 {
		second := d.Explanations[1]
		check := second.Check
		if first.ID != "recorded" {
			check = first.Check
		}
		d.Separate = fmt.Sprintf("What would tell it from \"%s\": %s.", lower(second.Title), check)
	}
}

func lower(s string) string { return string(s[0]|0x20) + s[1:] }

func sq(x float64) float64 { return x * x }
