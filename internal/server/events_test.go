package server

import (
	"bufio"
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"reed/internal/store"
)

// listened reads events of a server until n came.
func listened(t *testing.T, url, since string, n int) (names []string) {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, url+eventsPath, nil)
	if err != nil {
		t.Fatal(err)
	}
	if since != "" {
		r.Header.Set("Last-Event-ID", since)
	}
	a, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Body.Close()
	lines := bufio.NewScanner(a.Body)
	name := ""
	for lines.Scan() {
		text := lines.Text()
		if rest, ok := strings.CutPrefix(text, "event: "); ok {
			name = rest
		}
		if rest, ok := strings.CutPrefix(text, "data: "); ok {
			names = append(names, name+" "+rest)
			if len(names) == n {
				return names
			}
		}
	}
	t.Fatalf("%d events: %v", len(names), names)
	return nil
}

// What one page changes is announced to the others, with who made it; one that was away gets what it missed, or is told to fetch all.
func TestChangesAreAnnouncedToOpenPages(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	stop := make(chan struct{})
	handler, err := New(st, Options{Stop: stop})
	if err != nil {
		t.Fatal(err)
	}
	srv := httptest.NewServer(handler)
	defer srv.Close()
	put := func(name string) {
		t.Helper()
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPut, srv.URL+"/api/outings/00000000-0000-7000-8000-000000000001",
			strings.NewReader(`{"name":"`+name+`","date":"2026-06-01"}`))
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set(pageHeader, "phone")
		a, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		a.Body.Close()
	}
	got := make(chan []string)
	go func() { got <- listened(t, srv.URL, "", 2) }()
	for listeners := 0; listeners == 0; time.Sleep(time.Millisecond) {
		// The announcement is of those that listen by then.
		put("Heron")
		select {
		case names := <-got:
			if names[0] != `begin {"path":""}` || names[1] != `change {"path":"/api/outings/00000000-0000-7000-8000-000000000001","page":"phone"}` {
				t.Errorf("%v", names)
			}
			listeners = 1
		default:
		}
	}
	if names := listened(t, srv.URL, "9999", 1); !strings.HasPrefix(names[0], "all ") {
		t.Errorf("after a new start: %v", names)
	}
	close(stop)
}
