package server

import (
	"context"
	"strings"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/rigging"
)

// Plan computes lengths and layout for a wish. Its faults are part of the answer, so that the form can
// show them while it is being filled.
func (s *Server) Plan(_ context.Context, r PlanRequestObject) (PlanResponseObject, error) {
	return Plan200JSONResponse(antenna.Design(*r.Body)), nil
}

// Check lays out what was built and says what to look at, without storing it.
func (s *Server) Check(_ context.Context, r CheckRequestObject) (CheckResponseObject, error) {
	faults := deployment.Check(r.Body.Built, r.Body.Planned)
	d, _ := r.Body.Built.Layout()
	return Check200JSONResponse{Faults: notNil(faults), Drawing: d, Cautions: rigging.Cautions(r.Body.Built.Shape, d, r.Body.Built.PowerW)}, nil
}

// PutDeployment stores a plan under a name.
func (s *Server) PutDeployment(ctx context.Context, r PutDeploymentRequestObject) (PutDeploymentResponseObject, error) {
	d := *r.Body
	d.ID, d.Name, d.CreatedAt = r.Id, strings.TrimSpace(d.Name), s.now()
	if d.Name == "" {
		return nil, invalid("name", "a name is missing; any word that tells this antenna from the others")
	}
	if err := faulty("plan.", antenna.Design(d.Plan).Faults); err != nil {
		return nil, err
	}
	if _, err := s.store.PutDeployment(ctx, d); err != nil {
		return nil, err
	}
	detail, err := s.deploymentDetail(ctx, r.Id)
	return PutDeployment200JSONResponse(detail), err
}
