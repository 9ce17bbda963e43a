package clock

import (
	"testing"
	"time"
)

func at(text string) time.Time {
	t, err := time.Parse("2006-01-02 15:04", text)
	if err != nil {
		panic(err)
	}
	return t
}

func must(text string) Time {
	t, err := Parse(text)
	if err != nil {
		panic(err)
	}
	return t
}

func TestTimesOfDayAreParsed(t *testing.T) {
	for text, want := range map[string]Time{"00:00": 0, "08:30": 510, " 23:59 ": 1439} {
		if got, err := Parse(text); err != nil || got != want {
			t.Errorf("%q is %d, %v; want %d", text, got, err, want)
		}
	}
	for _, text := range []string{"", "24:00", "8.30", "12:60", "noon", "-1:00"} {
		if got, err := Parse(text); err == nil {
			t.Errorf("%q is read as %v", text, got)
		}
	}
	if got := must("07:05").String(); got != "07:05" {
		t.Errorf("printed as %s", got)
	}
}

func TestATimeIsPlacedBeforeAndAfterAMoment(t *testing.T) {
	for _, c := range []struct{ time, moment, from, until string }{
		{"00:30", "2026-05-16 20:00", "2026-05-17 00:30", "2026-05-16 00:30"},
		{"20:00", "2026-05-16 20:00", "2026-05-16 20:00", "2026-05-16 20:00"},
		{"19:59", "2026-05-31 20:00", "2026-06-01 19:59", "2026-05-31 19:59"},
		{"23:00", "2026-05-16 03:00", "2026-05-16 23:00", "2026-05-15 23:00"},
	} {
		if got := must(c.time).From(at(c.moment)); !got.Equal(at(c.from)) {
			t.Errorf("%s from %s is %s, want %s", c.time, c.moment, got, c.from)
		}
		if got := must(c.time).Until(at(c.moment)); !got.Equal(at(c.until)) {
			t.Errorf("%s until %s is %s, want %s", c.time, c.moment, got, c.until)
		}
	}
}

func TestASpanMayRunOverMidnight(t *testing.T) {
	night, day := Span{must("18:00"), must("06:00")}, Span{must("08:00"), must("20:00")}
	for _, c := range []struct {
		span        Span
		from, until string
		want        bool
	}{
		{night, "2026-05-16 20:00", "2026-05-17 03:00", true},
		{night, "2026-05-16 20:00", "2026-05-17 06:00", true},
		{night, "2026-05-16 20:00", "2026-05-17 06:01", false},
		{night, "2026-05-17 01:00", "2026-05-17 05:00", true},
		{night, "2026-05-16 17:59", "2026-05-16 21:00", false},
		{night, "2026-05-16 10:00", "2026-05-16 11:00", false},
		{day, "2026-05-16 08:00", "2026-05-16 20:00", true},
		{day, "2026-05-16 07:59", "2026-05-16 20:00", false},
		{day, "2026-05-16 19:00", "2026-05-17 09:00", false},
		{Span{must("12:00"), must("12:00")}, "2026-05-16 05:00", "2026-05-18 05:00", true},
	} {
		if got := c.span.Covers(at(c.from), at(c.until)); got != c.want {
			t.Errorf("%v to %v covers %s to %s: %v", c.span.From, c.span.Until, c.from, c.until, got)
		}
	}
	from, until, ok := night.Covering(at("2026-05-17 01:00"))
	if !ok || !from.Equal(at("2026-05-16 18:00")) || !until.Equal(at("2026-05-17 06:00")) {
		t.Errorf("the night at 01:00 lasts from %s to %s, %v", from, until, ok)
	}
}

func TestClocksMayDifferByTwoMinutes(t *testing.T) {
	now := at("2026-05-16 12:00")
	if InFuture(now.Add(2*time.Minute), now) || !InFuture(now.Add(2*time.Minute+time.Second), now) {
		t.Error("two minutes ahead are allowed, more are not")
	}
}
