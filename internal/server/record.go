package server

import (
	"context"
	"fmt"
	"slices"

	"reed/core/onair"
	"reed/core/weigh"
	"reed/internal/store"
)

// turns are what the runs of all outings say of antennas, each against the first of its run: what was simulated for itself.
func (s *Server) turns(ctx context.Context, antennas []weigh.Group) (out []weigh.Turns, err error) {
	runs, err := s.store.AllRuns(ctx)
	if err != nil {
		return nil, err
	}
	of, site, called := map[string]string{}, map[string]string{}, map[string]string{}
	for _, g := range antennas {
		called[g.Key] = g.Name
		for _, m := range g.Members {
			of[m.ID], site[m.ID] = g.Key, m.Site
		}
	}
	for _, run := range runs {
		var keys []string
		names := map[string]string{}
		at := weigh.Turns{RunID: run.ID, OutingID: run.OutingID}
		for _, x := range run.Aerials {
			key, ok := of[x.DeploymentID]
			if !ok || slices.Contains(keys, key) && x.Revision > 0 {
				continue // revisions of one antenna are no two antennas
			}
			if names[x.Letter] = key; !slices.Contains(keys, key) {
				keys = append(keys, key)
			}
			at.Site = site[x.DeploymentID]
		}
		if len(keys) < 2 || len(run.Slots) == 0 {
			continue
		}
		var pools [2]weigh.Pool
		if err := s.intoPools(ctx, &pools, run, names, weigh.Filter{}); err != nil {
			return nil, err
		}
		for i := range pools {
			if at.Simulated = i == 1; pools[i].Heard() {
				at.Verdicts = pools[i].Bands(keys[0], keys[1:], called)
				out = append(out, at)
			}
		}
	}
	return out, nil
}

// intoPools adds what was heard of a run really, and what was simulated.
func (s *Server) intoPools(ctx context.Context, pools *[2]weigh.Pool, run onair.Run, names map[string]string, f weigh.Filter) error {
	from, until := stretch(run)
	heard, err := s.store.Air(ctx, run.OutingID, from, until)
	if err != nil {
		return err
	}
	drawn := slices.ContainsFunc(heard, func(h weigh.Heard) bool { return h.Simulated })
	f.ExcludeDrawn, f.ExcludeReal = true, false
	pools[0].Add(run, names, heard, f)
	if f.ExcludeDrawn, f.ExcludeReal = false, true; drawn {
		pools[1].Add(run, names, heard, f)
	}
	return nil
}

// mostOfDays is from how many reports, the newest first, it is learned how days differ: a million of them take longer than the answer.
const mostOfDays = 200_000

// days are how days differ by the runs of all outings, the newest first: really, and by what was simulated.
func (s *Server) days(ctx context.Context) (heard, drawn weigh.Days, err error) {
	_, antennas, err := s.groups(ctx)
	if err != nil {
		return heard, drawn, err
	}
	runs, err := s.store.AllRuns(ctx)
	if err != nil {
		return heard, drawn, err
	}
	var pools [2]weigh.Pool
	for _, run := range slices.Backward(runs) {
		names := map[string]string{}
		for _, x := range run.Aerials {
			for _, g := range antennas {
				if g.Holds(x.DeploymentID) {
					names[x.Letter] = g.Key
				}
			}
		}
		if len(run.Slots) == 0 {
			continue
		}
		if err := s.intoPools(ctx, &pools, run, names, weigh.Filter{}); err != nil {
			return heard, drawn, err
		}
		if pools[0].Reports()+pools[1].Reports() > mostOfDays {
			break
		}
	}
	return pools[0].Days(), pools[1].Days(), nil
}

