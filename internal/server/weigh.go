package server

import (
	"context"
	"fmt"

	"reed/core/band"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/core/weigh"
	"reed/internal/store"
)

// side gathers one deployment for comparing.
func (s *Server) side(ctx context.Context, me store.Me, id string) (weigh.Side, PlacedTag, []measured, error) {
	fail := func(err error) (weigh.Side, PlacedTag, []measured, error) { return weigh.Side{}, PlacedTag{}, nil, err }
	d, err := s.store.Deployment(ctx, id)
	if err != nil {
		return fail(err)
	}
	o, err := s.store.Outing(ctx, d.OutingID)
	if err != nil {
		return fail(err)
	}
	contacts, err := s.store.ContactsOf(ctx, id)
	if err != nil {
		return fail(err)
	}
	t, err := s.tag(ctx, d, len(contacts), me.Units)
	if err != nil {
		return fail(err)
	}
	all, err := s.curves(ctx, id, me.Units)
	if err != nil {
		return fail(err)
	}
	ground := d.Plan.Ground
	if ground == "" {
		ground = o.Ground
	}
	out := weigh.Side{Name: d.Name, Ground: ground, Outing: o.Name, OutingID: o.ID, Built: shapeOf(d, t.revisions), Contacts: contacts,
		Readings: map[string]sweep.Reading{}, Centre: map[string]float64{}}
	if p, err := place.ParsePosition(o.Place); err == nil {
		out.Home = p
	}
	for _, b := range band.All(me.Region) {
		out.Bands = append(out.Bands, b.Name)
		out.Centre[b.Name] = b.Centre()
		if here, _ := inBand(all, me, b); len(here) > 0 {
			last := here[len(here)-1]
			out.Readings[b.Name], _ = sweep.Read(last.feed, me.Region, b, band.Own(me.Segments, b.Name), me.GoodSWR)
		}
	}
	return out, PlacedTag{Tag: t.tag, Outing: o.Name, OutingId: o.ID, Date: o.Date}, all, nil
}

// ComputeBeside says what the model foretells of two deployments beside each other.
func (s *Server) ComputeBeside(ctx context.Context, r ComputeBesideRequestObject) (ComputeBesideResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	var sides [2]weigh.Side
	var both [2]twin.Named
	for i, id := range []string{q.A, q.B} {
		side, tag, _, err := s.side(ctx, me, id)
		if err != nil {
			return nil, err
		}
		side.Letter, sides[i] = tag.Tag.Letter, side
		both[i].Setup = twin.Setup{Built: side.Built, Ground: side.Ground, PowerW: me.PowerW, Units: me.Units}
		if side.Built.PowerW > 0 {
			both[i].PowerW = side.Built.PowerW
		}
	}
	both[0].Name, both[1].Name = weigh.Apart(sides[0], sides[1])
	o := twin.Options{Region: me.Region, Band: q.Band, Segments: me.Segments}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"beside", both, o},
		func(ctx context.Context, done func(step, of int)) (twin.Answer, error) {
			return s.twin.Beside(ctx, both[0], both[1], o, done)
		})
	return ComputeBeside200JSONResponse(out), err
}

// evidence is what each kind of it says, the strongest first; the strongest is the headline, and what the contacts say stands
// beside it as the weakest.
func (s *Server) evidence(ctx context.Context, a, b weigh.Side, idA, idB string, headline *string) ([]weigh.Evidence, error) {
	out := []weigh.Evidence{}
	if a.OutingID == b.OutingID {
		runs, err := s.store.Runs(ctx, a.OutingID)
		if err != nil {
			return nil, err
		}
		e, ok, err := weigh.Alternated(runs, func(r onair.Run) ([]onair.Report, error) { return s.heardOf(ctx, r) }, idA, idB)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, e)
		}
		notes, err := s.store.Notes(ctx, a.OutingID)
		if err != nil {
			return nil, err
		}
		out = append(out, weigh.Patient(notes, idA, idB, a.Name, b.Name)...)
	}
	if len(out) > 0 {
		out = append(out, weigh.Evidence{Strength: "weak", Kind: "contacts", Says: *headline})
		*headline = out[0].Says
	}
	return out, nil
}

// Weigh lays two deployments side by side.
func (s *Server) Weigh(ctx context.Context, r WeighRequestObject) (WeighResponseObject, error) {
	if r.Params.A == r.Params.B {
		return nil, invalid("b", "these are the same deployment; choose another")
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	a, tagA, curvesA, err := s.side(ctx, me, r.Params.A)
	if err != nil {
		return nil, err
	}
	b, tagB, curvesB, err := s.side(ctx, me, r.Params.B)
	if err != nil {
		return nil, err
	}
	a.Letter, b.Letter = tagA.Tag.Letter, tagB.Tag.Letter
	a.Name, b.Name = weigh.Apart(a, b)
	tagA.Tag.Name, tagB.Tag.Name = a.Name, b.Name
	c := weigh.Compare(a, b, me.Units)
	out := Weigh200JSONResponse{A: tagA, B: tagB, Comparison: c, Curves: []PlotCurve{}, Frequencies: []float64{}}
	if out.Evidence, err = s.evidence(ctx, a, b, r.Params.A, r.Params.B, &out.Comparison.Headline); err != nil {
		return nil, err
	}
	name := r.Params.Band
	for _, row := range c.Rows { // by default the first band measured on both, otherwise on one
		if name == "" && row.A.Measured && row.B.Measured {
			name = row.Band
		}
	}
	for _, row := range c.Rows {
		if name == "" && (row.A.Measured || row.B.Measured) {
			name = row.Band
		}
	}
	x, ok := band.Named(me.Region, name)
	if !ok {
		if name != "" {
			return nil, invalid("band", fmt.Sprintf("%q is not a band", name))
		}
		return out, nil
	}
	out.Band, out.Own = x.Name, band.Own(me.Segments, x.Name)
	var dips []float64
	for _, side := range []weigh.Side{a, b} {
		if r, ok := side.Readings[x.Name]; ok {
			dips = append(dips, r.MinAt)
		}
	}
	out.Frequencies = sweep.Axis(x, dips...)
	for i, all := range [][]measured{curvesA, curvesB} {
		if here, _ := inBand(all, me, x); len(here) > 0 {
			out.Curves = append(out.Curves, plotCurve([]string{"a", "b"}[i], []string{a.Name, b.Name}[i], i == 0, here[len(here)-1].feed,
				out.Frequencies))
		}
	}
	return out, nil
}
