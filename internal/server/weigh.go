package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/core/weigh"
	"reed/internal/store"
)

// worked adds the contacts of a side, those of a revision by their time.
func (s *Server) worked(ctx context.Context, of thing, side *weigh.Side) (err error) {
	if of.group != "" {
		for _, m := range of.Members {
			list, err := s.store.Worked(ctx, m.ID)
			if err != nil {
				return err
			}
			if from, err := place.ParsePosition(m.Place); err == nil {
				for i := range list {
					list[i].Home = &from
				}
			}
			side.Contacts = append(side.Contacts, list...)
		}
		return nil
	}
	if side.Contacts, err = s.store.Worked(ctx, of.id); err != nil || of.seq == 0 {
		return err
	}
	all, err := s.store.Revisions(ctx, of.id)
	side.Contacts = slices.DeleteFunc(side.Contacts, func(c weigh.Worked) bool { return revisionAt(all, c.At) != of.seq })
	return err
}

// side gathers one deployment, or one of its revisions, for comparing; its contacts are added by worked. A group is described by its
// newest set-up.
func (s *Server) side(ctx context.Context, me store.Me, of thing) (weigh.Side, PlacedTag, []measured, error) {
	fail := func(err error) (weigh.Side, PlacedTag, []measured, error) { return weigh.Side{}, PlacedTag{}, nil, err }
	id := of.id
	d, err := s.store.Deployment(ctx, id)
	if err != nil {
		return fail(err)
	}
	o, err := s.store.Outing(ctx, d.OutingID)
	if err != nil {
		return fail(err)
	}
	t, err := s.tag(ctx, d, me.Units)
	if err != nil {
		return fail(err)
	}
	all, err := s.curves(ctx, id, me.Units)
	if err != nil {
		return fail(err)
	}
	if of.seq > 0 {
		at := slices.IndexFunc(t.revisions, func(r deployment.Revision) bool { return r.Seq == of.seq })
		if at < 0 {
			return fail(fmt.Errorf("%s has no revision %d: %w", d.Name, of.seq, store.ErrNotFound))
		}
		all = slices.DeleteFunc(all, func(m measured) bool { return m.revision.Seq != of.seq })
		t.revisions = t.revisions[at : at+1]
		d.Name = fmt.Sprintf("%s, revision %d", d.Name, of.seq)
		t.tag.Name = d.Name
	}
	built := shapeOf(d, t.revisions)
	out := weigh.Side{Name: d.Name, Ground: d.GroundAt(built, o.Ground), Outing: o.Name, OutingID: o.ID, Built: built,
		Readings: map[string]sweep.Reading{}, Centre: map[string]float64{}}
	if p, err := place.ParsePosition(o.Place); err == nil {
		out.Home = p
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return fail(err)
	}
	out.Effort = deployment.EffortOf(out.Built, d.Clock, bag)
	for _, b := range band.All(me.Region) {
		out.Bands = append(out.Bands, b.Name)
		out.Centre[b.Name] = b.Centre()
		if here, _ := inBand(all, me, b); len(here) > 0 {
			last := here[len(here)-1]
			out.Readings[b.Name], _ = sweep.Read(last.feed, me.Region, b, band.Own(me.Segments, b.Name), out.Built.GoodEnough(me.GoodSWR))
		}
	}
	tag := PlacedTag{Tag: t.tag, Outing: o.Name, OutingId: o.ID, Date: o.Date}
	if n := len(of.Members); of.group != "" {
		if out.Name, out.OutingID, out.SetUps = of.Name, of.group, n; of.Outings > 1 {
			tag.OutingId, tag.Outing = "", fmt.Sprintf("%d outings", of.Outings)
			tag.Date = of.Members[0].Date + " to " + of.Members[n-1].Date
			out.Outing = tag.Outing
		}
	}
	return out, tag, all, nil
}

// ComputeBeside says what the model predicts of two deployments beside each other.
func (s *Server) ComputeBeside(ctx context.Context, r ComputeBesideRequestObject) (ComputeBesideResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	var sides [2]weigh.Side
	var both [2]twin.Named
	var of [2]thing
	if of, err = s.pairOf(ctx, q.A, q.B); err != nil {
		return nil, err
	}
	for i := range of {
		side, tag, _, err := s.side(ctx, me, of[i])
		if err != nil {
			return nil, err
		}
		side.Letter, sides[i] = tag.Tag.Letter, side
		both[i].Setup = setupOf(side, me)
	}
	both[0].Name, both[1].Name = weigh.Apart(sides[0], sides[1])
	o := twin.Options{Region: me.Region, Band: q.Band, Segments: me.Segments}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"beside", both, o},
		func(ctx context.Context, done func(step, of int)) (twin.Answer, error) {
			return s.twin.Beside(ctx, both[0], both[1], o, done)
		})
	return ComputeBeside200JSONResponse(out), err
}

