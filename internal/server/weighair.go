package server

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/twin"
	"reed/core/weigh"
	"reed/internal/exchange"
	"reed/internal/store"
)

// thing is one side of a comparison: a deployment, one of its revisions by its number, or a group of set-ups by its kind and key.
type thing struct {
	id    string // of the deployment; of a group its newest
	seq   int
	group string // as ID of a group
	weigh.Group
}

// holds says that what sent as a revision of a deployment is of the thing.
func (t thing) holds(id string, seq int) bool {
	if t.group != "" {
		return t.Holds(id)
	}
	return id == t.id && (t.seq == 0 || t.seq == seq)
}

// deployments are those of the thing.
func (t thing) deployments() (ids []string) {
	if t.group == "" {
		return []string{t.id}
	}
	for _, s := range t.Members {
		ids = append(ids, s.ID)
	}
	return ids
}

// groups are all that set-ups can be weighed as, and the antennas that they are.
func (s *Server) groups(ctx context.Context) (groups, antennas []weigh.Group, err error) {
	setUps, recipes, err := s.store.SetUps(ctx)
	label := func(id string) string {
		f, _ := family.Named(id)
		return cmp.Or(f.Name, id)
	}
	groups, antennas = weigh.Groups(setUps, recipes, label)
	return groups, antennas, err
}

// thingOf reads what is weighed.
func (s *Server) thingOf(ctx context.Context, path, text string) (t thing, err error) {
	kind, key, of := strings.Cut(text, ":")
	if !of {
		id, seq, of := strings.Cut(text, "@")
		if t.id = id; of {
			if t.seq, err = strconv.Atoi(seq); err != nil || t.seq < 1 {
				return t, invalid(path, fmt.Sprintf("%q names no revision; write ID@2", text))
			}
		}
		return t, nil
	}
	groups, antennas, err := s.groups(ctx)
	if err != nil {
		return t, err
	}
	for _, g := range append(groups, antennas...) {
		if g.Kind == kind && (g.Key == key || kind == weigh.AnAntenna && g.Holds(key)) {
			return thing{id: g.Members[len(g.Members)-1].ID, group: g.ID(), Group: g}, nil
		}
	}
	return t, invalid(path, fmt.Sprintf("%q is not a known antenna, recipe or family; write antenna:, recipe: or family: and its key", text))
}

// pairOf returns two different things to compare.
func (s *Server) pairOf(ctx context.Context, a, b string) (of [2]thing, err error) {
	if of[0], err = s.thingOf(ctx, "a", a); err != nil {
		return of, err
	}
	if of[1], err = s.thingOf(ctx, "b", b); err != nil {
		return of, err
	}
	x, y := of[0], of[1]
	switch {
	case x.group == "" && y.group == "":
		if x.id == y.id && (x.seq == y.seq || x.seq == 0 || y.seq == 0) {
			return of, invalid("b", "these are the same deployment; choose another, or a revision of each")
		}
		return of, nil
	}
	for _, id := range x.deployments() {
		if slices.Contains(y.deployments(), id) {
			return of, invalid("b", "a set-up belongs to both of these; choose two that share none")
		}
	}
	return of, nil
}

// revisionAt is the revision that stood at a time, the first before any.
func revisionAt(all []deployment.Revision, at time.Time) int {
	seq := 0
	for i, r := range all {
		if i == 0 || !r.At.After(at) {
			seq = r.Seq
		}
	}
	return seq
}

// occasion is a run with what of it is compared: its antennas by letter.
type occasion struct {
	run   onair.Run
	names map[string]string
	both  bool
}

// occasions are the runs in which either of two things sent.
func (s *Server) occasions(ctx context.Context, of [2]thing, names [2]string) (out []occasion, err error) {
	runs, err := s.store.RunsWith(ctx, append(of[0].deployments(), of[1].deployments()...)...)
	if err != nil {
		return nil, err
	}
	revisions := map[string][]deployment.Revision{}
	for _, t := range of {
		if t.seq > 0 {
			if revisions[t.id], err = s.store.Revisions(ctx, t.id); err != nil {
				return nil, err
			}
		}
	}
	for _, run := range runs {
		o := occasion{run: run, names: map[string]string{}}
		var seen [2]bool
		for _, x := range run.Aerials {
			seq := x.Revision
			if seq == 0 {
				seq = revisionAt(revisions[x.DeploymentID], run.Begin)
			}
			for i, t := range of {
				if t.holds(x.DeploymentID, seq) {
					o.names[x.Letter], seen[i] = names[i], true
				}
			}
		}
		if o.both = seen[0] && seen[1]; len(o.names) > 0 && len(run.Slots) > 0 {
			out = append(out, o)
		}
	}
	return out, nil
}

