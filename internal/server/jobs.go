package server

import (
	"context"
	"sync"
	"time"
)

// jobs runs computations that take longer than an answer may: one to a slot, stopped when the slot is taken
// by another or nobody has asked for it for a while. Finished ones are kept by what they were made of.
type jobs struct {
	mu   sync.Mutex
	now  func() time.Time
	all  map[string]*job
	kept map[string]any // results by the content of their question
	old  []string       // its keys, the oldest first
}

const (
	keptResults = 200
	// abandoned is how long a computation goes on without being asked for.
	abandoned = 30 * time.Second
)

// job is one computation. Its fields are guarded by the jobs' lock; ended is closed when it is over.
type job struct {
	id, slot string
	step, of int
	result   any
	err      error
	stop     context.CancelFunc
	ended    chan struct{}
	asked    time.Time
}

// work is what a job does.
type work func(ctx context.Context, done func(step, of int)) (any, error)

// start begins a computation, or finds it done already under its key.
func (j *jobs) start(id, slot, key string, do work) *job {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.all == nil {
		j.all, j.kept = map[string]*job{}, map[string]any{}
	}
	for _, other := range j.all {
		if other.slot == slot {
			other.stop()
			delete(j.all, other.id)
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	x := &job{id: id, slot: slot, stop: stop, ended: make(chan struct{}), asked: j.now()}
	j.all[id] = x
	if result, ok := j.kept[key]; ok {
		x.result = result
		close(x.ended)
		return x
	}
	go func() {
		defer stop()
		result, err := do(ctx, func(step, of int) {
			j.mu.Lock()
			defer j.mu.Unlock()
			x.step, x.of = step, of
			if j.now().Sub(x.asked) > abandoned {
				stop()
			}
		})
		j.mu.Lock()
		defer j.mu.Unlock()
		x.result, x.err = result, err
		if err == nil {
			j.keep(key, result)
		}
		close(x.ended)
	}()
	return x
}

func (j *jobs) keep(key string, result any) {
	if _, ok := j.kept[key]; !ok {
		j.old = append(j.old, key)
	}
	j.kept[key] = result
	if len(j.old) > keptResults {
		delete(j.kept, j.old[0])
		j.old = j.old[1:]
	}
}

// find is a computation by its id, marked as asked for.
func (j *jobs) find(id string) (*job, bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	x, ok := j.all[id]
	if ok {
		x.asked = j.now()
	}
	return x, ok
}

// wait waits until a job is over, or a time has passed, or the asker has gone.
func (x *job) wait(ctx context.Context, d time.Duration) {
	timer := time.NewTimer(d)
	defer timer.Stop()
	select {
	case <-x.ended:
	case <-timer.C:
	case <-ctx.Done():
	}
}

// state reads a job.
func (j *jobs) state(x *job) (done bool, step, of int, result any, err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	select {
	case <-x.ended:
		return true, x.step, x.of, x.result, x.err
	default:
		return false, x.step, x.of, nil, nil
	}
}

// remove stops a job and forgets it.
func (j *jobs) remove(id string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if x, ok := j.all[id]; ok {
		x.stop()
		delete(j.all, id)
	}
}
