package onair

import (
	"encoding/json"
	"testing"
	"time"
)

func TestAContactIsReadAsItIsTyped(t *testing.T) {
	read := func(text string) (Contact, []string) {
		var f ContactForm
		if err := json.Unmarshal([]byte(text), &f); err != nil {
			t.Fatal(err)
		}
		c, faults := f.Read()
		var paths []string
		for _, x := range faults {
			paths = append(paths, x.Path)
		}
		return c, paths
	}
	noon := time.Date(2026, 5, 16, 12, 7, 0, 0, time.UTC)
	for name, x := range map[string]struct {
		text    string
		at      time.Time
		seconds bool
		hz, w   float64
	}{
		"numbers and an instant": {`{"call":"Q2TAV","at":"2026-05-16T12:07:00Z","seconds":true,"freq_hz":7030000,"power_w":5}`,
			noon, true, 7.03e6, 5},
		"texts": {`{"at":"2026-05-16 12:07","seconds":true,"freq_hz":"7,03","power_w":"500 mW"}`, noon, false, 7.03e6, 0.5},
		"seconds that were typed": {`{"at":" 2026-05-16  12:07:09","seconds":false,"freq_hz":"7030 kHz"}`,
			noon.Add(9 * time.Second), true, 7.03e6,
			0},
		"nothing said": {`{"at":"2026-05-16 12:07","freq_hz":"","power_w":""}`, noon, false, 0, 0},
	} {
		if c, bad := read(x.text); len(bad) > 0 || !c.At.Equal(x.at) || c.Seconds != x.seconds || c.FreqHz != x.hz || c.PowerW != x.w {
			t.Errorf("%s: %+v, %v", name, c, bad)
		}
	}
	_, bad := read(`{"at":"noon","freq_hz":"seven","power_w":"much"}`)
	if len(bad) != 3 || bad[0] != "freq_hz" || bad[1] != "power_w" || bad[2] != "at" {
		t.Errorf("told at %v", bad)
	}
}