// stretch is when the reports of a run may stand.
func stretch(run onair.Run) (from, until time.Time) {
	return run.Slots[0].At.Add(-run.Length()), run.Slots[len(run.Slots)-1].At.Add(2 * run.Length())
}

// intoPools adds what was heard of a run really, and what was simulated.
func (s *Server) intoPools(ctx context.Context, pools *[2]weigh.Pool, run onair.Run, names map[string]string, f weigh.Filter) error {
	from, until := stretch(run)
	heard, err := s.store.Air(ctx, run.OutingID, from, until)
	if err != nil {
		return err
	}
	drawn := slices.ContainsFunc(heard.Rows, func(h weigh.Brief) bool { return h.Is(weigh.Simulated) })
	f.ExcludeDrawn, f.ExcludeReal = true, false
	pools[0].Add(run, names, heard, f)
	if f.ExcludeDrawn, f.ExcludeReal = false, true; drawn {
		pools[1].Add(run, names, heard, f)
	}
	return nil
}

// air returns the on-air evidence on two things: transmission and reception.
func (s *Server) air(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (out []weigh.Evidence, err error) {
	all, err := s.occasions(ctx, of, names)
	if err != nil {
		return nil, err
	}
	for _, listen := range []bool{false, true} {
		list := slices.DeleteFunc(slices.Clone(all), func(o occasion) bool { return o.run.Listen != listen })
		some, err := s.turned(ctx, list, names, f)
		if err != nil {
			return nil, err
		}
		out = append(out, some...)
	}
	slices.SortStableFunc(out, func(a, b weigh.Evidence) int { return cmp.Compare(rank(a.Strength), rank(b.Strength)) })
	return out, nil
}

// sent returns the strongest evidence on transmission with two things.
func (s *Server) sent(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter) (e weigh.Evidence, ok bool, err error) {
	list, err := s.air(ctx, of, names, f)
	at := slices.IndexFunc(list, func(e weigh.Evidence) bool { return !e.Hearing })
	if at < 0 || err != nil {
		return e, false, err
	}
	return list[at], true, nil
}

// turned returns the results of occasions of one kind, simulated ones by themselves. Where the two never took turns, what was sent on
// other occasions is compared, which proves less.
func (s *Server) turned(ctx context.Context, all []occasion, names [2]string, f weigh.Filter) (out []weigh.Evidence, err error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	var calls []string
	for _, o := range all {
		if by := cmp.Or(o.run.Call, me.Call); !slices.Contains(calls, by) {
			calls = append(calls, by)
		}
	}
	if out, err = s.airOf(ctx, all, names, f, func(onair.Run) bool { return true }); err != nil || len(calls) < 2 {
		return out, err
	}
	// Of several operators all is pooled first, then each stands for itself.
	for i := range out {
		out[i].Kind += fmt.Sprintf(", of %d operators together", len(calls))
	}
	for _, call := range calls {
		own, err := s.airOf(ctx, all, names, f, func(run onair.Run) bool { return cmp.Or(run.Call, me.Call) == call })
		if err != nil {
			return nil, err
		}
		for _, e := range own {
			e.Kind += ", by " + call
			out = append(out, e)
		}
	}
	return out, nil
}

// rank sorts evidence, the strongest first.
func rank(strength string) int { return slices.Index([]string{"strong", "some", "weak"}, strength) }

// airOf returns the evidence of some runs.
func (s *Server) airOf(ctx context.Context, all []occasion, names [2]string, f weigh.Filter, of func(onair.Run) bool) (out []weigh.Evidence,
	err error) {
	for _, both := range []bool{true, false} {
		pools := [2]weigh.Pool{}
		for i := range pools {
			pools[i].Hears = len(all) > 0 && all[0].run.Listen
		}
		if !both && slices.ContainsFunc(all, func(o occasion) bool { return !o.both && of(o.run) }) {
			if pools[0].Log, pools[1].Log, err = s.days(ctx); err != nil {
				return nil, err
			}
		}
		for _, o := range all {
			if o.both != both || !of(o.run) {
				continue
			}
			if err := s.intoPools(ctx, &pools, o.run, o.names, f); err != nil {
				return nil, err
			}
		}
		for i := range pools {
			if !pools[i].Heard() {
				continue
			}
			e := pools[i].Evidence(names[0], names[1])
			if e.Simulated = i == 1; e.Simulated {
				e.Kind += ", simulated"
			}
			if !both && (len(e.Parts) == 0 || e.Parts[0].SlotsA == 0 || e.Parts[0].SlotsB == 0) {
				continue
			}
			out = append(out, e)
		}
		if len(out) > 0 {
			break
		}
	}
	return out, nil
}

// filter returns the filter of a request.
func (p WeighAirParams) filter() (f weigh.Filter, err error) {
	f = weigh.Filter{FromHour: p.FromHour, UntilHour: p.UntilHour, LeastKm: p.LeastKm, MostKm: p.MostKm, Toward: p.Toward,
		Receiver: p.Receiver, LeastW: p.LeastW, MostW: p.MostW}
	for name := range strings.SplitSeq(p.Bands, ",") {
		if name != "" {
			f.Bands = append(f.Bands, name)
		}
	}
	if path, why := f.Check(); why != "" {
		return f, invalid(path, why)
	}
	return f, nil
}

// asked are the two things of a request by their names, and its filter.
func (p WeighAirParams) asked(ctx context.Context, s *Server) (of [2]thing, sides [2]weigh.Side, f weigh.Filter, err error) {
	if of, err = s.pairOf(ctx, p.A, p.B); err != nil {
		return of, sides, f, err
	}
	if f, err = p.filter(); err != nil {
		return of, sides, f, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return of, sides, f, err
	}
	for i := range of {
		side, tag, _, err := s.side(ctx, me, of[i])
		if err != nil {
			return of, sides, f, err
		}
		side.Letter, sides[i] = tag.Tag.Letter, side
	}
	sides[0].Name, sides[1].Name = weigh.Apart(sides[0], sides[1])
	return of, sides, f, nil
}

func named(sides [2]weigh.Side) [2]string { return [2]string{sides[0].Name, sides[1].Name} }

// WeighAir says what the air says of two things, filtered.
func (s *Server) WeighAir(ctx context.Context, r WeighAirRequestObject) (WeighAirResponseObject, error) {
	of, sides, f, err := r.Params.asked(ctx, s)
	if err != nil {
		return nil, err
	}
	out, err := s.evidence(ctx, of, sides, f)
	return WeighAir200JSONResponse(notNil(out)), err
}

// ComputePaths says what the model predicts of the paths that were compared on the air.
func (s *Server) ComputePaths(ctx context.Context, r ComputePathsRequestObject) (ComputePathsResponseObject, error) {
	q := *r.Body
	of, sides, _, err := WeighAirParams{A: q.A, B: q.B}.asked(ctx, s)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	var parts []weigh.Verdict
	heard := map[string][]weigh.ReceiverVerdict{}
	on, _, err := s.sent(ctx, of, named(sides), weigh.Filter{})
	if err != nil {
		return nil, err
	}
	for _, v := range on.Parts {
		if v.Band == "" {
			continue
		}
		parts = append(parts, v)
		one, ok, err := s.sent(ctx, of, named(sides), weigh.Filter{Bands: []string{v.Band}})
		if err != nil {
			return nil, err
		}
		if ok {
			heard[v.Band] = one.Receivers
		}
	}
	setups := [2]twin.Setup{setupOf(sides[0], me), setupOf(sides[1], me)}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"paths", setups, parts, heard},
		func(ctx context.Context, done func(step, of int)) (weigh.Foretold, error) {
			out := weigh.Foretold{Bands: []weigh.ForetoldBand{}, Says: "Nothing was compared on the air yet."}
			var said []string
			for i, v := range parts {
				var gains [2]weigh.Gain
				for k := range sides {
					done(2*i+k, 2*len(parts))
					beam, err := s.twin.Beam(ctx, setups[k], sides[k].Centre[v.Band])
					if err != nil {
						return out, fmt.Errorf("the pattern of %s on %s: %w", sides[k].Name, v.Band, err)
					}
					axis := setups[k].Built.Bearing()
					gains[k] = func(up, bearing float64) float64 { return beam.Gain(up, axis-bearing) }
				}
				x := weigh.Foretell(v, heard[v.Band], gains[0], gains[1], sides[0], sides[1])
				out.Bands, said = append(out.Bands, x), append(said, x.Says)
			}
			if len(said) > 0 {
				out.Says = strings.Join(said, " ")
			}
			return out, s.segments(ctx, of, named(sides), out.Bands)
		})
	return ComputePaths200JSONResponse(out), err
}

