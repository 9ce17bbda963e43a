package store

import (
	"context"
	"database/sql"
	"fmt"
	"math"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
	"reed/core/weigh"
)

// What is packed says the same as the reports, whatever was done to them in between.
func TestThePacksFollowTheReports(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, dir := open(t)
	filled(t, s)
	outings, _ := s.Outings(ctx)
	o := outings[0].ID
	from, until := time.Date(2026, 5, 16, 14, 3, 0, 0, time.UTC), time.Date(2026, 5, 16, 16, 30, 0, 0, time.UTC)
	agree := func(when string, want int) {
		t.Helper()
		got, err := s.Air(ctx, o, from, until)
		if err != nil {
			t.Fatal(err)
		}
		list, _, err := s.Reports(ctx, o, ReportFilter{From: from, Until: until}, "", 1000)
		if err != nil {
			t.Fatal(err)
		}
		line := func(h weigh.Heard) string {
			return fmt.Sprint(h.At.UTC(), h.Band, h.Receiver, h.SNR, h.PowerW, h.DistanceM, h.Bearing, h.Seconds, h.Simulated, h.SetAside)
		}
		var a, b []string
		for i := range got.Rows {
			a = append(a, line(got.Heard(i)))
		}
		for i := range list {
			if h := weigh.HeardOf(list[len(list)-1-i]); !math.IsNaN(h.SNR) {
				b = append(b, line(h))
			}
		}
		if strings.Join(a, "\n") != strings.Join(b, "\n") || len(a) != want {
			t.Errorf("%s: packed\n%s\nkept\n%s", when, strings.Join(a, "\n"), strings.Join(b, "\n"))
		}
	}
	power, far := 0.2, 1.25e6
	all := some(80, func(i int, r *onair.Report) {
		switch i % 5 {
		case 1:
			r.PowerW, r.DistanceM, r.Bearing = &power, &far, &power
		case 2:
			r.SNR = nil
		case 3:
			r.Band, r.Simulated, r.Seconds = "20m", true, false
		}
	})
	if _, _, err := s.AddReports(ctx, o, "batch-1", all); err != nil {
		t.Fatal(err)
	}
	// Of the 80 each two minutes from 14:00, 73 lie in the stretch, a fifth of them without a strength.
	agree("as they came", 58)
	if _, _, err := s.AddReports(ctx, o, "batch-2", some(4, func(i int, r *onair.Report) {
		r.Receiver = fmt.Sprintf("Q9%dRX",
			i)
	})); err != nil {
		t.Fatal(err)
	}
	agree("with more", 60)
	list, _, _ := s.Reports(ctx, o, ReportFilter{Receiver: "Q1RX"}, "", 5)
	for _, reason := range []string{"its clock was off", "", "its clock was off"} {
		x, err := s.SetAside(ctx, list[2].ID, reason)
		if err != nil || x.SetAside != reason || x.ID != list[2].ID {
			t.Fatalf("%+v %v", x, err)
		}
		agree("aside: "+reason, 60)
	}
	if _, err := s.RemoveReports(ctx, "batch-2"); err != nil {
		t.Fatal(err)
	}
	agree("taken out", 58)
	if _, err := s.PutBackReports(ctx, "batch-2"); err != nil {
		t.Fatal(err)
	}
	agree("back in", 60)
	// A backup brings everything back, with the packs made anew.
	copied := filepath.Join(dir, "copy.db")
	if err := s.Backup(ctx, copied); err != nil {
		t.Fatal(err)
	}
	if _, err := s.RemoveReports(ctx, "batch-1"); err != nil {
		t.Fatal(err)
	}
	agree("of another batch", 2)
	if _, err := Restore(ctx, dir, copied); err != nil {
		t.Fatal(err)
	}
	agree("restored", 60)
}

func TestWhatIsWeighedIsReadFromIndexes(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	for query, index := range map[string]string{stalePacks: "PRIMARY KEY", packs: "PRIMARY KEY", airOf: "report_when",
		worked: "contact_deployment", hasWorked: "contact_deployment"} {
		if plan := planOf(t, s, query); !strings.Contains(plan, index) || strings.Contains(plan, "SCAN contact") ||
			strings.Contains(plan, "SCAN report") || strings.Contains(plan, "SCAN air") || strings.Contains(plan, "TEMP B-TREE") {
			t.Errorf("%s\n%s", query, plan)
		}
	}
}

func TestADamagedPackIsSaid(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	filled(t, s)
	outings, _ := s.Outings(ctx)
	if _, _, err := s.AddReports(ctx, outings[0].ID, "batch-1", some(9, nil)); err != nil {
		t.Fatal(err)
	}
	if err := s.inTx(ctx, "damaging", func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "UPDATE air SET pack = x'0102'")
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Air(ctx, outings[0].ID, time.Unix(0, 0), time.Unix(4e9, 0)); err == nil {
		t.Error("read from a damaged pack")
	}
}
