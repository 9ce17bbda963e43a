package earth

import (
	"context"
	"runtime"
	"sync"
)

// Share does n pieces of work on all processors, and stops handing them out when asked.
func Share(ctx context.Context, n int, work func(i int)) error {
	pieces := make(chan int)
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range pieces {
				work(i)
			}
		}()
	}
	defer wg.Wait()
	defer close(pieces)
	for i := range n {
		if err := ctx.Err(); err != nil {
			return err
		}
		pieces <- i
	}
	return nil
}
