// Package server answers the contract in api/openapi.yaml. A handler decodes, calls core and store, and
// encodes; it does no arithmetic of the job.
package server

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path"
	"runtime/debug"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"reed/core/bulletin"
	"reed/core/place"
	"reed/core/twin"
	"reed/internal/access"
	"reed/internal/standin"
	"reed/internal/store"
)

// webdist holds the built interface; it is empty until the front end was built.
//
//go:embed all:webdist
var webdist embed.FS

// maxBody is the largest request in bytes: the largest file that is read, as base64 in JSON.
const maxBody = 48 << 20

// Server holds what the handlers need.
type Server struct {
	store   *store.Store
	now     func() time.Time
	log     *slog.Logger
	version string
	jobs    *jobs
	twin    twin.Engine
	bench   simulated
	set     simulated
	board   board
	beams   beams
	root    []byte
	live    events
	stop    <-chan struct{}
	guard   *access.Guard
	lan     bool
	// addresses are those at which other devices reach it.
	addresses []string
	round     func(ctx context.Context, own string) (string, error)
	own       string
	tags      tagCache
	bulletins Bulletins
	position  Position
	network   *standin.Network
}

// Bulletins are where weather, lightning and space weather come from. What is made up has to say so.
type Bulletins interface {
	Weather(ctx context.Context, at place.Point, day time.Time) (bulletin.Bulletin, error)
	Space(ctx context.Context, at place.Point, day time.Time) (bulletin.Bulletin, error)
}

// Position is where a fix of one's position comes from, with its accuracy in metres.
type Position interface {
	Fix(ctx context.Context) (at place.Point, accuracy float64, simulated bool, err error)
}

// Options of a server. Now is its clock; Hosts are the names by which it may be called beside loopback.
type Options struct {
	Now     func() time.Time
	Log     *slog.Logger
	Version string
	Hosts   []string
	// Guard lets other devices in; without one only the machine itself is answered. LAN says that others can reach it,
	// at Addresses.
	Guard     *access.Guard
	Root      []byte          // the notebook's own certificate authority, for devices that shall trust it
	Stop      <-chan struct{} // closed when the program ends: what never ends by itself ends then
	LAN       bool
	Addresses []string
	// Round opens a notebook of made-up data to look round in, and returns its address; own is where one comes back to.
	// Own, in such a notebook, is that address.
	Round func(ctx context.Context, own string) (string, error)
	Own   string
	// Bulletins and Position are simulated where none are given.
	Bulletins Bulletins
	Position  Position
	// Network is the simulated one that hears beacon runs, the usual where none is given.
	Network *standin.Network
}

// New makes the handler of the whole application.
func New(st *store.Store, o Options) (http.Handler, error) {
	if o.Now == nil {
		o.Now = time.Now
	}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	s := &Server{store: st, now: func() time.Time { return o.Now().UTC() }, log: o.Log, version: o.Version, guard: o.Guard, lan: o.LAN,
		addresses: o.Addresses, round: o.Round, own: o.Own, stop: o.Stop, root: o.Root}
	if s.bulletins = o.Bulletins; s.bulletins == nil {
		s.bulletins = standin.Bulletins{Seed: 2026}
	}
	if s.position = o.Position; s.position == nil {
		s.position = standin.Position{Seed: 2026, At: standin.Isles}
	}
	if s.network = o.Network; s.network == nil {
		s.network = &standin.Network{Seed: 2026}
	}
	s.jobs = newJobs(o.Log)
	e := echo.New()
	e.HTTPErrorHandler = s.handleError
	e.Use(middleware.RequestID(), s.logged, s.recovered, securityHeaders, onlyHosts(o.Hosts), crossOrigin(), s.onlyPaired,
		middleware.BodyLimit(maxBody), middleware.GzipWithConfig(middleware.GzipConfig{Skipper: func(c *echo.Context) bool {
			return c.Request().URL.Path == eventsPath // each event goes out at once
		}}), s.announced)
	validate, err := contract()
	if err != nil {
		return nil, fmt.Errorf("reading the contract: %w", err)
	}
	RegisterHandlers(e.Group("", validate), NewStrictHandler(s, nil))
	e.GET(eventsPath, s.listenEvents)
	e.GET(rootPath, s.sendRoot)
	e.Any("/api/*", func(*echo.Context) error { return echo.ErrNotFound })
	web := serveWeb()
	for _, path := range []string{"/", "/*"} {
		e.GET(path, web)
		e.HEAD(path, web)
	}
	return e, nil
}

