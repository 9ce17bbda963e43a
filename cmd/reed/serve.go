package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"time"

	"reed/internal/access"
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
	d := doorFlags(c, "127.0.0.1:7314")
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
	return listenAndServe(ctx, c, st, *data, d)
}

func demonstrate(ctx context.Context, c *call) error {
	data := c.flags.String("data", "demo-data", "folder of the demo's data; made and filled when empty")
	d := doorFlags(c, "127.0.0.1:7315")
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
	return listenAndServe(ctx, c, st, *data, d)
}

// listenAndServe serves until the context ends, then lets running requests finish.
func listenAndServe(ctx context.Context, c *call, st *store.Store, data string, d *door) error {
	log := slog.New(slog.NewTextHandler(c.err, &slog.HandlerOptions{Level: slog.LevelWarn}))
	guard, err := access.Open(data, time.Now)
	if err != nil {
		return err
	}
	if guard.Aside != "" {
		fmt.Fprintf(c.err, "Which devices may come in could not be read. The file is set aside as %s: pair them again.\n", guard.Aside)
	}
	if err := d.check(guard); err != nil {
		return err
	}
	l, err := net.Listen("tcp", d.address())
	if err != nil {
		return fmt.Errorf("listening on %s: %w", d.address(), err)
	}
	defer l.Close()
	o := server.Options{Log: log, Version: version, Guard: guard, Stop: ctx.Done(), LAN: d.beyond(l), Hosts: d.names()}
	config, err := d.tls(data)
	if err != nil {
		return err
	}
	if config != nil && *d.cert == "" {
		o.Root = access.Root(data)
	}
	if o.Addresses, err = d.reached(l, config != nil); err != nil {
		return err
	}
	round := &isles{log: log}
	defer round.close()
	o.Round = round.open
	handler, err := server.New(st, o)
	if err != nil {
		return err
	}
	d.announce(c, l, guard, o.Addresses, config)
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute, IdleTimeout: 2 * time.Minute}
	done := make(chan error, 1)
	go func() {
		if srv.TLSConfig = config; config != nil {
			done <- srv.ServeTLS(l, "", "")
			return
		}
		done <- srv.Serve(l)
	}()
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
