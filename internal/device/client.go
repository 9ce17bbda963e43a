// Package device speaks with an antenna analyser or a radio over TCP by the line protocols of docs/analyser-protocol.md and
// docs/radio-protocol.md, as the one who asks and as the one who answers.
package device

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"math/cmplx"
	"net"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"reed/core/sweep"
)

// Greeting begins the first line of every analyser, followed by the version of the protocol.
const Greeting = "SWEEPLINE"

// Version of the protocol.
const Version = 1

// Bounds of what is asked and answered.
const (
	MaxPoints = 10001
	maxLine   = 512
	most      = 10.0 // the largest magnitude of reflection that is taken for a reading
)

// Client asks analysers. Reach is how long it waits for a connection, Idle for each line; both have usual
// values when zero.
type Client struct {
	Reach, Idle time.Duration
}

// Ask is one sweep: from Lo to Hi hertz in N points, both ends included. Port names what the analyser is to
// measure, where it has several; empty leaves it as it is.
type Ask struct {
	Port   string
	Lo, Hi float64
	N      int
}

// Check says what of it no analyser is asked.
func (a Ask) Check() error {
	switch {
	case !(a.Lo > 0) || !(a.Hi > a.Lo) || a.Hi > 10e9:
		return fmt.Errorf("from %.0f to %.0f Hz is no sweep", a.Lo, a.Hi)
	case a.N < 2 || a.N > MaxPoints:
		return fmt.Errorf("%d points asked; from 2 to %d can be", a.N, MaxPoints)
	case len(a.Port) > 200 || strings.ContainsFunc(a.Port, func(r rune) bool { return r <= ' ' || r > '~' }):
		return fmt.Errorf("%q cannot be the name of a port", a.Port)
	}
	return nil
}

// CheckAddress says what of an address cannot be reached by anybody.
func CheckAddress(address string) error {
	host, port, err := net.SplitHostPort(address)
	if n, bad := strconv.Atoi(port); err != nil || host == "" || bad != nil || n < 1 || n > 65535 {
		return fmt.Errorf("%q is not an address; write host and port, like 192.168.4.1:7390", address)
	}
	return nil
}

// Answer is a sweep and who measured it. Simulated analysers say so of themselves.
type Answer struct {
	Name      string
	Simulated bool
	Sweep     sweep.Sweep
}

// Refused is an analyser's error answer.
type Refused struct{ Who, Text string }

func (e *Refused) Error() string { return "the " + cmp.Or(e.Who, analyser) + " refuses: " + e.Text }

// Who is spoken with.
const (
	analyser = "analyser"
	radio    = "radio"
)

// Unclear is a line that is not of the protocol.
type Unclear struct {
	Who    string
	Line   int
	Found  string
	Wanted string
}

func (e *Unclear) Error() string {
	who := cmp.Or(e.Who, analyser)
	return fmt.Sprintf("line %d from the %s is %q, where %s was due; is it an %s that speaks this protocol, at this address "+
		"and port?", e.Line, who, e.Found, e.Wanted, who)
}

// Dropped is a link that ended, or fell silent, in the middle. Points is how many had come.
type Dropped struct {
	Who        string
	Points, Of int
	Cause      error
}

func (e *Dropped) Error() string {
	who := cmp.Or(e.Who, analyser)
	what := "the link to the " + who + " ended"
	var timeout net.Error
	if errors.As(e.Cause, &timeout) && timeout.Timeout() {
		what = "the " + who + " fell silent"
	}
	if e.Of == 0 {
		return what + " before it answered"
	}
	return fmt.Sprintf("%s after %d of %d points; nothing of it is kept, sweep again", what, e.Points, e.Of)
}

func (e *Dropped) Unwrap() error { return e.Cause }

// lines reads a peer's lines with a deadline for each.
type lines struct {
	conn net.Conn
	r    *bufio.Reader
	idle time.Duration
	n    int
}

func newLines(conn net.Conn, idle time.Duration) *lines {
	return &lines{conn: conn, r: bufio.NewReaderSize(conn, maxLine), idle: idle}
}

var errLong = errors.New("a line is too long")

func (l *lines) next() (string, error) {
	if err := l.conn.SetReadDeadline(time.Now().Add(l.idle)); err != nil {
		return "", err
	}
	text, err := l.r.ReadSlice('\n')
	l.n++
	if errors.Is(err, bufio.ErrBufferFull) {
		return string(text[:60]), errLong
	}
	if err != nil {
		return "", err
	}
	return strings.TrimRight(string(text), "\r\n"), nil
}

