package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// The page that makes a request names itself in this header, so that its own changes are not announced to it.
const pageHeader = "X-Page"

// Bounds of live events: how many pages listen at once, how many events are kept for those that come back, and how often a line shows
// that the link still stands.
const (
	mostListeners = 60
	keptEvents    = 200
	heartbeat     = 20 * time.Second
)

// event says that something was changed: by its path, and by which page.
type event struct {
	number int64
	Path   string `json:"path"`
	Page   string `json:"page,omitempty"`
}

// events tells open pages what others change.
type events struct {
	mu        sync.Mutex
	last      int64
	kept      []event
	listeners map[chan event]bool
}

func (h *events) announce(path, page string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.last++
	e := event{h.last, path, page}
	if h.kept = append(h.kept, e); len(h.kept) > keptEvents {
		h.kept = h.kept[len(h.kept)-keptEvents:]
	}
	for l := range h.listeners {
		select {
		case l <- e:
		default: // it does not keep up: its link is closed, and it asks again for what it missed
			delete(h.listeners, l)
			close(l)
		}
	}
}

// listen gives a listener what it missed since an event, and then what comes. ok is false when too many listen. all says that more was
// missed than is kept.
func (h *events) listen(since int64) (come chan event, missed []event, last int64, all, ok bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if len(h.listeners) >= mostListeners {
		return nil, nil, 0, false, false
	}
	if h.listeners == nil {
		h.listeners = map[chan event]bool{}
	}
	come = make(chan event, 64)
	h.listeners[come] = true
	if since > 0 {
		for _, e := range h.kept {
			if e.number > since {
				missed = append(missed, e)
			}
		}
		all = since > h.last || int64(len(missed)) < h.last-since
	}
	return come, missed, h.last, all, true
}

func (h *events) leave(l chan event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.listeners[l] {
		delete(h.listeners, l)
		close(l)
	}
}

// readOnly are the paths below which requests other than reads change nothing.
var readOnly = []string{"/api/compute", "/api/computations", "/api/line", "/api/plan", "/api/check", "/api/preview", "/api/bench",
	"/api/bag/preview",
	"/api/sites/lines", "/api/access", "/api/round"}

// changes reports whether a request may have changed what other pages show.
func changes(r *http.Request) bool {
	if r.Method == http.MethodGet || r.Method == http.MethodHead || !isAPI(r.URL.Path) {
		return false
	}
	for _, a := range readOnly {
		if r.URL.Path == a || strings.HasPrefix(r.URL.Path, a+"/") || a == "/api/line" && r.URL.Path == "/api/lines" {
			return false
		}
	}
	return true
}

// announced tells open pages of each change that was made.
func (s *Server) announced(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		err := next(c)
		if err == nil && changes(c.Request()) {
			if _, status := echo.ResolveResponseStatus(c.Response(), nil); status < 300 {
				s.live.announce(c.Request().URL.Path, c.Request().Header.Get(pageHeader))
			}
		}
		return err
	}
}

// listenEvents sends events as they come (server-sent events, as browsers read them by themselves). A page that comes back names the
// last one it had.
func (s *Server) listenEvents(c *echo.Context) error {
	since, _ := strconv.ParseInt(c.Request().Header.Get("Last-Event-ID"), 10, 64)
	come, missed, last, all, ok := s.live.listen(since)
	if !ok {
		return &problem{status: http.StatusServiceUnavailable, title: "Too many pages are open"}
	}
	defer s.live.leave(come)
	w := http.NewResponseController(c.Response())
	_ = w.SetReadDeadline(time.Time{})
	h := c.Response().Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	c.Response().WriteHeader(http.StatusOK)
	send := func(name string, e event) error {
		text, err := json.Marshal(e)
		if err != nil {
			return err
		}
		if _, err := fmt.Fprintf(c.Response(), "id: %d\nevent: %s\ndata: %s\n\n", e.number, name, text); err != nil {
			return err
		}
		return w.Flush()
	}
	if all {
		missed = nil
		if err := send("all", event{number: last}); err != nil {
			return nil
		}
	} else if err := send("begin", event{number: last}); err != nil {
		return nil
	}
	for _, e := range missed {
		if err := send("change", e); err != nil {
			return nil
		}
	}
	tick := time.NewTicker(heartbeat)
	defer tick.Stop()
	for {
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-s.stop:
			return nil
		case <-tick.C:
			if _, err := fmt.Fprint(c.Response(), ": still here\n\n"); err != nil || w.Flush() != nil {
				return nil
			}
		case e, open := <-come:
			if !open || send("change", e) != nil {
				return nil
			}
		}
	}
}
