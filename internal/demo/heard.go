package demo

import (
	"context"
	"time"

	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/twin"
	"reed/internal/standin"
	"reed/internal/store"
)

// alternated are the antennas of an outing that sent in turn, on which bands, and how many minutes after it began.
var alternated = map[string]struct {
	names   []string
	bands   []string
	minutes int
	lasts   int
}{"Gannet Spit": {[]string{"Stilt", "Curlew"}, []string{"20m"}, 150, 120}}

// fillHeard keeps a beacon run of an outing with what the simulated network heard of it.
func fillHeard(ctx context.Context, st *store.Store, engine *twin.Engine, o outing, home place.Point, at func(int) time.Time) error {
	x, ok := alternated[o.Name]
	if !ok {
		return nil
	}
	run := onair.Run{ID: id("run", o.Name), OutingID: o.ID, Begin: at(x.minutes), Mode: "WSPR", PowerW: 1, Minutes: x.lasts,
		Bands: x.bands, Seed: 16}
	by := standin.Sender{Call: "Q1REED", Region: 1, Ground: o.Ground, Built: map[string]deployment.Built{}}
	all, err := st.Deployments(ctx, o.ID)
	if err != nil {
		return err
	}
	for _, name := range x.names {
		for _, d := range all {
			if d.Name != name {
				continue
			}
			revisions, err := st.Revisions(ctx, d.ID)
			if err != nil {
				return err
			}
			run.Aerials = append(run.Aerials, onair.Aerial{Letter: d.Letter, DeploymentID: d.ID, Name: d.Name})
			by.Built[d.Letter] = revisions[len(revisions)-1].Built
		}
	}
	run.Slots = run.Schedule()
	run.Slots[5].Sent = onair.Silent // the switch was forgotten once
	if _, err := st.PutRun(ctx, run, 0); err != nil {
		return err
	}
	net := standin.Network{Seed: 2026, Home: home, Sunspots: 95}
	reports, _, err := net.HearRun(ctx, engine, run, by, run.Slots[len(run.Slots)-1].At.Add(time.Hour))
	if err != nil {
		return err
	}
	_, _, err = st.AddReports(ctx, o.ID, id("heard", o.Name), func(yield func(store.NumberedReport, error) bool) {
		for i, r := range reports {
			if !yield(store.NumberedReport{Report: r, Number: i}, nil) {
				return
			}
		}
	})
	return err
}
