package server

import (
	"context"
	"fmt"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/diagnose"
	"reed/core/quantity"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/store"
)

// ComputeTrim works out what to change, by the sweeps of a deployment up to a revision.
func (s *Server) ComputeTrim(ctx context.Context, r ComputeTrimRequestObject) (ComputeTrimResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	setup, err := s.setup(ctx, ModelQuestion{RevisionId: q.RevisionId})
	if err != nil {
		return nil, err
	}
	subject, sweeps, err := s.trimmed(ctx, q.RevisionId, setup.Ground, me)
	if err != nil {
		return nil, err
	}
	subject.Wanted = q.WantedHz
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{setup, sweeps, me.Region, me.Segments, me.GoodSWR, q.WantedHz},
		func(ctx context.Context, done func(step, of int)) (trim.Told, error) {
			advice, err := subject.Advise(ctx, &s.twin, done)
			if err != nil {
				return trim.Told{}, err
			}
			return *advice.Told(me.Units), nil
		})
	return ComputeTrim200JSONResponse(out), err
}

// ComputeCauses asks why the newest sweep of a revision in a band is not as the model says.
func (s *Server) ComputeCauses(ctx context.Context, r ComputeCausesRequestObject) (ComputeCausesResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	setup, err := s.setup(ctx, ModelQuestion{RevisionId: q.RevisionId})
	if err != nil {
		return nil, err
	}
	subject, sweeps, err := s.doubted(ctx, q.RevisionId, q.Band, setup, me)
	if err != nil {
		return nil, err
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{setup, q.Band, sweeps, me.Region, me.Segments},
		func(ctx context.Context, done func(step, of int)) (diagnose.Diagnosis, error) {
			return diagnose.Diagnose(ctx, &s.twin, subject, done)
		})
	return ComputeCauses200JSONResponse(out), err
}

// sweptWith is a revision, and every sweep of its deployment.
func (s *Server) sweptWith(ctx context.Context, revision string) (deployment.Revision, []measured, error) {
	r, err := s.store.Revision(ctx, revision)
	if err != nil {
		return r, nil, err
	}
	all, err := s.curves(ctx, r.DeploymentID, quantity.SI)
	return r, all, err
}

// trimmed gathers the sweeps of a deployment up to a revision, and the ids of what they are.
func (s *Server) trimmed(ctx context.Context, revision, ground string, me store.Me) (trim.Subject, []string, error) {
	out := trim.Subject{Ground: ground, Region: me.Region, Segments: me.Segments, Limit: me.GoodSWR, Units: me.Units}
	r, all, err := s.sweptWith(ctx, revision)
	if err != nil {
		return out, nil, err
	}
	var ids []string
	for _, m := range all {
		if m.revision.Seq > r.Seq {
			continue
		}
		if n := len(ids); n == 0 || ids[n-1] != m.revision.ID {
			out.Swept = append(out.Swept, trim.Swept{Built: m.revision.Built})
			ids = append(ids, m.revision.ID)
		}
		last := &out.Swept[len(out.Swept)-1]
		last.Feeds = append(last.Feeds, m.feed)
	}
	for _, m := range all {
		ids = append(ids, m.sweep.ID)
	}
	d, err := s.store.Deployment(ctx, r.DeploymentID)
	if err != nil {
		return out, nil, err
	}
	if len(d.Plan.Solved) > 0 {
		ids = append(ids, fmt.Sprint(d.Version))
		out.Plan = func(context.Context) (deployment.Built, error) {
			return deployment.Built{Shape: family.Design(d.Plan).Shape}, nil
		}
	}
	if n := len(out.Swept); n > 0 {
		out.Limit = out.Swept[n-1].Built.GoodEnough(me.GoodSWR)
	}
	if len(out.Swept) == 0 || out.Swept[len(out.Swept)-1].Built.Family == "" {
		return out, nil, invalid("revision_id", "there is no sweep of this antenna yet; attach one, then it can be judged")
	}
	return out, ids, nil
}

// doubted is a revision's newest sweep in a band, with what is known of the set-up.
func (s *Server) doubted(ctx context.Context, revision, name string, setup twin.Setup, me store.Me) (diagnose.Subject, []string, error) {
	out := diagnose.Subject{Setup: setup, Units: me.Units}
	b, ok := band.Named(me.Region, name)
	if !ok {
		return out, nil, invalid("band", fmt.Sprintf("%q is not a band", name))
	}
	_, all, err := s.sweptWith(ctx, revision)
	if err != nil {
		return out, nil, err
	}
	here, readings := inBand(all, me, b)
	for i, m := range here {
		if m.revision.ID != revision {
			continue
		}
		out.Feed, out.AtRadio = m.feed, m.cable != ""
		out.Lo, out.Hi = diagnose.Around(b, readings[i].MinAt)
		return out, []string{m.sweep.ID}, nil
	}
	return out, nil, invalid("revision_id", "there is no sweep of this revision in the band; attach one, then it can be explained")
}
