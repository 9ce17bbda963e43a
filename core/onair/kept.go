package onair

import (
	"errors"
	"fmt"

	"reed/core/bounds"
)

// mostFields is how many fields that are not understood a contact or a report may carry.
const mostFields = 500

// CheckKept checks what holds for every contact that is kept.
func (c Contact) CheckKept() error {
	const mostCall = 40
	if len(c.Extra) > mostFields || len(c.Marks) > mostFields {
		return fmt.Errorf("%d further fields and %d marks found; at most %d are kept", len(c.Extra), len(c.Marks), mostFields)
	}
	if c.Call == "" {
		return errors.New("the contact has no call")
	}
	if len(c.Call) > mostCall {
		return fmt.Errorf("the call has %d characters, at most %d are kept", len(c.Call), mostCall)
	}
	return bounds.All(bounds.ID(c.OutingID), bounds.Moment("the contact", c.At), bounds.Moment("the contact's end", c.End),
		bounds.Number("the frequency in hertz", c.FreqHz, 0, 1e12), bounds.Number("the power in watts", c.PowerW, 0, 1e6))
}

// CheckKept checks what holds for every note that is kept.
func (n Note) CheckKept() error {
	return bounds.All(bounds.ID(n.OutingID), bounds.Moment("the note", n.At))
}

// CheckKept checks what holds for every beacon run that is kept.
func (r Run) CheckKept() error {
	const mostSlots, mostAerials, mostBands = 5000, 26, 20
	if len(r.Slots) > mostSlots || len(r.Aerials) > mostAerials || len(r.Bands) > mostBands {
		return fmt.Errorf("%d slots, %d antennas and %d bands found; at most %d, %d and %d are kept", len(r.Slots), len(r.Aerials),
			len(r.Bands), mostSlots, mostAerials, mostBands)
	}
	return bounds.All(bounds.ID(r.OutingID), bounds.Moment("the run", r.Begin), bounds.Number("the power in watts", r.PowerW, 0, 10_000),
		bounds.Number("the run's minutes", float64(r.Minutes), 0, 10_000), bounds.Number("the pause in seconds", float64(r.Guard), 0, 3600))
}

// CheckKept checks what holds for every report that is kept.
func (r Report) CheckKept() error {
	if len(r.Extra) > mostFields || len(r.Marks) > mostFields {
		return fmt.Errorf("%d further fields found; at most %d are kept", len(r.Extra), mostFields)
	}
	for what, text := range map[string]string{"sender": r.Sender, "receiver": r.Receiver, "batch": r.Batch, "mode": r.Mode,
		"reason": r.SetAside} {
		if len(text) > bounds.MostName {
			return fmt.Errorf("the report's %s has %d characters, at most %d are kept", what, len(text), bounds.MostName)
		}
	}
	return bounds.All(bounds.ID(r.OutingID), bounds.Moment("the report", r.At))
}
