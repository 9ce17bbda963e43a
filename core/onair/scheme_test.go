package onair

import (
	"strings"
	"testing"
	"time"

	"reed/core/band"
)

func made(id, call, ownRef, operator string, minute int) Contact {
	return Contact{ID: id, Call: call, Band: "40m", Mode: "CW", OwnRef: ownRef, Operator: operator,
		At: time.Date(2026, 5, 16, 14, minute, 0, 0, time.UTC)}
}

func TestEachReferenceNeedsTheMinimumForItself(t *testing.T) {
	s := Scheme{ID: "x", Minimum: 2, PerDay: true, Unique: ByCall, References: true}
	all := []Contact{
		made("1", "Q2TAV", "MI-0001", "", 0),
		made("2", "Q2TAV", "MI-0001,MI-0007", "", 1), // counts for the second only
		made("3", "Q3TAV", "mi-0001, MI-0007", "", 2),
		made("4", "Q3TAV", "MI-0007", "", 3), // is a duplicate
	}
	counts, dup := s.Counting(all)
	for id, want := range map[string]string{"1": "MI-0001", "2": "MI-0007", "3": "MI-0001,MI-0007", "4": ""} {
		if got := strings.Join(counts[id], ","); got != want {
			t.Errorf("%s counts for %q, want %q", id, got, want)
		}
	}
	if len(dup) != 1 || dup["4"] != "3" {
		t.Errorf("duplicates %v", dup)
	}
	p := s.Count(all, all[3].At)
	if p.Counted != 2 || p.Missing != 0 || len(p.Parts) != 2 || p.Parts[1] != (Part{"MI-0007", 2, 0}) {
		t.Errorf("%+v", p)
	}
	p = s.Count(all[:2], all[3].At)
	if p.Counted != 1 || p.Missing != 1 || !strings.Contains(p.Sentence, "1 for MI-0001, 1 for MI-0007") {
		t.Errorf("%+v", p)
	}
}

func TestEachOperatorNeedsTheMinimumForItself(t *testing.T) {
	s := Scheme{Minimum: 3, Unique: ByCall, Operators: true}
	var all []Contact
	for i, call := range []string{"Q2TAV", "Q3TAV", "Q4TAV"} {
		all = append(all, made("a"+call, call, "MI-0001", "Q5AB", i), made("b"+call, call, "MI-0001", "", 10+i))
	}
	p := s.Count(all[:5], all[5].At)
	if p.Duplicates != 0 || len(p.Parts) != 2 || p.Counted != 2 || p.Missing != 1 || !p.ETA.IsZero() {
		t.Errorf("%+v", p)
	}
	if p = s.Count(all, all[5].At); p.Missing != 0 || !strings.Contains(p.Sentence, "activation complete") {
		t.Errorf("%+v", p)
	}
}

func TestWhatMakesAStationCountAgain(t *testing.T) {
	base := made("1", "Q2TAV", "MI-0001", "", 0)
	band40, mode, other, day := base, base, base, base
	band40.ID, band40.Band = "2", "20m"
	mode.ID, mode.Mode = "3", "SSB"
	other.ID, other.OtherRef = "4", "MI-0009"
	day.ID, day.At = "5", base.At.AddDate(0, 0, 1)
	all := []Contact{base, band40, mode, other, day}
	for _, x := range []struct {
		s    Scheme
		want string // the duplicates
	}{
		{Scheme{Unique: ByCall}, "2 3 4 5"}, {Scheme{Unique: ByBand}, "3 4 5"}, {Scheme{Unique: ByMode}, "4 5"},
		{Scheme{Unique: ByMode, Sites: true}, "5"},
		{Scheme{Unique: ByMode, Sites: true, PerDay: true}, ""}, {Scheme{Unique: ByCall, PerDay: true}, "2 3 4"},
	} {
		dup := x.s.Duplicates(all)
		var got []string
		for _, c := range all {
			if dup[c.ID] != "" {
				got = append(got, c.ID)
			}
		}
		if strings.Join(got, " ") != x.want {
			t.Errorf("%s: duplicates %v, want %s", x.s.Rule(), got, x.want)
		}
	}
}

func TestSchemesAreEditedAndChecked(t *testing.T) {
	own := Scheme{ID: "own", Name: "7 summits", Minimum: 7, Unique: ByBand}
	edited := Schemes()[0]
	edited.Minimum = 12
	gone := Schemes()[1]
	gone.Deleted = true
	offered, all := WithSchemes([]Scheme{edited, gone, own}, false), WithSchemes([]Scheme{edited, gone, own}, true)
	if len(all) != len(offered)+1 || SchemeIn(all, "ten-a-day").Minimum != 12 || SchemeIn(offered, "own").Name != own.Name ||
		SchemeIn(all, gone.ID).ID != gone.ID || SchemeIn(all, "never heard of").Minimum != 12 {
		t.Errorf("offered %v, all %v", offered, all)
	}
	for want, s := range map[string]Scheme{"name": {Minimum: 1, Unique: ByCall},
		"minimum": {Name: "x", Minimum: -1, Unique: ByCall}, "unique": {Name: "x"}} {
		if bad := s.Check(); len(bad) != 1 || bad[0].Path != want {
			t.Errorf("%+v: %v", s, bad)
		}
	}
}

func TestAnOperatorStaysUntilItIsEnded(t *testing.T) {
	ctx := Context{Now: time.Date(2026, 5, 16, 14, 5, 0, 0, time.UTC), Region: band.Region(1)}
	c, bad := ParseLine("Q2TAV 599 579 40m CW %q5ab", ctx)
	if len(bad) > 0 || c.Operator != "Q5AB" {
		t.Fatalf("%+v %v", c, bad)
	}
	ctx.Band, ctx.Mode, ctx.Operator = c.Band, c.Mode, c.Operator
	for line, want := range map[string]string{"Q3TAV": "Q5AB", "Q3TAV %": "", "Q3TAV %Q6AB": "Q6AB"} {
		if c, bad = ParseLine(line, ctx); len(bad) > 0 || c.Operator != want {
			t.Errorf("%s: %q %v", line, c.Operator, bad)
		}
		bare := ctx
		bare.Band, bare.Mode, bare.Operator = "", "", ""
		if again, bad := ParseLine(Whole(line, c, ctx), bare); len(bad) > 0 || again.Operator != want {
			t.Errorf("%s alone: %q %v", Whole(line, c, ctx), again.Operator, bad)
		}
	}
	if _, bad := ParseLine("Q3TAV %59", ctx); len(bad) != 1 {
		t.Error("59 is taken as an operator")
	}
}
