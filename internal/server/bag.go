package server

import (
	"context"
	"encoding/json"
	"errors"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/bench"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/kit"
	"reed/core/quantity"
	"reed/core/trim"
	"reed/internal/exchange"
	"reed/internal/store"
)

// Bench answers one calculation. Its faults are part of the answer, so that the form can show them.
func (s *Server) Bench(_ context.Context, r BenchRequestObject) (BenchResponseObject, error) {
	return Bench200JSONResponse(bench.Work(r.Body.Tool, r.Body.Texts, string(r.Body.Unit))), nil
}

func (s *Server) bag(ctx context.Context) (map[string]kit.Part, error) {
	list, err := s.store.Bag(ctx)
	if err != nil {
		return nil, err
	}
	out := make(map[string]kit.Part, len(list))
	for _, p := range list {
		out[p.ID] = p
	}
	return out, nil
}

func (s *Server) thing(ctx context.Context, p kit.Part, units quantity.System) (BagThing, error) {
	uses, err := s.store.Uses(ctx, p.ID)
	return BagThing{Part: p, Texts: p.Texts(units), About: notNil(p.About(units)), Grams: p.Grams(), Uses: uses}, err
}

// GetBag lists what is in the bag.
func (s *Server) GetBag(ctx context.Context, _ GetBagRequestObject) (GetBagResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Bag(ctx)
	if err != nil {
		return nil, err
	}
	out := GetBag200JSONResponse{Sentence: kit.Sum(list), Things: []BagThing{}}
	for _, p := range list {
		t, err := s.thing(ctx, p, me.Units)
		if err != nil {
			return nil, err
		}
		out.Things = append(out.Things, t)
	}
	return out, nil
}

