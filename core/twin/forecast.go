package twin

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"sync"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Point is a predicted measurement at a frequency in hertz: SWR at the radio's socket, and SWR, R and X in ohms
// where the coax meets the antenna, behind its transformer.
type Point struct {
	F       float64 `json:"hz"`
	SWR     float64 `json:"swr"`
	FeedSWR float64 `json:"feed_swr"`
	R       float64 `json:"r"`
	X       float64 `json:"x"`
}

// Spread holds the ranges by the unknowns of a set-up: the SWR by point of the curve, the share that reaches the sky and the dip in hertz,
// of which 95 in 100 antennas that are built as recorded lie inside.
type Spread struct {
	Low  []float64  `json:"low"`
	High []float64  `json:"high"`
	Sky  [2]float64 `json:"sky"`
	Says string     `json:"says"`
	Dip  [2]float64 `json:"-"`
}

// Voltage is a peak voltage at a place.
type Voltage struct {
	Where string  `json:"where"`
	Volts float64 `json:"volts"`
}

// Pattern is gain in dBi: Elevation from one horizon over the zenith to the other every two degrees in the
// plane of the strongest direction, Azimuth every five degrees counted from the antenna's own direction,
// counterclockwise from above, at the take-off angle.
type Pattern struct {
	Elevation []float64 `json:"elevation"`
	Azimuth   []float64 `json:"azimuth"`
	TakeOff   float64   `json:"take_off"`  // degrees above the horizon
	Direction float64   `json:"direction"` // degrees from the antenna's own direction, counterclockwise
	Bearing   *float64  `json:"bearing,omitempty"`
	Gain      float64   `json:"gain"`
	// Null is where a loop sends least at 15 degrees up, as Direction is counted, and NullDB by how much less than its best there.
	Null   float64 `json:"-"`
	NullDB float64 `json:"-"`
	// Against a half-wave dipole as high as its highest point, and a full-size quarter-wave on 16 radials, each
	// at the same angle in its best direction, in dB; missing in a coarse forecast, and where the other sends next to
	// nothing at that angle.
	OverDipole  *float64 `json:"over_dipole,omitempty"`
	OverQuarter *float64 `json:"over_quarter,omitempty"`
}

// Band is the forecast on one band.
type Band struct {
	Name      string         `json:"name"`
	Lo        float64        `json:"lo_hz"` // of the band
	Hi        float64        `json:"hi_hz"`
	F         float64        `json:"hz"` // wanted
	Own       []band.Segment `json:"own,omitempty"`
	Setting   string         `json:"setting,omitempty"`
	Curve     []Point        `json:"curve"`
	BestF     float64        `json:"best_hz"`
	BestSWR   float64        `json:"best_swr"`
	FeedBestF float64        `json:"feed_best_hz"` // where the coax meets the antenna
	FeedBest  float64        `json:"feed_best_swr"`
	WantedSWR float64        `json:"wanted_swr"`
	Width     float64        `json:"width_hz"` // under SWR 2, as far as the curve reaches
	Sky       float64        `json:"sky"`      // share of what goes into the wires
	Coax      float64        `json:"coax"`     // share of the sky's power that the coax alone would send there
	// CoaxCurrent is the highest current on the coax's outside over that on the antenna's wires.
	CoaxCurrent float64         `json:"coax_current"`
	Says        string          `json:"says_swr"` // the SWR at F in words
	Facts       []phrase.Figure `json:"facts"`
	Budget      []circuit.Stage `json:"budget"`
	Voltages    []Voltage       `json:"voltages"`
	Pattern     Pattern         `json:"pattern"`
	Spread      *Spread         `json:"spread,omitempty"`
	// Stay is how far in metres people keep off every radiating wire, by the solved near fields; 0 in a coarse forecast.
	Stay     float64 `json:"stay"`
	stays    string
	Unknowns int        `json:"unknowns"`
	Solves   int        `json:"solves"`
	Assumes  []string   `json:"assumes"`
	Z        complex128 `json:"-"` // at the wires, at F
	FeedSWR  float64    `json:"-"` // where the coax meets the antenna, at F
	// The dip that the radio would see through an ideal transformer.
	DipF, DipSWR float64 `json:"-"`
	// What is set: a coil in henries, a capacitor in farads, 0 without.
	SetL, SetC float64 `json:"-"`
	SetOut     float64 `json:"-"` // metres that a whip is out
}

