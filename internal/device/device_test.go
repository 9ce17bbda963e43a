package device

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/cmplx"
	"net"
	"strings"
	"testing"
	"time"
)

// line answers a sweep with a known curve at one port, and refuses others.
type line struct{ delay time.Duration }

func (line) Name() string { return "simulated line of the test" }

func truth(hz float64) complex128 { return cmplx.Rect(0.5, hz/1e6) }

func (s line) Sweep(ctx context.Context, a Ask, point func(float64, complex128) error) error {
	if a.Port != "mast" {
		return fmt.Errorf("nothing is connected at %q", a.Port)
	}
	for i := range a.N {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(s.delay):
		}
		hz := a.Lo + (a.Hi-a.Lo)*float64(i)/float64(a.N-1)
		if err := point(hz, truth(hz)); err != nil {
			return err
		}
	}
	return nil
}

func serve(t *testing.T, s Source) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error)
	go func() { ended <- Serve(ctx, ln, s) }()
	t.Cleanup(func() {
		cancel()
		if err := <-ended; err != nil {
			t.Error(err)
		}
	})
	return ln.Addr().String()
}

var ask = Ask{Port: "mast", Lo: 7e6, Hi: 7.2e6, N: 41}

func TestASweepComesAsItWasMeasured(t *testing.T) {
	address := serve(t, line{})
	steps := 0
	got, err := Client{}.Measure(context.Background(), address, ask, func(n, of int) { steps = n })
	if err != nil {
		t.Fatal(err)
	}
	if got.Name != "line of the test" || !got.Simulated || len(got.Sweep.F) != 41 || steps != 41 {
		t.Errorf("%+v after %d steps", got, steps)
	}
	for i, f := range got.Sweep.F {
		if cmplx.Abs(complex(got.Sweep.Re[i], got.Sweep.Im[i])-truth(f)) > 1e-6 {
			t.Fatalf("%v at %v", got.Sweep.Re[i], f)
		}
	}
	other := ask
	other.Port = "chair"
	_, err = Client{}.Measure(context.Background(), address, other, nil)
	var refused *Refused
	if !errors.As(err, &refused) || !strings.Contains(refused.Text, "nothing is connected") {
		t.Error(err)
	}
}

// odd is an analyser that says what it is told to, then hangs up, or keeps silent.
func odd(t *testing.T, silent bool, says string) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { ln.Close() })
	go func() {
		for {
			conn, err := ln.Accept()
			if err != nil {
				return
			}
			go func() {
				defer conn.Close()
				io.WriteString(conn, says)
				if !silent {
					conn.(*net.TCPConn).CloseWrite() // an end, behind all that was said
				}
				io.Copy(io.Discard, conn)
			}()
		}
	}()
	return ln.Addr().String()
}

// all is every point of a sweep, without its end.
func all() string {
	var b strings.Builder
	for i := range ask.N {
		fmt.Fprintf(&b, "%.0f 0.1 0.1\n", ask.Lo+(ask.Hi-ask.Lo)*float64(i)/float64(ask.N-1))
	}
	return b.String()
}

