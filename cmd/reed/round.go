package main

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"sync"
	"time"

	"reed/internal/demo"
	"reed/internal/server"
	"reed/internal/store"
)

// isles is the notebook of made-up data that a new one offers to look round in: a folder of its own that goes with the
// program, and a door of its own on this machine, so that nothing of it is ever mixed with what is one's own.
type isles struct {
	log *slog.Logger

	mu   sync.Mutex
	door net.Listener
	st   *store.Store
	dir  string
	srv  *http.Server
}

// open makes it, if it is not there yet, and returns its address. own is where one comes back to.
func (i *isles) open(ctx context.Context, own string) (string, error) {
	i.mu.Lock()
	defer i.mu.Unlock()
	if i.srv != nil {
		return "http://" + i.door.Addr().String(), nil
	}
	err := i.make(context.WithoutCancel(ctx), own)
	if err != nil {
		i.drop()
		return "", fmt.Errorf("making the Marram Isles: %w", err)
	}
	return "http://" + i.door.Addr().String(), nil
}

func (i *isles) make(ctx context.Context, own string) (err error) {
	if i.dir, err = os.MkdirTemp("", "reed-isles-"); err != nil {
		return err
	}
	if i.st, err = store.Open(ctx, i.dir); err != nil {
		return err
	}
	if err := demo.Fill(ctx, i.st); err != nil {
		return err
	}
	handler, err := server.New(i.st, server.Options{Log: i.log, Version: version, Own: own})
	if err != nil {
		return err
	}
	if i.door, err = net.Listen("tcp", "127.0.0.1:0"); err != nil {
		return err
	}
	i.srv = &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute, IdleTimeout: 2 * time.Minute}
	go func() { _ = i.srv.Serve(i.door) }()
	return nil
}

// drop ends it and takes its folder away.
func (i *isles) drop() {
	if i.srv != nil {
		_ = i.srv.Close()
	}
	if i.st != nil {
		i.st.Close()
	}
	if i.dir != "" {
		_ = os.RemoveAll(i.dir)
	}
	i.srv, i.st, i.dir = nil, nil, ""
}

// close ends it with the program.
func (i *isles) close() {
	i.mu.Lock()
	defer i.mu.Unlock()
	i.drop()
}
