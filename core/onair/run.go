package onair

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/entry"
)

// Aerial is an antenna of a beacon run: a deployment, or one of its revisions, under a letter.
type Aerial struct {
	Letter       string `json:"letter"`
	DeploymentID string `json:"deployment_id"`
	Revision     int    `json:"revision,omitempty"` // 0 for the newest
	Name         string `json:"name"`
}

// Run is an alternation of antennas on bands by the clock, so that both are heard by the same receivers, or hear the same stations, under
// the same sky.
type Run struct {
	ID       string        `json:"id"`
	OutingID string        `json:"outing_id"`
	Begin    time.Time     `json:"begin"`
	Mode     string        `json:"mode"`
	PowerW   float64       `json:"power_w"`
	Minutes  int           `json:"minutes"`
	Guard    int           `json:"guard_s"` // seconds for switching, kept silent before each slot
	Bands    []string      `json:"bands"`
	Aerials  []Aerial      `json:"aerials"`
	Seed     int64         `json:"seed"`
	Slots    []PlannedSlot `json:"slots"`
	Call     string        `json:"call,omitempty"` // of who sent it: another notebook may bring it
	Version  int           `json:"version"`
	Deleted  bool          `json:"deleted,omitempty"`
	// Listen says that nothing is sent in the slots: they are listened in, with one antenna after the other.
	Listen bool `json:"listen,omitempty"`
}

// PlannedSlot is one transmission, or one turn of listening. Sent is the letter of what was really connected, as corrected afterwards: that
// of the plan where it is empty, and Silent where nothing was.
type PlannedSlot struct {
	At     time.Time `json:"at"`
	Band   string    `json:"band"`
	Letter string    `json:"letter"`
	Sent   string    `json:"sent,omitempty"`
}

// Silent says that nothing was sent in a slot.
const Silent = "-"

// By is the letter of what sent, empty where nothing did.
func (s PlannedSlot) By() string {
	switch s.Sent {
	case Silent:
		return ""
	case "":
		return s.Letter
	}
	return s.Sent
}

// Bounds of a run.
const (
	leastAerials, mostAerials = 2, 4
	mostRunBands              = 6
	mostRunMinutes            = 24 * 60
	mostGuard                 = 600
)

// Length is how long a slot of the run is on the clock, its guard time in it: whole slots of the mode.
func (r Run) Length() time.Duration {
	slot, ok := Slot(r.Mode)
	if !ok {
		slot = time.Minute
	}
	slot = max(slot, time.Minute)
	n := time.Duration(1)
	for ; n*slot < slot+time.Duration(r.Guard)*time.Second; n++ {
	}
	return n * slot
}

// Check says what of a run cannot be, by field.
func (r Run) Check(region band.Region) (out []entry.Fault) {
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	if n := len(r.Aerials); n < leastAerials || n > mostAerials {
		bad("aerials", "choose %d to %d antennas to take turns with; %d are chosen", leastAerials, mostAerials, n)
	}
	letters := map[string]bool{}
	for _, a := range r.Aerials {
		if a.Letter == "" || a.Letter == Silent || letters[a.Letter] {
			bad("aerials", "each antenna needs a letter of its own")
			break
		}
		letters[a.Letter] = true
	}
	if n := len(r.Bands); n < 1 || n > mostRunBands {
		bad("bands", "choose 1 to %d bands", mostRunBands)
	}
	for _, b := range r.Bands {
		if _, ok := band.Named(region, b); !ok {
			bad("bands", "%q is not a band from 160 m to 6 m; write it like 40m", b)
		}
	}
	if r.Guard < 0 || r.Guard > mostGuard {
		bad("guard_s", "%d seconds found; expected 0 to %d", r.Guard, mostGuard)
	}
	if r.Minutes < 1 || r.Minutes > mostRunMinutes {
		bad("minutes", "%d minutes found; expected 1 to %d", r.Minutes, mostRunMinutes)
	} else if len(out) == 0 && time.Duration(r.Minutes)*time.Minute < r.Block() {
		bad("minutes", "each antenna on each band once takes %.0f minutes; make it that long at least", r.Block().Minutes())
	}
	if _, _, ok := ModeOf(r.Mode); !ok {
		bad("mode", "%q is not a known mode", r.Mode)
	}
	if !r.Listen && !(r.PowerW > 0 && r.PowerW <= MostPower) {
		bad("power_w", "%.4g W found; expected more than 0 and at most %.0f", r.PowerW, MostPower)
	}
	if r.Begin.IsZero() {
		bad("begin", "when it begins is missing")
	}
	return out
}

// Block is how long it takes to send with each antenna on each band once.
func (r Run) Block() time.Duration {
	return r.Length() * time.Duration(len(r.Aerials)*len(r.Bands))
}