func TestWhatGoesWrongIsSaidForWhatItIs(t *testing.T) {
	const hello = "SWEEPLINE 1 bench one\nOK\n"
	for name, c := range map[string]struct {
		says   string
		silent bool
		want   string
	}{
		"silence":                 {"", true, "fell silent before it answered"},
		"silence in the middle":   {hello + "7000000 0.1 0.1\n7005000 0.1 0.1\n", true, "fell silent after 2 of 41 points"},
		"the link drops":          {hello + "7000000 0.1 0.1\n", false, "the link to the analyser ended after 1 of 41"},
		"the link drops at once":  {"", false, "ended before it answered"},
		"another protocol":        {"HTTP/1.1 400 Bad Request\r\n\r\n", false, "is it an analyser that speaks this protocol"},
		"a later version":         {"SWEEPLINE 7 bench one\n", false, "version 7"},
		"bytes":                   {"\x00\xff\xfe\x01\n", false, "no analyser of this protocol"},
		"a refusal by another":    {"ERR root password is reed\n", false, "no analyser of this protocol"},
		"the same frequency":      {hello + "7000000 0.1 0\n7000000 0.1 0\n", false, "beyond the one before"},
		"no end":                  {hello + all() + "7300000 0.1 0\n", false, "where END was due"},
		"the link ends before it": {hello + all(), false, "ended after 41 of 41"},
		"a line without end":      {strings.Repeat("A", 4000), false, "SWEEPLINE 1 and a name was due"},
		"words for a point":       {hello + "seven point one\n", false, `"seven point one", where a point`},
		"not a number":            {hello + "7000000 NaN 0\n", false, "where a point"},
		"far too much":            {hello + "7000000 99 0\n", false, "where a point"},
		"outside what was asked":  {hello + "9000000 0.1 0\n", false, "where a point"},
		"back in frequency":       {hello + "7100000 0.1 0\n7000000 0.1 0\n", false, "beyond the one before"},
		"a refusal":               {"SWEEPLINE 1 bench one\nERR the battery is low\n", false, "the analyser refuses: the battery is low"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			idle := time.Minute
			if c.silent {
				idle = 2 * time.Second
			}
			_, err := Client{Idle: idle}.Measure(context.Background(), odd(t, c.silent, c.says), ask, nil)
			if err == nil || !strings.Contains(err.Error(), c.want) || strings.Contains(err.Error(), "password") {
				t.Errorf("%v, want %q", err, c.want)
			}
		})
	}
	if _, err := (Client{Reach: time.Second}).Measure(context.Background(), "127.0.0.1:1", ask, nil); err == nil ||
		!strings.Contains(err.Error(), "no analyser answers at 127.0.0.1:1") {
		t.Error(err)
	}
	for _, bad := range []Ask{{Lo: 8e6, Hi: 7e6, N: 10}, {Lo: 7e6, Hi: 8e6, N: 1}, {Lo: 7e6, Hi: 8e6, N: 1 << 20},
		{Lo: 7e6, Hi: 8e6, N: 5, Port: "a\nSWEEP 1 2 3"}} {
		if _, err := (Client{}).Measure(context.Background(), "127.0.0.1:1", bad, nil); err == nil || strings.Contains(err.Error(), "answers") {
			t.Errorf("%+v was asked: %v", bad, err)
		}
	}
}

// TestASweepIsStopped stops in the middle of a burst of points, after which the analyser would measure no more
// for an hour: the stop must end the waiting, whatever deadline the next line was given meanwhile.
func TestASweepIsStopped(t *testing.T) {
	for burst := 3; burst < 60; burst += 8 {
		ctx, cancel := context.WithCancel(context.Background())
		long := ask
		long.N = 2000
		points := 0
		_, err := Client{Idle: time.Hour}.Measure(ctx, serve(t, &slow{after: burst}), long, func(n, _ int) {
			points = n
			if n == 3 {
				cancel()
			}
		})
		cancel()
		if !errors.Is(err, context.Canceled) || points > burst {
			t.Errorf("stopped after %d of %d points: %v", points, burst, err)
		}
	}
}

// slow gives its first points at once and then none until it is told to end.
type slow struct{ after int }

func (*slow) Name() string { return "simulated slow one" }

func (s *slow) Sweep(ctx context.Context, a Ask, point func(float64, complex128) error) error {
	for i := range s.after {
		hz := a.Lo + (a.Hi-a.Lo)*float64(i)/float64(a.N-1)
		if err := point(hz, truth(hz)); err != nil {
			return err
		}
	}
	<-ctx.Done()
	return ctx.Err()
}

// TestPointsComeAsTheyAreMeasured has the analyser wait with each point until the one before has been seen.
func TestPointsComeAsTheyAreMeasured(t *testing.T) {
	seen := make(chan int, ask.N)
	_, err := Client{}.Measure(context.Background(), serve(t, inStep{seen}), ask, func(n, _ int) { seen <- n })
	if err != nil {
		t.Error(err)
	}
}

type inStep struct{ seen chan int }

func (inStep) Name() string { return "simulated one in step" }

