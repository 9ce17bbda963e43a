package onair

import (
	"testing"
	"time"
)

func TestNotesAreReadAsTheyAreTyped(t *testing.T) {
	now := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	for _, x := range []struct {
		kind, band, text, path string
		value                  float64
		unit, says             string
	}{
		{"nothing-heard", "15m", "", "", 0, "", "nothing heard on 15 m"},
		{"noise", "40m", "S4", "", -103, "dBm", "noise floor on 40 m: S4, about -103 dBm"},
		{"noise", "40m", "s9+10 dB", "", -63, "dBm", "noise floor on 40 m: s9+10 dB, about -63 dBm"},
		{"noise", "40m", "-97,5 dBm", "", -97.5, "dBm", "noise floor on 40 m: -97,5 dBm"},
		{"noise", "40m", "loud", "text", 0, "", ""},
		{"noise", "40m", "12 dBm", "text", 0, "", ""},
		{"battery", "", "12.4 V", "", 12.4, "V", "battery: 12.4 V"},
		{"battery", "", "124", "text", 0, "", ""},
		{"rf-feedback", "20m", "", "", 0, "", "RF in microphone or computer on 20 m"},
		{"interference", "20m", "", "text", 0, "", ""},
		{"weather", "20m", "gusts", "", 0, "", "weather: gusts"},
		{"field-strength", "20m", "42 uA at the path", "", 42, "uA", "field strength on 20 m: 42 uA at the path"},
		{"nothing-heard", "", "", "band", 0, "", ""},
		{"dream", "20m", "", "kind", 0, "", ""},
		{"pair", "20m", "Q2TAV 579 59", "text", 0, "", ""},
		{"pair", "20m", "Q2TAV S7 -12", "text", 0, "", ""},
	} {
		n, faults := Note{Kind: x.kind, Band: x.band, Text: x.text, At: now}.Read(1, now)
		switch {
		case x.path != "":
			if len(faults) != 1 || faults[0].Path != x.path {
				t.Errorf("%s %q: %+v", x.kind, x.text, faults)
			}
		case len(faults) > 0:
			t.Errorf("%s %q: %+v", x.kind, x.text, faults)
		case x.unit != "" && (n.Value == nil || *n.Value != x.value || n.Unit != x.unit), x.unit == "" && n.Value != nil, n.Says() != x.says:
			t.Errorf("%s %q: %v %s, %q", x.kind, x.text, n.Value, n.Unit, n.Says())
		}
	}
	if _, faults := (Note{Kind: "weather", Text: "rain", At: now.Add(time.Hour)}).Read(1, now); len(faults) != 1 || faults[0].Path != "at" {
		t.Errorf("%+v", faults)
	}
}

func TestAPairOfReportsIsADifference(t *testing.T) {
	now := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	for text, want := range map[string]float64{"Q2TAV 579 559": 12, "q2tav 57 58": -6, "Q2TAV -12 -15": 3, "Q2TAV 5NN 579": 12} {
		n, faults := Note{Kind: "pair", Band: "40m", Text: text, At: now, DeploymentID: "a", OtherID: "b"}.Read(1, now)
		if len(faults) > 0 || *n.Value != want || n.Call != "Q2TAV" || n.Unit != "dB" {
			t.Errorf("%q: %+v %+v", text, n, faults)
		}
	}
	for _, text := range []string{"Q2TAV 579", "579 559", "Q2TAV 57 -12", "Q2TAV good better"} {
		if _, faults := (Note{Kind: "pair", Band: "40m", Text: text, At: now, DeploymentID: "a", OtherID: "b"}).Read(1, now); len(faults) != 1 {
			t.Errorf("%q: %+v", text, faults)
		}
	}
	if _, faults := (Note{Kind: "pair", Band: "40m", Text: "Q2TAV 579 559", At: now, DeploymentID: "a"}).Read(1, now); len(faults) != 1 {
		t.Error("a pair of one antenna is taken")
	}
}

func TestAPairIsOfSendingOrOfHearing(t *testing.T) {
	for text, want := range map[string]struct {
		db      float64
		hearing bool
	}{"Q2TAV 579 559": {12, false}, "Q2TAV 57 59": {-12, false}, "Q2TAV -12 -15": {3, false}, "Q2TAV S7 S5": {12, true},
		"q2tav S9+10 s9": {10, true}} {
		n, bad := Note{Kind: Pair, Band: "20m", Text: text, DeploymentID: "a", OtherID: "b", At: time.Unix(1, 0)}.Read(1, time.Unix(9, 0))
		if len(bad) > 0 || *n.Value != want.db || n.Hearing != want.hearing {
			t.Errorf("%s: %v %+v", text, bad, n)
		}
	}
}