// bridges are the antennas that took turns with each of two things on other occasions, and what the air says of each of the two against
// them.
func (s *Server) bridges(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (heard, drawn []weigh.Bridge, err error) {
	_, antennas, err := s.groups(ctx)
	if err != nil {
		return nil, nil, err
	}
	var near [2]map[string]bool
	for i, t := range of {
		near[i] = map[string]bool{}
		runs, err := s.store.RunsWith(ctx, t.deployments()...)
		if err != nil {
			return nil, nil, err
		}
		for _, run := range runs {
			for _, x := range run.Aerials {
				near[i][x.DeploymentID] = true
			}
		}
	}
	for _, g := range antennas {
		reaches := func(i int) bool {
			return slices.ContainsFunc(g.Members, func(m weigh.SetUp) bool { return near[i][m.ID] })
		}
		own := slices.ContainsFunc(append(of[0].deployments(), of[1].deployments()...), g.Holds)
		if own || !reaches(0) || !reaches(1) {
			continue
		}
		third := thing{id: g.Members[0].ID, group: g.ID(), Group: g}
		var found [2][2][]weigh.Verdict // of each side, real and simulated
		for i, t := range of {
			all, err := s.occasions(ctx, [2]thing{t, third}, [2]string{names[i], g.Name})
			if err != nil {
				return nil, nil, err
			}
			all = slices.DeleteFunc(all, func(o occasion) bool { return !o.both })
			list, err := s.airOf(ctx, all, [2]string{names[i], g.Name}, f, func(onair.Run) bool { return true })
			if err != nil {
				return nil, nil, err
			}
			for _, e := range list {
				at := 0
				if e.Simulated {
					at = 1
				}
				found[i][at] = append(found[i][at], e.Parts...)
			}
		}
		heard = append(heard, weigh.Bridge{Reference: g.Name, A: found[0][0], B: found[1][0]})
		drawn = append(drawn, weigh.Bridge{Reference: g.Name, A: found[0][1], B: found[1][1]})
	}
	return heard, drawn, nil
}

// byReference is what a reference says of two things that never took turns.
func (s *Server) byReference(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (out []weigh.Evidence, err error) {
	heard, drawn, err := s.bridges(ctx, of, names, f)
	if err != nil {
		return nil, err
	}
	if e, ok := weigh.ByReference(names[0], names[1], heard); ok {
		out = append(out, e)
	}
	if e, ok := weigh.ByReference(names[0], names[1], drawn); ok {
		e.Simulated = true
		e.Kind += ", simulated"
		out = append(out, e)
	}
	return out, nil
}

// record gathers what antennas did over all outings.
func (s *Server) record(ctx context.Context) (groups, antennas []weigh.Group, stints []weigh.Stint, turns []weigh.Turns, err error) {
	if groups, antennas, err = s.groups(ctx); err != nil {
		return nil, nil, nil, nil, err
	}
	if stints, err = s.store.Stints(ctx); err != nil {
		return nil, nil, nil, nil, err
	}
	turns, err = s.turns(ctx, antennas)
	return groups, antennas, stints, turns, err
}

// GetRecord says which antenna is the best, by band and kind of site, over all outings.
func (s *Server) GetRecord(ctx context.Context, _ GetRecordRequestObject) (GetRecordResponseObject, error) {
	groups, antennas, stints, turns, err := s.record(ctx)
	if err != nil {
		return nil, err
	}
	out := GetRecord200JSONResponse{Groups: groupInfos(groups), Antennas: groupInfos(antennas), Ranks: notNil(weigh.Ranks(antennas, stints,
		turns))}
	out.First = weigh.First(out.Ranks)
	return out, nil
}

// ListGroups lists what several set-ups can be weighed as.
func (s *Server) ListGroups(ctx context.Context, _ ListGroupsRequestObject) (ListGroupsResponseObject, error) {
	groups, _, err := s.groups(ctx)
	return ListGroups200JSONResponse(groupInfos(groups)), err
}

func groupInfos(of []weigh.Group) []GroupInfo {
	out := []GroupInfo{}
	for _, g := range of {
		out = append(out, GroupInfo{Id: g.ID(), Kind: GroupInfoKind(g.Kind), Key: g.Key, Name: g.Name, SetUps: g.SetUps, Outings: g.Outings})
	}
	return out
}

// GetHistory tells what an antenna did at each outing.
func (s *Server) GetHistory(ctx context.Context, r GetHistoryRequestObject) (GetHistoryResponseObject, error) {
	_, antennas, stints, turns, err := s.record(ctx)
	if err != nil {
		return nil, err
	}
	g, past, ok := weigh.History(r.Id, antennas, stints, turns)
	if !ok {
		return nil, fmt.Errorf("an antenna %s that was put up: %w", r.Id, store.ErrNotFound)
	}
	return GetHistory200JSONResponse{Antenna: groupInfos([]weigh.Group{g})[0], Past: past}, nil
}
