package server

import (
	"bytes"
	"context"
	"fmt"

	"reed/internal/bundle"
	"reed/internal/exchange"
	"reed/internal/store"
)

// ExportBundle writes an outing with all that belongs to it as one file.
func (s *Server) ExportBundle(ctx context.Context, r ExportBundleRequestObject) (ExportBundleResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	b, err := s.store.Bundle(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := bundle.Write(&out, exchange.Owner{Call: me.Call, Version: s.version}, b); err != nil {
		return nil, err
	}
	return ExportBundle200ApplicationzipResponse{Body: &out, ContentLength: int64(out.Len())}, nil
}

// MergeBundle brings a bundle in.
func (s *Server) MergeBundle(ctx context.Context, r MergeBundleRequestObject) (MergeBundleResponseObject, error) {
	about, b, err := bundle.Read(r.Body.Content)
	if err != nil {
		return nil, invalid("content", err.Error())
	}
	m, err := s.store.Merge(ctx, b)
	if err != nil {
		return nil, invalid("content", err.Error())
	}
	return MergeBundle200JSONResponse{Merged: m, Outings: notNil(about.Outings), Says: saysMerged(m, about)}, nil
}

func saysMerged(m store.Merged, about bundle.About) string {
	if m.New+m.Newer+m.Reports == 0 {
		return "All of it is here already."
	}
	from := ""
	if about.Call != "" {
		from = " from " + about.Call
	}
	return fmt.Sprintf("%d new things, %d newer ones and %d reports came in%s; %d were here.", m.New, m.Newer, m.Reports, from, m.Kept)
}
