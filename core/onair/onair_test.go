package onair

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"reed/core/place"
)

var now = time.Date(2026, 5, 16, 14, 32, 40, 0, time.UTC)

func context() Context {
	return Context{Now: now, Region: 1, Band: "40m", Mode: "SSB", PowerW: 10, OwnRef: "MI-0001", Deployment: "dep-a",
		Deployments: map[string]string{"A": "dep-a", "B": "dep-b"}}
}

func TestWholeLineIsRead(t *testing.T) {
	c, p := ParseLine("q2tav/p 59 57 @1410 14.285 ssb 5W ^IN46ab =mi-0003 +mi-0009 ~b &Ida_Maria ; strong; wind", context())
	if len(p) != 0 {
		t.Fatal(p)
	}
	want := Contact{At: time.Date(2026, 5, 16, 14, 10, 0, 0, time.UTC), Call: "Q2TAV/P", Band: "20m", FreqHz: 14.285e6, Mode: "SSB",
		Sent: "59", Received: "57",
		PowerW: 5, Locator: "IN46ab", OtherRef: "MI-0003", OwnRef: "MI-0009", Name: "Ida Maria", DeploymentID: "dep-b",
		Comment: "strong; wind", Line: c.Line}
	if fmt.Sprint(c) != fmt.Sprint(want) {
		t.Errorf("got  %+v\nwant %+v", c, want)
	}
}

func TestWhatIsNotTypedStays(t *testing.T) {
	c, p := ParseLine("Q2TAV", context())
	if len(p) != 0 || c.Band != "40m" || c.Mode != "SSB" || c.PowerW != 10 || c.DeploymentID != "dep-a" || c.OwnRef != "MI-0001" ||
		!c.At.Equal(now) || !c.Seconds {
		t.Errorf("%+v %v", c, p)
	}
	ctx := context()
	ctx.FreqHz = 7.09e6
	if c, _ := ParseLine("Q2TAV 20m FT4 -12 +03", ctx); c.FreqHz != 0 || c.Band != "20m" || c.Mode != "MFSK" || c.Submode != "FT4" ||
		c.Sent != "-12" || c.Received != "+03" {
		t.Errorf("a new band forgets the old frequency: %+v", c)
	}
	if c, _ := ParseLine("Q2TAV 599 5NN 7032k cw", ctx); c.FreqHz != 7.032e6 || c.Received != "5NN" || c.Mode != "CW" {
		t.Errorf("%+v", c)
	}
}

func TestAReportThatDoesNotGoWithTheModeIsAskedAbout(t *testing.T) {
	for _, x := range []struct {
		mode, line string
		asked      int
	}{
		{"CW", "Q2TAV 55 44", 2}, {"CW", "Q2TAV 599 559", 0}, {"CW", "Q2TAV 5NN 579", 0}, {"CW", "Q2TAV 59", 1}, {"CW", "Q2TAV 55 44 SSB", 0},
		{"CW", "Q2TAV 55 44 CW", 0},
		{"SSB", "Q2TAV 59 57", 0}, {"SSB", "Q2TAV 599", 1}, {"SSB", "Q2TAV 599 CW", 0}, {"SSB", "Q2TAV -12", 1}, {"FT8", "Q2TAV -12 +03", 0},
		{"FT8", "Q2TAV 59 59", 2},
		{"PSK", "Q2TAV 599 59", 0}, {"CW", "Q2TAV", 0},
	} {
		ctx := context()
		ctx.Mode = x.mode
		c, p := ParseLine(x.line, ctx)
		if len(p) != x.asked {
			t.Errorf("%s after %s: %v", x.line, x.mode, p)
		}
		for _, q := range p {
			if word := x.line[q.From:q.To]; word != c.Sent && word != c.Received {
				t.Errorf("%s: asked about %q", x.line, word)
			}
		}
	}
}

