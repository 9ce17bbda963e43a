package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"
)

// inTurn are lines of two antennas that send in turn, A stronger by so much, on one band.
func inTurn(slots, receivers int, db float64, seed uint64) string {
	rng := rand.New(rand.NewPCG(seed, 4))
	var b strings.Builder
	begin := time.Date(2026, 5, 16, 10, 0, 0, 0, time.UTC)
	for i := range slots {
		at, letter, more := begin.Add(time.Duration(2*i)*time.Minute), "B", 0.0
		if (i+i/2)%2 == 0 {
			letter, more = "A", db
		}
		fmt.Fprintf(&b, `{"slot":%q,"seconds":110,"antenna":%q,"band":"20m","power_w":5}`+"\n", at.Format(time.RFC3339), letter)
		for r := range receivers {
			if y := -24 + 2*float64(r%5) + more + 4*rng.NormFloat64(); y > -28 {
				fmt.Fprintf(&b, `{"at":%q,"band":"20m","receiver":"Q%dRX/P","locator":"IN36ab","snr_db":%.0f}`+"\n",
					at.Add(110*time.Second).Format(time.RFC3339), r, y)
			}
		}
	}
	return b.String()
}

type weighed struct {
	Band      string
	A, B      string
	DB        *float64 `json:"difference_db"`
	Lo        *float64 `json:"lo_db"`
	Hi        *float64 `json:"hi_db"`
	P         *float64 `json:"test_p"`
	Receivers int
	SlotsA    int                 `json:"slots_a"`
	OnlyA     int                 `json:"only_a"`
	Minutes   map[string]*float64 `json:"minutes_to_settle"`
}

type weighing struct {
	Bands        []weighed
	All          weighed
	Sentence     string
	Uncontrolled []string
}

func TestSlotsAndReportsAreWeighed(t *testing.T) {
	var w weighing
	asked(t, "weigh", inTurn(40, 12, 4, 1), &w)
	if len(w.Bands) != 1 || w.All.DB == nil || math.Abs(*w.All.DB-4) > 1.5 || *w.All.Lo > 4 || *w.All.Hi < 4 || *w.All.P > 0.05 ||
		w.All.Receivers != 12 || w.All.SlotsA != 20 || w.Bands[0].Band != "20m" || len(w.All.Minutes) != 3 {
		t.Errorf("%+v", w)
	}
	if !strings.HasPrefix(w.Sentence, "A is ") {
		t.Error(w.Sentence)
	}
	// Turned round it says the same of the other.
	turned := strings.NewReplacer(`"A"`, `"B"`, `"B"`, `"A"`).Replace(inTurn(40, 12, 4, 1))
	var x weighing
	if asked(t, "weigh", turned, &x); math.Abs(*w.All.DB+*x.All.DB) > 1e-3 || math.Abs(*w.All.Lo+*x.All.Hi) > 1e-3 {
		t.Errorf("%+v, turned round %+v", w.All, x.All)
	}
	// The order of lines, blank ones and what is not known change nothing, or are said.
	lines := strings.Split(strings.TrimSpace(inTurn(40, 12, 4, 1)), "\n")
	rand.New(rand.NewPCG(2, 2)).Shuffle(len(lines), func(i, k int) { lines[i], lines[k] = lines[k], lines[i] })
	more := "\ufeff\n" + strings.Join(lines, "\r\n\n") + `
{"at":"2026-05-16T10:01:50Z","band":"40m","receiver":"Q1RX","snr_db":-14}
{"at":"2026-05-16T10:01:50Z","band":"20m","receiver":"Q1RX","snr_db":null,"mode":"WSPR"}`
	var y weighing
	if asked(t, "weigh", more, &y); *y.All.DB != *w.All.DB || *y.All.Hi != *w.All.Hi || len(y.Uncontrolled) != len(w.Uncontrolled)+2 {
		t.Errorf("%+v", y)
	}
}

func TestWhatIsTooLittleIsSaid(t *testing.T) {
	const one = `{"slot":"2026-05-16T10:00:00Z","seconds":110,"antenna":"A","band":"20m","power_w":5}`
	const two = `{"slot":"2026-05-16T10:02:00Z","antenna":"B","band":"20m"}`
	const heard = `{"at":"2026-05-16T10:00:10Z","band":"20m","receiver":"Q2RX","snr_db":-14}`
	for in, says := range map[string]string{one: "two antennas are needed", one + "\n" + two: "Nothing can be said yet",
		one + "\n" + two + "\n" + heard: "1 heard only A, 0 only B"} {
		var w weighing
		if asked(t, "weigh", in, &w); !strings.Contains(w.Sentence, says) || w.All.DB != nil {
			t.Errorf("%s: %+v", in, w)
		}
	}
	for in, says := range map[string]string{
		"": "no transmission", "{": "line 1", one + "\n{}": "line 2: slot or at", one + "\n" +
			`{"at":"ten","band":"20m","receiver":"Q1RX"}`: "line 2: at",
		`{"slot":"2026-05-16T10:00:00Z","band":"20m"}`: "antenna", `{"slot":"2026-05-16T10:00:00Z","antenna":"A"}`: "band",
		`{"slot":"2026-05-16T10:00:00Z","antenna":"A","band":"20m","power_w":-1}`:      "power_w",
		`{"slot":"2026-05-16T10:00:00Z","antenna":"A","band":"20m","seconds":0}`:       "seconds",
		`{"slot":"2026-05-16T10:00:00Z","antenna":7,"band":"20m"}`:                     "antenna",
		`{"at":"2026-05-16T10:00:00Z","band":"20m","receiver":"Q1RX","snr_db":"loud"}`: "snr_db",
		`{"at":"2026-05-16T10:00:00Z","band":"20m"}`:                                   "receiver",
	} {
		if code, _, errs := reed(t, "weigh", "-in", write(t, "lines.json", in)); code != 2 || !strings.Contains(errs, says) {
			t.Errorf("%s: %d %q, want %q", in, code, errs, says)
		}
	}
}