// rootPath is where a device gets the notebook's own certificate authority, before it is let in.
const rootPath = "/notebook-root.crt"

// sendRoot sends the certificate authority that a device trusts once, so that it takes this notebook's certificates for good.
func (s *Server) sendRoot(c *echo.Context) error {
	if len(s.root) == 0 {
		return echo.ErrNotFound
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="itinerant-reed.crt"`)
	return c.Blob(http.StatusOK, "application/x-x509-ca-cert", s.root)
}

// eventsPath is where pages listen for what others change. It never ends, so that it stands beside the contract.
const eventsPath = "/api/events"

func isAPI(path string) bool { return path == "/api" || strings.HasPrefix(path, "/api/") }

func (s *Server) logged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		begun := time.Now()
		err := next(c)
		if err != nil {
			s.handleError(c, err)
		}
		if isAPI(c.Request().URL.Path) {
			_, status := echo.ResolveResponseStatus(c.Response(), nil)
			s.log.Info("request", "method", c.Request().Method, "path", c.Request().URL.Path, "status", status, "took",
				time.Since(begun).Round(time.Microsecond))
		}
		return nil
	}
}

// recovered turns a panic of a handler into a problem with the request's id, and logs its stack.
func (s *Server) recovered(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) (err error) {
		defer func() {
			if v := recover(); v != nil {
				id := c.Response().Header().Get(echo.HeaderXRequestID)
				s.log.Error("a request panicked", "id", id, "path", c.Request().URL.Path, "panic", fmt.Sprint(v), "stack", string(debug.Stack()))
				err = &problem{status: http.StatusInternalServerError, id: id, title: "Something went wrong here; nothing was changed",
					detail: "The program's log says more under " + id + "."}
			}
		}()
		return next(c)
	}
}

// policy lets the browser load nothing but our own files. Styles may be inline because the component
// library inserts them at run time; scripts may not.
const policy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; " +
	"connect-src 'self'; worker-src 'self'; manifest-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action " +
	"'self'"

func securityHeaders(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		if isAPI(c.Request().URL.Path) {
			h.Set("Cache-Control", "no-store")
		}
		return next(c)
	}
}

// onlyHosts refuses requests under a foreign name, so that a web page elsewhere cannot reach a server
// on loopback by pointing its own name there.
func onlyHosts(more []string) echo.MiddlewareFunc {
	allowed := map[string]bool{"localhost": true}
	for _, h := range more {
		allowed[strings.ToLower(h)] = true
	}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			host := c.Request().Host
			if h, _, err := net.SplitHostPort(host); err == nil {
				host = h
			}
			host = strings.ToLower(strings.Trim(host, "[]"))
			if ip := net.ParseIP(host); ip == nil && !allowed[host] {
				return &problem{status: http.StatusMisdirectedRequest, title: "This server does not go by the name " + host}
			}
			return next(c)
		}
	}
}

func crossOrigin() echo.MiddlewareFunc {
	guard := http.NewCrossOriginProtection()
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			if err := guard.Check(c.Request()); err != nil {
				return &problem{status: http.StatusForbidden, title: "Requests from other sites are not answered"}
			}
			return next(c)
		}
	}
}

// serveWeb serves the interface; a path that is no file is a screen of it.
func serveWeb() echo.HandlerFunc {
	files, err := fs.Sub(webdist, "webdist")
	return func(c *echo.Context) error {
		if err != nil {
			return err
		}
		name := strings.TrimPrefix(path.Clean(c.Request().URL.Path), "/")
		if f, err := fs.Stat(files, name); err != nil || f.IsDir() {
			if strings.HasPrefix(name+"/", "assets/") {
				return echo.ErrNotFound // a part of another version, or of nothing: no screen goes by that name
			}
			name = "index.html"
		}
		if _, err := fs.Stat(files, name); errors.Is(err, fs.ErrNotExist) {
			return &problem{status: http.StatusNotFound, title: "The interface was not built into this program", detail: "Run make build."}
		}
		if strings.HasPrefix(name, "assets/") {
			c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		} else {
			c.Response().Header().Set("Cache-Control", "no-cache")
		}
		return c.FileFS(name, files)
	}
}
