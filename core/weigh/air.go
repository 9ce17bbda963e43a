package weigh

import (
	"math"
	"time"

	"reed/core/onair"
)

// Heard is a reception report with what of it is weighed. Receiver is the base call of the station at the other end: of what one heard
// oneself that is the sender, Own is set, and By is oneself. Of what others heard of others Others is set, and By is the sender. Distance
// and bearing of less than 0, a power of 0, and a strength that is no number are not known.
type Heard struct {
	At        time.Time
	Band      string
	Receiver  string
	SNR       float64
	PowerW    float64
	DistanceM float64
	Bearing   float64
	Seconds   bool // of At are known
	Simulated bool
	SetAside  bool
	Own       bool
	Others    bool
	By        string
}

// HeardOf returns the compared values of a report.
func HeardOf(r onair.Report) Heard {
	or := func(p *float64, unknown float64) float64 {
		if p == nil {
			return unknown
		}
		return *p
	}
	other, by := r.Receiver, ""
	switch {
	case r.Own:
		other, by = r.Sender, onair.BaseCall(r.Receiver)
	case r.Others:
		by = onair.BaseCall(r.Sender)
	}
	return Heard{At: r.At, Band: r.Band, Receiver: onair.BaseCall(other), By: by, Own: r.Own, Others: r.Others, SNR: or(r.SNR, math.NaN()),
		PowerW: or(r.PowerW, 0), DistanceM: or(r.DistanceM, -1), Bearing: or(r.Bearing, -1), Seconds: r.Seconds, Simulated: r.Simulated,
		SetAside: r.SetAside != ""}
}

// Reports holds the reports of a stretch of time, in the order of time. Who and on which bands stand once, each report names them by their
// places: a million of them are short, and hold nothing that has to be followed when memory is tidied.
type Reports struct {
	Bands []string
	Ears  []Ear
	Rows  []Brief
}

// Ear is the station at the other end by its base call, at its reported place; distance and bearing of less than 0 are not known. By is
// who heard it, where it was a sender, or who was heard, where that was another than oneself.
type Ear struct {
	Receiver           string
	DistanceM, Bearing float64
	By                 string
}

// Brief is a report among others: At in milliseconds since 1970, its receiver and its band by their places; the rest as of Heard.
type Brief struct {
	At          int64
	SNR, PowerW float64
	Ear         uint32
	Band        uint8
	Marks       Mark
}

// Mark is a flag of a report.
type Mark uint8

// What may be so: the seconds of its time are known, it was simulated, it does not count, it is of what one heard oneself, or of what
// others heard of others.
const (
	SecondsKnown Mark = 1 << iota
	Simulated
	Aside
	Own
	Others
)

// Is says whether a mark is on a report.
func (r *Brief) Is(m Mark) bool { return r.Marks&m != 0 }

// Marks are those of a report.
func (h *Heard) Marks() (m Mark) {
	for k, is := range [...]bool{h.Seconds, h.Simulated, h.SetAside, h.Own, h.Others} {
		if is {
			m |= 1 << k
		}
	}
	return m
}

// Time is when it was heard.
func (r *Brief) Time() time.Time { return time.UnixMilli(r.At).UTC() }

// Heard is a report with all that it names.
func (a *Reports) Heard(i int) Heard {
	r := &a.Rows[i]
	e := &a.Ears[r.Ear]
	return Heard{r.Time(), a.Bands[r.Band], e.Receiver, r.SNR, r.PowerW, e.DistanceM, e.Bearing, r.Is(SecondsKnown), r.Is(Simulated),
		r.Is(Aside), r.Is(Own), r.Is(Others), e.By}
}

// Stations are the senders of what others heard of others, with how many reports there are of each.
func (a *Reports) Stations() map[string]int {
	out := map[string]int{}
	for k := range a.Rows {
		if r := &a.Rows[k]; r.Is(Others) {
			out[a.Ears[r.Ear].By]++
		}
	}
	return out
}

// ReportsOf are a list of what was heard, in the order of time.
func ReportsOf(list []Heard) (a Reports) {
	bands, ears := map[string]uint8{}, map[Ear]uint32{}
	a.Rows = make([]Brief, len(list))
	for i, h := range list {
		b, ok := bands[h.Band]
		if !ok {
			b = uint8(len(a.Bands))
			bands[h.Band], a.Bands = b, append(a.Bands, h.Band)
		}
		e := Ear{h.Receiver, h.DistanceM, h.Bearing, h.By}
		k, ok := ears[e]
		if !ok {
			k = uint32(len(a.Ears))
			ears[e], a.Ears = k, append(a.Ears, e)
		}
		a.Rows[i] = Brief{h.At.UnixMilli(), h.SNR, h.PowerW, k, b, h.Marks()}
	}
	return a
}