// Forecast is the whole answer. Sentence is the judgement in words.
type Forecast struct {
	Bands       []Band   `json:"bands"`
	Sentence    string   `json:"sentence"`
	Trust       string   `json:"trust"`
	Tuner       bool     `json:"tuner"` // the SWR is that which a tuner has to match
	Assumptions []string `json:"assumptions"`
	PowerW      float64  `json:"power_w"`
	Coarse      bool     `json:"coarse"`
	StaySays    string   `json:"stay_says,omitempty"`
}

// Options set how much is computed. Band, when named, is the only one; Segments are the operator's, kept apart
// by band in the answer. Standing leaves a length that can be slid as it was recorded on every band, as when it is
// measured; otherwise it is set anew for each band but the first.
type Options struct {
	Region   band.Region
	Band     string
	Segments []band.Segment
	Coarse   bool
	Standing bool
	// alone says that no other band is computed beside this one.
	alone bool
	// mesh is the segments to a wavelength, 0 for the usual. What is set is set on the mesh that is then solved: a
	// loop set on another would be out of tune by more than its width.
	mesh float64
}

// wanted lists the frequencies that a forecast is made for: all that the antenna is for, or those in the one
// band, or its middle.
func (o Options) wanted(s Setup) []float64 {
	b, ok := band.Named(o.Region, o.Band)
	if !ok {
		return s.Built.All()
	}
	for _, f := range s.Built.All() {
		if b.Contains(f) {
			return []float64{f}
		}
	}
	return []float64{b.Centre()}
}

// Engine keeps what forecasts share: tables of grounds and antennas to compare with. The zero value is ready;
// it may be used by many at once.
type Engine struct {
	Tables earth.Tables
	mu     sync.Mutex
	kept   map[string][]float64
}

func (o Options) density() float64 {
	if o.mesh > 0 {
		return o.mesh
	}
	if o.Coarse {
		return 16
	}
	return 36
}

// margin is how far beyond a band's edges its curve goes.
const margin = 0.035

// Forecast computes a set-up on all its bands. It calls done after each step, which may be nil.
func (e *Engine) Forecast(ctx context.Context, s Setup, o Options, done func(step, of int)) (Forecast, error) {
	all := o.wanted(s)
	o.alone = len(all) == 1
	steps := 3
	if o.Coarse {
		steps = 1
	}
	out := Forecast{PowerW: s.power(), Tuner: tuned(s), Coarse: o.Coarse, Bands: []Band{}, Assumptions: []string{}}
	var counting sync.Mutex
	count := 0
	step := func() {
		counting.Lock()
		defer counting.Unlock()
		count++
		if done != nil {
			done(count, steps*len(all))
		}
	}
	out.Bands = make([]Band, len(all))
	failed := make([]error, len(all))
	if err := e.ready(ctx, s, o, all); err != nil {
		return Forecast{}, err
	}
	err := numeric.Share(ctx, len(all), func(i int) { out.Bands[i], failed[i] = e.band(ctx, s, o, all[i], step) })
	for i, f := range all {
		if failed[i] != nil {
			return Forecast{}, fmt.Errorf("%s MHz: %w", quantity.ToKHz(f), failed[i])
		}
	}
	if err != nil {
		return Forecast{}, err
	}
	for _, b := range out.Bands {
		for _, a := range b.Assumes {
			known := false
			for _, have := range out.Assumptions {
				known = known || have == a
			}
			if !known {
				out.Assumptions = append(out.Assumptions, a)
			}
		}
	}
	out.Sentence, out.Trust = out.sentence(s), trust(s)
	stay := 0.0
	for _, b := range out.Bands {
		stay = math.Max(stay, b.Stay)
	}
	if stay > 0 {
		out.StaySays = fmt.Sprintf("stay %s away", s.Units.Rough(stay))
	}
	return out, nil
}

