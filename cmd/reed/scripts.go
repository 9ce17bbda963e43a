package main

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"math"
	"time"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/diagnose"
	"reed/core/phrase"
	"reed/core/sweep"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/exchange"
)

type pieceOut struct {
	Name       string  `json:"name"`
	Count      int     `json:"count"`
	Electrical float64 `json:"electrical_m"`
	Cut        float64 `json:"cut_m"`
}

type settingOut struct {
	MHz   float64 `json:"mhz"`
	L     float64 `json:"l_uh,omitempty"`
	C     float64 `json:"c_pf,omitempty"`
	Turns float64 `json:"turns,omitempty"`
	Out   float64 `json:"whip_m,omitempty"`
}

// betterOut is a length that would match better than a typed one.
type betterOut struct {
	Field  string  `json:"field"`
	Metres float64 `json:"m"`
	Says   string  `json:"says"`
}

type faultOut struct {
	Field string `json:"field"`
	Text  string `json:"text"`
}

// planCase writes the cut list of a set-up: by the solver where it finds lengths, otherwise by the closed form.
func planCase(ctx context.Context, c *call) error {
	var x setupCase
	if err := decode(c, &x); err != nil {
		return err
	}
	e := new(twin.Engine)
	p, r, err := x.cut(ctx, e)
	if err != nil {
		return err
	}
	out := struct {
		Sentence string       `json:"sentence"`
		Pieces   []pieceOut   `json:"pieces"`
		Settings []settingOut `json:"settings"`
		Default  string       `json:"default"`
		Better   []betterOut  `json:"better"`
		Faults   []faultOut   `json:"faults"`
	}{Pieces: []pieceOut{}, Settings: []settingOut{}, Default: "form", Better: []betterOut{}, Faults: []faultOut{}}
	if len(r.Lengths) > 0 {
		out.Default = "solver"
	}
	for _, b := range r.Better {
		out.Better = append(out.Better, betterOut{b.Field, b.Size.M, b.Says})
	}
	for _, y := range p.Pieces {
		out.Pieces = append(out.Pieces, pieceOut{y.Name, y.Count, y.Electrical.M, y.Cut.M})
	}
	for _, f := range p.Faults {
		out.Faults = append(out.Faults, faultOut{f.Path, f.Text})
	}
	out.Sentence = p.Sentence
	if family.Of(p.Shape).Trims() == family.Settings {
		o := options()
		o.Coarse = true
		s, err := x.asPlanned(p)
		if err != nil {
			return err
		}
		f, err := e.Forecast(ctx, s, o, nil)
		if err != nil {
			return wrong(err)
		}
		out.Default = "solver"
		for _, b := range f.Bands {
			turns, _ := family.Of(p.Shape).Turns(b.F, b.SetL)
			out.Settings = append(out.Settings, settingOut{MHz: b.F / 1e6, L: b.SetL * 1e6, C: b.SetC * 1e12, Turns: turns, Out: b.SetOut})
		}
	}
	low := p.Shape.Lowest()
	if coil := family.Of(p.Shape).Electrics(low).Henries; coil > 0 && family.Of(p.Shape).Trims() != family.Settings {
		// It is wound once, for all bands.
		out.Settings = append(out.Settings, settingOut{MHz: low / 1e6, L: coil * 1e6, Turns: p.Shape.N("coil_turns", 0)})
	}
	for _, k := range family.Of(p.Shape).Knobs() {
		if n := k.Length(p.Shape); k.Turns() && n > 0 {
			out.Settings = append(out.Settings, settingOut{MHz: k.F / 1e6, Turns: n})
		}
	}
	return json.NewEncoder(c.out).Encode(out)
}

type bandOut struct {
	MHz         float64            `json:"mhz"`
	R           float64            `json:"r_ohm"`
	X           float64            `json:"x_ohm"`
	SWRFeed     float64            `json:"swr_feed"`
	SWRRadio    float64            `json:"swr_radio"`
	DipMHz      float64            `json:"dip_mhz"`
	DipSWR      float64            `json:"dip_swr"`
	SkyShare    float64            `json:"sky_share"`
	SystemShare float64            `json:"system_share"`
	L           float64            `json:"l_uh,omitempty"`
	C           float64            `json:"c_pf,omitempty"`
	Losses      map[string]float64 `json:"losses"`
	Gain        float64            `json:"gain_dbi"`
	TakeOff     float64            `json:"takeoff_deg"`
	Range       struct {
		SWR [2]float64 `json:"swr"`
		Dip [2]float64 `json:"dip_mhz"`
		Sky [2]float64 `json:"sky_share"`
	} `json:"range"`
}

