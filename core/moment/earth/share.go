package earth

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"sync"
)

// Panicked is a panic of work that was shared out, with the stack of where it happened.
type Panicked struct {
	Value any
	Stack []byte
}

func (p Panicked) Error() string { return fmt.Sprintf("%v\n%s", p.Value, p.Stack) }

// Share does n pieces of work on all processors, and stops handing them out when asked. A panic of the work
// becomes one of the caller (Panicked): in a goroutine of its own nobody could catch it, and it would end the
// program.
func Share(ctx context.Context, n int, work func(i int)) error {
	pieces := make(chan int)
	var wg sync.WaitGroup
	var once sync.Once
	var failed *Panicked
	over := make(chan struct{})
	one := func(i int) {
		defer func() {
			if v := recover(); v != nil {
				once.Do(func() { failed = &Panicked{v, debug.Stack()}; close(over) })
			}
		}()
		work(i)
	}
	for range min(n, runtime.GOMAXPROCS(0)) {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range pieces {
				one(i)
			}
		}()
	}
	err := hand(ctx, n, pieces, over)
	close(pieces)
	wg.Wait()
	if failed != nil {
		panic(*failed)
	}
	return err
}

// hand deals out the numbers of the pieces until all are dealt, or somebody says stop.
func hand(ctx context.Context, n int, pieces chan<- int, over <-chan struct{}) error {
	for i := range n {
		if err := ctx.Err(); err != nil {
			return err
		}
		select {
		case pieces <- i:
		case <-over:
			return nil
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}
