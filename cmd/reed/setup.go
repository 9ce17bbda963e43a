package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/quantity"
	"reed/core/twin"
)

// setupCase is a set-up as a script writes it: the fields of the screens, typed, by their ids.
type setupCase struct {
	Family      string            `json:"family"`
	Variant     string            `json:"variant"`
	Frequencies []float64         `json:"frequencies_mhz"`
	Texts       map[string]string `json:"texts"`
	Unit        string            `json:"unit"`
	Wire        string            `json:"wire"`
	Ground      string            `json:"ground"`
	Built       bool              `json:"built"`
	Coax        *struct {
		Type   string  `json:"type"`
		Length float64 `json:"length_m"`
	} `json:"coax"`
	Choke *struct {
		Place    string  `json:"place"`
		Distance float64 `json:"distance_m"`
	} `json:"choke"`
	PowerW float64 `json:"power_w"`
}

// given opens the case of a command: a file, or standard input. The caller closes it.
func given(c *call) (io.ReadCloser, error) {
	name := c.flags.String("in", "", "file with the case as JSON, - for standard input")
	if err := c.parse(c.args); err != nil {
		return nil, err
	}
	if *name == "" && len(c.args) == 1 {
		*name = c.args[0]
	}
	switch *name {
	case "":
		return nil, usagef("say which case: -in FILE, or -in - for standard input")
	case "-":
		return io.NopCloser(os.Stdin), nil
	}
	f, err := os.Open(*name)
	if err != nil {
		return nil, fmt.Errorf("opening the case: %w", err)
	}
	return f, nil
}

// decode reads one JSON object from the file that a call names, or from standard input.
func decode(c *call, into any) error {
	in, err := given(c)
	if err != nil {
		return err
	}
	defer in.Close()
	d := json.NewDecoder(io.LimitReader(in, maxCase))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return usagef("the case was not understood: %w", err)
	}
	return nil
}

// said is the first fault that refuses a case, with its field, as a wrong use.
func said(faults []antenna.Fault) error {
	for _, f := range faults {
		if f.Severity == "error" {
			return usagef("%s: %s", f.Path, f.Text)
		}
	}
	return nil
}

func (x setupCase) unit() string {
	if x.Unit == "" {
		return "m"
	}
	return x.Unit
}

// form is the case as the form of a plan.
func (x setupCase) form() (antenna.Form, error) {
	if u := x.unit(); u != "m" && u != "ft" {
		return antenna.Form{}, usagef("unit: %q is not m or ft", x.Unit)
	}
	if _, ok := family.Named(x.Family); !ok {
		return antenna.Form{}, usagef("family: %q is not known", x.Family)
	}
	f := antenna.Form{Typed: entry.Typed{Texts: map[string]string{}, Unit: x.unit()}}
	f.Record.Shape = antenna.Shape{Family: x.Family, Variant: x.Variant, Wire: x.Wire}
	f.Record.Ground, f.Record.PowerW, f.Record.Units = x.Ground, x.PowerW, quantity.In(x.unit())
	maps.Copy(f.Texts, x.Texts)
	if _, ok := f.Texts["for"]; !ok {
		var all []string
		for _, mhz := range x.Frequencies {
			all = append(all, strconv.FormatFloat(mhz, 'f', -1, 64)+" MHz")
		}
		f.Texts["for"] = strings.Join(all, ", ")
	}
	return f, nil
}

// plan is the plan of the case, with the form that it was made of.
func (x setupCase) plan() (antenna.Plan, antenna.Form, error) {
	form, err := x.form()
	if err != nil {
		return antenna.Plan{}, form, err
	}
	p := family.Drawn(form)
	return p, form, said(p.Faults)
}

// cut returns the plan with the solver's lengths where it finds any, and what the solver found; typed lengths stay as typed.
// Lengths for which the solver finds none are named among the plan's faults.
func (x setupCase) cut(ctx context.Context, e *twin.Engine) (p antenna.Plan, r twin.Refined, err error) {
	p, form, err := x.plan()
	if err != nil {
		return p, r, err
	}
	s, err := x.asPlanned(p)
	if err != nil {
		return p, r, err
	}
	r, err = e.Refine(ctx, s, nil)
	switch {
	case ctx.Err() != nil:
		return p, r, ctx.Err()
	case err != nil:
		return p, twin.Refined{}, nil
	}
	if request, unread := family.Read(form); len(r.Lengths) > 0 {
		request.Solved = r.Solved
		if better := family.Planned(request, unread); said(better.Faults) == nil {
			p = better
		} else {
			r.Lengths = nil
		}
	}
	for _, field := range slices.Sorted(maps.Keys(r.Failed)) {
		p.Faults = append(p.Faults, antenna.FaultAt(field, "ask", r.Failed[field]))
	}
	p.Faults = append(p.Faults, x.unused(p.Fields)...)
	return p, r, nil
}

