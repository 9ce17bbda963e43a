package bulletin

import (
	"math"
	"strings"
	"testing"
	"time"
)

func TestABulletinIsReadAsItIsPasted(t *testing.T) {
	b, faults := Read("Wind SW 22 km/h, gusts 45 km/h. Temperature 12 to 19 °C. Rain 60 %.\nThunderstorms likely;" +
		" lightning at 14:20 UTC, 12 km off\n" +
		"lightning 13:05 9 s. SFI 142; SSN 95, K-index 4")
	if len(faults) > 0 {
		t.Fatalf("%+v", faults)
	}
	for name, x := range map[string]struct {
		got  *float64
		want float64
	}{"wind": {b.Wind, 22 / 3.6}, "gusts": {b.Gusts, 12.5}, "low": {b.Low, 12}, "high": {b.High, 19}, "rain": {b.Rain, 0.6},
		"thunder": {b.Thunder, 0.7}, "flux": {b.Flux, 142}, "sunspots": {b.Sunspots, 95}, "K": {b.K, 4}} {
		if x.got == nil || math.Abs(*x.got-x.want) > 1e-9 {
			t.Errorf("%s: %v, want %v", name, x.got, x.want)
		}
	}
	if len(b.Flashes) != 2 || b.Flashes[0] != (Flash{"14:20", 12}) || b.Flashes[1] != (Flash{"13:05", 3}) {
		t.Errorf("%+v", b.Flashes)
	}
	if b.Simulated {
		t.Error("a real one is called simulated")
	}
}

func TestOtherUnits(t *testing.T) {
	b, faults := Read("wind 10 kn gusts 20 mph; 50 to 68 F; lightning 9:05 5 miles; -3,5 C")
	if len(faults) > 0 || math.Abs(*b.Wind-5.1444) > 1e-3 || math.Abs(*b.Gusts-8.9408) > 1e-6 || math.Abs(b.Flashes[0].KM-8.04672) > 1e-9 ||
		b.Flashes[0].At != "09:05" || *b.Low != -3.5 {
		t.Errorf("%+v %v", b, faults)
	}
}

func TestWhatIsNotUnderstoodIsSaidAndWhatCannotBeRefused(t *testing.T) {
	for text, want := range map[string]string{"sea state moderate": "ask", "K 12": "error", "lightning 25:10 3 km": "error",
		"wind 400 m/s": "error",
		"rain 140 %":   "error", "flux 12": "error", "": "", "wind 6 m/s": ""} {
		_, faults := Read(text)
		switch {
		case want == "" && len(faults) > 0, want != "" && (len(faults) != 1 || faults[0].Severity != want || faults[0].Path != Field):
			t.Errorf("%q: %+v", text, faults)
		case want == "ask" && !strings.Contains(faults[0].Text, text):
			t.Errorf("%q is not told: %s", text, faults[0].Text)
		}
	}
}

// The rule is 30 minutes after the last flash within reach: one farther off keeps nothing down.
func TestTheThirtyMinuteRuleJustWithinAndBeyondReach(t *testing.T) {
	midnight := time.Date(2026, 5, 17, 0, 0, 0, 0, time.UTC)
	at := func(text string) string {
		b, _ := Read(text)
		if t, _, ok := b.Clear(midnight); ok {
			return t.Format("2006-01-02 15:04")
		}
		return "clear"
	}
	for text, want := range map[string]string{"lightning 14:20 10 km": "2026-05-16 14:50", "lightning 14:20 10.1 km": "clear",
		"lightning 14:20 3 km; lightning 13:00 1 km; lightning 15:00 40 km": "2026-05-16 14:50", "thunderstorms likely": "clear",
		"lightning 23:45 2 km": "2026-05-17 00:15"} {
		if got := at(text); got != want {
			t.Errorf("%q: %s, want %s", text, got, want)
		}
	}
	if b, _ := Read("thunderstorms 29 %"); b.Thunders() {
		t.Error("29 % is reckoned with")
	}
	if b, _ := Read("thunderstorms 30 %"); !b.Thunders() {
		t.Error("30 % is not reckoned with")
	}
}

func TestGustsCountBeforeWindAndSpotsBeforeFlux(t *testing.T) {
	b, _ := Read("wind 5 m/s, gusts 9 m/s, flux 136.5")
	if v, ok := b.Blows(); !ok || v != 9 {
		t.Errorf("%v", v)
	}
	// 63.7 + 0.728*90 + 0.00089*8100 = 136.43
	if n, ok := b.Spots(); !ok || math.Abs(n-90) > 0.3 {
		t.Errorf("%v", n)
	}
	if _, ok := (Bulletin{}).Blows(); ok {
		t.Error("wind of nothing")
	}
}

func FuzzBulletin(f *testing.F) {
	for _, s := range []string{"simulated; wind 6 m/s gusts 11 m/s; 12 to 19 C", "lightning 14:20, 12 km", "K 4. SFI 142",
		"thunder 13:00 2 s, rain 5 %"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		b, faults := Read(text)
		for _, x := range faults {
			if x.Severity == "error" {
				return
			}
		}
		again, faults := Read(b.Write())
		if len(faults) > 0 || again.Write() != b.Write() {
			t.Errorf("%q is written %q and reads as %q: %v", text, b.Write(), again.Write(), faults)
		}
	})
}