// ready computes the grounds of all bands together, with those of the range where that is asked for.
func (e *Engine) ready(ctx context.Context, s Setup, o Options, all []float64) error {
	grounds := []earth.Ground{s.ground()}
	if !o.Coarse {
		poor := soils(s.earth())
		grounds = append(grounds, poor[:]...)
	}
	var reach []float64
	for _, f := range all {
		lo, hi := o.window(s, f)
		reach = append(reach, lo, f, hi)
	}
	return e.Tables.Ready(ctx, grounds, reach...)
}

// window is the range in hertz over which the curve of a wanted frequency goes.
func (o Options) window(s Setup, f float64) (lo, hi float64) {
	if share := family.Of(s.Built.Shape).Electrics(f).Span; share > 0 {
		return f * (1 - share), f * (1 + share)
	}
	b := o.around(f)
	return b.Lo * (1 - margin), b.Hi * (1 + margin)
}

// around is the band of a frequency, or a little to both sides of it.
func (o Options) around(f float64) band.Band {
	if b, ok := band.At(o.Region, f); ok {
		return b
	}
	return band.Band{Name: quantity.ToKHz(f) + " MHz", Lo: f * 0.99, Hi: f * 1.01}
}

// solved is one band's case with its knob set, and its curve.
type solved struct {
	Case
	chain chain
	curve moment.Curve
	at    *moment.Solution // at the wanted frequency
}

func (e *Engine) solve(ctx context.Context, s Setup, o Options, f, lo, hi float64) (*solved, string, error) {
	c, setting, err := e.set(ctx, s, o, f)
	if err != nil {
		return nil, "", err
	}
	out := &solved{Case: c, chain: chain{setup: s, electric: c.Electric}}
	return out, setting, out.over(ctx, f, lo, hi, o.Coarse)
}

// over solves the case at its frequency and fits its curve around that.
func (x *solved) over(ctx context.Context, f, lo, hi float64, coarse bool) error {
	b, err := moment.Over(ctx, x.Model, lo, hi)
	if err != nil {
		return err
	}
	if x.at, err = b.Solve(ctx, f); err != nil {
		return err
	}
	if x.chain.couple == 0 {
		x.chain.couple = real(x.at.Z)
	}
	across := moment.Across{Lo: lo, Hi: hi, Z0: math.Max(0.05, cmplx.Abs(x.at.Z)), Known: f, KnownZ: x.at.Z}
	if coarse {
		across.Tolerance, across.Most = 0.05, 4
	}
	x.curve, err = across.Fit(ctx, func(ctx context.Context, f float64) (complex128, error) {
		s, err := b.Solve(ctx, f)
		if err != nil {
			return 0, err
		}
		return s.Z, nil
	})
	return err
}

// points is how many frequencies of a band are shown.
const points = 41

func (x *solved) points(lo, hi float64) []Point {
	out := make([]Point, points)
	for i := range out {
		f := lo + (hi-lo)*float64(i)/(points-1)
		z := x.curve.At(f)
		feed, _ := x.chain.feed(f, z)
		socket := x.chain.Socket(f, z, false)
		out[i] = Point{F: f, SWR: swr(socket.Z), FeedSWR: swr(feed), R: real(feed), X: imag(feed)}
	}
	return out
}