// unused names the texts that a plan does not ask for: nothing that was typed is left out without a word.
func (x setupCase) unused(fields []entry.Field) (out []antenna.Fault) {
	asked := map[string]bool{}
	for _, f := range fields {
		asked[f.ID] = true
	}
	for _, id := range slices.Sorted(maps.Keys(x.Texts)) {
		if !asked[id] && strings.TrimSpace(x.Texts[id]) != "" {
			out = append(out, antenna.FaultAt(id, "ask", "a plan of this antenna does not ask for it: it was not used"))
		}
	}
	return out
}

// asPlanned returns the model of the case's plan.
func (x setupCase) asPlanned(p antenna.Plan) (twin.Setup, error) {
	out := twin.Setup{Built: deployment.Built{Shape: p.Shape, PowerW: x.PowerW}, Planned: true, Ground: x.Ground, PowerW: x.PowerW,
		Units: quantity.In(x.unit())}
	form, err := x.form()
	if err != nil {
		return out, err
	}
	request, _ := family.Read(form)
	out.Given = request.Given()
	out.Built.Coax, err = x.coax()
	return out, err
}

// untold is the case without the lengths that the solver would find: a part that was chosen for them is not chosen anew for
// what is typed. all says that every one of them was typed.
func (x setupCase) untold() (out setupCase, all bool, err error) {
	p, _, err := x.plan()
	if err != nil {
		return x, false, err
	}
	out, all = x, true
	out.Texts = maps.Clone(x.Texts)
	a := family.Of(p.Shape)
	found := func(field string) {
		all = all && x.Texts[field] != ""
		delete(out.Texts, field)
	}
	for _, k := range a.Knobs() {
		if !k.Radials {
			found(k.Field)
		}
	}
	if beam := a.Beam(); beam != nil {
		for _, part := range beam.Lengths {
			found(part.Field)
		}
	}
	return out, all, nil
}

// asBuilt is the set-up as it stands: what was typed of it, the rest as it was to be cut.
func (x setupCase) asBuilt(ctx context.Context, e *twin.Engine) (deployment.Built, error) {
	y, all, err := x.untold()
	if err != nil {
		return deployment.Built{}, err
	}
	p, _, err := y.plan()
	if err == nil && !all {
		p, _, err = y.cut(ctx, e)
	}
	if err != nil {
		return deployment.Built{}, err
	}
	// What is not given stays as planned, and is not taken for typed: where typed lengths, angles and heights do not go together,
	// it gives way.
	built := family.Of(p.Shape)
	planned, texts := built.Texts("built", quantity.In(x.unit())), map[string]string{}
	for _, f := range built.Fields("built") {
		if f.Must {
			texts[f.ID] = planned[f.ID]
		}
	}
	maps.Copy(texts, x.Texts)
	delete(texts, "for")
	f := deployment.Form{Record: deployment.Built{Shape: p.Shape, PowerW: x.PowerW}, Typed: entry.Typed{Texts: texts, Unit: x.unit()}}
	if f.Record.Coax, err = x.coax(); err != nil {
		return deployment.Built{}, err
	}
	if x.Choke != nil {
		f.Record.Choke = deployment.Choke{Place: x.Choke.Place}
		if x.Choke.Distance > 0 {
			f.Record.Choke.Distance = quantity.Metres(x.Choke.Distance)
		}
	}
	b, faults := deployment.Read(f)
	return b, said(append(faults, deployment.Check(b, antenna.Shape{})...))
}

// coax returns the feed line, or none where none is given.
func (x setupCase) coax() (deployment.Coax, error) {
	if x.Coax == nil {
		return deployment.Coax{}, nil
	}
	out := deployment.Coax{Type: x.Coax.Type, Length: quantity.Metres(x.Coax.Length)}
	if _, ok := out.Cable(); !ok && x.Coax.Type != "" {
		return out, usagef("coax.type: %q is not a known cable", x.Coax.Type)
	}
	return out, nil
}

// setup returns the model of the case as built.
func (x setupCase) setup(ctx context.Context, e *twin.Engine) (twin.Setup, error) {
	if x.Built {
		b, err := x.asBuilt(ctx, e)
		return twin.Setup{Built: b, Ground: x.Ground, PowerW: x.PowerW, Units: quantity.In(x.unit())}, err
	}
	p, _, err := x.cut(ctx, e)
	if err != nil {
		return twin.Setup{}, err
	}
	return x.asPlanned(p)
}

// options are those of a forecast for a script: region 1, the whole bands one's own.
func options() twin.Options { return twin.Options{Region: 1, Segments: band.DefaultSegments(1)} }

// finite leaves a number that JSON cannot write as 0.
func finite(v float64) float64 {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return v
}

// wrong makes a fault of a case, found by the solver, a wrong use of it.
func wrong(err error) error {
	var u usageError
	if errors.As(err, &u) {
		return err
	}
	return usagef("the set-up cannot be solved: %w", err)
}
