package weigh

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"reed/core/onair"
	"reed/core/place"
)

// Filter says which slots and receivers count; what is zero does not matter.
type Filter struct {
	Bands        []string
	FromHour     float64 // of the UTC day; where Until lies before From it goes over midnight
	UntilHour    float64
	LeastKm      float64
	MostKm       float64
	Toward       *float64 // degrees, with Within to each side, or Sector
	Within       float64
	Receiver     string
	LeastW       float64
	MostW        float64
	ExcludeReal  bool
	ExcludeDrawn bool // what was simulated
}

// Sector is how far to each side of a direction a receiver may lie, in degrees.
const Sector = 45.0

// Check says what of a filter cannot be.
func (f Filter) Check() (path, why string) {
	switch {
	case f.FromHour < 0 || f.FromHour > 24 || f.UntilHour < 0 || f.UntilHour > 24:
		return "from_hour", "hours of a UTC day are 0 to 24"
	case f.LeastKm < 0 || f.MostKm < 0 || f.MostKm > 0 && f.MostKm <= f.LeastKm:
		return "most_km", fmt.Sprintf("no receiver lies between %.0f and %.0f km", f.LeastKm, f.MostKm)
	case f.Toward != nil && !(*f.Toward >= 0 && *f.Toward <= 360):
		return "toward", "a direction is 0 to 360 degrees"
	}
	return "", ""
}

// Lets says whether what was heard of a slot of a run counts.
func (f Filter) Lets(run onair.Run, slot onair.PlannedSlot, h Heard) bool {
	f, watts := f.forRun(run)
	return whose(run.Listen, onair.BaseCall(run.Call), h.Own, h.Others, h.By) && f.slot(slot.At, slot.Band, watts) &&
		f.made(h.Simulated) && f.ear(Ear{h.Receiver, h.DistanceM, h.Bearing, h.By})
}

// whose says whether a report is of what a station sent, or of what it heard itself where it listened; a call that is not known is any.
func whose(listened bool, call string, own, others bool, by string) bool {
	return !others && own == listened && (!own || call == "" || by == call)
}

// forRun returns the filter for a run and the power that it was sent with. Where the run listened, the power is that of others, and is
// not filtered by.
func (f Filter) forRun(run onair.Run) (Filter, float64) {
	if run.Listen {
		f.LeastW, f.MostW = 0, 0
		return f, 0
	}
	return f, run.PowerW
}

// made says whether what was really heard, or what was simulated, counts.
func (f Filter) made(simulated bool) bool {
	return simulated && !f.ExcludeDrawn || !simulated && !f.ExcludeReal
}

func (f Filter) slot(at time.Time, band string, watts float64) bool {
	if len(f.Bands) > 0 && !slices.Contains(f.Bands, band) || f.LeastW > 0 && watts < f.LeastW || f.MostW > 0 && watts > f.MostW {
		return false
	}
	if f.FromHour == 0 && (f.UntilHour == 0 || f.UntilHour == 24) {
		return true
	}
	at = at.UTC()
	h, until := float64(at.Hour())+float64(at.Minute())/60, cmp.Or(f.UntilHour, 24)
	if f.FromHour <= until {
		return h >= f.FromHour && h < until
	}
	return h >= f.FromHour || h < until
}

func (f Filter) ear(e Ear) bool {
	if f.Receiver != "" && e.Receiver != onair.BaseCall(f.Receiver) {
		return false
	}
	if km := e.DistanceM / 1000; (f.LeastKm > 0 || f.MostKm > 0) && (e.DistanceM < 0 || km < f.LeastKm || f.MostKm > 0 && km > f.MostKm) {
		return false
	}
	return f.Toward == nil || e.Bearing >= 0 && place.Apart(e.Bearing, *f.Toward) <= cmp.Or(f.Within, Sector)
}
