package server

import (
	"context"
	"time"

	"reed/core/antenna"
	"reed/core/deployment"
)

// GetDeployment reads a deployment with its revisions.
func (s *Server) GetDeployment(ctx context.Context, r GetDeploymentRequestObject) (GetDeploymentResponseObject, error) {
	d, err := s.deploymentDetail(ctx, r.Id)
	return GetDeployment200JSONResponse(d), err
}

func (s *Server) deploymentDetail(ctx context.Context, id string) (DeploymentDetail, error) {
	d, err := s.store.Deployment(ctx, id)
	if err != nil {
		return DeploymentDetail{}, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return DeploymentDetail{}, err
	}
	contacts, err := s.store.CountContacts(ctx, d.OutingID)
	if err != nil {
		return DeploymentDetail{}, err
	}
	t, err := s.tag(ctx, d, contacts[d.ID], me.Imperial)
	if err != nil {
		return DeploymentDetail{}, err
	}
	d.Plan.Imperial = me.Imperial
	out := DeploymentDetail{Deployment: d, Tag: t.tag, Planned: antenna.Design(d.Plan), Revisions: []Revision{}, PlanTexts: d.Plan.FormTexts(me.Imperial)}
	before := deployment.Built{Shape: out.Planned.Shape}
	for i, r := range t.revisions {
		v := Revision{Id: r.ID, Seq: r.Seq, At: r.At, Reason: r.Reason, Built: r.Built, Sweeps: []SweepInfo{}, Changes: []Difference{}}
		if i > 0 {
			v.Changes = deployment.Differences(before, r.Built, me.Imperial)
		}
		before = r.Built
		v.Unconfirmed, v.Cautions, v.Drawing = dangers(r.Built)
		v.Faults = notNil(deployment.Check(r.Built, out.Planned.Shape))
		for _, sw := range t.sweeps {
			if sw.RevisionID == r.ID {
				v.Sweeps = append(v.Sweeps, SweepInfo{Id: sw.ID, Name: sw.Name, Where: sw.Where, TakenAt: sw.TakenAt, Points: len(sw.Curve.F),
					FromHz: sw.Curve.F[0], ToHz: sw.Curve.F[len(sw.Curve.F)-1], Simulated: sw.Simulated, Version: sw.Version})
			}
		}
		out.Revisions = append(out.Revisions, v)
	}
	out.BuiltTexts, out.BuiltFields = before.Shape.Texts("built", me.Imperial), notNil(before.Fields("built"))
	return out, nil
}

// PutRevision adds a revision.
func (s *Server) PutRevision(ctx context.Context, r PutRevisionRequestObject) (PutRevisionResponseObject, error) {
	v := *r.Body
	v.ID, v.Seq = r.Id, 0
	if v.At.IsZero() {
		v.At = s.now()
	}
	if v.At.After(s.now().Add(2 * time.Minute)) {
		return nil, invalid("at", v.At.UTC().Format("2006-01-02 15:04")+" lies in the future; times are UTC")
	}
	d, err := s.store.Deployment(ctx, v.DeploymentID)
	if err != nil {
		return nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	built, unread := v.Built.Use(bag).Read()
	v.Built = built
	if err := faulty("built.", append(unread, deployment.Check(v.Built, antenna.Design(d.Plan).Shape)...)); err != nil {
		return nil, err
	}
	if _, err := s.store.AddRevision(ctx, v); err != nil {
		return nil, err
	}
	detail, err := s.deploymentDetail(ctx, v.DeploymentID)
	return PutRevision200JSONResponse(detail), err
}
