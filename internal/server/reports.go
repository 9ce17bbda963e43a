package server

import (
	"context"
	"fmt"
	"iter"
	"time"

	"github.com/google/uuid"

	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/weigh"
	"reed/internal/exchange"
	"reed/internal/standin"
	"reed/internal/store"
)

// mostReceivers is how many receivers, by antenna, a map shows.
const mostReceivers = 3000

// GetHeard says who heard what one sent.
func (s *Server) GetHeard(ctx context.Context, r GetHeardRequestObject) (GetHeardResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	f := store.ReportFilter{Band: r.Params.Band, From: r.Params.From, Until: r.Params.Until}
	list, err := s.store.HeardBy(ctx, r.Id, f, mostReceivers)
	if err != nil {
		return nil, err
	}
	out := WhoHeard{Receivers: []PlacedReceiver{}, Bands: []BandHeard{}}
	if at, err := place.ParsePosition(o.Place); err == nil {
		out.Lat, out.Lon = &at.Lat, &at.Lon
	}
	var sum onair.Heard
	for _, x := range list {
		p := PlacedReceiver{Heard: x}
		if at, ok := onair.At(x.Locator); ok {
			p.Lat, p.Lon = &at.Lat, &at.Lon
		}
		sum.Add(x.Receiver, x.Reports, x.DistanceM, x.Simulated)
		out.Receivers = append(out.Receivers, p)
	}
	out.Sentence = sum.Says()
	bands, err := s.store.HeardOn(ctx, r.Id)
	out.Bands = append(out.Bands, bands...)
	return GetHeard200JSONResponse(out), err
}

// ListReports lists reports of who heard one, the newest first.
func (s *Server) ListReports(ctx context.Context, r ListReportsRequestObject) (ListReportsResponseObject, error) {
	if _, err := s.store.Outing(ctx, r.Id); err != nil {
		return nil, err
	}
	most := r.Params.Most
	if most == 0 {
		most = 100
	}
	own := false
	list, next, err := s.store.Reports(ctx, r.Id, store.ReportFilter{Band: r.Params.Band, DeploymentID: r.Params.Deployment,
		Receiver: r.Params.Receiver, Own: &own}, r.Params.After, most)
	if list == nil {
		list = []onair.Report{}
	}
	return ListReports200JSONResponse{Reports: list, Next: next}, err
}

// takeReports stores the reports of a file, and gives them to the antennas that a run sent with then.
func (s *Server) takeReports(ctx context.Context, outingID string, batch uuid.UUID, p *exchange.Preview) (out Imported, err error) {
	out.Refused = p.Counts.Refused
	var list []onair.Report
	for _, h := range p.Heard {
		switch {
		case !h.Taken:
		case h.Known:
			out.Known++
		default:
			list = append(list, h.Report)
		}
	}
	added, known, err := s.store.AddReports(ctx, outingID, batch.String(), numbered(list))
	out.Added, out.Known = added, out.Known+known
	if err == nil {
		err = s.store.Pack(ctx, outingID)
	}
	if err != nil {
		return out, err
	}
	if added == 0 && len(list) > 0 { // the same import again, perhaps after it was taken out
		n, err := s.store.PutBackReports(ctx, batch.String())
		if out.Added, out.Known = n, out.Known-n; err != nil {
			return out, err
		}
	}
	runs, err := s.store.Runs(ctx, outingID)
	if err != nil {
		return out, err
	}
	for _, run := range runs {
		if err := s.assign(ctx, run); err != nil {
			return out, err
		}
	}
	return out, nil
}

func numbered(list []onair.Report) iter.Seq2[store.NumberedReport, error] {
	return func(yield func(store.NumberedReport, error) bool) {
		for i, r := range list {
			if !yield(store.NumberedReport{Report: r, Number: i}, nil) {
				return
			}
		}
	}
}

// mostOfRun is how many reports a run is judged by.
const mostOfRun = 50_000

// heardOf are the reports of a run's time.
func (s *Server) heardOf(ctx context.Context, run onair.Run) ([]onair.Report, error) {
	if len(run.Slots) == 0 {
		return nil, nil
	}
	from, until := run.Slots[0].At, run.Slots[len(run.Slots)-1].At
	list, _, err := s.store.Reports(ctx, run.OutingID, store.ReportFilter{From: from.Add(-run.Length()), Until: until.Add(2 * run.Length()),
		Own: &run.Listen}, "", mostOfRun)
	return list, err
}