// forecastCase writes what the solver foretells of a set-up on its bands.
func forecastCase(ctx context.Context, c *call) error {
	var x setupCase
	if err := decode(c, &x); err != nil {
		return err
	}
	begun, e := time.Now(), new(twin.Engine)
	s, err := x.setup(ctx, e)
	if err != nil {
		return err
	}
	f, err := e.Forecast(ctx, s, options(), nil)
	switch {
	case errors.Is(err, context.Canceled):
		return err
	case err != nil:
		return wrong(err)
	}
	out := struct {
		Bands       []bandOut `json:"bands"`
		Assumptions []string  `json:"assumptions"`
		Unknowns    int       `json:"unknowns"`
		Seconds     float64   `json:"seconds"`
	}{Bands: []bandOut{}, Assumptions: f.Assumptions}
	for _, b := range f.Bands {
		out.Bands = append(out.Bands, predicted(b))
		out.Unknowns = max(out.Unknowns, b.Unknowns)
	}
	out.Seconds = time.Since(begun).Seconds()
	return json.NewEncoder(c.out).Encode(out)
}

func predicted(b twin.Band) bandOut {
	y := bandOut{MHz: b.F / 1e6, R: finite(real(b.Z)), X: finite(imag(b.Z)), SWRFeed: finite(b.FeedSWR), SWRRadio: finite(b.WantedSWR),
		DipMHz: b.DipF / 1e6, DipSWR: finite(b.DipSWR), SkyShare: b.Sky, SystemShare: b.System(), L: b.SetL * 1e6, C: b.SetC * 1e12,
		Gain: b.Pattern.Gain, TakeOff: b.Pattern.TakeOff, Losses: map[string]float64{}}
	left := 1.0
	for _, stage := range b.Budget {
		next := left * math.Pow(10, -stage.DB/10)
		y.Losses[stage.Name] += left - next
		left = next
	}
	y.Range.SWR, y.Range.Sky = [2]float64{y.SWRRadio, y.SWRRadio}, [2]float64{b.Sky, b.Sky}
	y.Range.Dip = [2]float64{y.DipMHz, y.DipMHz}
	if b.Spread != nil {
		y.Range.Sky = b.Spread.Sky
		y.Range.Dip = [2]float64{b.Spread.Dip[0] / 1e6, b.Spread.Dip[1] / 1e6}
		at := 0
		for i, p := range b.Curve {
			if math.Abs(p.F-b.F) < math.Abs(b.Curve[at].F-b.F) {
				at = i
			}
		}
		if at < len(b.Spread.Low) {
			y.Range.SWR = [2]float64{math.Min(b.Spread.Low[at], y.SWRRadio), math.Max(b.Spread.High[at], y.SWRRadio)}
		}
	}
	return y
}

// adviceCase is an antenna that is being trimmed: the set-up, and its revisions with what was read at each.
type adviceCase struct {
	Setup     setupCase      `json:"setup"`
	Wanted    []float64      `json:"wanted_mhz"`
	Revisions []revisionCase `json:"revisions"`
}

// revisionCase is one raise: the lengths that differ from the set-up's, and what was read.
type revisionCase struct {
	Texts    map[string]string `json:"texts"`
	Readings [][]float64       `json:"readings"`
	Text     string            `json:"text"` // readings as people write them, in place of rows
	Role     string            `json:"role"` // what single readings are: lowest or here
}

type actionOut struct {
	Verb   string  `json:"verb"`
	Piece  string  `json:"piece"`
	Metres float64 `json:"metres"`
	Turns  float64 `json:"turns,omitempty"`
	Legs   int     `json:"legs"`
}

type expectOut struct {
	MHz float64 `json:"mhz"`
	Lo  float64 `json:"lo"`
	Hi  float64 `json:"hi"`
}

type causeOut struct {
	ID    string  `json:"id"`
	Share float64 `json:"share"`
	Says  string  `json:"says"`
}

type adviceOut struct {
	Actions  []actionOut `json:"actions"`
	Expect   []expectOut `json:"expect"`
	TooShort float64     `json:"too_short_chance"`
	Causes   []causeOut  `json:"causes"`
	Sentence string      `json:"sentence"`
	Detail   string      `json:"detail"`
}

// adviseCase writes what to change after some raises, and what may be the cause.
func adviseCase(ctx context.Context, c *call) error {
	var x adviceCase
	if err := decode(c, &x); err != nil {
		return err
	}
	if len(x.Revisions) == 0 {
		return usagef("revisions: at least one with readings is needed")
	}
	e, subject := new(twin.Engine), trim.Subject{Ground: x.Setup.Ground, Region: 1, Segments: band.DefaultSegments(1), Limit: 2}
	if len(x.Setup.Frequencies) == 0 && x.Setup.Texts["for"] == "" {
		x.Setup.Frequencies = x.Wanted
	}
	for _, mhz := range x.Wanted {
		subject.Wanted = append(subject.Wanted, mhz*1e6)
	}
	for i, r := range x.Revisions {
		set := x.Setup
		set.Built, set.Texts = true, map[string]string{}
		for _, texts := range []map[string]string{x.Setup.Texts, r.Texts} {
			for id, text := range texts {
				set.Texts[id] = text
			}
		}
		b, err := set.asBuilt(ctx, e)
		if err != nil {
			return err
		}
		curve, err := r.curve(subject.Region, b.All())
		if err != nil {
			return usagef("revisions.%d.readings: %w", i, err)
		}
		subject.Limit = b.GoodEnough(2)
		subject.Swept = append(subject.Swept, trim.Swept{Built: b, Feeds: []sweep.Curve{curve}})
	}
	subject.Plan = func(ctx context.Context) (deployment.Built, error) { return x.planned(ctx, e) }
	out, err := advised(ctx, e, subject)
	if err != nil {
		return wrong(err)
	}
	return json.NewEncoder(c.out).Encode(out)
}

