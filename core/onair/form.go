package onair

import (
	"fmt"
	"strings"
	"time"

	"reed/core/entry"
	"reed/core/quantity"
)

// ContactForm is a contact as it is typed: its time in UTC as an instant or like 2026-05-16 14:05, its frequency and
// power as numbers or texts.
type ContactForm struct {
	Contact
	At     string        `json:"at"`
	FreqHz quantity.Said `json:"freq_hz"`
	PowerW quantity.Said `json:"power_w"`
}

// Read is the contact that was typed, and what of it cannot be read, by field.
func (f ContactForm) Read() (c Contact, out []entry.Fault) {
	c = f.Contact
	bad := func(path string, err error) {
		if err != nil {
			out = append(out, entry.Fault{Path: path, Severity: "error", Text: err.Error()})
		}
	}
	var err error
	c.FreqHz, err = f.FreqHz.Hz()
	bad("freq_hz", err)
	c.PowerW, err = f.PowerW.Watts()
	bad("power_w", err)
	var seconds bool
	c.At, seconds, err = ParseTime(f.At)
	bad("at", err)
	c.Seconds = c.Seconds || seconds
	if strings.Contains(f.At, " ") {
		c.Seconds = seconds
	}
	return c, out
}

// ParseTime reads an instant, or a UTC date and time as people write it, and says whether the seconds were typed.
func ParseTime(text string) (at time.Time, seconds bool, err error) {
	if at, err := time.Parse(time.RFC3339Nano, text); err == nil {
		return at, false, nil
	}
	typed := strings.Join(strings.Fields(text), " ")
	if at, err := time.Parse("2006-01-02 15:04", typed); err == nil {
		return at, false, nil
	}
	if at, err := time.Parse("2006-01-02 15:04:05", typed); err == nil {
		return at, true, nil
	}
	return time.Time{}, false, fmt.Errorf("%q is not a time; write it like 2026-05-16 14:05", text)
}

// CheckCall says what is wrong with an operator's own call, as it is kept.
func CheckCall(text string) (call string, out []entry.Fault) {
	call = strings.ToUpper(strings.TrimSpace(text))
	if !IsCall(call) {
		out = append(out, entry.Fault{Path: "call", Severity: "error",
			Text: fmt.Sprintf("%q does not look like a call; write it like Q2TAV", call)})
	}
	return call, out
}
