package server

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/phrase"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/internal/exchange"
	"reed/internal/standin"
	"reed/internal/store"
)

// readFile makes the preview of a file or of typed readings.
func (s *Server) readFile(ctx context.Context, f FileInput) (*exchange.Preview, error) {
	if f.Typed != "" {
		o, err := s.readingOptions(ctx, f)
		if err != nil {
			return nil, err
		}
		p, err := exchange.ParseReadings(f.Typed, o)
		var not *exchange.FileError
		if errors.As(err, &not) {
			return nil, &problem{status: http.StatusUnprocessableEntity, title: "These readings are not understood",
				errors: []FieldError{{Path: "file", Detail: not.Error()}}}
		}
		return p, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	home, err := s.homeOf(ctx, f.OutingId)
	if err != nil {
		return nil, err
	}
	p, err := exchange.ReadBytes(ctx, f.Content, f.Name, exchange.Options{Region: me.Region, Now: s.now(), Choices: f.Choices,
		Own: me.Call, Home: home})
	if err != nil {
		return nil, err
	}
	if f.OutingId != "" && len(p.Records) > 0 {
		have, err := s.store.Contacts(ctx, f.OutingId)
		if err != nil {
			return nil, err
		}
		p.MarkKnown(have)
	}
	return p, nil
}

// readingOptions say which antenna's readings were typed, and in which region.
func (s *Server) readingOptions(ctx context.Context, f FileInput) (exchange.ReadingOptions, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return exchange.ReadingOptions{}, err
	}
	out := exchange.ReadingOptions{Region: me.Region, Choices: f.Choices}
	if f.RevisionId != "" {
		rev, err := s.store.Revision(ctx, f.RevisionId)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return out, err
		}
		out.Wanted = rev.Built.All()
	}
	return out, nil
}

