package device

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"testing"
	"time"
)

type set struct{ state RadioState }

func (set) Name() string { return "simulated set of the test" }

func (s set) State(_ context.Context, port string) (RadioState, error) {
	if port == "nowhere" {
		return RadioState{}, errors.New("nothing is there")
	}
	return s.state, nil
}

// listening runs a peer on a port of its own.
func listening(t *testing.T, speak func(ctx context.Context, ln net.Listener)) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan struct{})
	go func() { defer close(ended); speak(ctx, ln) }()
	t.Cleanup(func() { cancel(); ln.Close(); <-ended })
	return ln.Addr().String()
}

func TestARadioSaysHowItStands(t *testing.T) {
	dbm := -97.5
	r := set{RadioState{Hz: 7032000, Mode: "CW", Watts: 5, SWR: 1.43, DBm: &dbm}}
	at := listening(t, func(ctx context.Context, ln net.Listener) { _ = ServeRadio(ctx, ln, r) })
	got, err := Client{Reach: time.Second, Idle: time.Second}.Ask(context.Background(), at, "mast")
	if err != nil || got.Hz != 7032000 || got.Mode != "CW" || got.Watts != 5 || got.SWR != 1.43 || *got.DBm != -97.5 || !got.Simulated ||
		got.Name != "set of the test" {
		t.Errorf("%+v %v", got, err)
	}
	if _, err := (Client{Reach: time.Second, Idle: time.Second}).Ask(context.Background(), at, "nowhere"); err == nil ||
		!strings.Contains(err.Error(), "the radio refuses: nothing is there") {
		t.Error(err)
	}
}

func TestWhatNoRadioSaysIsSaidForWhatItIs(t *testing.T) {
	for text, want := range map[string]string{
		"SWEEPLINE 1 x\n":                                      "no radio of this protocol",
		"RADIOLINE 2 x\n":                                      "speaks version 2",
		"RADIOLINE 1 x\nHZ 7032000\nEND\n":                     "a frequency and a mode",
		"RADIOLINE 1 x\nHZ seven\n":                            "HZ, MODE, WATTS",
		"RADIOLINE 1 x\nHZ 7032000\nMODE CW\nSWR 0\n":          "HZ, MODE, WATTS",
		"RADIOLINE 1 x\nHZ 7032000\n":                          "the link to the radio ended",
		"RADIOLINE 1 x\n" + strings.Repeat("HZ 7032000\n", 30): "more and more",
	} {
		at := listening(t, func(ctx context.Context, ln net.Listener) {
			for {
				conn, err := ln.Accept()
				if err != nil {
					return
				}
				_, _ = fmt.Fprint(conn, text)
				time.Sleep(30 * time.Millisecond)
				conn.Close()
			}
		})
		_, err := Client{Reach: time.Second, Idle: time.Second}.Ask(context.Background(), at, "")
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}
