package server

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"sync"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/legacy"
	"github.com/labstack/echo/v5"

	"reed/api"
	"reed/core/antenna"
	"reed/core/quantity"
	"reed/internal/exchange"
	"reed/internal/store"
)

// problem is an error that is meant for the user, with the fields it is about.
type problem struct {
	status        int
	title, detail string
	id            string // under which the log says more
	errors        []FieldError
	conflict      *Conflict
}

func (p *problem) Error() string { return p.title }

// invalid is a problem with one field.
func invalid(path, detail string) *problem {
	return &problem{status: http.StatusUnprocessableEntity, title: "Check one entry",
		errors: []FieldError{{Path: path, Detail: detail}}}
}

// faulty turns the errors among faults into a problem in somebody's units, nil without any. prefix stands before each
// path.
func faulty(units quantity.System, prefix string, faults []antenna.Fault) error {
	var out []FieldError
	for _, f := range faults {
		if f.Severity == "error" {
			out = append(out, FieldError{Path: prefix + f.Path, Detail: f.In(units).Text})
		}
	}
	if len(out) == 0 {
		return nil
	}
	return &problem{status: http.StatusUnprocessableEntity, title: "Check these entries", errors: out}
}

// handleError writes every error as a problem document. What is not meant for users is logged, and told
// only as an internal fault.
func (s *Server) handleError(c *echo.Context, err error) {
	if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Committed {
		return
	}
	p := &problem{status: http.StatusInternalServerError, title: "Something went wrong here; nothing was changed",
		detail: "The program's log says more."}
	var own *problem
	var file *exchange.FileError
	var other *store.Conflict
	var refused *store.Refused
	var status echo.HTTPStatusCoder
	switch {
	case errors.As(err, &own):
		p = own
	case errors.As(err, &file):
		p = &problem{status: http.StatusUnprocessableEntity, title: "This file cannot be read",
			errors: []FieldError{{Path: "file", Detail: file.Error()}}}
	case errors.As(err, &other):
		p = conflicting(other)
	case errors.As(err, &refused):
		p = &problem{status: http.StatusUnprocessableEntity, title: "This cannot be saved", detail: refused.Error(),
			errors: []FieldError{{Path: "", Detail: refused.Error()}}}
	case errors.Is(err, store.ErrNotFound):
		p = &problem{status: http.StatusNotFound, title: "Not found", detail: err.Error()}
	case errors.Is(err, context.Canceled):
		p = &problem{status: 499, title: "Stopped"}
	case errors.As(err, &status) && status.StatusCode() < 500:
		p = &problem{status: status.StatusCode(), title: http.StatusText(status.StatusCode())}
		if p.status == http.StatusRequestEntityTooLarge {
			p.title, p.detail = "This is too large", "At most 32 MB; split the file."
		}
	case store.IsFull(err):
		p = &problem{status: http.StatusInsufficientStorage, title: "The disk is full",
			detail: "Nothing was saved. Free some space on the disk of the notebook, then do it again: what you typed is still here."}
	case store.IsReadOnly(err):
		p = &problem{status: http.StatusInternalServerError, title: "The notebook's folder cannot be written",
			detail: "Nothing was saved. Make the folder writable again, then do it again: what you typed is still here."}
	default:
		p.id = c.Response().Header().Get(echo.HeaderXRequestID)
		s.log.Error("request failed", "id", p.id, "path", c.Request().URL.Path, "error", err)
	}
	body, merr := json.Marshal(Problem{Title: p.title, Status: p.status, Detail: p.detail, Id: p.id, Errors: p.errors, Conflict: p.conflict})
	if merr == nil {
		merr = c.Blob(p.status, "application/problem+json", body)
	}
	if merr != nil {
		s.log.Warn("answer not sent", "error", merr)
	}
}

// conflicting says what is there, and what the write was made from.
func conflicting(c *store.Conflict) *problem {
	return conflictIn(c, func(doc []byte) (map[string]any, error) {
		out := map[string]any{}
		return out, json.Unmarshal(doc, &out)
	})
}

// conflictIn is a conflict whose documents are shown in the form of the write.
func conflictIn(c *store.Conflict, form func(doc []byte) (map[string]any, error)) *problem {
	p := &problem{status: http.StatusConflict, title: "Something else was saved meanwhile",
		detail:   c.Error() + ". Nothing was overwritten: choose what to keep.",
		conflict: &Conflict{Version: c.Version, Deleted: c.Deleted, Now: map[string]any{}}}
	now, err := form(c.Doc)
	if err != nil {
		p.detail += " What is there cannot be shown: " + err.Error()
		return p
	}
	p.conflict.Now = now
	if len(c.Was) > 0 {
		if was, err := form(c.Was); err == nil {
			p.conflict.Was = was
		}
	}
	return p
}

// generic turns a value into what JSON makes of it.
func generic(v any) (map[string]any, error) {
	doc, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	out := map[string]any{}
	return out, json.Unmarshal(doc, &out)
}

// contractRouter finds the operation of the contract that a request is for. It is read-only, and made once for all servers.
var contractRouter = sync.OnceValues(func() (routers.Router, error) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	if err != nil {
		return nil, err
	}
	doc.Servers = nil // whatever name the server is called by
	return legacy.NewRouter(doc)
})

// contract validates every request against the contract before it is handled.
func contract() (echo.MiddlewareFunc, error) {
	router, err := contractRouter()
	if err != nil {
		return nil, err
	}
	options := &openapi3filter.Options{MultiError: true}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			route, params, err := router.FindRoute(r)
			if err != nil {
				if errors.Is(err, routers.ErrMethodNotAllowed) {
					return echo.ErrMethodNotAllowed
				}
				return echo.ErrNotFound
			}
			err = openapi3filter.ValidateRequest(r.Context(), &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: route,
				Options: options})
			if err != nil {
				if errors.Is(err, echo.ErrStatusRequestEntityTooLarge) {
					return echo.ErrStatusRequestEntityTooLarge
				}
				return &problem{status: http.StatusBadRequest, title: "The request does not match the contract", errors: contractErrors(err)}
			}
			return next(c)
		}
	}, nil
}

func contractErrors(err error) []FieldError {
	if multi, ok := err.(openapi3.MultiError); ok {
		var out []FieldError
		for _, e := range multi {
			out = append(out, contractErrors(e)...)
		}
		return out
	}
	path, detail := "", err.Error()
	if request, ok := err.(*openapi3filter.RequestError); ok {
		detail = request.Reason
		if request.Parameter != nil {
			path = request.Parameter.Name
		}
		if m, ok := request.Err.(openapi3.MultiError); ok {
			out := contractErrors(m)
			for i := range out {
				if out[i].Path == "" {
					out[i].Path = path
				}
			}
			return out
		}
	}
	var schema *openapi3.SchemaError
	if errors.As(err, &schema) {
		if p := strings.Join(schema.JSONPointer(), "."); p != "" {
			path = p
		}
		detail = schema.Reason
	}
	if detail == "" {
		detail = "not as expected"
	}
	return []FieldError{{Path: path, Detail: detail}}
}
