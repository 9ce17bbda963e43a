package server

import (
	"cmp"
	"context"
	"slices"

	"reed/core/onair"
	"reed/core/weigh"
)

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
		names, _, _ := weigh.Lettered(run, antennas)
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
			all = slices.DeleteFunc(all, func(o occasion) bool { return !o.both || o.run.Listen })
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

// station is the station that others heard most while each of two things was sent, and what the air says of each of the two against it. It
// is one alone: those of several lean on the same reports of the two, and would not be as sure as they seem.
func (s *Server) station(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (heard, drawn []weigh.Bridge, err error) {
	type sent struct {
		occasion
		all weigh.Reports
	}
	var runs [2][]sent
	var count [2]map[string]int
	for i, t := range of {
		count[i] = map[string]int{}
		all, err := s.occasions(ctx, [2]thing{t, t}, [2]string{names[i], names[i]})
		if err != nil {
			return nil, nil, err
		}
		for _, o := range all {
			if o.run.Listen {
				continue
			}
			from, until := stretch(o.run)
			list, err := s.store.Air(ctx, o.run.OutingID, from, until)
			if err != nil {
				return nil, nil, err
			}
			found := list.Stations()
			for name, n := range found {
				count[i][name] += n
			}
			if len(found) > 0 {
				runs[i] = append(runs[i], sent{o, list})
			}
		}
	}
	var both []string
	for name := range count[0] {
		if count[1][name] > 0 {
			both = append(both, name)
		}
	}
	if len(both) == 0 {
		return nil, nil, nil
	}
	few := func(name string) int { return min(count[0][name], count[1][name]) }
	name := slices.MinFunc(both, func(a, b string) int { return cmp.Or(few(b)-few(a), cmp.Compare(a, b)) })
	for simulated, to := range map[bool]*[]weigh.Bridge{false: &heard, true: &drawn} {
		b := weigh.Bridge{Reference: name, Station: true}
		f.ExcludeReal, f.ExcludeDrawn = simulated, !simulated
		for i, parts := range []*[]weigh.Verdict{&b.A, &b.B} {
			var pool weigh.Pool
			for _, x := range runs[i] {
				pool.Add(x.run, x.names, x.all, f)
				pool.Beside(x.run, name, x.all, f)
			}
			if pool.Heard() {
				*parts = pool.Evidence(names[i], name).Parts
			}
		}
		*to = append(*to, b)
	}
	return heard, drawn, nil
}

// byReference compares two things that never took turns, through a reference.
func (s *Server) byReference(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (out []weigh.Evidence, err error) {
	for _, bridges := range []func(context.Context, [2]thing, [2]string, weigh.Filter) (heard, drawn []weigh.Bridge, err error){
		s.bridges, s.station} {
		heard, drawn, err := bridges(ctx, of, names, f)
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
	}
	return out, nil
}