// assign gives the reports of a run's slots to the antennas that really sent in them.
func (s *Server) assign(ctx context.Context, run onair.Run) error {
	list, err := s.heardOf(ctx, run)
	if err != nil {
		return err
	}
	for _, x := range run.Spans(list) {
		if _, err := s.store.AssignReports(ctx, run.OutingID, x.Band, x.DeploymentID, run.Listen, x.From, x.Until); err != nil {
			return err
		}
	}
	return nil
}

func (s *Server) runState(ctx context.Context, run onair.Run) (RunState, error) {
	list, err := s.heardOf(ctx, run)
	out := RunState{Run: run, Says: run.Says(), SlotS: int(run.Sending().Seconds()), Reports: len(list), Differences: weigh.Running(run, list)}
	if out.Differences == nil {
		out.Differences = []weigh.Verdict{}
	}
	return out, err
}

// ListRuns lists the beacon runs of an outing with their differences as they stand.
func (s *Server) ListRuns(ctx context.Context, r ListRunsRequestObject) (ListRunsResponseObject, error) {
	if _, err := s.store.Outing(ctx, r.Id); err != nil {
		return nil, err
	}
	list, err := s.store.Runs(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	out := ListRuns200JSONResponse{}
	for _, run := range list {
		x, err := s.runState(ctx, run)
		if err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, nil
}

// PutRun stores a beacon run. One without slots has its schedule laid.
func (s *Server) PutRun(ctx context.Context, r PutRunRequestObject) (PutRunResponseObject, error) {
	run := *r.Body
	run.ID, run.Deleted = r.Id, false
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	if err := faulty(quantity.SI, "", run.Check(me.Region)); err != nil {
		return nil, err
	}
	if len(run.Slots) == 0 {
		run.Slots = run.Schedule()
	}
	if run.Call == "" {
		run.Call = me.Call
	}
	if err := faulty(quantity.SI, "", run.CheckSlots()); err != nil {
		return nil, err
	}
	if run, err = s.store.PutRun(ctx, run, r.Params.Version); err != nil {
		return nil, err
	}
	if err := s.assign(ctx, run); err != nil {
		return nil, err
	}
	out, err := s.runState(ctx, run)
	return PutRun200JSONResponse(out), err
}

// HearRun asks the simulated network who heard the slots of a run that are over. What it heard follows from the run alone, so
// that asked again it adds only what came since.
func (s *Server) HearRun(ctx context.Context, r HearRunRequestObject) (HearRunResponseObject, error) {
	run, err := s.store.Run(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	o, err := s.store.Outing(ctx, run.OutingID)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	at, err := place.ParsePosition(o.Place)
	if err != nil {
		return nil, invalid("place", "the outing has no position, so distances are not known: "+err.Error())
	}
	by := standin.Sender{Call: me.Call, Region: me.Region, Ground: o.Ground, Built: map[string]deployment.Built{}}
	for _, x := range run.Aerials {
		if by.Built[x.Letter], err = s.builtOf(ctx, x); err != nil {
			return nil, err
		}
	}
	space, err := s.bulletins.Space(ctx, at, run.Begin)
	if err != nil {
		return nil, err
	}
	spots, _ := space.Spots()
	ctx, done := context.WithTimeout(ctx, time.Minute)
	defer done()
	network := *s.network
	network.Home, network.Sunspots = at, spots
	list, slots, err := network.HearRun(ctx, &s.twin, run, by, s.now())
	if err != nil {
		return nil, err
	}
	out := HeardRun{Slots: slots}
	batch := uuid.NewSHA1(uuid.NameSpaceOID, []byte("network "+run.ID+fmt.Sprint(run.Version)))
	out.Added, out.Known, err = s.store.AddReports(ctx, run.OutingID, batch.String(), numbered(list))
	return HearRun200JSONResponse(out), err
}

// builtOf is an antenna of a run as it was put up: the revision that is named, or the newest.
func (s *Server) builtOf(ctx context.Context, a onair.Aerial) (b deployment.Built, err error) {
	revisions, err := s.store.Revisions(ctx, a.DeploymentID)
	if err != nil {
		return b, err
	}
	if len(revisions) == 0 {
		return b, invalid("aerials", fmt.Sprintf("%s is planned only; record in Raise what was put up", a.Name))
	}
	b = revisions[len(revisions)-1].Built
	for _, x := range revisions {
		if x.Seq == a.Revision {
			b = x.Built
		}
	}
	return b, nil
}
