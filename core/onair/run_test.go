package onair

import (
	"fmt"
	"testing"
	"time"
)

func aRun(guard, minutes int) Run {
	r := Run{ID: "x", Begin: time.Date(2026, 5, 16, 14, 0, 30, 0, time.UTC), Mode: "WSPR", PowerW: 0.2, Minutes: minutes, Guard: guard,
		Bands: []string{"20m", "40m"}, Aerials: []Aerial{{Letter: "A"}, {Letter: "B"}, {Letter: "C"}}, Seed: 11}
	r.Slots = r.Schedule()
	return r
}

func TestAScheduleIsFair(t *testing.T) {
	r := aRun(0, 120)
	count, first, changes := map[string]int{}, map[string]int{}, 0
	for i, s := range r.Slots {
		count[s.Band+s.Letter]++
		if i%3 == 0 {
			first[s.Letter]++
		}
		if i > 0 && r.Slots[i-1].Band != s.Band {
			changes++
		}
		if s.At.Minute()%2 != 0 || s.At.Second() != 0 || s.At.Before(r.Begin) {
			t.Errorf("slot %d begins at %s", i, s.At)
		}
		if i > 0 && s.At.Sub(r.Slots[i-1].At) != 2*time.Minute {
			t.Errorf("slot %d comes %s after the one before", i, s.At.Sub(r.Slots[i-1].At))
		}
	}
	if len(count) != 6 || len(r.Slots) != 60 {
		t.Errorf("%d slots, %v", len(r.Slots), count)
	}
	for k, n := range count {
		if n != 10 {
			t.Errorf("%s is sent %d times", k, n)
		}
	}
	// Each order is turned round in the next block: over two blocks of a band each antenna stands first as often as last.
	for b := 0; b+12 <= len(r.Slots); b += 12 {
		for _, band := range r.Bands {
			sum := map[string]int{}
			place := map[int]int{}
			for i, s := range r.Slots[b : b+12] {
				if s.Band == band {
					sum[s.Letter] += place[i/6]
					place[i/6]++
				}
			}
			for letter, n := range sum {
				if n != 2 {
					t.Errorf("block %d, %s: %s stands at %d", b/12, band, letter, n)
				}
			}
		}
	}
	if changes >= 20 {
		t.Errorf("the band is changed %d times in 10 blocks", changes)
	}
	if fmt.Sprint(aRun(0, 120).Slots) != fmt.Sprint(r.Slots) {
		t.Error("the same seed is another schedule")
	}
}

func TestGuardTimeIsKeptInWholeSlots(t *testing.T) {
	r := aRun(20, 120)
	if r.Length() != 4*time.Minute || r.Slots[1].At.Sub(r.Slots[0].At) != 4*time.Minute || r.Slots[0].At.Sub(r.Begin) < 20*time.Second {
		t.Errorf("%s, %s", r.Length(), r.Slots[0].At)
	}
	if n := len(aRun(0, 11).Slots); n != 0 { // twelve minutes for each once
		t.Errorf("%d slots in eleven minutes", n)
	}
}

func TestWhatARunCannotBe(t *testing.T) {
	for path, change := range map[string]func(*Run){
		"aerials": func(r *Run) { r.Aerials = r.Aerials[:1] }, "bands": func(r *Run) { r.Bands = []string{"3m"} },
		"minutes": func(r *Run) { r.Minutes = 11 }, "guard_s": func(r *Run) { r.Guard = 700 }, "mode": func(r *Run) { r.Mode = "SMOKE" },
		"power_w": func(r *Run) { r.PowerW = 0 }, "begin": func(r *Run) { r.Begin = time.Time{} },
	} {
		r := aRun(0, 60)
		if f := r.Check(1); len(f) > 0 {
			t.Fatal(f)
		}
		change(&r)
		if f := r.Check(1); len(f) != 1 || f[0].Path != path {
			t.Errorf("%s: %+v", path, f)
		}
	}
}

func TestReportsAreMatchedToSlotsByTime(t *testing.T) {
	r := aRun(0, 60)
	s := r.Slots[4]
	for off, want := range map[time.Duration]bool{0: true, 110 * time.Second: true, -50 * time.Second: true} {
		if got, ok := r.SlotOf(s.At.Add(off), s.Band, 0); ok != want || got.Letter != s.Letter && off == 0 {
			t.Errorf("%s off: %+v %v", off, got, ok)
		}
	}
	if got, ok := r.SlotOf(s.At.Add(100*time.Second), s.Band, 100*time.Second); !ok || !got.At.Equal(s.At) {
		t.Errorf("%+v %v", got, ok)
	}
	if _, ok := r.SlotOf(s.At, "10m", 0); ok {
		t.Error("a report of another band is matched")
	}
	r.Slots[4].Sent = Silent
	if _, ok := r.SlotOf(s.At, s.Band, 0); ok {
		t.Error("a slot in which nothing was sent was heard")
	}
	r.Slots[4].Sent = "C"
	if got, ok := r.SlotOf(s.At, s.Band, 0); !ok || got.By() != "C" {
		t.Errorf("%+v", got)
	}
	if sending, next := r.Now(r.Slots[2].At.Add(time.Minute)); sending == nil || !sending.At.Equal(r.Slots[2].At) ||
		!next.At.Equal(r.Slots[3].At) {
		t.Errorf("%+v %+v", sending, next)
	}
}

func TestOneTransmissionIsOneReport(t *testing.T) {
	f := 14.0971e6
	g := f + 20
	at := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	a := Report{At: at, Seconds: true, Sender: "Q1REED/P", Receiver: "Q5ABC", FreqHz: &f, Band: "20m", Mode: "WSPR"}
	for name, x := range map[string]struct {
		change func(*Report)
		same   bool
	}{
		"as it is": {func(*Report) {}, true}, "without suffix": {func(r *Report) { r.Sender = "Q1REED" }, true},
		"later in the slot": {func(r *Report) { r.At = at.Add(time.Minute) }, true},
		"the next slot":     {func(r *Report) { r.At = at.Add(2 * time.Minute) }, false},
		"a few hertz off":   {func(r *Report) { r.FreqHz = &g }, true}, "without a frequency": {func(r *Report) { r.FreqHz = nil }, true},
		"another band":     {func(r *Report) { r.Band, r.FreqHz = "40m", nil }, false},
		"another receiver": {func(r *Report) { r.Receiver = "Q6DEF" }, false},
		"another mode":     {func(r *Report) { r.Mode = "FT8" }, false},
	} {
		b := a
		x.change(&b)
		if a.SameAs(b) != x.same || b.SameAs(a) != x.same {
			t.Errorf("%s: %v", name, !x.same)
		}
	}
}
