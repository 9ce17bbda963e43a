package entry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"reed/core/quantity"
)

var form = []Field{
	{ID: "for", Label: "For", Kind: Frequencies, Must: true},
	{ID: "height", Label: "Height", Kind: Length, Max: 20},
	{ID: "wire", Label: "Wire", Kind: Size, Unit: "mm", Max: 0.01},
	{ID: "turns", Label: "Turns", Kind: Count, Unit: "turns", Max: 200},
	{ID: "q", Label: "Q", Kind: Amount, Max: 1000},
	{ID: "way", Label: "Way", Kind: Choice, Options: []Option{{"up", "up"}, {"down", "down"}}},
	{ID: "note", Label: "Note", Kind: Words},
}

func TestTextsAreReadByTheirKind(t *testing.T) {
	v, faults := Read(form, map[string]string{"for": "40m, 14.06 21060kHz", "height": "6", "wire": "0,8", "turns": "12", "q": "2,5",
		"way": "down", "note": " dry ", "stray": "x"}, "ft")
	if len(faults) != 0 {
		t.Fatal(faults)
	}
	if v.N("for", 0) != 7.1e6 || v.N("for.2", 0) != 14.06e6 || v.N("for.3", 0) != 21.06e6 {
		t.Errorf("frequencies %v", v.Numbers)
	}
	if math.Abs(v.M("height")-6*0.3048) > 1e-12 || math.Abs(v.M("wire")-0.0008) > 1e-12 {
		t.Errorf("lengths %v", v.Sizes)
	}
	if v.N("turns", 0) != 12 || v.N("q", 0) != 2.5 || v.W("way", "") != "down" || v.W("note", "") != "dry" {
		t.Errorf("values %+v", v)
	}
	if v.N("none", 7) != 7 || v.W("none", "x") != "x" || len(v.Words) != 2 {
		t.Errorf("what was not asked came in: %+v", v)
	}
}

func TestEveryBadTextIsAFaultAtItsFieldAndTheOthersStand(t *testing.T) {
	v, faults := Read(form, map[string]string{"height": "21 m", "wire": "20 mm", "turns": "2.5", "q": "many", "way": "left", "note": "kept"},
		"m")
	for _, id := range []string{"for", "height", "wire", "turns", "q", "way"} {
		found := false
		for _, f := range faults {
			found = found || f.Path == id && f.Severity == "error" && f.Text != ""
		}
		if !found {
			t.Errorf("nothing is said of %s: %v", id, faults)
		}
	}
	if v.W("note", "") != "kept" || len(faults) != 6 {
		t.Errorf("%+v %v", v, faults)
	}
}

func TestFrequenciesAsPeopleWriteThem(t *testing.T) {
	for text, want := range map[string][]float64{
		"7.1": {7.1e6}, "7,1 14,2": {7.1e6, 14.2e6}, "7.1/14.2": {7.1e6, 14.2e6}, "7032 kHz": {7.032e6}, "40m 20m": {7.1e6, 14.175e6},
		"7.1, 14.2": {7.1e6, 14.2e6}, "40 m": {7.1e6}, "7.1 7.1": {7.1e6}, "3.6;28.4": {3.6e6, 28.4e6},
	} {
		got, err := ParseFrequencies(text)
		if err != nil || len(got) != len(want) {
			t.Errorf("%q: %v %v", text, got, err)
			continue
		}
		for i := range got {
			if math.Abs(got[i]-want[i]) > 1 {
				t.Errorf("%q: %v, want %v", text, got, want)
			}
		}
	}
	for _, text := range []string{"", "forty", "41m", "7.1 volts", "1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17", "7.1 $"} {
		if got, err := ParseFrequencies(text); err == nil {
			t.Errorf("%q was read as %v", text, got)
		}
	}
}

func TestFormFilledAgainReadsTheSame(t *testing.T) {
	in := map[string]string{"for": "7.1 14.06", "height": `16' 6 1/2"`, "wire": "0.8 mm", "turns": "12", "q": "2.5", "way": "up", "note": "a"}
	v, _ := Read(form, in, "m")
	for _, units := range []quantity.System{quantity.SI, quantity.FeetInches} {
		for id, text := range Texts(form, v, units) {
			if text != in[id] {
				t.Errorf("%s: %q came back as %q", id, in[id], text)
			}
		}
	}
	v, _ = Read(form, map[string]string{"height": "5.03"}, "m")
	if got := Texts(form, v, true)["height"]; !strings.Contains(got, "'") {
		t.Errorf("a bare number in metres is shown as %q to who reads feet", got)
	}
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"7.1 14.2", "40m", "16' 6\"", "2,5", "up", "1e309", "٣", "7.1\x00", "--", "NaN"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		texts := map[string]string{}
		for _, x := range form {
			texts[x.ID] = text
		}
		v, _ := Read(form, texts, "m")
		for _, n := range v.Numbers {
			if math.IsNaN(n) || math.IsInf(n, 0) {
				t.Fatalf("%q was read as %v", text, n)
			}
		}
		again := Texts(form, v, false)
		_, faults := Read(form, again, "m")
		for _, fault := range faults {
			if again[fault.Path] != "" && strings.TrimSpace(text) != "" && !strings.Contains(fault.Text, "expected") {
				t.Fatalf("%q: %s was written again as %q, and refused: %s", text, fault.Path, again[fault.Path], fault.Text)
			}
		}
	})
}

func TestABareBandNameIsAskedAbout(t *testing.T) {
	f := []Field{{ID: "for", Kind: Frequencies, Sends: true}}
	for text, want := range map[string]struct{ offer, severity string }{
		"40/20": {"40m 20m", "error"}, "40 20": {"40m 20m", "error"}, "30": {"30m", "error"}, "7.1, 20": {"7.1 20m", "error"},
		"10 6m": {"10m 6m", "error"}, "40m/20m": {"", ""}, "7.1": {"", ""}, "7": {"", ""}, "14 21": {"", ""}, "5.36": {"", ""},
		"40 MHz": {"", "ask"}, "9.5": {"", "ask"}, "11": {"", "ask"},
	} {
		v, faults := Read(f, map[string]string{"for": text}, "m")
		got := Fault{}
		if len(faults) > 0 {
			got = faults[0]
		}
		if got.Offer != want.offer || got.Severity != want.severity {
			t.Errorf("%q: %+v", text, faults)
		}
		if want.offer == "" {
			continue
		}
		if len(v.Numbers) != 0 {
			t.Errorf("%q is taken as %v", text, v.Numbers)
		}
		if _, again := Read(f, map[string]string{"for": want.offer}, "m"); len(again) != 0 {
			t.Errorf("what is offered for %q is not taken: %v", text, again)
		}
	}
	// A cable's loss is looked up where one likes.
	f[0].Sends = false
	if v, faults := Read(f, map[string]string{"for": "10"}, "m"); len(faults) != 0 || v.Numbers["for"] != 10e6 {
		t.Errorf("%v %v", v, faults)
	}
}

func TestUpToSixteenFrequenciesAreTaken(t *testing.T) {
	var all []string
	for i := range 17 {
		all = append(all, fmt.Sprintf("%.3f", 3.5+1.37*float64(i)))
	}
	if hz, err := ParseFrequencies(strings.Join(all[:16], " ")); err != nil || len(hz) != 16 {
		t.Errorf("%d: %v", len(hz), err)
	}
	if _, err := ParseFrequencies(strings.Join(all, " ")); err == nil || err.Error() != "17 frequencies found; at most 16 are taken" {
		t.Error(err)
	}
}
