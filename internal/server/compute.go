package server

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/diagnose"
	"reed/core/quantity"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/store"
)

// setup reads what is to be computed: a plan, a set-up as typed, or a stored revision. What of it cannot be
// solved is an error that names its field.
func (s *Server) setup(ctx context.Context, in ComputeInput) (twin.Setup, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return twin.Setup{}, err
	}
	out := twin.Setup{Ground: in.Ground, PowerW: me.PowerW}
	switch {
	case in.Plan != nil:
		want, unread, err := s.planned(ctx, *in.Plan)
		if err != nil {
			return out, err
		}
		p := antenna.Design(want)
		if err := faulty("plan.", append(unread, p.Faults...)); err != nil {
			return out, err
		}
		out.Built, out.Planned, out.PowerW = deployment.Built{Shape: p.Shape}, true, want.PowerW
		if want.Ground != "" {
			out.Ground = want.Ground
		}
	case in.Built != nil:
		bag, err := s.bag(ctx)
		if err != nil {
			return out, err
		}
		b, unread := in.Built.Use(bag).Read()
		if err := faulty("built.", append(unread, deployment.Check(b, antenna.Shape{})...)); err != nil {
			return out, err
		}
		out.Built = b
	case in.RevisionId != "":
		r, err := s.store.Revision(ctx, in.RevisionId)
		if err != nil {
			return out, err
		}
		out.Built = r.Built
		if out.Ground == "" {
			d, err := s.store.Deployment(ctx, r.DeploymentID)
			if err != nil {
				return out, err
			}
			out.Ground = d.Plan.Ground
			in.OutingId = d.OutingID
		}
	default:
		return out, invalid("plan", "a plan, a set-up or a revision is missing")
	}
	if out.Ground == "" && in.OutingId != "" {
		o, err := s.store.Outing(ctx, in.OutingId)
		if err != nil {
			return out, err
		}
		out.Ground = o.Ground
	}
	if out.Built.PowerW > 0 {
		out.PowerW = out.Built.PowerW
	}
	return out, nil
}

// Compute begins a computation and waits a little for it, so that a short one is answered at once.
func (s *Server) Compute(ctx context.Context, r ComputeRequestObject) (ComputeResponseObject, error) {
	in := *r.Body
	setup, err := s.setup(ctx, in)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	o := twin.Options{Region: me.Region, Band: in.Band, Segments: me.Segments, Coarse: in.Coarse}
	metres := 0.0
	if in.Metres != "" {
		unit := "m"
		if me.Imperial {
			unit = "ft"
		}
		l, err := quantity.Typed(in.Metres, unit)
		if err != nil {
			return nil, invalid("metres", err.Error())
		}
		metres = l.M
	}
	var subject trim.Subject
	var doubt diagnose.Subject
	var sweeps []string
	switch in.Kind {
	case ComputeInputKindTrim:
		subject, sweeps, err = s.trimmed(ctx, in.RevisionId, setup.Ground, me)
	case ComputeInputKindDiagnose:
		doubt, sweeps, err = s.doubted(ctx, in.RevisionId, in.Band, setup, me)
	}
	if err != nil {
		return nil, err
	}
	asked, err := json.Marshal(struct {
		Kind    ComputeInputKind
		Setup   twin.Setup
		Options twin.Options
		Metres  float64
		Sweeps  []string
		Limit   float64
		Feet    bool
	}{in.Kind, setup, o, metres, sweeps, me.GoodSWR, me.Imperial})
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(asked)
	x := s.jobs.start(in.Id, in.Slot, hex.EncodeToString(sum[:]), func(ctx context.Context, done func(step, of int)) (any, error) {
		switch in.Kind {
		case ComputeInputKindTrim:
			return subject.Advise(ctx, &s.twin, done)
		case ComputeInputKindDiagnose:
			return diagnose.Diagnose(ctx, &s.twin, doubt, done)
		case ComputeInputKindRefine:
			return s.twin.Refine(ctx, setup, done)
		case ComputeInputKindRadials:
			return s.twin.Radials(ctx, setup, metres, done)
		case ComputeInputKindCounterpoise:
			return s.twin.Counterpoise(ctx, setup, done)
		}
		return s.twin.Forecast(ctx, setup, o, done)
	})
	x.wait(ctx, time.Duration(in.WaitMs)*time.Millisecond)
	out, err := s.computation(x)
	return Compute200JSONResponse(out), err
}

// sweptWith is a revision, and every sweep of its deployment.
func (s *Server) sweptWith(ctx context.Context, revision string) (deployment.Revision, []measured, error) {
	r, err := s.store.Revision(ctx, revision)
	if err != nil {
		return r, nil, err
	}
	all, err := s.curves(ctx, r.DeploymentID)
	return r, all, err
}

// trimmed gathers the sweeps of a deployment up to a revision, and the ids of what they are.
func (s *Server) trimmed(ctx context.Context, revision, ground string, me store.Me) (trim.Subject, []string, error) {
	out := trim.Subject{Ground: ground, Region: me.Region, Segments: me.Segments, Limit: me.GoodSWR, Imperial: me.Imperial}
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
	if len(out.Swept) == 0 || out.Swept[len(out.Swept)-1].Built.Family == "" {
		return out, nil, invalid("revision_id", "there is no sweep of this antenna yet; attach one, then it can be judged")
	}
	return out, ids, nil
}

// doubted is a revision's newest sweep in a band, with what is known of the set-up.
func (s *Server) doubted(ctx context.Context, revision, name string, setup twin.Setup, me store.Me) (diagnose.Subject, []string, error) {
	out := diagnose.Subject{Setup: setup, Imperial: me.Imperial}
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

// computation is the state of a job on the wire.
func (s *Server) computation(x *job) (Computation, error) {
	done, step, of, result, err := s.jobs.state(x)
	out := Computation{Id: x.id, State: Running, Step: step, Of: of}
	if !done {
		return out, nil
	}
	switch {
	case errors.Is(err, context.Canceled):
		out.State = Stopped
	case err != nil:
		out.State, out.Error = Failed, err.Error()
	default:
		out.State = Done
	}
	switch v := result.(type) {
	case twin.Forecast:
		out.Forecast = &v
	case twin.Refined:
		out.Refined = &v
	case twin.Answer:
		out.Answer = &v
	case trim.Trim:
		out.Trim = &v
	case diagnose.Diagnosis:
		out.Diagnosis = &v
	}
	if err != nil {
		out.Forecast, out.Refined, out.Answer, out.Trim, out.Diagnosis = nil, nil, nil, nil, nil
	}
	return out, nil
}

// GetComputation asks how far a computation is, and waits a little for its end.
func (s *Server) GetComputation(ctx context.Context, r GetComputationRequestObject) (GetComputationResponseObject, error) {
	x, ok := s.jobs.find(r.Id)
	if !ok {
		// Another took its slot, or the program began anew: for who asks it is stopped.
		return GetComputation200JSONResponse{Id: r.Id, State: Stopped}, nil
	}
	x.wait(ctx, time.Duration(r.Params.WaitMs)*time.Millisecond)
	out, err := s.computation(x)
	return GetComputation200JSONResponse(out), err
}

// StopComputation stops a computation.
func (s *Server) StopComputation(_ context.Context, r StopComputationRequestObject) (StopComputationResponseObject, error) {
	s.jobs.remove(r.Id)
	return StopComputation204Response{}, nil
}
