package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime"
	"runtime/debug"
	"sync"
	"time"

	"golang.org/x/sync/semaphore"
)

// jobs runs computations that take longer than an answer may: as many at once as there are cores, and at least two, so that on
// a single core a quick answer does not wait for a long one. The others wait their turn; what only waits for an instrument
// takes none. A job is one asker's hold on a run; equal questions share one run. A slot holds one job: the next
// takes its place. A run whose last asker has left is stopped. Finished results are kept for some minutes by what
// they were made of.
type jobs struct {
	log     *slog.Logger
	mu      sync.Mutex
	turn    *semaphore.Weighted
	all     map[string]*job
	running map[string]*run
	kept    map[string]kept
	watched bool
}

const (
	// lease is how long a job goes on without being asked for; who waits for it asks all the time.
	lease = 5 * time.Second
	// look is how often is looked for those that have left.
	look = 200 * time.Millisecond
	// keeping is how long a finished result, and a job that is over, are remembered.
	keeping     = 5 * time.Minute
	keptResults = 200
)

type kept struct {
	result any
	until  time.Time
}

// run is a computation under way. Its fields are guarded by the jobs' lock; ended is closed when it is over.
type run struct {
	key      string
	begun    bool // it has its turn
	step, of int
	// instrument says that it waits for an instrument and computes nothing.
	instrument bool
	result     any
	err        error
	over       bool
	stop       context.CancelFunc
	ended      chan struct{}
	askers     int
}

// job is an asker's hold on a run.
type job struct {
	id, slot string
	run      *run
	asked    time.Time
	waits    int // requests that wait for it just now
}

// work is the function of a job.
type work func(ctx context.Context, done func(step, of int)) (any, error)

// errPanicked says that a computation broke; the log has its stack under the job's id.
type errPanicked struct{ id string }

func (e errPanicked) Error() string {
	return fmt.Sprintf("something went wrong while computing this; what you typed is kept. The program's log says more under %s", e.id)
}

func newJobs(log *slog.Logger) *jobs {
	return &jobs{log: log, turn: semaphore.NewWeighted(int64(atOnce())), all: map[string]*job{}, running: map[string]*run{},
		kept: map[string]kept{}}
}

// atOnce is how many computations run at the same time.
func atOnce() int { return max(2, runtime.GOMAXPROCS(0)) }

// start begins a computation, or joins one with the same key, or finds it done already.
func (j *jobs) start(id, slot, key string, do work) *job { return j.begin(id, slot, key, false, do) }

// startInstrument begins to ask an instrument, beside whatever is computed.
func (j *jobs) startInstrument(id, slot, key string, do work) *job {
	return j.begin(id, slot, key, true, do)
}

func (j *jobs) begin(id, slot, key string, instrument bool, do work) *job {
	j.mu.Lock()
	defer j.mu.Unlock()
	if same, ok := j.all[id]; ok {
		if same.run.key == key {
			same.asked = time.Now() // the same request again
			return same
		}
		j.drop(same)
	}
	r, shared := j.running[key]
	if !shared {
		r = &run{key: key, instrument: instrument, ended: make(chan struct{}), stop: func() {}}
	}
	r.askers++ // before the slot's last job leaves, which may hold the same run
	for _, other := range j.all {
		if other.slot == slot {
			j.drop(other)
		}
	}
	x := &job{id: id, slot: slot, run: r, asked: time.Now()}
	j.all[id] = x
	if !j.watched {
		j.watched = true
		go j.watch()
	}
	if shared {
		return x
	}
	if have, ok := j.kept[key]; ok && time.Now().Before(have.until) {
		r.result, r.over, r.begun = have.result, true, true
		close(r.ended)
		return x
	}
	var ctx context.Context
	ctx, r.stop = context.WithCancel(context.Background())
	j.running[key] = r
	go j.do(ctx, id, r, do)
	return x
}

