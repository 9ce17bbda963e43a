package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"reed/internal/demo"
	"reed/internal/server"
	"reed/internal/store"
)

// begin takes the call's words apart; every command calls it after declaring its flags.
func (c *call) begin() error {
	words := c.args
	c.args = nil
	return c.parse(words)
}

func serve(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	listen := c.flags.String("listen", "127.0.0.1:7314", "address; other than loopback lets others on the network in")
	hosts := c.flags.String("allow-host", "", "names, parted by commas, by which the server may be called beside its address")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" {
		return usagef("name the folder of the data with --data DIR")
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	return listenAndServe(ctx, c, st, *listen, *hosts)
}

func demonstrate(ctx context.Context, c *call) error {
	data := c.flags.String("data", "demo-data", "folder of the demo's data; made and filled when empty")
	listen := c.flags.String("listen", "127.0.0.1:7315", "address")
	if err := c.begin(); err != nil {
		return err
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	have, err := st.Outings(ctx)
	if err != nil {
		return err
	}
	if len(have) == 0 {
		if err := demo.Fill(ctx, st); err != nil {
			return err
		}
	}
	return listenAndServe(ctx, c, st, *listen, "")
}

// listenAndServe serves until the context ends, then lets running requests finish.
func listenAndServe(ctx context.Context, c *call, st *store.Store, address, hosts string) error {
	log := slog.New(slog.NewTextHandler(c.err, &slog.HandlerOptions{Level: slog.LevelWarn}))
	o := server.Options{Log: log, Version: version}
	if hosts != "" {
		o.Hosts = strings.Split(hosts, ",")
	}
	handler, err := server.New(st, o)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return fmt.Errorf("listening on %s: %w", address, err)
	}
	fmt.Fprintf(c.out, "Itinerant Reed is at http://%s\n", l.Addr())
	if ip := l.Addr().(*net.TCPAddr).IP; !ip.IsLoopback() {
		fmt.Fprintln(c.err, "Anyone who reaches this address can read and change the data: there is no password.")
	}
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute, IdleTimeout: 2 * time.Minute}
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	stop, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := srv.Shutdown(stop); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return nil
}
