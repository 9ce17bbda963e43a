package standin

import (
	"strconv"
	"testing"
	"time"

	"reed/core/band"
	"reed/core/onair"
)

func TestTheBoardIsTheSameForAllAndChanges(t *testing.T) {
	b := Board{Seed: 3, Region: 1}
	now := time.Date(2026, 5, 16, 14, 7, 0, 0, time.UTC)
	list, again, later := b.Spots(now), b.Spots(now), b.Spots(now.Add(2*time.Hour))
	if len(list) < 5 || len(list) != len(again) || list[0] != again[0] || len(later) > 0 && later[0] == list[0] {
		t.Errorf("%+v", list)
	}
	for i, s := range list {
		mhz, err := strconv.ParseFloat(s.MHz, 64)
		if _, in := band.At(1, mhz*1e6); err != nil || !in || !onair.IsCall(s.Call) || s.At.After(now) || now.Sub(s.At) > time.Hour ||
			!s.Simulated ||
			i > 0 && s.At.After(list[i-1].At) {
			t.Errorf("%+v", s)
		}
	}
}
