package server

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/marks"
	"reed/core/onair"
	"reed/core/quantity"
	"reed/internal/store"
)

// standing is a deployment as it stands: its newest revision, or its plan, and where.
func (s *Server) standing(ctx context.Context, id string) (d deployment.Deployment, shape antenna.Shape, now marks.Today, date string,
	err error) {
	if d, err = s.store.Deployment(ctx, id); err != nil {
		return
	}
	revisions, err := s.store.Revisions(ctx, id)
	if err != nil {
		return
	}
	o, err := s.store.Outing(ctx, d.OutingID)
	if err != nil {
		return
	}
	now.Place, shape = o.Name, family.Design(d.Plan).Shape
	if n := len(revisions); n > 0 {
		now.Built = revisions[n-1].Built
		shape = now.Built.Shape
	}
	now.Ground = d.GroundAt(now.Built, o.Ground)
	return d, shape, now, o.Date, nil
}

// GetMarks lists the sets of marks that fit an antenna, and what each says for a frequency.
func (s *Server) GetMarks(ctx context.Context, r GetMarksRequestObject) (GetMarksResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	d, shape, now, _, err := s.standing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	hz := d.Plan.FrequencyHz
	if r.Params.For != "" {
		x, err := quantity.ParseFrequency(r.Params.For, "MHz")
		if err != nil {
			return nil, invalid("for", err.Error())
		}
		hz = x.Value
	} else if b, ok := band.Named(me.Region, r.Params.Band); ok {
		hz = band.Usual(me.Segments, b, onair.UseOf(r.Params.Mode))
	}
	sets, err := s.store.MarksFor(ctx, shape.Family)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(sets, func(a, b marks.Set) int {
		switch {
		case a.DeploymentID == r.Id && b.DeploymentID != r.Id:
			return -1
		case b.DeploymentID == r.Id && a.DeploymentID != r.Id:
			return 1
		}
		return 0
	})
	power := me.PowerW
	if now.Built.PowerW > 0 {
		power = now.Built.PowerW
	}
	out := GetMarks200JSONResponse{Hz: hz, Mhz: quantity.MHz(hz), Fields: marks.Fields(shape, me.Units), Controls: []MarkValue{},
		Guide: marks.Guide(shape, power), Sets: []MarksSet{}}
	for _, c := range family.Of(shape).Controls() {
		out.Controls = append(out.Controls, MarkValue{ID: c.ID, Label: c.Label, Edge: c.Edge})
	}
	for _, x := range sets {
		edges := x.Edges
		if edges == nil {
			edges = map[string]string{}
		}
		out.Sets = append(out.Sets, MarksSet{Id: x.ID, Name: x.Name, Version: x.Version, Edges: edges, BegunHere: x.DeploymentID == r.Id,
			Card: x.Card(shape, d.Plan.All(), now, me.Region, me.Units), Setting: x.For(hz, shape, now, me.Region, me.Units),
			Faults: notNil(x.Check(me.Region, shape, me.Units))})
	}
	all, err := s.curves(ctx, r.Id, me.Units)
	out.Seen = seen(all, me)
	return out, err
}

// seen returns marks read from the sweeps of the newest revision, the newest first, each once.
func seen(all []measured, me store.Me) []MarkSeen {
	out := []MarkSeen{}
	for i := len(all) - 1; i >= 0 && all[i].revision.ID == all[len(all)-1].revision.ID; i-- {
		m := all[i]
		for _, x := range marks.FromSweep(m.sweep.Curve, m.curve, m.revision.Built.Shape, me.Region, me.Units) {
			if !slices.ContainsFunc(out, func(y MarkSeen) bool { return y.Says == x.Says }) {
				out = append(out, x)
			}
		}
	}
	return out
}

// PutMarks stores a set of marks as typed.
func (s *Server) PutMarks(ctx context.Context, r PutMarksRequestObject) (PutMarksResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	d, shape, now, date, err := s.standing(ctx, r.Body.DeploymentId)
	if err != nil {
		return nil, err
	}
	set, err := s.store.MarksSet(ctx, r.Id)
	switch {
	case errors.Is(err, store.ErrNotFound):
		set = marks.Set{ID: r.Id, Family: shape.Family, DeploymentID: d.ID}
	case err != nil:
		return nil, err
	}
	set.Name, set.Edges, set.Deleted = r.Body.Name, r.Body.Edges, false
	set, faults := set.Read(r.Body.Marks, shape, marks.Held{Built: now.Built, Place: now.Place, Ground: now.Ground, Date: date},
		string(r.Body.Unit))
	if len(faults) == 0 {
		faults = set.Check(me.Region, shape, me.Units)
	}
	if err := faulty(me.Units, "", faults); err != nil {
		return nil, err
	}
	set, err = s.store.PutMarks(ctx, set, r.Params.Version)
	var other *store.Conflict
	if errors.As(err, &other) {
		return nil, marksAsTyped(other, shape, me.Units)
	}
	return PutMarks200JSONResponse{Version: set.Version}, err
}

// marksAsTyped shows the marks that stand in the way of a write as their form has them.
func marksAsTyped(c *store.Conflict, shape antenna.Shape, units quantity.System) error {
	return conflictIn(c, func(doc []byte) (map[string]any, error) {
		var set marks.Set
		if err := json.Unmarshal(doc, &set); err != nil {
			return nil, err
		}
		return generic(map[string]any{"name": set.Name, "edges": set.Edges, "marks": set.Typed(shape, units)})
	})
}
