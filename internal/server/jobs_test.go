package server

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"reed/core/numeric"
)

func quietJobs() *jobs { return newJobs(slog.New(slog.DiscardHandler)) }

// forever runs until it is stopped, and says when it began and ended.
func forever() (do work, began, stopped chan struct{}) {
	began, stopped = make(chan struct{}), make(chan struct{})
	return func(ctx context.Context, done func(step, of int)) (any, error) {
		close(began)
		<-ctx.Done()
		close(stopped)
		return nil, ctx.Err()
	}, began, stopped
}

func value(v any) work {
	return func(context.Context, func(step, of int)) (any, error) { return v, nil }
}

func TestASlotStopsWhatRanInItTogether(t *testing.T) {
	t.Parallel()
	j := quietJobs()
	do, began, stopped := forever()
	first := j.start("a", "slot", "k1", do)
	<-began
	quick := j.start("b", "slot", "k2", value(7))
	<-stopped
	<-first.run.ended
	if at := j.state(first); !at.done || !errors.Is(at.err, context.Canceled) {
		t.Errorf("the first is %+v", at)
	}
	j.wait(context.Background(), quick, time.Minute)
	if at := j.state(quick); !at.done || at.result != 7 || at.err != nil {
		t.Errorf("the second is %+v", at)
	}
	for i := range keptResults + 20 {
		x := j.start("d", "x", string(rune(1000+i)), value(i))
		<-x.run.ended
	}
	if len(j.kept) > keptResults {
		t.Errorf("%d results are kept", len(j.kept))
	}
}

func TestWhoLeavesIsNoLongerComputedForTogether(t *testing.T) {
	t.Parallel()
	j := quietJobs()
	do, began, stopped := forever()
	x := j.start("a", "slot", "k", do)
	<-began
	ctx, leave := context.WithCancel(context.Background())
	gone := make(chan struct{})
	go func() { j.wait(ctx, x, time.Hour); close(gone) }()
	leave()
	<-gone
	<-stopped
	// One that is never asked for again is let go of when its lease is over.
	do, began, stopped = forever()
	y := j.start("b", "slot", "k", do)
	<-began
	j.mu.Lock()
	y.asked = time.Now().Add(-2 * lease)
	j.mu.Unlock()
	<-stopped
	if _, ok := j.find("b"); ok {
		t.Error("a job that was let go of is still found")
	}
}

func TestEqualQuestionsAreComputedOnceTogether(t *testing.T) {
	t.Parallel()
	j := quietJobs()
	var runs atomic.Int32
	hold := make(chan struct{})
	do := func(ctx context.Context, _ func(step, of int)) (any, error) {
		runs.Add(1)
		select {
		case <-hold:
		case <-ctx.Done():
		}
		return 5, ctx.Err()
	}
	a, b := j.start("a", "one tab", "same", do), j.start("b", "another tab", "same", do)
	j.remove("a") // the other goes on
	close(hold)
	<-b.run.ended
	if at := j.state(b); at.result != 5 || at.err != nil || runs.Load() != 1 || a.run != b.run {
		t.Errorf("%+v after %d runs", at, runs.Load())
	}
	// In the same slot the same question again does not begin anew.
	c := j.start("c", "another tab", "same", do)
	<-c.run.ended
	if runs.Load() != 1 || j.state(c).result != 5 {
		t.Errorf("%d runs", runs.Load())
	}
}

func TestAsManyRunAtOnceAsThereAreCoresTogether(t *testing.T) {
	j := quietJobs()
	cores := atOnce()
	var now, most atomic.Int32
	hold := make(chan struct{})
	do := func(context.Context, func(step, of int)) (any, error) {
		if n := now.Add(1); n > most.Load() {
			most.Store(n)
		}
		<-hold
		now.Add(-1)
		return nil, nil
	}
	var all []*job
	for i := range cores * 4 {
		all = append(all, j.start(string(rune('a'+i)), string(rune('a'+i)), string(rune('a'+i)), do))
	}
	for now.Load() < int32(cores) {
		runtime.Gosched()
	}
	waiting := 0
	for _, x := range all {
		if at := j.state(x); !at.begun {
			waiting++
		}
	}
	if waiting != cores*3 {
		t.Errorf("%d wait their turn, not %d", waiting, cores*3)
	}
	close(hold)
	for _, x := range all {
		<-x.run.ended
	}
	if most.Load() > int32(cores) {
		t.Errorf("%d ran at once on %d cores", most.Load(), cores)
	}
}

func TestAPanicBelowAJobIsToldAndLogged(t *testing.T) {
	t.Parallel()
	var log bytes.Buffer
	j := newJobs(slog.New(slog.NewTextHandler(&log, nil)))
	for name, do := range map[string]work{
		"itself": func(context.Context, func(step, of int)) (any, error) { return []int{}[len(name0)], nil },
		"below": func(ctx context.Context, _ func(step, of int)) (any, error) {
			return nil, numeric.Share(ctx, 8, func(i int) { _ = []int{}[i] })
		},
	} {
		x := j.start(name, name, name, do)
		<-x.run.ended
		at := j.state(x)
		if at.err == nil || !strings.Contains(at.err.Error(), name) || !strings.Contains(log.String(), "jobs_test.go") {
			t.Errorf("%s: %v\n%s", name, at.err, log.String())
		}
		// And nobody holds a turn for it.
		if y := j.start("after", "after", "after "+name, value(1)); y != nil {
			<-y.run.ended
		}
	}
}

// name0 has an index that the compiler does not see through.
var name0 = "beyond"

func TestAnInstrumentDoesNotWaitForComputationsTogether(t *testing.T) {
	t.Parallel()
	j := quietJobs()
	hold := make(chan struct{})
	var busy []*job
	for i := range atOnce() {
		id := string(rune('a' + i))
		busy = append(busy, j.start(id, id, id, func(context.Context, func(step, of int)) (any, error) { <-hold; return nil, nil }))
	}
	x := j.startInstrument("m", "m", "m", value(3))
	<-x.run.ended // with every turn taken
	if at := j.state(x); at.result != 3 {
		t.Errorf("%+v", at)
	}
	close(hold)
	for _, b := range busy {
		<-b.run.ended
	}
}