// segments adds what the air says towards each part of the compass to the bands.
func (s *Server) segments(ctx context.Context, of [2]thing, names [2]string, bands []weigh.ForetoldBand) error {
	for _, bearing := range weigh.SegmentBearings() {
		one, _, err := s.sent(ctx, of, names, weigh.Filter{Toward: &bearing, Within: weigh.SegmentWithin})
		if err != nil {
			return err
		}
		for _, v := range one.Parts {
			for i := range bands {
				if x, ok := weigh.Segmented(bearing, v); ok && bands[i].Band == v.Band {
					bands[i].Sectors = append(bands[i].Sectors, x)
				}
			}
		}
	}
	return nil
}

// mostWeighed is how many single reports are listed.
const mostWeighed = 500

// weighed goes through the reports of two things that a filter lets through, the newest run first.
func (s *Server) weighed(ctx context.Context, of [2]thing, names [2]string, f weigh.Filter, most int,
	each func(o occasion, slot onair.PlannedSlot, r onair.Report)) error {
	all, err := s.occasions(ctx, of, names)
	if err != nil {
		return err
	}
	slices.Reverse(all)
	for _, o := range all {
		from, until := stretch(o.run)
		which := store.ReportFilter{From: from, Until: until, Own: &o.run.Listen, Receiver: f.Receiver}
		if o.run.Listen {
			which.Receiver, which.Sender = "", f.Receiver
		}
		list, _, err := s.store.Reports(ctx, o.run.OutingID, which, "", most)
		if err != nil {
			return err
		}
		off, ok := onair.ClockOff(list)
		if !ok {
			off = 0
		}
		for _, x := range list {
			slot, ok := o.run.SlotOf(x.At, x.Band, off)
			if ok && o.names[slot.By()] != "" && f.Lets(o.run, slot, weigh.HeardOf(x)) {
				each(o, slot, x)
			}
		}
	}
	return nil
}

