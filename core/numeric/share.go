package numeric

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"sync/atomic"

	"golang.org/x/sync/errgroup"
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
	group, ctx := errgroup.WithContext(ctx)
	var next atomic.Int64
	one := func(i int) (err error) {
		defer func() {
			if v := recover(); v != nil {
				err = Panicked{v, debug.Stack()}
			}
		}()
		work(i)
		return nil
	}
	for range min(n, runtime.GOMAXPROCS(0)) {
		group.Go(func() error {
			for ctx.Err() == nil {
				i := int(next.Add(1)) - 1
				if i >= n {
					return nil
				}
				if err := one(i); err != nil {
					return err
				}
			}
			return ctx.Err()
		})
	}
	err := group.Wait()
	if p, ok := err.(Panicked); ok {
		panic(p)
	}
	return err
}
