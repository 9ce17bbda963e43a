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
	all := c.flags.Bool("all", false, "the whole notebook")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || (*outing == "") != *all || len(c.args) != 1 {
		return usagef("name the file, the folder and the outing: reed bundle FILE --data DIR --outing NAME, or --all for the whole notebook")
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	me, err := st.Me(ctx)
	if err != nil {
		return err
	}
	id := ""
	if !*all {
		o, _, err := chosen(ctx, st, *outing)
		if err != nil {
			return err
		}
		id = o.ID
	}
	b, err := st.Bundle(ctx, id)
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

// mergeBundle takes a bundle in, or says what that would do.
func mergeBundle(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	preview := c.flags.Bool("preview", false, "list what would come in, and change nothing")
	undo := c.flags.Int64("undo", 0, "number of a merge to undo")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || (*undo == 0) != (len(c.args) == 1) {
		return usagef("name the file and the folder: reed merge FILE --data DIR, or reed merge --undo NUMBER --data DIR")
	}
	if *undo != 0 {
		st, err := store.Open(ctx, *data)
		if err != nil {
			return err
		}
		defer st.Close()
		kept, err := st.UndoMerge(ctx, *undo)
		if err == nil {
			_, err = fmt.Fprintf(c.out, "merge %d is undone; %d things stay, since others belong to them by now\n", *undo, kept)
		}
		return err
	}
	text, err := os.ReadFile(c.args[0])
	if err != nil {
		return fmt.Errorf("reading the bundle: %w", err)
	}
	about, b, err := bundle.Read(text)
	if err != nil {
		return usagef("%w", err)
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	m, err := st.Merge(ctx, b, about.Call, *preview)
	if err != nil {
		return err
	}
	for _, x := range m.Changes {
		if _, err := fmt.Fprintf(c.out, "%-8s %-10s %s\n", x.What, x.Kind, x.Label); err != nil {
			return err
		}
	}
	_, err = fmt.Fprintln(c.out, m.Says())
	if err == nil && m.ID != 0 {
		_, err = fmt.Fprintf(c.out, "undo it with: reed merge --undo %d --data %s\n", m.ID, *data)
	}
	return err
}
