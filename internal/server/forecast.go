package server

import (
	"context"
	"fmt"

	"reed/core/band"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/internal/store"
)

// ComputeForecast predicts what an antenna does on its bands.
func (s *Server) ComputeForecast(ctx context.Context, r ComputeForecastRequestObject) (ComputeForecastResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	setup, err := s.setup(ctx, ModelQuestion{Plan: q.Plan, Built: q.Built, RevisionId: q.RevisionId, OutingId: q.OutingId, Ground: q.Ground})
	if err != nil {
		return nil, err
	}
	o := twin.Options{Region: me.Region, Band: q.Band, Segments: me.Segments, Coarse: q.Coarse}
	var swept *newest
	if q.RevisionId != "" && q.Band != "" {
		if swept, err = s.newestOf(ctx, q.RevisionId, q.Band, me); err != nil {
			return nil, err
		}
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{setup, o, swept.id(), me.GoodSWR},
		func(ctx context.Context, done func(step, of int)) (ForecastAnswer, error) {
			f, err := s.twin.Forecast(ctx, setup, o, done)
			out := ForecastAnswer{Forecast: f}
			if err != nil || len(f.Bands) != 1 {
				return out, err
			}
			out.Shown = f.Bands[0].Shown(setup, swept.radio())
			if swept != nil && !q.Coarse {
				out.Beside = swept.beside(f.Bands[0], me.Units)
			}
			return out, nil
		})
	return ComputeForecast200JSONResponse(out), err
}

// ComputeLengths finds the lengths of a plan by solving it.
func (s *Server) ComputeLengths(ctx context.Context, r ComputeLengthsRequestObject) (ComputeLengthsResponseObject, error) {
	q := *r.Body
	setup, err := s.setup(ctx, q)
	if err != nil {
		return nil, err
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"lengths", setup},
		func(ctx context.Context, done func(step, of int)) (twin.Refined, error) {
			return s.twin.Refine(ctx, setup, done)
		})
	return ComputeLengths200JSONResponse(out), err
}

// ComputeRadials answers how so much radial wire is best cut.
func (s *Server) ComputeRadials(ctx context.Context, r ComputeRadialsRequestObject) (ComputeRadialsResponseObject, error) {
	q := *r.Body
	setup, err := s.setup(ctx, ModelQuestion{Plan: q.Plan, Built: q.Built, RevisionId: q.RevisionId, OutingId: q.OutingId, Ground: q.Ground})
	if err != nil {
		return nil, err
	}
	metres := 0.0
	if q.Metres != "" {
		l, err := quantity.Typed(q.Metres, setup.Units.Unit())
		if err != nil {
			return nil, invalid("metres", err.Error())
		}
		metres = l.M
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"radials", setup, metres},
		func(ctx context.Context, done func(step, of int)) (twin.Answer, error) {
			return s.twin.Radials(ctx, setup, metres, done)
		})
	return ComputeRadials200JSONResponse(out), err
}

// ComputeCounterpoise answers how long counterpoise and coax should be, and where the choke goes.
func (s *Server) ComputeCounterpoise(ctx context.Context, r ComputeCounterpoiseRequestObject) (ComputeCounterpoiseResponseObject, error) {
	q := *r.Body
	setup, err := s.setup(ctx, q)
	if err != nil {
		return nil, err
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"counterpoise", setup},
		func(ctx context.Context, done func(step, of int)) (twin.Answer, error) {
			return s.twin.Counterpoise(ctx, setup, done)
		})
	return ComputeCounterpoise200JSONResponse(out), err
}

// newest is the newest sweep of a revision in a band, and what it says.
type newest struct {
	measured
	reading sweep.Reading
}

// newestOf finds the newest sweep of a revision in a band; without one there is none.
func (s *Server) newestOf(ctx context.Context, revision, name string, me store.Me) (*newest, error) {
	b, ok := band.Named(me.Region, name)
	if !ok {
		return nil, invalid("band", fmt.Sprintf("%q is not a band", name))
	}
	_, all, err := s.sweptWith(ctx, revision)
	if err != nil {
		return nil, err
	}
	here, readings := inBand(all, me, b)
	for i := len(here) - 1; i >= 0; i-- {
		if here[i].revision.ID == revision {
			return &newest{here[i], readings[i]}, nil
		}
	}
	return nil, nil
}

// id is that of the sweep, and nothing without one.
func (n *newest) id() string {
	if n == nil {
		return ""
	}
	return n.sweep.ID
}

// radio says whether it was taken through the cable.
func (n *newest) radio() bool { return n != nil && n.cable != "" }

// beside reads it against what is computed at the same end of the coax.
func (n *newest) beside(c twin.Band, units quantity.System) string {
	computed := sweep.Reading{MinAt: c.BestF, MinSWR: c.BestSWR}
	if !n.radio() {
		computed = sweep.Reading{MinAt: c.FeedBestF, MinSWR: c.FeedBest}
	}
	last := len(c.Curve) - 1
	computed.AtEdge = last >= 0 && (computed.MinAt == c.Curve[0].F || computed.MinAt == c.Curve[last].F)
	return sweep.Beside(n.reading, computed, sweep.Of(n.revision.Built, c.F))
}
