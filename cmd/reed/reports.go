package main

import (
	"context"
	"iter"

	"github.com/google/uuid"

	"reed/internal/exchange"
	"reed/internal/store"
)

// reportImport stores the reception reports of a file as they are read, so many at a time.
type reportImport struct {
	ctx                context.Context
	st                 *store.Store
	outing, deployment string
	into               store.Outing
	sentWith           string
	batch              string
	chunk              []store.NumberedReport
	added, known       int
}

// atOnce is how many are stored together.
const atOnce = 10_000

func (r *reportImport) take(h exchange.Heard) error {
	if !h.Taken || h.Known {
		return nil
	}
	if r.batch == "" {
		if err := r.begin(h); err != nil {
			return err
		}
	}
	h.DeploymentID = r.sentWith
	if r.chunk = append(r.chunk, store.NumberedReport{Report: h.Report, Number: h.Number}); len(r.chunk) < atOnce {
		return nil
	}
	return r.flush()
}

// begin finds where they belong, with the first of them.
func (r *reportImport) begin(h exchange.Heard) (err error) {
	if r.into, err = outingFor(r.ctx, r.st, r.outing, "reports of "+h.Sender, h.At); err != nil {
		return err
	}
	r.batch = uuid.Must(uuid.NewV7()).String()
	if r.deployment == "" {
		return nil
	}
	all, err := r.st.Deployments(r.ctx, r.into.ID)
	if err != nil {
		return err
	}
	var list []named
	for _, d := range all {
		list = append(list, named{d.ID, d.Name})
	}
	one, err := pick("deployment", r.deployment, list, func(n named) (string, string) { return n.id, n.name })
	r.sentWith = one.id
	return err
}

type named struct{ id, name string }

func (r *reportImport) flush() error {
	all := func(yield func(store.NumberedReport, error) bool) {
		for _, x := range r.chunk {
			if !yield(x, nil) {
				return
			}
		}
	}
	added, known, err := r.st.AddReports(r.ctx, r.into.ID, r.batch, iter.Seq2[store.NumberedReport, error](all))
	r.added, r.known, r.chunk = r.added+added, r.known+known, r.chunk[:0]
	return err
}

func (r *reportImport) finish(c *call, p *exchange.Preview) error {
	if r.batch == "" {
		return usagef("%s: none of its %d reports can be taken; reed preview says why", p.Name, p.Counts.Records)
	}
	if err := r.flush(); err != nil {
		return err
	}
	if err := r.st.Pack(r.ctx, r.into.ID); err != nil {
		return err
	}
	return c.json(map[string]any{"kind": p.Kind, "outing": r.into.Name, "outing_id": r.into.ID, "added": r.added,
		"known": r.known + p.Counts.Known, "refused": p.Counts.Refused, "guesses": p.Guesses, "notes": p.Notes})
}
