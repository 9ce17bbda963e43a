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
	"reed/core/sweep"
	"reed/core/trim"
	"reed/core/twin"
	"reed/internal/standin"
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
	own := map[ComputeInputKind]func(context.Context, ComputeInput) (work, error){
		ComputeInputKindMeasure: s.measurement, ComputeInputKindPractice: s.practised, ComputeInputKindLearn: s.learned,
	}
	if begin, ok := own[in.Kind]; ok {
		work, err := begin(ctx, in)
		if err != nil {
			return nil, err
		}
		// Each is one of its own, of what is there now: its key is its id.
		x := s.jobs.start(in.Id, in.Slot, in.Id, work)
		s.jobs.wait(ctx, x, time.Duration(in.WaitMs)*time.Millisecond)
		out, err := s.computation(x)
		return Compute200JSONResponse(out), err
	}
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
	var recipe deployment.Recipe
	var beside func(twin.Forecast) string
	var sweeps []string
	switch in.Kind {
	case ComputeInputKindTrim:
		subject, sweeps, err = s.trimmed(ctx, in.RevisionId, setup.Ground, me)
	case ComputeInputKindDiagnose:
		doubt, sweeps, err = s.doubted(ctx, in.RevisionId, in.Band, setup, me)
	case ComputeInputKindMoved:
		if recipe, err = s.recipeOf(ctx, in.DeploymentId); err == nil {
			sweeps = []string{recipe.ID, fmt.Sprint(recipe.Version)}
		}
	case ComputeInputKindForecast:
		if in.RevisionId != "" && in.Band != "" && !in.Coarse {
			beside, sweeps, err = s.besideOf(ctx, in.RevisionId, in.Band, me)
		}
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
		case ComputeInputKindMoved:
			was := twin.Setup{Built: recipe.Built, Ground: recipe.Ground, PowerW: setup.PowerW}
			return s.twin.Move(ctx, was, setup, me.Region, recipe.Dips, me.Imperial, done)
		case ComputeInputKindRefine:
			return s.twin.Refine(ctx, setup, done)
		case ComputeInputKindRadials:
			return s.twin.Radials(ctx, setup, metres, done)
		case ComputeInputKindCounterpoise:
			return s.twin.Counterpoise(ctx, setup, done)
		}
		f, err := s.twin.Forecast(ctx, setup, o, done)
		if err != nil || beside == nil {
			return f, err
		}
		return forecastBeside{f, beside(f)}, nil
	})
	s.jobs.wait(ctx, x, time.Duration(in.WaitMs)*time.Millisecond)
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

// forecastBeside is a forecast with how what was measured differs from it.
type forecastBeside struct {
	forecast twin.Forecast
	says     string
}

// besideOf is the newest sweep of a revision in a band, to be read against a forecast of it at the same end of the
// coax. Without a sweep there is nothing to say.
func (s *Server) besideOf(ctx context.Context, revision, name string, me store.Me) (func(twin.Forecast) string, []string, error) {
	b, ok := band.Named(me.Region, name)
	if !ok {
		return nil, nil, invalid("band", fmt.Sprintf("%q is not a band", name))
	}
	_, all, err := s.sweptWith(ctx, revision)
	if err != nil {
		return nil, nil, err
	}
	here, readings := inBand(all, me, b)
	for i, m := range here {
		if m.revision.ID != revision {
			continue
		}
		return func(f twin.Forecast) string {
			if len(f.Bands) != 1 {
				return ""
			}
			c := f.Bands[0]
			computed := sweep.Reading{MinAt: c.BestF, MinSWR: c.BestSWR}
			if m.cable == "" {
				computed = sweep.Reading{MinAt: c.FeedBestF, MinSWR: c.FeedBest}
			}
			n := len(c.Curve)
			computed.AtEdge = n > 0 && (computed.MinAt == c.Curve[0].F || computed.MinAt == c.Curve[n-1].F)
			return sweep.Beside(readings[i], computed, sweep.Of(m.revision.Built, me.Imperial))
		}, []string{m.sweep.ID}, nil
	}
	return nil, nil, nil
}

// computation is the state of a job on the wire.
func (s *Server) computation(x *job) (Computation, error) {
	at := s.jobs.state(x)
	out := Computation{Id: x.id, State: Running, Step: at.step, Of: at.of, Waits: !at.begun}
	if !at.done {
		return out, nil
	}
	err := at.err
	switch {
	case errors.Is(err, context.Canceled):
		out.State = Stopped
	case err != nil:
		out.State, out.Error = Failed, err.Error()
	default:
		out.State = Done
	}
	switch v := at.result.(type) {
	case twin.Forecast:
		out.Forecast = &v
	case forecastBeside:
		out.Forecast, out.Beside = &v.forecast, v.says
	case twin.Moved:
		out.Moved = &v
	case twin.Refined:
		out.Refined = &v
	case twin.Answer:
		out.Answer = &v
	case trim.Trim:
		out.Trim = &v
	case diagnose.Diagnosis:
		out.Diagnosis = &v
	case trim.Learned:
		out.Learned = &v
	case standin.Played:
		out.Played = &v
	case FileInput:
		out.File = &v
	}
	if err != nil {
		return Computation{Id: out.Id, State: out.State, Step: at.step, Of: at.of, Error: out.Error}, nil
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
	s.jobs.wait(ctx, x, time.Duration(r.Params.WaitMs)*time.Millisecond)
	out, err := s.computation(x)
	return GetComputation200JSONResponse(out), err
}

// StopComputation stops a computation.
func (s *Server) StopComputation(_ context.Context, r StopComputationRequestObject) (StopComputationResponseObject, error) {
	s.jobs.remove(r.Id)
	return StopComputation204Response{}, nil
}
