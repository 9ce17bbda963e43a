package standin

import (
	"context"
	"errors"
	"testing"
	"time"

	"reed/core/band"
	"reed/core/deployment"
)

func TestTheSimulatedRadioStandsInItsBand(t *testing.T) {
	now := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
	r := Radio{Region: 1, Watts: 5, Now: func() time.Time { return now }, Lookup: func(context.Context, string) (Analyser,
		deployment.Built, error) {
		return Analyser{}, deployment.Built{}, errors.New("no such revision")
	}}
	b, _ := band.Named(1, "40m")
	for _, mode := range []string{"CW", "SSB"} {
		s, err := r.State(context.Background(), "-/40m/"+mode)
		again, _ := r.State(context.Background(), "-/40m/"+mode)
		if err != nil || s.Hz < b.Lo || s.Hz > b.Hi || s.Mode != mode || s.Watts != 5 || s.SWR != 0 || s.DBm == nil || *s.DBm > -70 ||
			*s.DBm < -130 ||
			again.Hz != s.Hz {
			t.Errorf("%+v %v", s, err)
		}
	}
	for _, port := range []string{"", "x/40m/CW", "-/3m/CW"} {
		if _, err := r.State(context.Background(), port); err == nil {
			t.Errorf("%q is answered", port)
		}
	}
}