// Measure connects to an analyser, asks for one sweep, and checks every point of it. An analyser that cannot be
// reached, does not speak the protocol, refuses, falls silent or drops the link is an error that says which.
func (c Client) Measure(ctx context.Context, address string, ask Ask, done func(points, of int)) (out Answer, err error) {
	if err := ask.Check(); err != nil {
		return Answer{}, err
	}
	err = c.speak(ctx, analyser, address, func(l *lines) error {
		out, err = measure(l, ask, done)
		return err
	})
	return out, err
}

// speak connects and holds one conversation.
func (c Client) speak(ctx context.Context, who, address string, say func(*lines) error) error {
	reach, idle := c.Reach, c.Idle
	if reach == 0 {
		reach = 4 * time.Second
	}
	if idle == 0 {
		idle = 20 * time.Second
	}
	conn, err := (&net.Dialer{Timeout: reach}).DialContext(ctx, "tcp", address)
	if err != nil {
		return fmt.Errorf("no %s answers at %s; is it on, and on this network? (%w)", who, address, err)
	}
	defer conn.Close()
	// Closed, not given a deadline in the past: the next line's own deadline would take that one's place.
	stop := context.AfterFunc(ctx, func() { conn.Close() })
	defer stop()
	err = say(newLines(conn, idle))
	if ctx.Err() != nil {
		return ctx.Err()
	}
	return err
}

func measure(l *lines, ask Ask, done func(points, of int)) (Answer, error) {
	c := &talk{lines: l, who: analyser, of: ask.N}
	var out Answer
	var err error
	if out.Name, out.Simulated, err = c.greet(Greeting); err != nil {
		return out, err
	}
	if ask.Port != "" {
		if err := c.send("PORT %s", ask.Port); err != nil {
			return out, err
		}
		if err := c.expect("OK"); err != nil {
			return out, err
		}
	}
	if err := c.send("SWEEP %.0f %.0f %d", ask.Lo, ask.Hi, ask.N); err != nil {
		return out, err
	}
	var f []float64
	var g []complex128
	for c.points < ask.N {
		text, err := c.read("a point: hertz, real and imaginary part")
		if err != nil {
			return out, err
		}
		hz, gamma, ok := point(text)
		if !ok || hz < ask.Lo*0.999 || hz > ask.Hi*1.001 || c.points > 0 && hz <= f[c.points-1] {
			return out, &Unclear{c.who, l.n, clean(text), "a point beyond the one before: hertz, real and imaginary part"}
		}
		f, g = append(f, hz), append(g, gamma)
		c.points++
		if done != nil {
			done(c.points, ask.N)
		}
	}
	if err := c.expect("END"); err != nil {
		return out, err
	}
	out.Sweep, _, _ = sweep.New(sweep.Complex, f, g)
	return out, nil
}

// talk is a conversation with an analyser or a radio: how many points came, of how many.
type talk struct {
	*lines
	who        string
	points, of int
}

// read is the next line; what an analyser refuses is said in its own words.
func (c *talk) read(wanted string) (string, error) {
	text, err := c.next()
	switch {
	case errors.Is(err, errLong):
		return "", &Unclear{c.who, c.n, clean(text), wanted}
	case err != nil:
		of := 0
		if c.points > 0 {
			of = c.of
		}
		return "", &Dropped{c.who, c.points, of, err}
	}
	if why, ok := strings.CutPrefix(text, "ERR "); ok {
		return "", &Refused{c.who, clean(why)}
	}
	return text, nil
}

// expect reads a line that has to be one word.
func (c *talk) expect(word string) error {
	text, err := c.read(word)
	if err == nil && text != word {
		err = &Unclear{c.who, c.n, clean(text), word}
	}
	return err
}

func (c *talk) send(format string, args ...any) error {
	if err := c.conn.SetWriteDeadline(time.Now().Add(c.idle)); err != nil {
		return &Dropped{Who: c.who, Cause: err}
	}
	if _, err := fmt.Fprintf(c.conn, format+"\n", args...); err != nil {
		return &Dropped{Who: c.who, Cause: err}
	}
	return nil
}

// greet reads who is there. What something else said there is nobody's business here.
func (c *talk) greet(greeting string) (name string, simulated bool, err error) {
	hello := greeting + " 1 and a name"
	text, err := c.read(hello)
	var unclear *Unclear
	var refused *Refused
	words := strings.Fields(text)
	switch {
	case errors.As(err, &unclear), errors.As(err, &refused), err == nil && (len(words) < 3 || words[0] != greeting):
		return "", false, &Unclear{c.who, c.n, "something that is no " + c.who + " of this protocol", hello}
	case err != nil:
		return "", false, err
	}
	if v, err := strconv.Atoi(words[1]); err != nil || v != Version {
		return "", false, fmt.Errorf("the %s speaks version %s of the protocol, this program version %d", c.who, clean(words[1]), Version)
	}
	name, simulated = strings.CutPrefix(clean(strings.Join(words[2:], " ")), "simulated ")
	return name, simulated, nil
}

