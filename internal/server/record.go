package server

import (
	"context"
	"fmt"
	"slices"

	"reed/core/onair"
	"reed/core/weigh"
	"reed/internal/store"
)

// turns returns the results of runs on antennas, each against the first of its run; simulated ones by themselves.
func (s *Server) turns(ctx context.Context, runs []onair.Run, antennas []weigh.Group) (out []weigh.Turns, err error) {
	called := map[string]string{}
	for _, g := range antennas {
		called[g.Key] = g.Name
	}
	for _, run := range runs {
		names, keys, site := weigh.Lettered(run, antennas)
		if len(keys) < 2 || len(run.Slots) == 0 {
			continue
		}
		var pools [2]weigh.Pool
		if err := s.intoPools(ctx, &pools, run, names, weigh.Filter{}); err != nil {
			return nil, err
		}
		for i := range pools {
			if pools[i].Heard() {
				out = append(out, weigh.Turns{RunID: run.ID, OutingID: run.OutingID, Site: site, Simulated: i == 1,
					Verdicts: pools[i].Bands(keys[0], keys[1:], called)})
			}
		}
	}
	return out, nil
}

// GetRecord says which antenna is the best, by band and kind of site, over all outings.
func (s *Server) GetRecord(ctx context.Context, _ GetRecordRequestObject) (GetRecordResponseObject, error) {
	groups, antennas, err := s.groups(ctx)
	if err != nil {
		return nil, err
	}
	stints, err := s.store.Stints(ctx)
	if err != nil {
		return nil, err
	}
	runs, err := s.store.AllRuns(ctx)
	if err != nil {
		return nil, err
	}
	turns, err := s.turns(ctx, runs, antennas)
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
	_, antennas, err := s.groups(ctx)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(antennas, func(g weigh.Group) bool { return g.Holds(r.Id) })
	if at < 0 {
		return nil, fmt.Errorf("an antenna %s that was put up: %w", r.Id, store.ErrNotFound)
	}
	stints, err := s.store.Stints(ctx)
	if err != nil {
		return nil, err
	}
	runs, err := s.store.RunsWith(ctx, thing{group: antennas[at].ID(), Group: antennas[at]}.deployments()...)
	if err != nil {
		return nil, err
	}
	turns, err := s.turns(ctx, runs, antennas)
	if err != nil {
		return nil, err
	}
	past := weigh.History(antennas[at], antennas, stints, turns)
	return GetHistory200JSONResponse{Antenna: groupInfos(antennas[at : at+1])[0], Past: past}, nil
}
