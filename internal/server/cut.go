package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/phrase"
	"reed/core/quantity"
	"reed/internal/store"
)

// Plan computes lengths and layout for a wish. Its faults are part of the answer, so that the form can
// show them while it is being filled.
func (s *Server) Plan(ctx context.Context, r PlanRequestObject) (PlanResponseObject, error) {
	want, unread, err := s.planned(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	return Plan200JSONResponse(family.Planned(want, unread)), nil
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
	r.Body.Built.Record = r.Body.Built.Record.Use(bag)
	b, faults := deployment.Read(r.Body.Built)
	faults = append(faults, deployment.Check(b, r.Body.Planned.Shape())...)
	open, cautions, d := dangers(b, me.Units)
	raising := phrase.Raising{Open: open, Revisions: r.Body.Revisions}
	for _, f := range faults {
		if f.Severity == "error" {
			raising.Wrong++
		} else {
			raising.Asked++
		}
	}
	return Check200JSONResponse{Headline: raising.Headline(), Fields: notNil(family.Of(b.Shape).Fields("built")),
		Faults: notNil(entry.In(me.Units, faults)), Drawing: d, Cautions: cautions, Onsite: d.Onsite(me.Units)}, nil
}

// PutDeployment stores a plan under a name.
func (s *Server) PutDeployment(ctx context.Context, r PutDeploymentRequestObject) (PutDeploymentResponseObject, error) {
	d := r.Body.Deployment
	d.ID, d.Name, d.CreatedAt = r.Id, strings.TrimSpace(d.Name), s.now()
	plan, unread, err := s.planned(ctx, r.Body.Plan)
	if err != nil {
		return nil, err
	}
	d.Plan = plan
	made := family.Planned(d.Plan, unread)
	if err := faulty(quantity.SI, "plan.", made.Faults); err != nil {
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
	beside, err := s.store.Deployments(ctx, d.OutingID)
	switch {
	case err != nil:
		return nil, err
	case d.Name == "":
		d.Name = deployment.Free(made.Called, d.ID, beside)
	case d.Name != was.Name && deployment.Taken(d.Name, d.ID, beside):
		return nil, invalid("name", fmt.Sprintf("%q is another antenna of this outing: call this one otherwise", d.Name))
	}
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
		return generic(deployment.DeploymentForm{Deployment: d, Plan: antenna.Form{Record: d.Plan,
			Typed: entry.Typed{Texts: family.FormTexts(d.Plan, me.Units)}}})
	})
}
