package onair

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"reed/core/place"
)

// Report is one reception report: who heard whom, when and how strong. What is unknown is nil or empty, never zero.
type Report struct {
	ID            string    `json:"id,omitempty"`
	OutingID      string    `json:"outing_id,omitempty"`
	DeploymentID  string    `json:"deployment_id,omitempty"`
	At            time.Time `json:"at"`
	Seconds       bool      `json:"seconds"` // the seconds of At are known
	Sender        string    `json:"sender"`
	SenderLocator string    `json:"sender_locator,omitempty"`
	Receiver      string    `json:"receiver"`
	Locator       string    `json:"locator"` // of the receiver
	FreqHz        *float64  `json:"freq_hz"`
	Band          string    `json:"band,omitempty"`
	Mode          string    `json:"mode"`
	SNR           *float64  `json:"snr_db"` // over the noise in 2500 Hz, as decoders count
	PowerW        *float64  `json:"power_w"`
	DistanceM     *float64  `json:"distance_m"`
	Bearing       *float64  `json:"bearing,omitempty"` // from one's own place to the other station, degrees
	Extra         []Field   `json:"extra,omitempty"`
	Marks         []string  `json:"marks,omitempty"`
	Batch         string    `json:"batch,omitempty"`
	Simulated     bool      `json:"simulated,omitempty"`
	// Own says that it is of what one heard oneself: the receiver is one's own station, and the sender another.
	Own bool `json:"own,omitempty"`
	// Others says that neither end is oneself: it is kept for what the band did, as a reference.
	Others bool `json:"others,omitempty"`
	// SetAside is why a report does not count in a comparison, empty for one that does.
	SetAside string `json:"set_aside,omitempty"`
}

// BaseCall is a call without what is written before or behind it for the place: the longest part of its strokes that is a call.
func BaseCall(call string) string {
	call = strings.ToUpper(strings.TrimSpace(call))
	best := ""
	for part := range strings.SplitSeq(call, "/") {
		if IsCall(part) && len(part) > len(best) {
			best = part
		}
	}
	if best == "" {
		return call
	}
	return best
}

// slots are how long a mode sends in one piece, beginning at whole multiples of it in the UTC hour.
var slots = map[string]time.Duration{"WSPR": 2 * time.Minute, "FST4W": 2 * time.Minute, "FST4": time.Minute, "JT65": time.Minute,
	"JT9": time.Minute, "JT4": time.Minute, "Q65": time.Minute, "FT8": 15 * time.Second, "FT4": 7500 * time.Millisecond,
	"JS8": 15 * time.Second, "MSK144": 15 * time.Second}

// Slot is how long a mode sends in one piece; ok is false where it keeps no time.
func Slot(mode string) (d time.Duration, ok bool) {
	d, ok = slots[strings.ToUpper(mode)]
	return d, ok
}

// Within is how far apart in time two reports of one transmission may stand: half a slot, since some are stamped at its
// beginning and some from its end; half a minute where the mode keeps no time.
func Within(mode string) time.Duration {
	if d, ok := Slot(mode); ok {
		return d / 2
	}
	return 30 * time.Second
}

// SameAs reports whether two reports are of one transmission at one receiver, in whatever list they stand.
func (r Report) SameAs(o Report) bool {
	if BaseCall(r.Sender) != BaseCall(o.Sender) || BaseCall(r.Receiver) != BaseCall(o.Receiver) || !strings.EqualFold(r.Mode, o.Mode) {
		return false
	}
	if r.FreqHz != nil && o.FreqHz != nil {
		if math.Abs(*r.FreqHz-*o.FreqHz) > 500 && r.Band == o.Band || r.Band != o.Band {
			return false
		}
	} else if r.Band != "" && o.Band != "" && r.Band != o.Band {
		return false
	}
	within := Within(r.Mode)
	if !r.Seconds || !o.Seconds {
		within = max(within, time.Minute-time.Nanosecond)
	}
	return r.At.Sub(o.At).Abs() <= within
}

// Far fills the bearing, and the distance in metres where none was given, where both locators are known, or the other station's and one's
// own place.
func (r *Report) Far(home *place.Point) {
	own, other := r.SenderLocator, r.Locator
	switch {
	case r.Own:
		own, other = other, own
	case r.Others: // where the sender is does not matter
		own = ""
	}
	if other == "" {
		return
	}
	to, err := place.ParseLocator(even(other))
	if err != nil {
		return
	}
	from := place.Point{}
	switch at, err := place.ParseLocator(even(own)); {
	case own != "" && err == nil:
		from = at
	case home != nil:
		from = *home
	default:
		return
	}
	b := place.Bearing(from, to)
	r.Bearing = &b
	if r.DistanceM == nil {
		d := place.Distance(from, to)
		r.DistanceM = &d
	}
}

// even is a locator cut to a length that can be read.
func even(locator string) string {
	n := min(len(locator)/2*2, 10)
	return locator[:n]
}

// ClockOff is by how much most of some reports stand off the beginnings of their slots: a clock that is wrong, or one that is
// stamped at the slot's end. ok is false where fewer than most agree within a few seconds, or it is nothing to speak of.
func ClockOff(reports []Report) (off time.Duration, ok bool) {
	const (
		least   = 3
		agree   = 3 * time.Second
		nothing = 4 * time.Second
	)
	var offs []time.Duration
	for _, r := range reports {
		slot, timed := Slot(r.Mode)
		if !timed || !r.Seconds || slot < time.Minute {
			continue // shorter ones wrap round too soon to say
		}
		d := time.Duration(r.At.UnixNano()) % slot
		if d > slot/2 {
			d -= slot
		}
		offs = append(offs, d)
	}
	if len(offs) < least {
		return 0, false
	}
	slices.Sort(offs)
	off = offs[len(offs)/2]
	near := 0
	for _, d := range offs {
		if (d - off).Abs() <= agree {
			near++
		}
	}
	return off, near*10 >= len(offs)*8 && off.Abs() >= nothing
}

// At is the middle of a locator's square; ok is false where it cannot be read.
func At(locator string) (p place.Point, ok bool) {
	if len(locator) < 4 {
		return p, false
	}
	p, err := place.ParseLocator(even(locator))
	return p, err == nil
}

// Heard sums up who heard one.
type Heard struct {
	receivers map[string]bool
	reports   int
	far       float64
	by        string
	simulated bool
}

// Add adds what one receiver heard, so many reports, so many metres away where that is known.
func (h *Heard) Add(receiver string, reports int, distance *float64, simulated bool) {
	if h.receivers == nil {
		h.receivers = map[string]bool{}
	}
	h.receivers[receiver] = true
	h.reports += reports
	h.simulated = h.simulated || simulated
	if distance != nil && *distance > h.far {
		h.far, h.by = *distance, receiver
	}
}

// Says is the sum in a sentence.
func (h *Heard) Says() string {
	if h.reports == 0 {
		return "No reception reports yet."
	}
	out := fmt.Sprintf("%d receivers heard you, in %d reports", len(h.receivers), h.reports)
	if h.by != "" {
		out += fmt.Sprintf("; the farthest is %s at %.0f km", h.by, h.far/1000)
	}
	if h.simulated {
		return out + ". Some of it is simulated."
	}
	return out + "."
}