// homeOf is the place of an outing, nil where there is none.
func (s *Server) homeOf(ctx context.Context, outingID string) (*place.Point, error) {
	if outingID == "" {
		return nil, nil
	}
	o, err := s.store.Outing(ctx, outingID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return exchange.HomeOf(o.Place), nil
}

// Preview says what an import would do.
func (s *Server) Preview(ctx context.Context, r PreviewRequestObject) (PreviewResponseObject, error) {
	p, err := s.readFile(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	const shown = 200
	p.Shorten(shown)
	return Preview200JSONResponse(*p), nil
}

// PutSweep stores a measurement with the file it came from.
func (s *Server) PutSweep(ctx context.Context, r PutSweepRequestObject) (PutSweepResponseObject, error) {
	p, err := s.readFile(ctx, r.Body.File)
	if err != nil {
		return nil, err
	}
	if p.Sweep == nil && len(p.Points) > 0 {
		return nil, invalid("file", p.Notes[len(p.Notes)-1].Text)
	}
	if p.Sweep == nil {
		return nil, invalid("file", fmt.Sprintf("this is a file of kind %s, not a sweep; import logs in Work", p.Kind))
	}
	v := store.Sweep{ID: r.Id, RevisionID: r.Body.RevisionId, Name: r.Body.File.Name, Where: string(r.Body.Where), TakenAt: r.Body.TakenAt,
		Curve: *p.Sweep, File: r.Body.File.Content}
	if v.File == nil {
		v.File = []byte(r.Body.File.Typed)
	}
	v.Simulated = standin.Simulated(v.File)
	if v.TakenAt.IsZero() {
		v.TakenAt = s.now()
		// The same request again keeps its time.
		if have, err := s.store.Sweep(ctx, r.Id); err == nil {
			v.TakenAt = have.TakenAt
		} else if !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	v, err = s.store.PutSweep(ctx, v, r.Params.Version)
	return PutSweep200JSONResponse{Version: v.Version}, err
}

// measured is one sweep made continuous, with the revision it is of.
type measured struct {
	revision deployment.Revision
	sweep    store.Sweep
	curve    sweep.Curve
	feed     sweep.Curve // referred to the feed point
	cable    string      // through which it was measured, empty at the feed
}

// curves makes every sweep of a deployment continuous, oldest revision first.
func (s *Server) curves(ctx context.Context, deploymentID string, units quantity.System) ([]measured, error) {
	revisions, err := s.store.Revisions(ctx, deploymentID)
	if err != nil {
		return nil, err
	}
	sweeps, err := s.store.Sweeps(ctx, deploymentID)
	if err != nil {
		return nil, err
	}
	var out []measured
	for _, r := range revisions {
		for _, v := range sweeps {
			if v.RevisionID != r.ID {
				continue
			}
			m := measured{revision: r, sweep: v}
			if m.curve, err = v.Curve.Curve(); err != nil {
				return nil, fmt.Errorf("sweep %s: %w", v.Name, err)
			}
			m.feed = m.curve
			if cable, ok := r.Built.Coax.Cable(); ok && v.Where == "radio" && r.Built.Coax.Length.M > 0 {
				m.cable = fmt.Sprintf("%s of %s", units.Long(r.Built.Coax.Length.M), cable.Name)
				if m.feed, err = v.Curve.AtFeed(cable, r.Built.Coax.Length.M).Curve(); err != nil {
					return nil, fmt.Errorf("sweep %s: %w", v.Name, err)
				}
			}
			out = append(out, m)
		}
	}
	return out, nil
}

// inBand keeps the newest sweep of each revision that reaches a band, an overview only where there is no other.
func inBand(all []measured, me store.Me, b band.Band) (out []measured, readings []sweep.Reading) {
	own := band.Own(me.Segments, b.Name)
	for _, m := range all {
		r, ok := sweep.Read(m.curve, me.Region, b, own, m.revision.Built.GoodEnough(me.GoodSWR))
		if !ok {
			continue
		}
		if n := len(out); n > 0 && out[n-1].revision.ID == m.revision.ID {
			if m.sweep.Curve.Wide() && !out[n-1].sweep.Curve.Wide() {
				continue // an overview is too coarse to stand in for a sweep of the band
			}
			out, readings = out[:n-1], readings[:n-1]
		}
		out, readings = append(out, m), append(readings, r)
	}
	return out, readings
}

func plotCurve(id, label string, current bool, c sweep.Curve, f []float64) PlotCurve {
	return PlotCurve{Id: id, Label: label, Current: current, Swr: known(c.Sample(f))}
}

// known leaves out what is not a number.
func known(values []float64) []*float64 {
	out := make([]*float64, len(values))
	for i, v := range values {
		if !math.IsNaN(v) {
			out[i] = &v
		}
	}
	return out
}

// besides fills the parts of a sweep that are shown on demand: several takes as a band, the other end of the cable, R and X,
// return loss and reflection, and the overview of a wide one.
func (out *GetReading200JSONResponse) besides(all []measured, m measured, b band.Band, me store.Me) error {
	f := out.Frequencies
	q := m.curve.Quantities(f)
	out.Quantities = &Quantities{At: QuantitiesAt(m.sweep.Where), LossDb: known(q.Loss), R: known(q.R), X: known(q.X), Re: known(q.Re),
		Im: known(q.Im)}
	var takes []sweep.Curve
	var wide *measured
	for i, x := range all {
		if x.revision.ID != m.revision.ID || x.sweep.Where != m.sweep.Where {
			continue
		}
		if x.sweep.Curve.Wide() {
			wide = &all[i]
		} else if x.sweep.Curve.Alike(m.sweep.Curve) {
			takes = append(takes, x.curve)
		}
	}
	if t, ok := sweep.Together(takes, me.Region, b, f); ok {
		out.Spread = &Takes{Takes: t.Takes, Low: known(t.Low), High: known(t.High), Says: t.Says}
	}
	if wide != nil {
		x, swr, dips, _ := sweep.Overview(wide.curve)
		out.Overview = &Overview{Name: wide.sweep.Name, Frequencies: x, Swr: swr, Dips: notNil(dips)}
	}
	cable, ok := m.revision.Built.Coax.Cable()
	length := m.revision.Built.Coax.Length.M
	if !ok || length <= 0 {
		return nil
	}
	label, other := "at the feed point", m.feed
	if m.cable == "" {
		label = "at the radio"
		var err error
		if other, err = m.sweep.Curve.AtRadio(cable, length).Curve(); err != nil {
			return fmt.Errorf("sweep %s: %w", m.sweep.Name, err)
		}
	} else {
		watts := me.PowerW
		if m.revision.Built.PowerW > 0 {
			watts = m.revision.Built.PowerW
		}
		out.Hidden = sweep.Hidden(m.curve, m.feed, out.Reading, cable, length, watts, m.cable)
	}
	c := plotCurve("other-end", label, false, other, f)
	out.OtherEnd = &c
	return nil
}

// GetReading says what the sweeps of a deployment say in one band, by default that of the wanted frequency.
func (s *Server) GetReading(ctx context.Context, r GetReadingRequestObject) (GetReadingResponseObject, error) {
	d, err := s.store.Deployment(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	all, err := s.curves(ctx, r.Id, me.Units)
	if err != nil {
		return nil, err
	}
	b := band.Nearest(me.Region, d.Plan.FrequencyHz)
	if r.Params.Band != "" {
		var ok bool
		if b, ok = band.Named(me.Region, r.Params.Band); !ok {
			return nil, invalid("band", fmt.Sprintf("%q is not a band", r.Params.Band))
		}
	}
	out := GetReading200JSONResponse{Band: b.Name, Bands: []RibbonBand{}, Facts: []phrase.Figure{},
		Curves: []PlotCurve{}, Frequencies: sweep.Axis(b)}
	wanted := map[string]bool{}
	for _, hz := range d.Plan.All() {
		wanted[band.Nearest(me.Region, hz).Name] = true
	}
	var swept []sweep.Swept
	for _, x := range band.All(me.Region) {
		item := RibbonBand{Band: x.Name, Wanted: wanted[x.Name]}
		if _, readings := inBand(all, me, x); len(readings) > 0 {
			last := readings[len(readings)-1]
			item.Measured, item.Says, item.Coverage, item.Known = true, quantity.SWR(last.MinSWR), last.Coverage, last.Known()
		}
		out.Bands = append(out.Bands, item)
		swept = append(swept, sweep.Swept{Band: x.Name, Wanted: item.Wanted, Measured: item.Measured, Coverage: item.Coverage})
	}
	slices.SortStableFunc(out.Bands, func(a, b RibbonBand) int {
		if a.Wanted == b.Wanted {
			return 0
		}
		if a.Wanted {
			return -1
		}
		return 1
	})
	out.Next = sweep.Next(b.Name, swept)
	here, readings := inBand(all, me, b)
	if len(here) == 0 {
		return out, nil
	}
	revisions, err := s.store.Revisions(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	newest := revisions[len(revisions)-1]
	out.Trimmed = len(family.Of(newest.Built.Shape).Knobs()) > 0
	shown := r.Params.Revision
	if shown == "" {
		shown = newest.ID
	}
	at := slices.IndexFunc(here, func(m measured) bool { return m.revision.ID == shown })
	if at < 0 {
		// It waits for its sweep: what was swept before is named, and is not taken for it.
		out.Before = here[len(here)-1].revision.ID
		return out, nil
	}
	m := here[at]
	out.Reading, out.RevisionId, out.Where, out.Cable = readings[at], m.revision.ID, m.sweep.Where, m.cable
	out.Frequencies = sweep.Axis(b, out.Reading.MinAt)
	if err := out.besides(all, m, b, me); err != nil {
		return nil, err
	}
	subject := sweep.Of(m.revision.Built, b.Centre())
	out.Verdict = sweep.Judge(out.Reading, subject).Told(me.Units)
	var feed sweep.Reading
	if m.cable != "" {
		feed, _ = sweep.Read(m.feed, me.Region, b, out.Reading.Own, m.revision.Built.GoodEnough(me.GoodSWR))
	}
	out.Facts = sweep.Facts(out.Reading, feed, m.cable)
	if out.Hidden != "" {
		// What the cable hides is judged where it is not hidden.
		out.Verdict = sweep.Judge(feed, subject).Told(me.Units)
	}
	for i, x := range here {
		out.Curves = append(out.Curves, plotCurve(x.revision.ID, fmt.Sprintf("r%d", x.revision.Seq), i == at, x.curve, out.Frequencies))
	}
	return out, nil
}

// shapeOf returns a deployment's shape: its newest revision's, or its plan's.
func shapeOf(d deployment.Deployment, revisions []deployment.Revision) deployment.Built {
	if n := len(revisions); n > 0 {
		return revisions[n-1].Built
	}
	return deployment.Built{Shape: family.Design(d.Plan).Shape}
}