// point reads "hertz real imaginary".
func point(text string) (hz float64, gamma complex128, ok bool) {
	words := strings.Fields(text)
	if len(words) != 3 {
		return 0, 0, false
	}
	var v [3]float64
	for i, w := range words {
		x, err := strconv.ParseFloat(w, 64)
		if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
			return 0, 0, false
		}
		v[i] = x
	}
	gamma = complex(v[1], v[2])
	return v[0], gamma, v[0] > 0 && cmplx.Abs(gamma) <= most
}

// clean returns an unknown text shortened and without control characters, for display.
func clean(text string) string {
	text = strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return '?'
		}
		return r
	}, text)
	if len(text) > 80 {
		text = text[:80] + "..."
	}
	return text
}

// Source measures for a server. Sweep tells each point as it is measured.
type Source interface {
	// Name is the name in the greeting, without line ends.
	Name() string
	// Sweep measures at a port; what it cannot measure is an error that is sent to the client.
	Sweep(ctx context.Context, ask Ask, point func(hz float64, gamma complex128) error) error
}

// Serve answers on a listener until the context ends or the listener is closed. Each connection may ask for any
// number of sweeps, one after the other.
func Serve(ctx context.Context, ln net.Listener, src Source) error {
	return accept(ctx, ln, func(ctx context.Context, conn net.Conn) { answer(ctx, conn, src) })
}

// accept holds a conversation with each who comes.
func accept(ctx context.Context, ln net.Listener, speak func(ctx context.Context, conn net.Conn)) error {
	stop := context.AfterFunc(ctx, func() { ln.Close() })
	defer stop()
	for {
		conn, err := ln.Accept()
		if err != nil {
			if ctx.Err() != nil || errors.Is(err, net.ErrClosed) {
				return nil
			}
			return fmt.Errorf("answering as an instrument: %w", err)
		}
		go func() {
			defer conn.Close()
			ctx, cancel := context.WithCancel(ctx)
			defer cancel()
			stop := context.AfterFunc(ctx, func() { conn.Close() })
			defer stop()
			speak(ctx, conn)
		}()
	}
}

// measured is one sweep of a source. One that panics breaks this sweep and nothing else: in a goroutine of its own
// nobody else would catch it.
func measured(ctx context.Context, src Source, ask Ask, point func(hz float64, gamma complex128) error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			slog.Error("an analyser panicked", "panic", fmt.Sprint(v), "stack", string(debug.Stack()))
			err = errors.New("it broke while it measured")
		}
	}()
	return src.Sweep(ctx, ask, point)
}

// answer speaks with one peer until it leaves, is silent for a minute, or writes nonsense three times.
func answer(ctx context.Context, conn net.Conn, src Source) {
	l := newLines(conn, time.Minute)
	w := bufio.NewWriter(conn)
	say := func(format string, args ...any) error {
		if err := conn.SetWriteDeadline(time.Now().Add(20 * time.Second)); err != nil {
			return err
		}
		_, err := fmt.Fprintf(w, format+"\n", args...)
		return err
	}
	if say("%s %d %s", Greeting, Version, src.Name()) != nil || w.Flush() != nil {
		return
	}
	port, wrong := "", 0
	for wrong < 3 && ctx.Err() == nil {
		text, err := l.next()
		if err != nil {
			if errors.Is(err, errLong) && say("ERR the line is too long") == nil {
				w.Flush()
			}
			return
		}
		words := strings.Fields(text)
		switch {
		case len(words) == 2 && words[0] == "PORT":
			port, err = words[1], say("OK")
		case len(words) == 4 && words[0] == "SWEEP":
			ask := Ask{Port: port}
			_, err = fmt.Sscanf(strings.Join(words[1:], " "), "%g %g %d", &ask.Lo, &ask.Hi, &ask.N)
			if err == nil {
				err = ask.Check()
			}
			if err == nil {
				err = measured(ctx, src, ask, func(hz float64, gamma complex128) error {
					if err := say("%.0f %.6f %.6f", hz, real(gamma), imag(gamma)); err != nil {
						return err
					}
					return w.Flush()
				})
			}
			if err == nil {
				err = say("END")
			} else {
				wrong++
				err = say("ERR %s", clean(err.Error()))
			}
		case len(words) == 1 && words[0] == "BYE":
			return
		default:
			wrong++
			err = say("ERR %q is not understood; PORT name, SWEEP hertz hertz points, or BYE", clean(text))
		}
		if err != nil || w.Flush() != nil {
			return
		}
	}
}
