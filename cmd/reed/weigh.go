package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"reed/core/onair"
	"reed/core/weigh"
)

// airLine is a transmission, or a report of one.
type airLine struct {
	Slot     *string  `json:"slot"`
	Seconds  *float64 `json:"seconds"`
	Antenna  *string  `json:"antenna"`
	Band     *string  `json:"band"`
	PowerW   *float64 `json:"power_w"`
	At       *string  `json:"at"`
	Receiver *string  `json:"receiver"`
	Locator  *string  `json:"locator"`
	SNR      *float64 `json:"snr_db"`
}

const (
	longestLine = 1 << 20
	longestSlot = 3600.0 // seconds
	usualSlot   = 110.0
)

// weighLines judges antennas by slots and reports, one JSON a line.
func weighLines(_ context.Context, c *call) error {
	in, err := given(c)
	if err != nil {
		return err
	}
	defer in.Close()
	var sent []weigh.Sent
	var told []weigh.Told
	unsure := 0
	lines := bufio.NewScanner(in)
	lines.Buffer(make([]byte, 1<<16), longestLine)
	for n := 1; lines.Scan(); n++ {
		text := strings.TrimSpace(strings.TrimPrefix(lines.Text(), "\ufeff"))
		if text == "" {
			continue
		}
		var x airLine
		if err := json.Unmarshal([]byte(text), &x); err != nil {
			var kind *json.UnmarshalTypeError
			if errors.As(err, &kind) {
				return usagef("line %d: %s: %s found; expected %s", n, kind.Field, kind.Value, kind.Type.Kind())
			}
			return usagef("line %d was not understood: %w", n, err)
		}
		switch {
		case x.Slot != nil && x.At != nil:
			return usagef("line %d: slot and at in one line: it is a transmission or a report", n)
		case x.Slot != nil:
			s, err := x.sent()
			if err != nil {
				return usagef("line %d: %w", n, err)
			}
			sent = append(sent, s)
		case x.At != nil:
			r, err := x.report()
			if err != nil {
				return usagef("line %d: %w", n, err)
			}
			if x.SNR == nil {
				unsure++
				continue
			}
			told = append(told, r)
		default:
			return usagef("line %d: slot or at is missing: a line is a transmission or a report", n)
		}
	}
	if err := lines.Err(); err != nil {
		return usagef("the lines were not understood: %w", err)
	}
	if len(sent) == 0 {
		return usagef("slot: there is no transmission in it")
	}
	if n := antennas(sent); n > mostAntennas {
		return usagef("%d antennas found; at most %d are compared at once", n, mostAntennas)
	}
	received, unmatched := weigh.Match(sent, told)
	out := weigh.Judge(sent, received)
	if unmatched > 0 {
		out.Uncontrolled = append(out.Uncontrolled, fmt.Sprintf("%d reports belong to no slot", unmatched))
	}
	if unsure > 0 {
		out.Uncontrolled = append(out.Uncontrolled, fmt.Sprintf("%d reports without a strength were left out", unsure))
	}
	return json.NewEncoder(c.out).Encode(out)
}

// mostAntennas is how many antennas are compared at once: each is held against each other.
const mostAntennas = 40

func antennas(sent []weigh.Sent) int {
	names := map[string]bool{}
	for _, s := range sent {
		names[s.Antenna] = true
	}
	return len(names)
}

// words reads texts that have to be there.
func words(of ...any) error {
	for i := 0; i < len(of); i += 2 {
		name, text := of[i].(string), of[i+1].(*string)
		if text == nil || strings.TrimSpace(*text) == "" {
			return fmt.Errorf("%s is missing", name)
		}
	}
	return nil
}

func instant(name, text string) (time.Time, error) {
	at, err := time.Parse(time.RFC3339Nano, text)
	if err != nil {
		return at, fmt.Errorf("%s: %q is not an instant; write it like 2026-05-16T10:00:00Z", name, text)
	}
	return at, nil
}

func bandName(text string) string { return strings.ToLower(strings.ReplaceAll(text, " ", "")) }

func (x airLine) sent() (s weigh.Sent, err error) {
	if err := words("antenna", x.Antenna, "band", x.Band); err != nil {
		return s, err
	}
	if s.At, err = instant("slot", *x.Slot); err != nil {
		return s, err
	}
	s.Antenna, s.Band, s.Seconds = strings.TrimSpace(*x.Antenna), bandName(*x.Band), usualSlot
	if x.Seconds != nil {
		s.Seconds = *x.Seconds
	}
	if !(s.Seconds > 0 && s.Seconds <= longestSlot) {
		return s, fmt.Errorf("seconds: %g found; expected more than 0 and at most %.0f", s.Seconds, longestSlot)
	}
	if x.PowerW != nil {
		if s.PowerW = *x.PowerW; !(s.PowerW > 0 && s.PowerW <= onair.MostPower) {
			return s, fmt.Errorf("power_w: %g found; expected more than 0 and at most %.0f, or none where it is not known", s.PowerW,
				onair.MostPower)
		}
	}
	return s, nil
}

func (x airLine) report() (r weigh.Told, err error) {
	if err := words("band", x.Band, "receiver", x.Receiver); err != nil {
		return r, err
	}
	if r.At, err = instant("at", *x.At); err != nil {
		return r, err
	}
	r.Band, r.Receiver = bandName(*x.Band), onair.BaseCall(*x.Receiver)
	if x.SNR != nil {
		if r.SNR = *x.SNR; math.Abs(r.SNR) > 200 {
			return r, fmt.Errorf("snr_db: %g found; expected decibels from -200 to 200", r.SNR)
		}
	}
	return r, nil
}