// curve reads the measured points: rows, or readings as people write them.
func (r revisionCase) curve(region band.Region, wanted []float64) (sweep.Curve, error) {
	if r.Role != "" && r.Role != sweep.Searched && r.Role != sweep.JustHere {
		return sweep.Curve{}, usagef("role %q is not lowest or here", r.Role)
	}
	var s sweep.Sweep
	if r.Text != "" {
		p, err := exchange.ParseReadings(r.Text, exchange.ReadingOptions{Region: region, Wanted: wanted})
		switch {
		case err != nil:
			return sweep.Curve{}, err
		case p.Sweep == nil:
			return sweep.Curve{}, usagef("%q gives no curve", r.Text)
		}
		s = *p.Sweep
	} else {
		var err error
		if s, err = readings(r.Readings); err != nil {
			return sweep.Curve{}, err
		}
	}
	switch r.Role {
	case sweep.Searched:
		s.Lowest = s.F
	case sweep.JustHere:
		s.Here = true
	}
	return s.Curve()
}

// planned returns the planned set-up: the case without the lengths it was given as built.
func (x adviceCase) planned(ctx context.Context, e *twin.Engine) (deployment.Built, error) {
	set := x.Setup
	set.Texts = maps.Clone(set.Texts)
	y, _, err := set.untold()
	if err != nil {
		return deployment.Built{}, err
	}
	p, _, err := y.cut(ctx, e)
	return deployment.Built{Shape: p.Shape}, err
}

// readings are rows of megahertz and SWR, or of megahertz, R and X.
func readings(rows [][]float64) (sweep.Sweep, error) {
	kind := sweep.Magnitude
	var f []float64
	var gamma []complex128
	for i, row := range rows {
		switch {
		case len(row) == 2 && row[1] >= 1 && kind == sweep.Magnitude:
			gamma = append(gamma, complex(circuit.Magnitude(row[1]), 0))
		case len(row) == 3 && (i == 0 || kind == sweep.Complex):
			kind = sweep.Complex
			gamma = append(gamma, circuit.Gamma(complex(row[1], row[2]), sweep.Reference))
		default:
			return sweep.Sweep{}, usagef("row %d is not [mhz, swr] or [mhz, r, x] like the others", i+1)
		}
		f = append(f, row[0]*1e6)
	}
	s, _, repeated := sweep.New(kind, f, gamma)
	if repeated > 0 {
		return s, usagef("%d frequencies occur twice", repeated)
	}
	return s, nil
}

func advised(ctx context.Context, e *twin.Engine, x trim.Subject) (adviceOut, error) {
	out := adviceOut{Actions: []actionOut{}, Expect: []expectOut{}, Causes: []causeOut{}}
	last := x.Swept[len(x.Swept)-1]
	t, err := x.Advise(ctx, e, nil)
	if err != nil {
		return out, err
	}
	out.Sentence = t.Words(x.Units).Headline
	out.Detail = t.Words(x.Units).Detail
	for i, a := range t.Actions {
		for _, p := range a.Parts {
			verb := phrase.Add
			if p.Metres < 0 {
				verb = phrase.Fold
			}
			if math.Abs(p.Metres) > 0.001 {
				out.Actions = append(out.Actions, actionOut{string(verb), p.On, math.Abs(p.Metres), 0, 2})
			}
		}
		if len(a.Parts) > 0 {
			continue
		}
		out.Actions = append(out.Actions, actionOut{string(a.Verb), t.Labels[i], a.Metres, a.Turns, max(a.Legs, 1)})
	}
	for _, f := range t.Foreseen {
		out.Expect = append(out.Expect, expectOut{f.Expect / 1e6, f.Range[0] / 1e6, f.Range[1] / 1e6})
		out.TooShort = math.Max(out.TooShort, f.Short/100)
	}
	d := diagnose.Subject{Setup: twin.Setup{Built: last.Built, Ground: x.Ground}, Feed: last.Feeds[0], Units: x.Units}
	b := band.Nearest(x.Region, last.Built.FrequencyHz)
	if r, ok := sweep.Read(last.Feeds[0], x.Region, b, nil, x.Limit); ok {
		d.Lo, d.Hi = diagnose.Around(b, r.MinAt)
		if found, err := diagnose.Diagnose(ctx, e, d, nil); err == nil {
			for _, y := range found.Explanations {
				out.Causes = append(out.Causes, causeOut{y.ID, y.Share / 100, y.Title + ": " + y.Says})
			}
		}
	}
	return out, nil
}
