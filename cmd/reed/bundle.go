package main

import (
	"bufio"
	"context"
	"fmt"
	"os"

	"reed/internal/bundle"
	"reed/internal/exchange"
	"reed/internal/store"
)

// bundleOuting writes an outing with all that belongs to it as one file.
func bundleOuting(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	outing := c.flags.String("outing", "", "name or id of the outing")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || *outing == "" || len(c.args) != 1 {
		return usagef("name the file, the folder and the outing: reed bundle FILE --data DIR --outing NAME")
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	o, me, err := chosen(ctx, st, *outing)
	if err != nil {
		return err
	}
	b, err := st.Bundle(ctx, o.ID)
	if err != nil {
		return err
	}
	f, err := os.OpenFile(c.args[0], os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return fmt.Errorf("writing the bundle: %w", err)
	}
	w := bufio.NewWriter(f)
	if err := bundle.Write(w, exchange.Owner{Call: me.Call, Version: version}, b); err != nil {
		f.Close()
		return err
	}
	if err := w.Flush(); err != nil {
		f.Close()
		return err
	}
	return f.Close()
}

// mergeBundle brings a bundle in.
func mergeBundle(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || len(c.args) != 1 {
		return usagef("name the file and the folder: reed merge FILE --data DIR")
	}
	text, err := os.ReadFile(c.args[0])
	if err != nil {
		return fmt.Errorf("reading the bundle: %w", err)
	}
	_, b, err := bundle.Read(text)
	if err != nil {
		return usagef("%w", err)
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	m, err := st.Merge(ctx, b)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(c.out, "%d new, %d newer, %d kept as they are, %d reports\n", m.New, m.Newer, m.Kept, m.Reports)
	return err
}
