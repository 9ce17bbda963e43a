package device

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"math"
	"net"
	"strconv"
	"strings"
	"time"
)

// RadioGreeting begins the first line of every radio, followed by the version of the protocol.
const RadioGreeting = "RADIOLINE"

// RadioState is how a radio stands: hertz, mode, watts, the SWR that it shows and what its S-meter shows in dBm. What it does
// not tell is zero, and dBm nil.
type RadioState struct {
	Name      string
	Simulated bool
	Hz        float64
	Mode      string
	Watts     float64
	SWR       float64
	DBm       *float64
}

// Ask asks a radio how it stands. Port names what is simulated, where something is.
func (c Client) Ask(ctx context.Context, address, port string) (out RadioState, err error) {
	err = c.speak(ctx, radio, address, func(l *lines) error {
		out, err = state(&talk{lines: l, who: radio}, port)
		return err
	})
	return out, err
}

func state(c *talk, port string) (out RadioState, err error) {
	if out.Name, out.Simulated, err = c.greet(RadioGreeting); err != nil {
		return out, err
	}
	if port != "" {
		if err := c.send("PORT %s", port); err != nil {
			return out, err
		}
		if err := c.expect("OK"); err != nil {
			return out, err
		}
	}
	if err := c.send("STATE"); err != nil {
		return out, err
	}
	const due = "HZ, MODE, WATTS, SWR or DBM and a value, or END"
	for range 20 {
		text, err := c.read(due)
		if err != nil {
			return out, err
		}
		if text == "END" {
			if out.Hz <= 0 || out.Mode == "" {
				return out, &Unclear{radio, c.n, "END", "a frequency and a mode before the end"}
			}
			return out, nil
		}
		if !out.take(text) {
			return out, &Unclear{radio, c.n, clean(text), due}
		}
	}
	return out, &Unclear{radio, c.n, "more and more", "END"}
}

// take reads one line of a radio's state.
func (s *RadioState) take(text string) bool {
	name, value, ok := strings.Cut(text, " ")
	if name == "MODE" {
		s.Mode = clean(strings.TrimSpace(value))
		return ok && s.Mode != "" && len(s.Mode) <= 20
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(value), 64)
	if !ok || err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return false
	}
	switch name {
	case "HZ":
		s.Hz = v
		return v > 0 && v <= 1e12
	case "WATTS":
		s.Watts = v
		return v >= 0 && v <= 5000
	case "SWR":
		s.SWR = v
		return v >= 1
	case "DBM":
		s.DBm = &v
		return v >= -200 && v <= 50
	}
	return false
}

// Radio answers for a server; what it cannot answer is an error that is sent to the client.
type Radio interface {
	Name() string
	State(ctx context.Context, port string) (RadioState, error)
}

// ServeRadio answers as a radio until the context ends or the listener is closed.
func ServeRadio(ctx context.Context, ln net.Listener, r Radio) error {
	return accept(ctx, ln, func(ctx context.Context, conn net.Conn) { answerRadio(ctx, conn, r) })
}

// answerRadio speaks with one peer until it leaves, is silent for a minute, or writes nonsense three times.
func answerRadio(ctx context.Context, conn net.Conn, r Radio) {
	l := newLines(conn, time.Minute)
	w := bufio.NewWriter(conn)
	say := func(format string, args ...any) error {
		if err := conn.SetWriteDeadline(time.Now().Add(20 * time.Second)); err != nil {
			return err
		}
		_, err := fmt.Fprintf(w, format+"\n", args...)
		return errors.Join(err, w.Flush())
	}
	if say("%s %d %s", RadioGreeting, Version, r.Name()) != nil {
		return
	}
	port := ""
	for wrong := 0; wrong < 3 && ctx.Err() == nil; {
		text, err := l.next()
		if err != nil {
			return
		}
		words := strings.Fields(text)
		switch {
		case len(words) == 2 && words[0] == "PORT":
			port, err = words[1], say("OK")
		case len(words) == 1 && words[0] == "STATE":
			s, bad := r.State(ctx, port)
			if bad != nil {
				wrong++
				err = say("ERR %s", clean(bad.Error()))
				break
			}
			err = say("HZ %.0f\nMODE %s\nWATTS %.4g", s.Hz, s.Mode, s.Watts)
			if s.SWR >= 1 {
				err = errors.Join(err, say("SWR %.2f", s.SWR))
			}
			if s.DBm != nil {
				err = errors.Join(err, say("DBM %.1f", *s.DBm))
			}
			err = errors.Join(err, say("END"))
		case len(words) == 1 && words[0] == "BYE":
			return
		default:
			wrong++
			err = say("ERR %q is not understood; PORT name, STATE, or BYE", clean(text))
		}
		if err != nil {
			return
		}
	}
}