// dip is where the SWR is lowest that the radio would see with an ideal transformer in place of the real one.
func (x *solved) dip(lo, hi float64) (at, low float64) {
	see := func(f float64) float64 {
		z := x.curve.At(f)
		if n := x.Electric.TransformsFrom; n != 1 && x.Electric.Line == nil && !x.Electric.Coupled {
			return swr(z / complex(n, 0))
		}
		feed, _ := x.chain.feed(f, z)
		return swr(feed)
	}
	const grid = 240
	at, low = lo, see(lo)
	for i := 1; i <= grid; i++ {
		if f := lo + (hi-lo)*float64(i)/grid; see(f) < low {
			at, low = f, see(f)
		}
	}
	step := (hi - lo) / grid
	best, _ := numeric.Golden(func(f float64) (float64, error) { return see(f), nil }, math.Max(lo, at-step), math.Min(hi, at+step), 10)
	if v := see(best); v < low {
		return best, v
	}
	return at, low
}

// follow is the dip, looked for beyond the window where that ends before it is reached: up to a third of the frequency to
// either side. Where there is none it is the window's own lowest.
func (x *solved) follow(ctx context.Context, s Setup, f, lo, hi float64) (at, low float64, err error) {
	at, low = x.dip(lo, hi)
	edge := func(at, end float64) bool { return math.Abs(at-end) < 1e-3*(hi-lo) }
	up := edge(at, hi)
	if !up && !edge(at, lo) || x.Electric.Span > 0 || tuned(s) {
		return at, low, nil
	}
	const reach, step = 1.0 / 3, 0.12
	from := lo
	if up {
		from = hi
	}
	for math.Abs(from/f-1) < reach {
		to, a, b := from*(1-step), from*(1-step), from
		if up {
			to, a, b = from*(1+step), from, from*(1+step)
		}
		next := &solved{Case: x.Case, chain: x.chain}
		if err := next.over(ctx, math.Sqrt(a*b), a, b, true); err != nil {
			return at, low, err
		}
		if seen, swr := next.dip(a, b); swr < low && !edge(seen, to) {
			return seen, swr, nil
		}
		from = to
	}
	return at, low, nil
}

func swr(z complex128) float64 { return circuit.SWR(cmplx.Abs(circuit.Gamma(z, 50))) }

func (e *Engine) band(ctx context.Context, s Setup, o Options, f float64, step func()) (Band, error) {
	bd := o.around(f)
	lo, hi := o.window(s, f)
	x, setting, err := e.solve(ctx, s, o, f, lo, hi)
	if err != nil {
		return Band{}, err
	}
	out := Band{Name: bd.Name, Lo: bd.Lo, Hi: bd.Hi, F: f, Own: band.Own(o.Segments, bd.Name), Setting: setting, Curve: x.points(lo, hi),
		Z: x.at.Z, Unknowns: x.at.Unknowns, Solves: len(x.curve.F) + 1, Assumes: x.Assumptions}
	out.BestSWR, out.FeedBest = math.Inf(1), math.Inf(1)
	for i, p := range out.Curve {
		if p.SWR < out.BestSWR {
			out.BestF, out.BestSWR = p.F, p.SWR
		}
		if p.FeedSWR < out.FeedBest {
			out.FeedBestF, out.FeedBest = p.F, p.FeedSWR
		}
		if i > 0 && p.SWR < 2 && out.Curve[i-1].SWR < 2 {
			out.Width += p.F - out.Curve[i-1].F
		}
	}
	out.WantedSWR = swr(x.chain.Socket(f, x.at.Z, false).Z)
	feed, _ := x.chain.feed(f, x.at.Z)
	out.FeedSWR = swr(feed)
	if out.DipF, out.DipSWR, err = x.follow(ctx, s, f, lo, hi); err != nil {
		return Band{}, err
	}
	out.SetL, out.SetC = x.SetL, x.SetC
	switch {
	case x.from.Bridged:
		_, out.SetOut, _ = family.Of(x.from.Built.Shape).AboveCoil()
	case x.Electric.Knob == "length":
		out.SetOut = x.from.Built.Radiator().M
	}
	out.Sky = math.Max(0, math.Min(1, x.at.Average()))
	out.Coax, out.CoaxCurrent = coaxShare(x.Case, x.at)
	out.Budget, out.Voltages = x.budget(s, f, out.Sky)
	out.Pattern = x.pattern(s)
	if err := ctx.Err(); err != nil {
		return Band{}, err
	}
	step()
	if o.Coarse {
		return out.shown(), nil
	}
	if err := e.compare(ctx, s, o, x, &out.Pattern, f); err != nil {
		return Band{}, err
	}
	if out.Stay, err = x.stay(ctx, s, f); err != nil {
		return Band{}, err
	}
	out.stays = s.Units.Rough(out.Stay)
	step()
	out.Spread, err = e.spread(ctx, s, o, x, f, lo, hi, out)
	step()
	return out.shown(), err
}