// setupOf is a side as the model takes it.
func setupOf(side weigh.Side, me store.Me) twin.Setup {
	out := twin.Setup{Built: side.Built, Ground: side.Ground, PowerW: me.PowerW, Units: me.Units}
	if side.Built.PowerW > 0 {
		out.PowerW = side.Built.PowerW
	}
	return out
}

// evidence returns each kind of evidence except the contacts, the strongest first.
func (s *Server) evidence(ctx context.Context, of [2]thing, sides [2]weigh.Side, f weigh.Filter) (out []weigh.Evidence, err error) {
	if out, err = s.air(ctx, of, named(sides), f); err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(out, func(e weigh.Evidence) bool { return e.Strength == "strong" && !e.Hearing }) {
		by, err := s.byReference(ctx, of, named(sides), f)
		if err != nil {
			return nil, err
		}
		out = append(by, out...)
	}
	var outings []string
	for i, x := range of {
		if x.group == "" && !slices.Contains(outings, sides[i].OutingID) {
			outings = append(outings, sides[i].OutingID)
		}
		for _, m := range x.Members {
			if !slices.Contains(outings, m.OutingID) {
				outings = append(outings, m.OutingID)
			}
		}
	}
	if of[0].id == of[1].id {
		return out, nil // a pair is of two deployments
	}
	var notes []onair.Note
	for _, id := range outings {
		list, err := s.store.Notes(ctx, id)
		if err != nil {
			return nil, err
		}
		notes = append(notes, list...)
	}
	hearing, heard := weigh.Hearing(out, notes, of[0].deployments(), of[1].deployments(), sides[0].Name, sides[1].Name)
	pairs := weigh.Patient(notes, of[0].deployments(), of[1].deployments(), sides[0].Name, sides[1].Name)
	if heard {
		pairs = append(pairs, hearing)
	}
	// Slots of other occasions prove less than a pair.
	at := slices.IndexFunc(out, func(e weigh.Evidence) bool { return e.Strength == "weak" })
	if at < 0 {
		at = len(out)
	}
	return slices.Insert(out, at, pairs...), nil
}

// Weigh lays two deployments, or revisions, side by side. The strongest evidence is the headline, and what the contacts say stands
// beside it as the weakest.
func (s *Server) Weigh(ctx context.Context, r WeighRequestObject) (WeighResponseObject, error) {
	of, err := s.pairOf(ctx, r.Params.A, r.Params.B)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	a, tagA, curvesA, err := s.side(ctx, me, of[0])
	if err != nil {
		return nil, err
	}
	b, tagB, curvesB, err := s.side(ctx, me, of[1])
	if err != nil {
		return nil, err
	}
	a.Letter, b.Letter = tagA.Tag.Letter, tagB.Tag.Letter
	a.Name, b.Name = weigh.Apart(a, b)
	tagA.Tag.Name, tagB.Tag.Name = a.Name, b.Name
	out := Weigh200JSONResponse{A: tagA, B: tagB, Curves: []PlotCurve{}, Frequencies: []float64{}, Method: weigh.Method()}
	bare := [2]weigh.Side{a, b}
	var c weigh.Comparison
	group, gctx := errgroup.WithContext(ctx) // a hundred thousand contacts beside a million reports
	group.Go(func() (err error) {
		if err = s.worked(gctx, of[0], &a); err == nil {
			err = s.worked(gctx, of[1], &b)
		}
		c = weigh.Compare(a, b, me.Units)
		return err
	})
	group.Go(func() (err error) {
		out.Evidence, err = s.evidence(gctx, of, bare, weigh.Filter{})
		return err
	})
	if err := group.Wait(); err != nil {
		return nil, err
	}
	out.Comparison = c
	if out.Evidence = notNil(out.Evidence); len(out.Evidence) > 0 {
		says := c.Headline
		if len(c.Uncontrolled) > 0 {
			says += " Not the same for both: " + strings.Join(c.Uncontrolled, "; ") + "."
		}
		out.Evidence = append(out.Evidence, weigh.Evidence{Strength: "weak", Kind: "contacts", Says: says})
		out.Comparison.Headline = out.Evidence[weigh.Lead(out.Evidence)].Says
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