func TestTimesOfALine(t *testing.T) {
	for word, want := range map[string]string{
		"@1432": "2026-05-16 14:32:00", "@14:31:10": "2026-05-16 14:31:10", "@-5": "2026-05-16 14:27:00", "@2350": "2026-05-15 23:50:00",
		"@2026-05-14T09:05": "2026-05-14 09:05:00",
	} {
		c, p := ParseLine("Q2TAV "+word, context())
		if len(p) != 0 || c.At.Format(time.DateTime) != want {
			t.Errorf("%s is %s, %v; want %s", word, c.At.Format(time.DateTime), p, want)
		}
	}
}

func TestEachFaultIsSaidAtItsWord(t *testing.T) {
	for line, want := range map[string]string{
		"":                        "0-0 the call is missing",
		"hello 59":                `0-5 "hello" is not a call`,
		"Q2TAV 41m":               "6-9 \"41m\" is not a band",
		"Q2TAV 7.350":             "6-11 7.350 MHz is in no amateur band",
		"Q2TAV @2561":             "6-11 \"2561\" is not a time",
		"Q2TAV @2026-05-17T10:00": "23-23 the time 2026-05-17 10:00 lies in the future",
		"Q2TAV @2026-02-30T10:00": "2026-02-30 is not a date",
		"Q2TAV ~Z":                "6-8 \"Z\" is not an antenna",
		"Q2TAV #XX99zz":           "not a grid locator",
		"Q2TAV 59 57 55":          "12-14 more than two reports: \"55\"",
		"Q2TAV CW SSB":            "9-12 \"SSB\" is a mode for the second time",
		"Q2TAV 40m 14.06":         "14.060 MHz does not lie in 40m",
		"Q2TAV =MI-0003 =mi-0003": "MI-0003 is given twice",
		"Q2TAV !1 !2 !3":          "\"!3\" is no exchange",
		"Q2TAV @1200 @1201":       "a time for the second time",
		"Q2TAV = 59":              "a reference is missing",
		"Q2TAV spark":             "is not understood",
		strings.Repeat("Q", 1001): "more than 1000",
	} {
		_, p := ParseLine(line, context())
		if len(p) == 0 {
			t.Errorf("%q accepted", line)
			continue
		}
		if got := fmt.Sprintf("%d-%d %s", p[0].From, p[0].To, p[0].Text); !strings.Contains(got, want) {
			t.Errorf("%q: %s, want %s", line, got, want)
		}
	}
	bare := context()
	bare.Band = ""
	if _, p := ParseLine("Q2TAV 59", bare); len(p) != 1 || !strings.Contains(p[0].Text, "band is missing") {
		t.Errorf("without a band: %v", p)
	}
}

func TestCalls(t *testing.T) {
	for _, s := range []string{"Q2TAV", "Q7RUN/P", "Q1/Q2TAV", "Q1/Q2TAV/P", "QQ100A", "4Q2A"} {
		if !IsCall(s) {
			t.Errorf("%s is a call", s)
		}
	}
	for _, s := range []string{"", "Q2", "HELLO", "12345", "Q2TAV//P", "Q2 TAV", "Q2TAV/PORTABLE", "Ä2TAV"} {
		if IsCall(s) {
			t.Errorf("%s is not a call", s)
		}
	}
}

func log(n int, every time.Duration) []Contact {
	var out []Contact
	for i := range n {
		out = append(out, Contact{ID: fmt.Sprint(i), Call: fmt.Sprintf("Q%dAB", i), Band: "40m", Mode: "CW",
			At: now.Add(-time.Duration(n-i) * every)})
	}
	return out
}

func TestDuplicatesFollowTheScheme(t *testing.T) {
	a := Contact{ID: "a", Call: "Q2TAV", Band: "40m", Mode: "CW", At: now}
	band, mode, day, site, same := a, a, a, a, a
	band.ID, band.Band = "band", "20m"
	mode.ID, mode.Mode = "mode", "SSB"
	day.ID, day.At = "day", now.AddDate(0, 0, 1)
	site.ID, site.OtherRef = "site", "MI-0003"
	same.ID, same.Call = "same", "q2tav"
	got := SchemeIn(Schemes(), "ten-a-day").Duplicates([]Contact{a, band, mode, day, site, same})
	if len(got) != 1 || got["same"] != "a" {
		t.Errorf("by band, mode, day and site: %v", got)
	}
	if got := SchemeIn(Schemes(), "four-stations").Duplicates([]Contact{a, band, mode, day, site, same}); len(got) != 4 {
		t.Errorf("by station: %v", got)
	}
}