// set makes the case of a frequency and turns its knob until the wires show no reactance there. What was
// set is said in words.
func (e *Engine) set(ctx context.Context, s Setup, o Options, f float64) (Case, string, error) {
	build := func(s Setup) (Case, error) {
		c, err := Build(s, f, &e.Tables)
		c.Model.Density = o.density()
		return c, err
	}
	c, err := build(s)
	if err != nil || c.Electric.Knob == "" {
		return c, "", err
	}
	d, says, err := dialOf(c, s, o, f, build)
	if err != nil || d.at == nil {
		return c, says, err
	}
	v, ok, err := d.turn(ctx, f)
	if err != nil {
		return c, "", err
	}
	if _, _, rod := family.Of(s.Built.Shape).AboveCoil(); rod && v < family.LeastCoil {
		// So little coil has no tap: it is bridged, and the whip is drawn in.
		d = whipDial(s, f, build)
		if v, ok, err = d.turn(ctx, f); err != nil {
			return c, "", err
		}
	}
	c, err = d.at(v)
	switch c.Electric.Knob {
	case "coil":
		if !c.from.Bridged {
			c.SetL = v
		}
	case "capacitor":
		c.SetC = 1 / v
	}
	says, c.Lost = d.says(v), !ok
	if c.Lost {
		says += ", not resonant"
	}
	return c, says, err
}

// dial is the one adjustable length or component of a case: its guess and largest value, the case with it set, and its label. at is
// nil where nothing is to be set.
type dial struct {
	from, most float64
	at         func(v float64) (Case, error)
	says       func(v float64) string
}

// turn finds the value at which the wires show no reactance at f.
func (d dial) turn(ctx context.Context, f float64) (v float64, ok bool, err error) {
	return zero(func(v float64) (complex128, error) {
		c, err := d.at(v)
		if err != nil {
			return 0, err
		}
		sol, err := moment.Solve(ctx, c.Model, f)
		if err != nil {
			return 0, err
		}
		return sol.Z, nil
	}, d.from, d.most)
}

// dialOf is the dial of a case; the text says why there is none.
func dialOf(c Case, s Setup, o Options, f float64, build func(Setup) (Case, error)) (dial, string, error) {
	loads := func(change func([]moment.Load)) (Case, error) {
		out := c
		out.Model.Loads = append([]moment.Load(nil), c.Model.Loads...)
		change(out.Model.Loads)
		return out, nil
	}
	e := c.Electric
	switch {
	case e.Knob == "coil" && (c.coil < 0 || e.Henries < family.LeastCoil):
		if _, _, rod := family.Of(s.Built.Shape).AboveCoil(); rod {
			return whipDial(s, f, build), "", nil
		}
		return dial{}, "no coil is needed", nil
	case e.Knob == "coil":
		return dial{e.Henries, e.Henries * 4, func(v float64) (Case, error) {
			return loads(func(all []moment.Load) {
				for i, name := range c.loads {
					if name == "coil" {
						all[i].L, all[i].R = v, e.Ohms*v/e.Henries
					}
				}
			})
		}, func(v float64) string { return fmt.Sprintf("coil %.3g uH", v*1e6) }}, "", nil
	case e.Knob == "capacitor" && c.coil < 0:
		return dial{}, "", errors.New("the capacitor stands nowhere on the loop as recorded")
	case e.Knob == "capacitor":
		return dial{1 / e.Farads, 4 / e.Farads, func(v float64) (Case, error) {
			return loads(func(all []moment.Load) { all[c.coil].C = 1 / v })
		}, func(v float64) string { return fmt.Sprintf("capacitor %.3g pF", 1e12/v) }}, "", nil
	case !s.Planned && s.Built.Radiator().M > 0 && (o.Standing || f == s.Built.FrequencyHz):
		return dial{}, "", nil // it is out as far as was recorded
	}
	v, most := 0.95*numeric.Light/f/4, e.Longest
	if most == 0 {
		most = math.Max(s.Built.Radiator().M, v)
	}
	return dial{math.Min(v, most), most, func(v float64) (Case, error) {
		t := s
		t.Built.Put(antenna.Radiator, quantity.Metres(v))
		return build(t)
	}, func(v float64) string { return "whip out " + s.Units.Long(v) }}, "", nil
}

