package deployment

import (
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/kit"
	"reed/core/quantity"
)

func TestTheClockCountsItsParts(t *testing.T) {
	day := time.Date(2026, 5, 16, 13, 0, 0, 0, time.UTC)
	at := func(minutes int) time.Time { return day.Add(time.Duration(minutes) * time.Minute) }
	c := Clock{Begun: at(0), Up: at(9), OnAir: at(21)}
	if got := c.Parts(); len(got) != 2 || got[0].Minutes != 9 || got[1].Name != "on air" || got[1].Minutes != 12 || c.Minutes() != 21 {
		t.Errorf("%+v, %d minutes", got, c.Minutes())
	}
	if (Clock{}).Minutes() != 0 || len((Clock{Begun: at(0)}).Parts()) != 0 {
		t.Error("a clock that was not begun, or has only begun, counts nothing")
	}
	for want, bad := range map[string]Clock{
		"up":     {Up: at(3)},
		"tuned":  {Begun: at(0), Up: at(9), Tuned: at(5)},
		"on_air": {Begun: at(0), OnAir: at(60 * 30)},
		"begun":  {Begun: at(60 * 24 * 10)},
	} {
		if path, text := bad.Check(at(60 * 48)); path != want || text == "" {
			t.Errorf("%+v: %q %q, want %s", bad, path, text, want)
		}
	}
	if path, _ := c.Check(at(22)); path != "" {
		t.Errorf("a sound clock is refused at %s", path)
	}
}

func TestARecipeIsLaidOutAsItWas(t *testing.T) {
	shape := antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.06e6}.With(antenna.Radiator,
		quantity.Metres(4.97)).With(antenna.LegB, quantity.Metres(4.97)).With(antenna.FeedHeight, quantity.Metres(6))
	r := Recipe{ID: "r", Name: "beach dipole", Plan: antenna.Request{Shape: shape, Ground: "sea"},
		Built: Built{Shape: shape, Confirmed: []string{"power-line"}, Wind: "fresh", Notes: "clip off", SetupMinutes: 12,
			Metal: []Metal{{What: "fence"}}}}
	b := r.Afresh()
	if b.Radiator().M != 4.97 || len(b.Confirmed) > 0 || b.Wind != "" || b.Notes != "" || b.SetupMinutes != 0 || len(b.Metal) > 0 {
		t.Errorf("%+v", b)
	}
	if d := r.LaidOut("d", "o", ""); d.Name != "beach dipole" || d.Recipe != "r" || d.Plan.Ground != "" || r.Plan.Ground != "sea" {
		t.Errorf("%+v", d)
	}
	if len(r.Built.Confirmed) != 1 {
		t.Error("the recipe itself was changed")
	}
}

func TestPartsOfTheBagAreRecordedAsTheyWere(t *testing.T) {
	choke := kit.Part{ID: "c", Kind: "choke", Name: "twelve turns"}
	choke.PutWord("impedance", "7:3000 14:1000")
	b := Built{Choke: Choke{Place: "feed"}}
	b.Parts = map[string]string{"choke": "c", "tuner": "c"}
	used := b.Use(map[string]kit.Part{"c": choke})
	if ohms, how := used.Own["choke"].Choke(10.5e6); how == "" || ohms != 2000 {
		t.Errorf("%v ohm", ohms)
	}
	if _, ok := used.Own["tuner"]; ok {
		t.Error("a choke was taken for a tuner")
	}
	// Out of the bag by now: the record stands. Another one chosen: it goes.
	if again := used.Use(nil); again.Own["choke"].Name != "twelve turns" {
		t.Error("the record was lost with the bag")
	}
	used.Parts = map[string]string{"choke": "other"}
	if again := used.Use(nil); again.Own != nil {
		t.Errorf("%+v", again.Own)
	}
}
