package demo

import (
	"context"
	"encoding/json"
	"time"

	"reed/core/scout"
	"reed/core/site"
	"reed/internal/store"
)

// paced is a site as it was paced, and what one went there for.
type paced struct {
	lines    []string
	mhz      []float64
	near     float64
	far      *scout.Far
	mode     string
	hours    int
	wind     float64
	water    []string
	anybody  bool // one is not alone
	bulletin string
}

// sites are the places of the isles by name.
var sites = map[string]paced{
	"Gannet Spit": {lines: []string{"area, 70 by 24 m", "wet (spring tides), 70 by 8 m around 12 m at 0",
		"water line, 40 m at 300 to 40 m at 60",
		"path (along the dune), 40 m at 246 to 40 m at 114, 1.5 m wide", "bench, 14 m at 200"}, mhz: []float64{14.06, 7.03}, mode: "cw", hours: 6,
		far: &scout.Far{Bearing: 285, KM: 3300}, wind: 6, water: []string{"15:40"}},
	"Hollow Fell": {lines: []string{"area, 26 by 18 m towards 30", "mast (the beacon), 34 m at 190, 9 m high",
		"post (cairn staff), 6 m at 70, 3 m high",
		"no stakes"}, mhz: []float64{14.2}, mode: "ssb", hours: 4,
		bulletin: "simulated\nwind 7 m/s\ngusts 11 m/s\n6 to 14 C\nthunderstorms 10 %\nflux 138\nK 3"},
	"Alder Common": {lines: []string{"area, 46 by 34 m", "tree (west alder), 15 m at 262, 12 m high",
		"tree (east alder), 15 m at 98, 11 m high",
		"path, 25 m at 320 to 26 m at 40, 2 m wide", "table, 6 m at 180, metal", "hours 07:00 to 19:00", "ask the park office"},
		mhz: []float64{7.09, 14.06}, near: 600, mode: "cw", hours: 3, anybody: true},
	"Sedge Quay": {lines: []string{"area, 30 by 9 m towards 70", "mast (ketch), 12 m at 340, 13 m high", "mast (yawl), 13 m at 160, 12 m high",
		"fence, 15 m at 232 to 15 m at 88, 1.1 m high, metal", "power line (to the crane), 38 m at 300 to 52 m at 20, 8 m high"},
		mhz: []float64{21.2, 14.2}, mode: "ssb", hours: 2, wind: 4},
}

// fillSite keeps the site of an outing, and what it was for from when it began.
func fillSite(ctx context.Context, st *store.Store, o *outing, begin time.Time) error {
	p, ok := sites[o.Name]
	if !ok {
		return nil
	}
	v := site.Site{ID: id("site", o.Name), Name: o.Name, Place: o.Place, Ground: o.Ground, Unit: "m", Lines: p.lines}
	if _, err := st.PutSite(ctx, v, 0); err != nil {
		return err
	}
	const clock = "15:04"
	purpose := scout.Purpose{Date: o.Date, From: begin.Format(clock),
		Until: begin.Add(time.Duration(p.hours) * time.Hour).Format(clock), MHz: p.mhz,
		NearKM: p.near, Far: p.far, Mode: p.mode, WindMS: p.wind, High: p.water, Alone: !p.anybody, Bulletin: p.bulletin}
	text, err := json.Marshal(purpose)
	o.Site, o.Purpose = v.ID, text
	return err
}