// whipDial is the whip above a bridged coil, from a quarter-wave of the whole inwards.
func whipDial(s Setup, f float64, build func(Setup) (Case, error)) dial {
	below, most, _ := family.Of(s.Built.Shape).AboveCoil()
	const least = 0.1
	return dial{math.Max(least, math.Min(0.95*numeric.Light/f/4-below, most)), most, func(v float64) (Case, error) {
		t := s
		t.Bridged = true
		t.Built.Shape = family.Of(s.Built.Shape).WithAboveCoil(v)
		return build(t)
	}, func(v float64) string { return "coil bridged, whip out " + s.Units.Long(v) }}
}

// zero finds where an impedance has no reactance, by secants from a guess, up to a largest value: within a
// fiftieth of its resistance.
func zero(f func(float64) (complex128, error), v, most float64) (at float64, ok bool, err error) {
	r := 0.0
	x := func(v float64) (float64, error) {
		z, err := f(v)
		r = real(z)
		return imag(z), err
	}
	return numeric.Secant(x, v, v*0.97, 12, func(v, to float64) float64 { return math.Min(math.Min(math.Max(to, v*0.6), v*1.6), most) },
		func(_, x float64) bool { return math.Abs(x) < 0.02*math.Abs(r) })
}

// budget follows the power from the socket to the sky, and the voltages on its way.
func (x *solved) budget(s Setup, f, sky float64) ([]circuit.Stage, []Voltage) {
	socket := x.chain.Socket(f, x.at.Z, true)
	stages := socket.Stages
	watts := s.power()
	into := circuit.Budget(watts, stages)
	wires := watts
	if len(into) > 0 {
		wires = into[len(into)-1].Watts
	}
	left := 1.0
	take := func(name string, share float64, why string) {
		share = math.Max(0, math.Min(share, left-1e-6))
		if share < 1e-4 {
			return
		}
		stages = append(stages, circuit.Stage{Name: name, DB: 10 * math.Log10(left/(left-share)), Why: why})
		left -= share
	}
	lost := map[string]float64{}
	for i, name := range x.loads {
		lost[name] += x.at.Lost[i] / x.at.Input
	}
	take("choke", lost["choke"], "heats it: current on the coax")
	take("coil", lost["coil"], "")
	take("capacitor", lost["capacitor"], "its own and its joints' resistance")
	metal := 0.0
	for _, w := range x.at.Metal {
		metal += w / x.at.Input
	}
	take("wire", metal, "skin effect")
	take("ground", left-sky, "soil and screen")
	scale := math.Sqrt(wires / x.at.Input)
	var out []Voltage
	feed := scale * 1
	out = append(out, Voltage{"feed", feed})
	if where, volts := family.Of(s.Built.Shape).Hot(watts); volts > 0 {
		// Where its kind is known for it, the figure is the one that is warned of.
		return circuit.Budget(watts, stages), append(out, Voltage{where, volts})
	}
	worst := map[string]float64{}
	for i, name := range x.loads {
		worst[name] = math.Max(worst[name], x.at.Volts[i]*scale)
	}
	for _, name := range []string{"coil", "capacitor"} {
		if worst[name] > 0 {
			out = append(out, Voltage{name, worst[name]})
		}
	}
	if !x.Electric.Coupled { // a closed ring has no end
		out = append(out, Voltage{"wire end", x.at.EndVolts() * scale})
	}
	return circuit.Budget(watts, stages), out
}

