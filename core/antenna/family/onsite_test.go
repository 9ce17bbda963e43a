package family

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

func TestWhatToMeasureOnTheSpot(t *testing.T) {
	m := quantity.Metres
	v := antenna.Shape{Family: "dipole", Variant: "inverted-v", FrequencyHz: 14.1e6}.With(antenna.Radiator, m(5)).With(antenna.LegB,
		m(5)).With(antenna.FeedHeight, m(6)).With(antenna.PoleHeight, m(6)).WithNumber(antenna.ApexAngle, 120)
	d, _ := Of(v).Layout()
	got := strings.Join(d.Onsite(false), "; ")
	// Legs of 5 m at 60 degrees from the pole end 2.5 m below the feed and 5 sin 60 away from it.
	if want := "2 times: wire's end 3.50 m up, " + quantity.Metric(5*math.Sin(math.Pi/3), 10) +
		" from under the feed point"; !strings.Contains(got, want) || !strings.HasPrefix(got, "feed point 6.00 m up") {
		t.Errorf("%s; want %s", got, want)
	}
	if strings.Contains(got, "pole's foot") {
		t.Errorf("the pole stands under the feed: %s", got)
	}
	// An end-fed wire over a pole bends there: only its far end is an end.
	e := antenna.Shape{Family: "end-fed", Variant: "inverted-v", FrequencyHz: 7.1e6}.With(antenna.Radiator, m(20)).With(antenna.FeedHeight,
		m(1)).With(antenna.FarHeight, m(2)).With(antenna.PoleHeight, m(7))
	d, _ = Of(e).Layout()
	got = strings.Join(d.Onsite(false), "; ")
	away := math.Sqrt(100-36) + math.Sqrt(100-25)
	if want := "wire's end 2.00 m up, " + quantity.Metric(away, 10); strings.Count(got, "wire's end") != 1 || !strings.Contains(got, want) ||
		!strings.Contains(got, "pole's foot 8.00 m") {
		t.Errorf("%s; want %s", got, want)
	}
	for _, f := range Families() {
		for _, x := range f.Variants {
			p := Design(antenna.Request{Shape: antenna.Shape{Family: f.ID, Variant: x.ID, FrequencyHz: 14.1e6}})
			for _, text := range p.Drawing.Onsite(true) {
				if strings.Contains(text, "NaN") || len(text) > 120 {
					t.Errorf("%s %s: %s", f.ID, x.ID, text)
				}
			}
		}
	}
}
