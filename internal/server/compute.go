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
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/twin"
)

// setup and answer serve every question to the solver; the questions are in the files of their
// stages.

// setup reads what is to be computed: a plan, a set-up as typed, or a stored revision. What of it cannot be
// solved is an error that names its field.
func (s *Server) setup(ctx context.Context, in ModelQuestion) (twin.Setup, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return twin.Setup{}, err
	}
	out := twin.Setup{Ground: in.Ground, PowerW: me.PowerW, Units: me.Units}
	switch {
	case in.Plan != nil:
		want, unread, err := s.planned(ctx, *in.Plan)
		if err != nil {
			return out, err
		}
		p := family.Planned(want, unread)
		if err := faulty(me.Units, "plan.", p.Faults); err != nil {
			return out, err
		}
		bag, err := s.bag(ctx)
		if err != nil {
			return out, err
		}
		out.Built, out.Given = deployment.Built{Shape: p.Shape}.Use(bag), want.Given()
		out.Planned, out.PowerW = true, want.PowerW
		if want.Ground != "" {
			out.Ground = want.Ground
		}
	case in.Built != nil:
		bag, err := s.bag(ctx)
		if err != nil {
			return out, err
		}
		in.Built.Record = in.Built.Record.Use(bag)
		b, unread := deployment.Read(*in.Built)
		if err := faulty(me.Units, "built.", append(unread, deployment.Check(b, antenna.Shape{})...)); err != nil {
			return out, err
		}
		out.Built = b
		if b.Ground != "" {
			out.Ground = b.Ground
		}
	case in.RevisionId != "":
		r, err := s.store.Revision(ctx, in.RevisionId)
		if err != nil {
			return out, err
		}
		out.Built = r.Built
		if r.Built.Ground != "" {
			out.Ground = r.Built.Ground
		}
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

// Computed is a computation that was begun, and its result when it is done.
type Computed[T any] struct {
	Computation
	Result *T `json:"result,omitempty"`
}

// asks is who asks a question: the id of the computation, its slot and how long it is waited for.
type asks struct {
	id, slot string
	wait     int
}

// measure asks an instrument, and waits a little for its answer; it does not wait for computations to end.
func measure[T any](ctx context.Context, s *Server, by asks, do func(ctx context.Context, done func(step, of int)) (T,
	error)) (Computed[T], error) {
	return await[T](ctx, s, by, s.jobs.startInstrument(by.id, by.slot, by.id,
		func(ctx context.Context, done func(step, of int)) (any, error) { return do(ctx, done) }))
}

// answer begins a computation, or finds it by what it is made of, and waits a little for it, so that a short one is
// answered at once. What it is made of is anything that is written as JSON; nothing else may bear on the result. With
// nil it is one of its own.
func answer[T any](ctx context.Context, s *Server, by asks, of any, do func(ctx context.Context, done func(step, of int)) (T,
	error)) (Computed[T], error) {
	key := by.id
	if of != nil {
		text, err := json.Marshal(of)
		if err != nil {
			return Computed[T]{}, fmt.Errorf("keying a computation: %w", err)
		}
		var none T
		sum := sha256.Sum256(fmt.Appendf(text, " %T", none))
		key = hex.EncodeToString(sum[:])
	}
	x := s.jobs.start(by.id, by.slot, key, func(ctx context.Context, done func(step, of int)) (any, error) { return do(ctx, done) })
	return await[T](ctx, s, by, x)
}

// await waits a little for a job and returns its state, with its result if it is done.
func await[T any](ctx context.Context, s *Server, by asks, x *job) (Computed[T], error) {
	s.jobs.wait(ctx, x, time.Duration(by.wait)*time.Millisecond)
	out := Computed[T]{}
	var result any
	if out.Computation, result = s.progress(x); out.State == Done {
		v := result.(T)
		out.Result = &v
	}
	return out, nil
}

// progress is the state of a job on the wire, and its result when it is done.
func (s *Server) progress(x *job) (Computation, any) {
	at := s.jobs.state(x)
	out := Computation{Id: x.id, State: Running, Step: at.step, Of: at.of, Waits: !at.begun}
	switch {
	case !at.done:
		return out, nil
	case errors.Is(at.err, context.Canceled):
		out.State = Stopped
		return out, nil
	case at.err != nil:
		out.State, out.Error = Failed, at.err.Error()
		return out, nil
	}
	out.State = Done
	return out, at.result
}

// GetComputation asks how far a computation is, and waits a little for its end.
func (s *Server) GetComputation(ctx context.Context, r GetComputationRequestObject) (GetComputationResponseObject, error) {
	x, ok := s.jobs.find(r.Id)
	if !ok {
		// Another took its slot, or the program began anew: for who asks it is stopped.
		return GetComputation200JSONResponse{Id: r.Id, State: Stopped}, nil
	}
	s.jobs.wait(ctx, x, time.Duration(r.Params.WaitMs)*time.Millisecond)
	out, _ := s.progress(x)
	return GetComputation200JSONResponse(out), nil
}

// StopComputation stops a computation.
func (s *Server) StopComputation(_ context.Context, r StopComputationRequestObject) (StopComputationResponseObject, error) {
	s.jobs.remove(r.Id)
	return StopComputation204Response{}, nil
}