func TestCountToTheMinimum(t *testing.T) {
	s := SchemeIn(Schemes(), "ten-a-day")
	p := s.Count(log(6, 5*time.Minute), now)
	if p.Counted != 6 || p.Missing != 4 || math.Abs(p.PerHour-12) > 1e-9 || !p.ETA.Equal(now.Add(20*time.Minute)) {
		t.Errorf("%+v", p)
	}
	if p := s.Count(log(12, time.Minute), now); p.Missing != 0 || !strings.Contains(p.Sentence, "activation complete") {
		t.Errorf("%+v", p)
	}
	late := time.Date(2026, 5, 16, 23, 55, 0, 0, time.UTC)
	day := []Contact{{ID: "1", Call: "Q1A", At: late.Add(-20 * time.Minute)}, {ID: "2", Call: "Q2A", At: late.Add(-time.Minute)}}
	if p := s.Count(day, late); !strings.Contains(p.Sentence, "day ends first") {
		t.Errorf("%+v", p)
	}
	over := append(day, Contact{ID: "3", Call: "Q3A", At: late.Add(10 * time.Minute)})
	if p := s.Count(over, late.Add(11*time.Minute)); p.Counted != 1 || p.Day != "2026-05-17" {
		t.Errorf("the new UTC day starts at nothing: %+v", p)
	}
	if p := SchemeIn(Schemes(), "none").Count(nil, now); p.Missing != 0 {
		t.Errorf("%+v", p)
	}
}

func TestDistanceNeedsALocator(t *testing.T) {
	home := place.Point{Lat: 46.5, Lon: -12}
	if _, _, ok := (Contact{}).Distance(home); ok {
		t.Error("a distance without a locator")
	}
	if d, b, ok := (Contact{Locator: "IN56"}).Distance(home); !ok || d < 220e3 || d > 240e3 || b < 60 || b > 120 {
		t.Errorf("%v m at %v", d, b)
	}
	if _, _, ok := (Contact{Locator: "IN36ab12cd34"}).Distance(home); !ok {
		t.Error("a locator of 12 characters is read by its first ten")
	}
}

func FuzzParseLine(f *testing.F) {
	f.Add("Q2TAV 59 57 @1410 14.285 =MI-0003 ~B ; hi")
	f.Add("@ # = + ~")
	f.Fuzz(func(t *testing.T, line string) {
		c, p := ParseLine(line, context())
		if len(p) == 0 && (c.Call == "" || c.Band == "" || c.At.After(now.Add(3*time.Minute))) {
			t.Fatalf("%q accepted as %+v", line, c)
		}
		for _, x := range p {
			if x.From < 0 || x.To < x.From || x.To > utf8.RuneCountInString(line) && len(line) <= MaxLine && utf8.ValidString(line) {
				t.Fatalf("%q: problem outside the line: %+v", line, x)
			}
		}
	})
}