func (s inStep) Sweep(ctx context.Context, a Ask, point func(float64, complex128) error) error {
	for i := range a.N {
		hz := a.Lo + (a.Hi-a.Lo)*float64(i)/float64(a.N-1)
		if err := point(hz, truth(hz)); err != nil {
			return err
		}
		select {
		case <-s.seen:
		case <-time.After(10 * time.Second):
			return fmt.Errorf("point %d was not seen", i+1)
		}
	}
	return nil
}

// TestGarbageDoesNotStopTheAnalyser writes nonsense at the simulated analyser; others are still answered.
func TestGarbageDoesNotStopTheAnalyser(t *testing.T) {
	address := serve(t, line{})
	for _, says := range []string{"\n\n\n\n", "SWEEP\n", "SWEEP 1 2\n", "SWEEP 9e9 1 -4\n", "SWEEP 7e6 7.1e6 999999999\n",
		strings.Repeat("x", 100000), "\x00\x01\n\xff\n", "PORT a b c\nPORT\n", "BYE\n"} {
		conn, err := net.Dial("tcp", address)
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(conn, says)
		conn.SetReadDeadline(time.Now().Add(20 * time.Second))
		if says != "BYE\n" && !strings.HasPrefix(says, "\n") {
			buf := make([]byte, 400)
			n, _ := io.ReadAtLeast(conn, buf, len(Greeting)+40)
			if !strings.Contains(string(buf[:n]), "ERR ") {
				t.Errorf("%.20q got %q", says, buf[:n])
			}
		}
		conn.Close()
	}
	if _, err := (Client{}).Measure(context.Background(), address, ask, nil); err != nil {
		t.Error(err)
	}
}

// FuzzAnalyser lets anything answer as an analyser: an error or a sound sweep comes of it, never a panic.
func FuzzAnalyser(f *testing.F) {
	f.Add("SWEEPLINE 1 x\nOK\n7000000 0.1 0.1\n7100000 0.2 0.2\nEND\n")
	f.Add("SWEEPLINE 1 simulated x\nERR no\n")
	f.Add("\x00\n")
	f.Fuzz(func(t *testing.T, says string) {
		here, there := net.Pipe()
		go func() {
			go io.Copy(io.Discard, there)
			io.WriteString(there, says)
			there.Close()
		}()
		defer here.Close()
		got, err := measure(newLines(here, time.Second), Ask{Port: "p", Lo: 7e6, Hi: 7.1e6, N: 2}, nil)
		if err == nil && (got.Sweep.Check() != nil || len(got.Sweep.F) != 2) {
			t.Errorf("%+v of %q", got, says)
		}
	})
}

// broken panics at its third point.
type broken struct{ line }

func (b broken) Sweep(ctx context.Context, a Ask, point func(float64, complex128) error) error {
	return b.line.Sweep(ctx, a, func(hz float64, g complex128) error {
		if hz > a.Lo+(a.Hi-a.Lo)/20 {
			panic("a load that is not there")
		}
		return point(hz, g)
	})
}

func TestAnAnalyserThatPanicsBreaksOneSweepAndNotTheProgram(t *testing.T) {
	address := serve(t, broken{})
	for range 2 {
		_, err := Client{}.Measure(context.Background(), address, ask, nil)
		var refused *Refused
		if !errors.As(err, &refused) || !strings.Contains(err.Error(), "broke while it measured") {
			t.Errorf("%v", err)
		}
	}
}

func TestAnAddressIsHostAndPort(t *testing.T) {
	for address, good := range map[string]bool{"192.168.4.1:7390": true, "bench.local:80": true, ":7390": false, "192.168.4.1": false,
		"h:0": false, "h:65536": false, "h:port": false, "": false} {
		if err := CheckAddress(address); (err == nil) != good {
			t.Errorf("%q: %v", address, err)
		}
	}
}

func TestAClosedListenerIsAnEndAndNoError(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ended := make(chan error, 1)
	go func() { ended <- Serve(context.Background(), ln, line{}) }()
	ln.Close()
	if err := <-ended; err != nil {
		t.Error(err)
	}
}
