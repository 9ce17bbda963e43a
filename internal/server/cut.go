package server

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/rigging"
	"reed/internal/store"
)

// Plan computes lengths and layout for a wish. Its faults are part of the answer, so that the form can
// show them while it is being filled.
func (s *Server) Plan(ctx context.Context, r PlanRequestObject) (PlanResponseObject, error) {
	want, unread, err := s.planned(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	p := antenna.Design(want)
	p.Faults = append(unread, p.Faults...)
	return Plan200JSONResponse(p), nil
}

// Check lays out what was built and says what to look at, without storing it.
func (s *Server) Check(ctx context.Context, r CheckRequestObject) (CheckResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	b, faults := r.Body.Built.Use(bag).Read()
	faults = append(faults, deployment.Check(b, r.Body.Planned)...)
	d, _ := b.Layout() // nothing, where there is a fault
	return Check200JSONResponse{Fields: notNil(b.Fields("built")), Faults: notNil(faults), Drawing: d, Cautions: rigging.Cautions(b.Shape, d, b.PowerW), Onsite: d.Onsite(me.Imperial)}, nil
}

// PutDeployment stores a plan under a name.
func (s *Server) PutDeployment(ctx context.Context, r PutDeploymentRequestObject) (PutDeploymentResponseObject, error) {
	d := *r.Body
	d.ID, d.Name, d.CreatedAt = r.Id, strings.TrimSpace(d.Name), s.now()
	if d.Name == "" {
		return nil, invalid("name", "a name is missing; any word that tells this antenna from the others")
	}
	plan, unread, err := s.planned(ctx, d.Plan)
	if err != nil {
		return nil, err
	}
	d.Plan = plan
	if err := faulty("plan.", append(unread, antenna.Design(d.Plan).Faults...)); err != nil {
		return nil, err
	}
	// What belongs to the deployment and not to its plan stays.
	was, err := s.store.Deployment(ctx, r.Id)
	switch {
	case err == nil:
		d.Clock, d.Recipe = was.Clock, was.Recipe
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	d.Deleted = false
	if _, err := s.store.PutDeployment(ctx, d, r.Params.Version); err != nil {
		return nil, s.asTyped(ctx, err)
	}
	detail, err := s.deploymentDetail(ctx, r.Id)
	return PutDeployment200JSONResponse(detail), err
}

// asTyped shows the plan of a deployment that stands in the way of a write as its form has it.
func (s *Server) asTyped(ctx context.Context, err error) error {
	var other *store.Conflict
	if !errors.As(err, &other) {
		return err
	}
	me, merr := s.store.Me(ctx)
	if merr != nil {
		return err
	}
	return conflictIn(other, func(doc []byte) (map[string]any, error) {
		var d deployment.Deployment
		if err := json.Unmarshal(doc, &d); err != nil {
			return nil, err
		}
		d.Plan.Texts = d.Plan.FormTexts(me.Imperial)
		return generic(d)
	})
}