func TestBoundsOfACorrectionAtTheirEdges(t *testing.T) {
	good := Contact{Call: "Q2TAV", At: now, Band: "40m", Mode: "CW"}
	for name, c := range map[string]struct {
		change func(*Contact)
		path   string
		taken  bool
	}{
		"most power":           {func(c *Contact) { c.PowerW = 5000 }, "power_w", true},
		"more":                 {func(c *Contact) { c.PowerW = 5000.5 }, "power_w", false},
		"less than none":       {func(c *Contact) { c.PowerW = -0.1 }, "power_w", false},
		"a clock ahead":        {func(c *Contact) { c.At = now.Add(2 * time.Minute) }, "at", true},
		"the future":           {func(c *Contact) { c.At = now.Add(2*time.Minute + time.Second) }, "at", false},
		"the band's edge":      {func(c *Contact) { c.FreqHz = 7e6 }, "freq_hz", true},
		"another band":         {func(c *Contact) { c.FreqHz = 14.1e6 }, "freq_hz", false},
		"no frequency":         {func(c *Contact) { c.FreqHz = math.NaN() }, "freq_hz", false},
		"many fields":          {func(c *Contact) { c.Extra = make([]Field, 200) }, "extra", true},
		"too many":             {func(c *Contact) { c.Extra = make([]Field, 201) }, "extra", false},
		"a long field":         {func(c *Contact) { c.Extra = []Field{{Value: strings.Repeat("x", 20000)}} }, "extra", true},
		"one that is too long": {func(c *Contact) { c.Extra = []Field{{Value: strings.Repeat("x", 20001)}} }, "extra", false},
	} {
		x := good
		c.change(&x)
		refused := false
		for _, f := range x.Check(Contact{}, 1, now) {
			refused = refused || f.Path == c.path
		}
		if refused == c.taken {
			t.Errorf("%s is refused: %v", name, refused)
		}
	}
	if _, p := ParseLine("Q2TAV 5kW", context()); len(p) != 0 {
		t.Errorf("%v", p)
	}
	if _, p := ParseLine("Q2TAV 5.1kW", context()); len(p) != 1 {
		t.Error("more than 5 kW is logged")
	}
}

// Everything of a line is kept: several references on either side, and what was exchanged beside the reports.
func TestALineWithManyReferences(t *testing.T) {
	c, p := ParseLine("q2tav 599 579 =mi-0003 =MI-0009 +MI-0001 +mi-0002 !7 !23K wspr", context())
	if len(p) > 0 || c.OtherRef != "MI-0003,MI-0009" || c.OwnRef != "MI-0001,MI-0002" || c.Mode != "WSPR" {
		t.Fatalf("%v %+v", p, c)
	}
	if len(c.Extra) != 2 || c.Extra[0] != (Field{Name: "STX", Value: "7"}) || c.Extra[1] != (Field{Name: "SRX_STRING", Value: "23K"}) {
		t.Errorf("%+v", c.Extra)
	}
}

func TestTheLocatorsOldMarkIsStillRead(t *testing.T) {
	a, p := ParseLine("Q2TAV 59 57 40m SSB ^IN46", context())
	b, q := ParseLine("Q2TAV 59 57 40m SSB #IN46", context())
	if len(p)+len(q) > 0 || a.Locator != "IN46" || b.Locator != "IN46" {
		t.Errorf("%+v %+v %v %v", a, b, p, q)
	}
	if _, p := ParseLine("Q2TAV 40m SSB &", context()); len(p) != 1 || p[0].From != 14 {
		t.Errorf("%+v", p)
	}
	if _, p := ParseLine("Q2TAV 40m SSB &Ida &Tom", context()); len(p) != 1 {
		t.Errorf("%+v", p)
	}
}

func TestALineIsMadeWhole(t *testing.T) {
	for _, x := range []struct{ line, want string }{
		{"Q2TAV 59 57", "Q2TAV 59 57 40m SSB"}, {"Q2TAV 599 579 CW ; nice", "Q2TAV 599 579 CW 40m ; nice"},
		{"Q2TAV 59 57 14.285", "Q2TAV 59 57 14.285 SSB"}, {"Q2TAV 59 57 20m SSB", "Q2TAV 59 57 20m SSB"},
	} {
		ctx := context()
		ctx.Band, ctx.Mode, ctx.FreqHz, ctx.Submode = "40m", "SSB", 0, ""
		c, p := ParseLine(x.line, ctx)
		if got := Whole(x.line, c, ctx); len(p) > 0 || got != x.want {
			t.Errorf("%q is %q, want %q (%v)", x.line, got, x.want, p)
		}
		bare := ctx
		bare.Band, bare.Mode = "", ""
		if again, p := ParseLine(Whole(x.line, c, ctx), bare); len(p) > 0 || again.Band != c.Band || again.Mode != c.Mode ||
			again.Call != c.Call {
			t.Errorf("%q reads as %+v: %v", x.line, again, p)
		}
	}
}