// GetPart reads one thing with its history.
func (s *Server) GetPart(ctx context.Context, r GetPartRequestObject) (GetPartResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	p, err := s.store.Part(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	t, err := s.thing(ctx, p, me.Units)
	return GetPart200JSONResponse(t), err
}

// PutPart stores a thing from its typed texts. What nothing asks for, as from a file, stays with it.
func (s *Server) PutPart(ctx context.Context, r PutPartRequestObject) (PutPartResponseObject, error) {
	p, faults := kit.Read(r.Body.Kind, r.Body.Name, r.Body.Texts, string(r.Body.Unit))
	if err := faulty(quantity.In(string(r.Body.Unit)), "", faults); err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	p.ID = r.Id
	was, err := s.store.Part(ctx, r.Id)
	switch {
	case err == nil:
		p = p.Keep(was)
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	p.Deleted = false
	p, err = s.store.PutPart(ctx, p, r.Params.Version)
	if err != nil {
		return nil, partAsTyped(err, me.Units)
	}
	t, err := s.thing(ctx, p, me.Units)
	return PutPart200JSONResponse(t), err
}

// partAsTyped shows a thing that stands in the way of a write as its form has it.
func partAsTyped(err error, units quantity.System) error {
	var other *store.Conflict
	if !errors.As(err, &other) {
		return err
	}
	return conflictIn(other, func(doc []byte) (map[string]any, error) {
		var p kit.Part
		if err := json.Unmarshal(doc, &p); err != nil {
			return nil, err
		}
		return generic(map[string]any{"kind": p.Kind, "name": p.Name, "texts": p.Texts(units)})
	})
}

// ExportBag writes the bag as CSV.
func (s *Server) ExportBag(ctx context.Context, _ ExportBagRequestObject) (ExportBagResponseObject, error) {
	list, err := s.store.Bag(ctx)
	if err != nil {
		return nil, err
	}
	text, err := exchange.WriteBag(list)
	return ExportBag200TextResponse(text), err
}

func (s *Server) readBag(ctx context.Context, f BagFile) (exchange.BagPreview, error) {
	have, err := s.bag(ctx)
	if err != nil {
		return exchange.BagPreview{}, err
	}
	p, err := exchange.ReadBag(ctx, f.Content, string(f.Unit), have)
	if err != nil {
		return p, invalid("content", err.Error())
	}
	return p, nil
}

// PreviewBag says what an import would do.
func (s *Server) PreviewBag(ctx context.Context, r PreviewBagRequestObject) (PreviewBagResponseObject, error) {
	p, err := s.readBag(ctx, *r.Body)
	return PreviewBag200JSONResponse(p), err
}

// ImportBag stores the things of a file.
func (s *Server) ImportBag(ctx context.Context, r ImportBagRequestObject) (ImportBagResponseObject, error) {
	p, err := s.readBag(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	have, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	var list []kit.Part
	out := ImportBag200JSONResponse{}
	for _, row := range p.Rows {
		switch {
		case !row.Taken:
			out.Refused++
		case row.Known && !row.Changes:
			out.Known++
		default:
			if was, ok := have[row.Part.ID]; ok {
				row.Part.Version = was.Version
			}
			list = append(list, row.Part)
		}
	}
	out.Added = len(list)
	_, err = s.store.PutParts(ctx, list)
	return out, err
}

// planned is a plan's request with its texts, parts and the operator's customs read in.
func (s *Server) planned(ctx context.Context, f antenna.Form) (antenna.Request, []antenna.Fault, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return f.Record, nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return f.Record, nil, err
	}
	if f.Record.PowerW == 0 {
		f.Record.PowerW = me.PowerW
	}
	f.Record.Units = me.Units
	f, gone := kit.Apply(f, bag)
	r, unread := family.Read(f)
	return r, entry.In(me.Units, append(gone, unread...)), nil
}

// GetCutLists lays the plans of an outing side by side.
func (s *Server) GetCutLists(ctx context.Context, r GetCutListsRequestObject) (GetCutListsResponseObject, error) {
	list, err := s.store.Deployments(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	columns, sentence := deployment.CutLists(list, bag, me.Units)
	return GetCutLists200JSONResponse{Columns: notNil(columns), Sentence: sentence}, nil
}

// mostLearned is from how many antennas a wire is learned, the newest first.
const mostLearned = 8

// ComputeVelocity answers the velocity factor of a wire by its sweeps.
func (s *Server) ComputeVelocity(ctx context.Context, r ComputeVelocityRequestObject) (ComputeVelocityResponseObject, error) {
	in := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	p, err := s.store.Part(ctx, in.PartId)
	if err != nil {
		return nil, err
	}
	if p.Kind != "wire" {
		return nil, invalid("part_id", "only a wire has a velocity factor to learn")
	}
	uses, err := s.store.Uses(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	var used []trim.Used
	for _, u := range uses {
		if !u.Built || len(used) == mostLearned {
			continue
		}
		all, err := s.curves(ctx, u.DeploymentID, quantity.SI)
		if err != nil {
			return nil, err
		}
		d, err := s.store.Deployment(ctx, u.DeploymentID)
		if err != nil {
			return nil, err
		}
		o, err := s.store.Outing(ctx, u.OutingID)
		if err != nil {
			return nil, err
		}
		// The newest revision with this wire and a dip in the band that it was cut for.
		here, readings := inBand(all, me, band.Nearest(me.Region, d.Plan.FrequencyHz))
		for i := len(here) - 1; i >= 0; i-- {
			b := here[i].revision.Built
			if b.Parts["wire"] != p.ID || !readings[i].Clear() {
				continue
			}
			used = append(used, trim.Used{Name: u.Deployment, Built: b, Ground: d.GroundAt(b, o.Ground), Dip: readings[i].MinAt})
			break
		}
	}
	out, err := answer(ctx, s, asks{in.Id, in.Slot, in.WaitMs}, nil, func(ctx context.Context, done func(step, of int)) (trim.Learned, error) {
		return trim.Learn(ctx, &s.twin, p.Wire(), used, done)
	})
	return ComputeVelocity200JSONResponse(out), err
}