// pattern is the gain around the strongest direction.
func (x *solved) pattern(s Setup) Pattern {
	el, az, gain := x.at.Strongest()
	db := func(e, a float64) float64 {
		return math.Max(-40, math.Round(100*10*math.Log10(math.Max(x.at.Gain(e, a), 1e-5)))/100)
	}
	p := Pattern{TakeOff: el * 180 / math.Pi, Direction: math.Mod(az*180/math.Pi+360, 360), Gain: 10 * math.Log10(gain)}
	for d := 0; d <= 180; d += 2 {
		e, a := float64(d)*math.Pi/180, az
		if d > 90 {
			e, a = math.Pi-e, az+math.Pi
		}
		p.Elevation = append(p.Elevation, db(e, a))
	}
	for d := 0; d < 360; d += 5 {
		p.Azimuth = append(p.Azimuth, db(math.Min(el, 85*math.Pi/180), float64(d)*math.Pi/180))
	}
	if x.Electric.Coupled {
		// Where a loop is turned to, to take a noise out: low down, where the noise comes from.
		const low = 15 * math.Pi / 180
		best, least := 0.0, math.Inf(1)
		for d := 0.0; d < 360; d += 5 {
			g := x.at.Gain(low, d*math.Pi/180)
			if best = math.Max(best, g); g < least {
				least, p.Null = g, d
			}
		}
		p.NullDB = 10 * math.Log10(math.Max(least/best, 1e-4))
	}
	if bearing := s.Built.Bearing(); bearing > 0 {
		toward := math.Mod(bearing-p.Direction+720, 360)
		p.Bearing = &toward
	}
	return p
}

// compare sets the gain at the take-off angle against two antennas that everyone knows.
func (e *Engine) compare(ctx context.Context, s Setup, o Options, x *solved, p *Pattern, f float64) error {
	top := 0.0
	for _, w := range x.Model.Wires {
		top = math.Max(top, math.Max(w.From[2], w.To[2]))
	}
	top = math.Max(math.Round(top*4)/4, 0.5)
	half := 0.48 * numeric.Light / f / 2
	g := s.earth()
	base := moment.Model{Ground: moment.Real, Earth: g, Tables: &e.Tables, Density: 24, Sources: []moment.Source{{Volts: 1}}}
	dipole, quarter := base, base
	dipole.Wires = []moment.Wire{{From: moment.Vec{-half, 0, top}, To: moment.Vec{half, 0, top}, Radius: 0.0005,
		Resistivity: circuit.CopperResistivity}}
	dipole.Sources = []moment.Source{{Spot: moment.Spot{At: 0.5}, Volts: 1}}
	quarter.Wires = []moment.Wire{{To: moment.Vec{0, 0, half}, Radius: 0.0005, Resistivity: circuit.CopperResistivity}}
	quarter.Screen = &moment.Screen{Radials: 16, Length: 0.15 * numeric.Light / f, Wire: 0.0005, Height: half}
	for _, r := range []struct {
		name  string
		model moment.Model
		put   **float64
	}{{fmt.Sprintf("dipole %.2f", top), dipole, &p.OverDipole}, {"quarter", quarter, &p.OverQuarter}} {
		best, err := e.reference(ctx, fmt.Sprintf("%s %g %g %g", r.name, f, g.Permittivity, g.Conductivity), r.model, f)
		if err != nil {
			return err
		}
		// Where the other one sends next to nothing, as a vertical does overhead, no number says more than that.
		if over := p.Gain - best[int(math.Round(p.TakeOff))]; over < 20 {
			*r.put = &over
		}
	}
	return nil
}

