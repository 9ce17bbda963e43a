package exchange

import (
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"

	"reed/core/place"
	"reed/core/scout"
	"reed/core/site"
)

func TestADayBecomesACalendar(t *testing.T) {
	p := scout.Purpose{Date: "2026-05-16", From: "09:00", Until: "15:00", MHz: []float64{14.06}, High: []string{"12:10"}}
	day := scout.Case{Purpose: p}.Day(place.Point{Lat: 46.5, Lon: -12}, site.Rules{Until: "14:30"}, 25)
	text := Calendar("x1", "Gannet Spit", "IN36", day, time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC))
	c, err := ics.ParseCalendar(strings.NewReader(string(text)))
	if err != nil {
		t.Fatal(err)
	}
	found := map[string]time.Time{}
	alarms := 0
	for _, e := range c.Events() {
		at, err := e.GetStartAt()
		if err != nil {
			t.Fatal(err)
		}
		found[e.GetProperty(ics.ComponentPropertySummary).Value] = at
		alarms += len(e.Alarms())
	}
	if at := found["Gannet Spit: high water"]; at.Hour() != 12 || at.Minute() != 10 {
		t.Errorf("%v", found)
	}
	// 25 minutes up are 15 down: it closes at 14:30.
	if at := found["Gannet Spit: begin to pack: the site closes"]; at.Format("15:04") != "14:15" || alarms != 1 {
		t.Errorf("%v, %d alarms", found, alarms)
	}
}