// Schedule lays the slots: in blocks in which every antenna sends once on every band, band by band so that a band is changed
// seldom, the antennas of a band in an order that is drawn anew for each block and turned round in the next, so that none is
// always first. The same seed is the same schedule. It begins at the next slot of the mode at or after Begin.
func (r Run) Schedule() []PlannedSlot {
	if len(r.Aerials) == 0 || len(r.Bands) == 0 {
		return nil
	}
	rng := rand.New(rand.NewPCG(uint64(r.Seed), 8))
	slot, ok := Slot(r.Mode)
	if !ok || slot < time.Minute {
		slot = time.Minute
	}
	at := r.Begin.UTC().Truncate(slot)
	if at.Before(r.Begin) {
		at = at.Add(slot)
	}
	end := at.Add(time.Duration(r.Minutes) * time.Minute)
	step := r.Length()
	guard := step - slot
	var out []PlannedSlot
	orders := map[string][]int{}
	for block := 0; !at.Add(r.Block()).After(end); block++ {
		bands := slices.Clone(r.Bands)
		if block%2 == 1 {
			slices.Reverse(bands) // the band that one ended on is begun with: one change less
		}
		for _, b := range bands {
			order := orders[b]
			if block%2 == 0 {
				order = rng.Perm(len(r.Aerials))
				orders[b] = order
			} else {
				order = slices.Clone(order)
				slices.Reverse(order)
			}
			for _, i := range order {
				out = append(out, PlannedSlot{At: at.Add(guard), Band: b, Letter: r.Aerials[i].Letter})
				at = at.Add(step)
			}
		}
	}
	return out
}

// Now returns the state of a run at a moment: the slot that is being sent, if one is, and the one that comes next.
func (r Run) Now(now time.Time) (sending, next *PlannedSlot) {
	slot, ok := Slot(r.Mode)
	if !ok || slot < time.Minute {
		slot = time.Minute
	}
	for i, s := range r.Slots {
		switch {
		case !now.Before(s.At) && now.Before(s.At.Add(slot)):
			sending = &r.Slots[i]
		case now.Before(s.At):
			return sending, &r.Slots[i]
		}
	}
	return sending, nil
}

// SlotOf returns the slot of a report at a time on a band, by the beginning of its transmission
// within half a slot, later by as much as the clocks of the reports are off. ok is false where nothing was sent then.
func (r Run) SlotOf(at time.Time, bandName string, off time.Duration) (s PlannedSlot, ok bool) {
	slot, timed := Slot(r.Mode)
	if !timed || slot < time.Minute {
		slot = time.Minute
	}
	at = at.Add(-off)
	i, found := slices.BinarySearchFunc(r.Slots, at, func(s PlannedSlot, t time.Time) int { return s.At.Compare(t) })
	if !found {
		i--
	}
	for _, k := range []int{i, i + 1} {
		if k < 0 || k >= len(r.Slots) {
			continue
		}
		if s := r.Slots[k]; s.Band == bandName && at.Sub(s.At) > -slot/2 && at.Sub(s.At) < slot {
			return s, s.By() != ""
		}
	}
	return PlannedSlot{}, false
}

// Aerial finds an antenna of the run by its letter.
func (r Run) Aerial(letter string) (Aerial, bool) {
	for _, a := range r.Aerials {
		if a.Letter == letter {
			return a, true
		}
	}
	return Aerial{}, false
}

// Says is the run in a sentence.
func (r Run) Says() string {
	var names []string
	for _, a := range r.Aerials {
		names = append(names, a.Letter+", "+a.Name)
	}
	what := "in turn"
	if r.Listen {
		what = "listen in turn"
	}
	var bands []string
	for _, b := range r.Bands {
		bands = append(bands, band.Said(b))
	}
	return fmt.Sprintf("%s %s on %s, %d slots of %s from %s UTC.", strings.Join(names, " and "), what, strings.Join(bands, ", "),
		len(r.Slots), r.Mode, r.Begin.UTC().Format("15:04"))
}

// Sending is how long a transmission of the run lasts.
func (r Run) Sending() time.Duration {
	slot, ok := Slot(r.Mode)
	if !ok || slot < time.Minute {
		return time.Minute
	}
	return slot
}

// CheckSlots says what of corrected slots cannot be.
func (r Run) CheckSlots() (out []entry.Fault) {
	for i, s := range r.Slots {
		path := fmt.Sprintf("slots.%d", i)
		if _, ok := r.Aerial(s.Letter); !ok || !slices.Contains(r.Bands, s.Band) {
			out = append(out, entry.Say(path, "error", "%s on %s is not of this run", s.Letter, s.Band))
		}
		if _, ok := r.Aerial(s.Sent); s.Sent != "" && s.Sent != Silent && !ok {
			out = append(out, entry.Say(path, "error", "%q is no antenna of this run; write its letter, or %s for nothing", s.Sent, Silent))
		}
		if i > 0 && !s.At.After(r.Slots[i-1].At) {
			out = append(out, entry.Say(path, "error", "slot %d does not come after the one before", i+1))
		}
	}
	return out
}

// Span is a stretch of time on a band that belongs to an antenna, to none where DeploymentID is empty.
type Span struct {
	Band, DeploymentID string
	From, Until        time.Time
}

// Spans are the stretches in which reports of the run's slots stand, by the clocks of those that there are.
func (r Run) Spans(reports []Report) (out []Span) {
	off, ok := ClockOff(reports)
	if !ok {
		off = 0
	}
	slot := r.Sending()
	for _, s := range r.Slots {
		a, _ := r.Aerial(s.By())
		out = append(out, Span{s.Band, a.DeploymentID, s.At.Add(off - slot/2 + time.Millisecond), s.At.Add(off + slot/2)})
	}
	return out
}