// reference is the gain in dBi of an antenna in its best direction, by whole degrees of elevation.
func (e *Engine) reference(ctx context.Context, key string, m moment.Model, f float64) ([]float64, error) {
	e.mu.Lock()
	have, ok := e.kept[key]
	e.mu.Unlock()
	if ok {
		return have, nil
	}
	s, err := moment.Solve(ctx, m, f)
	if err != nil {
		return nil, err
	}
	out := make([]float64, 91)
	for d := range out {
		best := 1e-6
		for _, a := range []float64{0, math.Pi / 4, math.Pi / 2} {
			best = math.Max(best, s.Gain(float64(d)*math.Pi/180, a))
		}
		out[d] = 10 * math.Log10(best)
	}
	e.mu.Lock()
	if e.kept == nil || len(e.kept) > 500 {
		e.kept = map[string][]float64{}
	}
	e.kept[key] = out
	e.mu.Unlock()
	return out, nil
}

// soils are the poorer and the better one that a preset may in truth be.
func soils(g earth.Ground) [2]earth.Ground {
	a, b := g, g
	a.Permittivity, a.Conductivity = math.Max(2, g.Permittivity*0.7), g.Conductivity/3
	b.Permittivity, b.Conductivity = math.Min(81, g.Permittivity*1.4), math.Min(5, g.Conductivity*3)
	return [2]earth.Ground{a, b}
}

// sentence is the judgement over all bands.
func (f Forecast) sentence(s Setup) string {
	if len(f.Bands) == 0 {
		return ""
	}
	if f.Tuner {
		worst := f.Bands[0]
		for _, b := range f.Bands {
			if b.WantedSWR > worst.WantedSWR {
				worst = b
			}
		}
		return fmt.Sprintf("The tuner has to match an SWR of up to %s, on %s.", quantity.SWR(worst.WantedSWR), quantity.ToKHz(worst.F)+" MHz")
	}
	if len(f.Bands) > 1 {
		good := 0
		for _, b := range f.Bands {
			if b.WantedSWR < 2 {
				good++
			}
		}
		if good == len(f.Bands) {
			return fmt.Sprintf("SWR under 2 across your segments on all %d bands.", good)
		}
		return fmt.Sprintf("SWR under 2 across your segments on %d of %d bands.", good, len(f.Bands))
	}
	b := f.Bands[0]
	off := (b.BestF - b.F) / 1e3
	place := "lowest there"
	if n := len(b.Curve); n > 1 && (b.BestF == b.Curve[0].F || b.BestF == b.Curve[n-1].F) {
		// The window's edge is no dip.
		side := "above"
		if b.BestF == b.Curve[0].F {
			side = "below"
		}
		place = "falling still towards its dip " + side + " the band"
		if b.DipF < b.Curve[0].F || b.DipF > b.Curve[n-1].F {
			place = fmt.Sprintf("its dip at %s MHz, %s the band", quantity.ToKHz(b.DipF), side)
		}
	} else if math.Abs(off) >= 15 {
		where := "above"
		if off < 0 {
			where = "below"
		}
		place = fmt.Sprintf("best %.0f kHz %s", math.Round(math.Abs(off)/5)*5, where)
	}
	return fmt.Sprintf("SWR %s on %s MHz, %s; %.0f %% is radiated, with its peak %.0f degrees up.",
		quantity.SWR(b.WantedSWR), quantity.ToKHz(b.F),
		place, 100*b.System(), b.Pattern.TakeOff)
}

// trust says how far the figures hold.
func trust(s Setup) string {
	if says := family.Of(s.Built.Shape).Kind().Trust; says != "" {
		return says
	}
	return "Expect resonance within 1 % and SWR within a fifth, if lengths and heights are as recorded."
}