// WeighReports lists the reports that a comparison comes from.
func (s *Server) WeighReports(ctx context.Context, r WeighReportsRequestObject) (WeighReportsResponseObject, error) {
	of, sides, f, err := WeighAirParams(r.Params).asked(ctx, s)
	if err != nil {
		return nil, err
	}
	out := WeighReports200JSONResponse{}
	err = s.weighed(ctx, of, named(sides), f, mostOfRun, func(o occasion, slot onair.PlannedSlot, x onair.Report) {
		if len(out) < mostWeighed {
			out = append(out, WeighedReport{Report: x, Antenna: o.names[slot.By()]})
		}
	})
	return out, err
}

// WeighData writes the slots and reports that a comparison comes from as a table.
func (s *Server) WeighData(ctx context.Context, r WeighDataRequestObject) (WeighDataResponseObject, error) {
	of, sides, f, err := WeighAirParams(r.Params).asked(ctx, s)
	if err != nil {
		return nil, err
	}
	all, err := s.occasions(ctx, of, named(sides))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := exchange.WriteWeighed(&b)
	for _, o := range all {
		for _, slot := range o.run.Slots {
			if name := o.names[slot.By()]; name != "" {
				w.Slot(o.run, slot, name)
			}
		}
	}
	if err := s.weighed(ctx, of, named(sides), f, mostOfRun, func(o occasion, slot onair.PlannedSlot, x onair.Report) {
		w.Report(x, o.names[slot.By()])
	}); err != nil {
		return nil, err
	}
	err = w.Done()
	return WeighData200TextcsvResponse{Body: &b, ContentLength: int64(b.Len())}, err
}

// SetAside says why a report does not count, or lets it count again.
func (s *Server) SetAside(ctx context.Context, r SetAsideRequestObject) (SetAsideResponseObject, error) {
	x, err := s.store.SetAside(ctx, r.Id, strings.TrimSpace(r.Body.Reason))
	return SetAside200JSONResponse(x), err
}
