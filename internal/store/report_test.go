package store

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
)

func some(n int, change func(i int, r *onair.Report)) func(func(NumberedReport, error) bool) {
	return func(yield func(NumberedReport, error) bool) {
		for i := range n {
			snr, freq := -10.0-float64(i), 7.0386e6
			r := onair.Report{At: time.Date(2026, 5, 16, 14, 2*i, 0, 0, time.UTC), Seconds: true, Sender: "Q1REED/P",
				Receiver: fmt.Sprintf("Q%dRX", i%3),
				Locator:  "JO22", FreqHz: &freq, Band: "40m", Mode: "WSPR", SNR: &snr}
			if change != nil {
				change(i, &r)
			}
			if !yield(NumberedReport{r, i}, nil) {
				return
			}
		}
	}
}

// What a map shows is the sum of the reports, whatever was done to them in between.
func TestTheSumsFollowTheReports(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	filled(t, s)
	outings, _ := s.Outings(ctx)
	o := outings[0].ID
	deployments, _ := s.Deployments(ctx, o)
	d := deployments[0].ID
	agree := func(when string) {
		t.Helper()
		got, err := s.HeardBy(ctx, o, ReportFilter{}, 100)
		if err != nil {
			t.Fatal(err)
		}
		want, err := s.HeardBy(ctx, o, ReportFilter{Until: time.Date(2100, 1, 1, 0, 0, 0, 0, time.UTC)}, 100)
		if err != nil {
			t.Fatal(err)
		}
		line := func(list []ReceiverHeard) (out string) {
			for _, x := range list {
				out += fmt.Sprintf("%s %s %s %d %.3f\n", x.Receiver, x.Locator, x.DeploymentID, x.Reports, *x.MeanSNR)
			}
			return out
		}
		if line(got) != line(want) {
			t.Errorf("%s: summed\n%scounted\n%s", when, line(got), line(want))
		}
	}
	if added, known, err := s.AddReports(ctx, o, "batch-1", some(9, nil)); err != nil || added != 9 || known != 0 {
		t.Fatalf("%d %d %v", added, known, err)
	}
	agree("added")
	// Another file has them too, a little later in the slots, and one more of another band.
	added, known, err := s.AddReports(ctx, o, "batch-2", some(4, func(i int, r *onair.Report) {
		r.At, r.Sender = r.At.Add(50*time.Second), "Q1REED"
		if i == 3 {
			f := 14.0956e6
			r.FreqHz, r.Band = &f, "20m"
		}
	}))
	if err != nil || added != 1 || known != 3 {
		t.Errorf("%d %d %v", added, known, err)
	}
	agree("another file")
	at := time.Date(2026, 5, 16, 14, 4, 0, 0, time.UTC)
	if n, err := s.AssignReports(ctx, o, "40m", d, false, at, at.Add(time.Minute)); err != nil || n != 1 {
		t.Errorf("%d assigned, %v", n, err)
	}
	agree("assigned")
	if n, err := s.RemoveReports(ctx, "batch-1"); err != nil || n != 9 {
		t.Errorf("%d taken out, %v", n, err)
	}
	agree("taken out")
	if n, err := s.PutBackReports(ctx, "batch-1"); err != nil || n != 9 {
		t.Errorf("%d put back, %v", n, err)
	}
	agree("put back")
	on, err := s.HeardOn(ctx, o)
	if err != nil || len(on) != 3 || on[0].Band != "20m" || on[0].Reports != 1 {
		t.Errorf("%+v %v", on, err)
	}
	var all []onair.Report
	for after := ""; ; {
		page, next, err := s.Reports(ctx, o, ReportFilter{}, after, 4)
		if err != nil {
			t.Fatal(err)
		}
		if all = append(all, page...); next == "" {
			break
		}
		after = next
	}
	for i := 1; i < len(all); i++ {
		if all[i].At.After(all[i-1].At) {
			t.Error("a page is out of order")
		}
	}
	if len(all) != 10 || all[9].Sender != "Q1REED/P" || *all[9].SNR != -10 {
		t.Errorf("%d of 10: %+v", len(all), all)
	}
}

func TestQuestionsOfReportsAreAnsweredFromIndexes(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	where, _ := ReportFilter{}.where("x")
	for query, index := range map[string]string{
		sameReport: "report_who", summed + byReceiver: "heard", countSince: "COVERING INDEX contact_time",
		stints: "COVERING INDEX contact_time", before: "contact_call",
		"SELECT " + reportColumns + " FROM report WHERE " + where + " ORDER BY at DESC, seq DESC LIMIT 5": "report_when",
	} {
		if plan := planOf(t, s, query); !strings.Contains(plan, index) || strings.Contains(plan, "SCAN report") {
			t.Errorf("%s\n%s", query, plan)
		}
	}
}

// Who heard one and what one heard are two lists, in the sums, in the packs, and where antennas are told.
func TestWhatOneHeardIsNoReportOfWhoHeardOne(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _ := open(t)
	filled(t, s)
	outings, _ := s.Outings(ctx)
	o := outings[0].ID
	deployments, _ := s.Deployments(ctx, o)
	if _, _, err := s.AddReports(ctx, o, "batch-1", some(9, func(i int, r *onair.Report) {
		if i >= 5 {
			r.Sender, r.Receiver, r.Own = fmt.Sprintf("Q%dTX/P", i), "Q1REED/P", true
		}
	})); err != nil {
		t.Fatal(err)
	}
	count := func() (sum, counted int) {
		for k, f := range []ReportFilter{{}, {Until: time.Date(2100, 1, 1, 0, 0, 0, 0, time.UTC)}} {
			list, err := s.HeardBy(ctx, o, f, 100)
			if err != nil {
				t.Fatal(err)
			}
			for _, x := range list {
				if k == 0 {
					sum += x.Reports
				} else {
					counted += x.Reports
				}
			}
		}
		return sum, counted
	}
	if a, b := count(); a != 5 || b != 5 {
		t.Errorf("%d summed, %d counted", a, b)
	}
	at := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	if n, err := s.AssignReports(ctx, o, "40m", deployments[0].ID, true, at, at.Add(time.Hour)); n != 4 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	own := true
	list, _, err := s.Reports(ctx, o, ReportFilter{Own: &own, Sender: "Q7TX"}, "", 9)
	if err != nil || len(list) != 1 || !list[0].Own || list[0].DeploymentID != deployments[0].ID {
		t.Errorf("%+v %v", list, err)
	}
	air, err := s.Air(ctx, o, at, at.Add(time.Hour))
	if err != nil || len(air.Rows) != 9 {
		t.Fatalf("%+v %v", air, err)
	}
	if h := air.Heard(8); !h.Own || h.Receiver != "Q8TX" || h.By != "Q1REED" {
		t.Errorf("%+v", h)
	}
	if h := air.Heard(0); h.Own || h.By != "" {
		t.Errorf("%+v", h)
	}
	for _, deleted := range []func(context.Context, string) (int, error){s.RemoveReports, s.PutBackReports} {
		if _, err := deleted(ctx, "batch-1"); err != nil {
			t.Fatal(err)
		}
	}
	if a, b := count(); a != 5 || b != 5 {
		t.Errorf("brought back: %d summed, %d counted", a, b)
	}
}
