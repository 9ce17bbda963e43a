package standin

import (
	"context"
	"math"
	"strings"
	"testing"
	"time"

	"reed/core/bulletin"
	"reed/core/place"
)

func TestBulletinsOfAYear(t *testing.T) {
	s, at := Bulletins{Seed: 7}, place.Point{Lat: 46.5, Lon: -12}
	thunder, stormy, windy := 0, 0, 0
	var summer, winter float64
	for d := range 365 {
		day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, d)
		w, _ := s.Weather(context.Background(), at, day)
		x, _ := s.Space(context.Background(), at, day)
		again, _ := s.Weather(context.Background(), at, day)
		if w.Write() != again.Write() || !w.Simulated || !x.Simulated {
			t.Fatalf("%s: not the same twice, or not marked", day)
		}
		// What is made up is read as any other bulletin, and keeps its mark.
		read, faults := bulletin.Read(w.Write() + "\n" + x.Write())
		if len(faults) > 0 || !read.Simulated || !strings.Contains(read.Write(), "K ") {
			t.Fatalf("%q: %v", w.Write(), faults)
		}
		if w.Thunders() {
			thunder++
		}
		if *x.K >= bulletin.Storm {
			stormy++
		}
		if *w.Gusts > 14 {
			windy++
		}
		if m := day.Month(); m == time.July {
			summer += *w.High / 31
		} else if m == time.January {
			winter += *w.High / 31
		}
	}
	if thunder < 15 || thunder > 70 || stormy < 10 || stormy > 60 || windy < 30 || windy > 200 || summer < winter+8 {
		t.Errorf("%d days of thunder, %d of magnetic storm, %d of strong gusts; %.1f C in July, %.1f in January", thunder, stormy, windy, summer,
			winter)
	}
}

func TestAFixIsWithinItsAccuracy(t *testing.T) {
	at := place.Point{Lat: 46.5, Lon: -12}
	far := 0
	for seed := range uint64(200) {
		p, within, simulated, _ := Position{Seed: seed, At: at}.Fix(context.Background())
		m := math.Hypot((p.Lat-at.Lat)*111195, (p.Lon-at.Lon)*111195*math.Cos(at.Lat*math.Pi/180))
		if m > 3*within+1 || !simulated {
			t.Errorf("%.1f m off", m)
		}
		if m > within {
			far++
		}
	}
	if far > 100 {
		t.Errorf("%d of 200 farther off than said", far)
	}
}