// do runs a computation when it is its turn.
func (j *jobs) do(ctx context.Context, id string, r *run, do work) {
	defer r.stop()
	result, err := any(nil), error(nil)
	if !r.instrument {
		err = j.turn.Acquire(ctx, 1)
	}
	if err == nil {
		j.mu.Lock()
		r.begun = true
		j.mu.Unlock()
		result, err = j.guarded(ctx, id, r, do)
		if !r.instrument {
			j.turn.Release(1)
		}
	}
	// What was worked out after the stop is not whole.
	if ended := ctx.Err(); ended != nil {
		err = ended
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	r.result, r.err, r.over = result, err, true
	if j.running[r.key] == r {
		delete(j.running, r.key)
	}
	if err == nil {
		j.kept[r.key] = kept{result, time.Now().Add(keeping)}
		j.forget()
	}
	close(r.ended)
}

// guarded is the computation with its panics caught: one place for all that are computed.
func (j *jobs) guarded(ctx context.Context, id string, r *run, do work) (result any, err error) {
	defer func() {
		if v := recover(); v != nil {
			j.log.Error("a computation panicked", "id", id, "panic", fmt.Sprint(v), "stack", string(debug.Stack()))
			result, err = nil, errPanicked{id}
		}
	}()
	return do(ctx, func(step, of int) {
		j.mu.Lock()
		defer j.mu.Unlock()
		r.step, r.of = step, of
	})
}

// forget removes results that are old, and the oldest when there are too many.
func (j *jobs) forget() {
	now := time.Now()
	oldest := ""
	for key, k := range j.kept {
		if now.After(k.until) {
			delete(j.kept, key)
		} else if oldest == "" || k.until.Before(j.kept[oldest].until) {
			oldest = key
		}
	}
	if len(j.kept) > keptResults {
		delete(j.kept, oldest)
	}
}

// watch lets go of jobs that nobody asks for any more, until there are neither jobs nor results.
func (j *jobs) watch() {
	tick := time.NewTicker(look)
	defer tick.Stop()
	for range tick.C {
		if !j.tidy() {
			return
		}
	}
}

func (j *jobs) tidy() (more bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	for _, x := range j.all {
		patience := lease
		if x.run.over {
			patience = keeping
		}
		if x.waits == 0 && time.Since(x.asked) > patience {
			j.drop(x)
		}
	}
	j.forget()
	j.watched = len(j.all)+len(j.kept) > 0
	return j.watched
}

// drop lets go of a job; the last one to leave stops its run.
func (j *jobs) drop(x *job) {
	delete(j.all, x.id)
	if x.run.askers--; x.run.askers <= 0 {
		x.run.stop()
		if j.running[x.run.key] == x.run {
			delete(j.running, x.run.key)
		}
	}
}

// find is a computation by its id, marked as asked for.
func (j *jobs) find(id string) (*job, bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	x, ok := j.all[id]
	if ok {
		x.asked = time.Now()
	}
	return x, ok
}

// wait waits until a job is over, or a time has passed. An asker who goes meanwhile has left the job.
func (j *jobs) wait(ctx context.Context, x *job, d time.Duration) {
	j.mu.Lock()
	x.waits++
	j.mu.Unlock()
	timer := time.NewTimer(d)
	defer timer.Stop()
	select {
	case <-x.run.ended:
	case <-timer.C:
	case <-ctx.Done():
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	x.waits--
	x.asked = time.Now()
	if errors.Is(ctx.Err(), context.Canceled) && x.waits == 0 && j.all[x.id] == x && !x.run.over {
		j.drop(x)
	}
}

// state is how far a job is.
type state struct {
	done, begun bool
	step, of    int
	result      any
	err         error
}

func (j *jobs) state(x *job) state {
	j.mu.Lock()
	defer j.mu.Unlock()
	r := x.run
	if !r.over {
		return state{begun: r.begun, step: r.step, of: r.of}
	}
	return state{done: true, begun: true, step: r.step, of: r.of, result: r.result, err: r.err}
}

// remove lets go of a job by its id.
func (j *jobs) remove(id string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if x, ok := j.all[id]; ok {
		j.drop(x)
	}
}
