package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"reed/core/lineage"
	"reed/internal/bundle"
	"reed/internal/exchange"
)

// packed writes an outing, or the whole notebook, as a bundle.
func (s *Server) packed(ctx context.Context, outingID string) (*bytes.Buffer, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	b, err := s.store.Bundle(ctx, outingID)
	if err != nil {
		return nil, err
	}
	out := &bytes.Buffer{}
	return out, bundle.Write(out, exchange.Owner{Call: me.Call, Version: s.version}, b)
}

// ExportBundle writes an outing with all that belongs to it as one file.
func (s *Server) ExportBundle(ctx context.Context, r ExportBundleRequestObject) (ExportBundleResponseObject, error) {
	out, err := s.packed(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	return ExportBundle200ApplicationzipResponse{Body: out, ContentLength: int64(out.Len())}, nil
}

// ExportNotebook writes the whole notebook as one file.
func (s *Server) ExportNotebook(ctx context.Context, _ ExportNotebookRequestObject) (ExportNotebookResponseObject, error) {
	out, err := s.packed(ctx, "")
	if err != nil {
		return nil, err
	}
	return ExportNotebook200ApplicationzipResponse{Body: out, ContentLength: int64(out.Len())}, nil
}

// MergeBundle merges a bundle, or lists what that would change.
func (s *Server) MergeBundle(ctx context.Context, r MergeBundleRequestObject) (MergeBundleResponseObject, error) {
	about, b, err := bundle.Read(r.Body.Content)
	if err != nil {
		return nil, invalid("content", err.Error())
	}
	m, err := s.store.Merge(ctx, b, about.Call, r.Body.Preview)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, invalid("content", err.Error())
	}
	says := m.Says()
	if about.Call != "" && m.Total() > 0 {
		says = "From " + about.Call + ": " + strings.ToLower(says[:1]) + says[1:]
	}
	return MergeBundle200JSONResponse{Merged: m, Outings: notNil(about.Outings), Says: says, Preview: r.Body.Preview}, nil
}

// UndoMerge takes a merge back.
func (s *Server) UndoMerge(ctx context.Context, r UndoMergeRequestObject) (UndoMergeResponseObject, error) {
	kept, err := s.store.UndoMerge(ctx, r.Number)
	return UndoMerge200JSONResponse{Kept: kept}, err
}

// ListConflicts lists the fields that two notebooks changed.
func (s *Server) ListConflicts(ctx context.Context, _ ListConflictsRequestObject) (ListConflictsResponseObject, error) {
	list, err := s.store.Conflicts(ctx)
	out := ListConflicts200JSONResponse{}
	for _, c := range list {
		x := MergeConflict{Kind: c.Kind, Id: c.ID, Label: c.Label, Version: c.Version}
		for _, f := range c.Fields {
			var values []string
			for _, v := range f.Values {
				values = append(values, readable(f.Path, v.Raw))
			}
			x.Fields = append(x.Fields, struct {
				Label  string   `json:"label"`
				Path   string   `json:"path"`
				Values []string `json:"values"`
			}{fieldLabel(f.Path), f.Path, values})
		}
		out = append(out, x)
	}
	return out, err
}

// fieldLabel names a field of a document by its path.
func fieldLabel(path string) string {
	switch path {
	case lineage.Whole:
		return "all of it"
	case lineage.Removed:
		return "deleted"
	case lineage.Beside:
		return "file"
	}
	return strings.NewReplacer("/", " ", "_", " ", "~1", "/", "~0", "~").Replace(strings.TrimPrefix(path, "/"))
}

// readable is a field's value as one reads it.
func readable(path string, raw json.RawMessage) string {
	const most = 400
	var text string
	switch {
	case len(raw) == 0:
		return "nothing"
	case path == lineage.Removed:
		if string(raw) == "true" {
			return "delete it"
		}
		return "keep it"
	case json.Unmarshal(raw, &text) != nil:
		text = string(raw)
	}
	if path == lineage.Beside {
		return fmt.Sprintf("the file %.8s", text)
	}
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most]) + "..."
	}
	if strings.TrimSpace(text) == "" {
		return "nothing"
	}
	return text
}

// ListVersions lists the earlier versions of a thing.
func (s *Server) ListVersions(ctx context.Context, r ListVersionsRequestObject) (ListVersionsResponseObject, error) {
	list, current, err := s.store.Earlier(ctx, r.Kind, r.Id)
	out := ListVersions200JSONResponse{Current: current, List: []EarlierVersion{}}
	for _, e := range list {
		v := EarlierVersion{Version: e.Version, At: e.At, Deleted: e.Deleted, Fields: []EarlierField{}}
		for _, d := range e.Differs {
			v.Fields = append(v.Fields, EarlierField{Label: fieldLabel(d.Path), Was: readable(d.Path, d.Was)})
		}
		if e.File {
			v.Fields = append(v.Fields, EarlierField{Label: fieldLabel(lineage.Beside), Was: "another one"})
		}
		out.List = append(out.List, v)
	}
	return out, err
}

// DecideConflict ends conflicts of a thing.
func (s *Server) DecideConflict(ctx context.Context, r DecideConflictRequestObject) (DecideConflictResponseObject, error) {
	version, err := s.store.Decide(ctx, r.Kind, r.Id, r.Body.From, r.Body.Choice)
	return DecideConflict200JSONResponse{Version: version}, err
}
