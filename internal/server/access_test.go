package server

import (
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"reed/internal/access"
	"reed/internal/store"
)

// from sends a request as from an address of the network, with cookies.
func from(h http.Handler, remote, method, path, body string, cookies []*http.Cookie, head ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, "http://192.0.2.1"+path, strings.NewReader(body))
	r.RemoteAddr = remote
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(head); i += 2 {
		r.Header.Set(head[i], head[i+1])
	}
	for _, c := range cookies {
		r.AddCookie(c)
	}
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	return w
}

const away, here = "192.0.2.9:4711", "127.0.0.1:4711"

func TestOnlyPairedDevicesComeIn(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	now := testNow
	guard, err := access.Open(dir, func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	h, err := New(st, Options{Guard: guard, LAN: true, Addresses: []string{"https://192.0.2.1:7314"}})
	if err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]int{"/api/outings": 401, "/api/me": 401, "/api/devices": 401, "/api": 401, "/api/access": 200,
		"/api/health": 200} {
		if w := from(h, away, "GET", path, "", nil); w.Code != want {
			t.Errorf("%s from the network: %d, want %d", path, w.Code, want)
		}
	}
	if w := from(h, away, "POST", "/api/access/word", "", nil); w.Code != 401 {
		t.Errorf("a stranger made a word: %d", w.Code)
	}
	if w := from(h, away, "GET", "/api/health", "", nil); strings.Contains(w.Body.String(), "goroutines") {
		t.Error("a stranger is told of the machine")
	}
	if w := from(h, here, "GET", "/api/outings", "", nil); w.Code != 200 {
		t.Errorf("the machine itself: %d", w.Code)
	}
	if w := from(h, here, "GET", "/api/outings", "", nil, "X-Forwarded-For", "192.0.2.9"); w.Code != 401 {
		t.Errorf("through a proxy: %d", w.Code)
	}
	var word PairingWord
	if w := from(h, here, "POST", "/api/access/word", "", nil); w.Code != 200 || json.Unmarshal(w.Body.Bytes(), &word) != nil ||
		len(word.Addresses) != 1 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := from(h, away, "POST", "/api/access", `{"secret":"WRONG-ONE","name":"phone"}`, nil); w.Code != 422 ||
		len(w.Result().Cookies()) != 0 {
		t.Errorf("a wrong word: %d", w.Code)
	}
	if w := from(h, away, "POST", "/api/access", `{"secret":"`+word.Word+`","name":"phone"}`, nil); w.Code != 429 {
		t.Errorf("right behind a wrong one: %d", w.Code)
	}
	now = now.Add(time.Minute)
	w := from(h, away, "POST", "/api/access", `{"secret":"`+word.Word+`","name":"phone"}`, nil)
	cookies := w.Result().Cookies()
	if w.Code != 200 || len(cookies) != 1 || !cookies[0].HttpOnly || cookies[0].SameSite != http.SameSiteStrictMode || cookies[0].Secure {
		t.Fatalf("%d %s %+v", w.Code, w.Body, cookies)
	}
	if w := from(h, away, "GET", "/api/outings", "", cookies); w.Code != 200 {
		t.Errorf("a paired device: %d", w.Code)
	}
	var devices []Device
	if w := from(h, away, "GET", "/api/devices", "", cookies); json.Unmarshal(w.Body.Bytes(), &devices) != nil || len(devices) != 1 ||
		!devices[0].Here || devices[0].Name != "phone" || strings.Contains(w.Body.String(), "token") {
		t.Fatalf("%s", w.Body)
	}
	if w := from(h, here, "DELETE", "/api/devices/"+devices[0].Id, "", nil); w.Code != 204 {
		t.Errorf("%d", w.Code)
	}
	if w := from(h, away, "GET", "/api/outings", "", cookies); w.Code != 401 {
		t.Errorf("a device that was taken out: %d", w.Code)
	}
}

func TestWhatIsNoPageIsNotAnsweredAsOne(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	for path, want := range map[string]int{"/assets/": 404, "/assets": 404, "/assets/nothing.js": 404, "/assets/../assets/": 404} {
		r := request("GET", "http://localhost"+path, nil)
		w := httptest.NewRecorder()
		c.h.ServeHTTP(w, r)
		if w.Code != want {
			t.Errorf("%s: %d, want %d", path, w.Code, want)
		}
	}
	var codes []int
	for _, method := range []string{"GET", "HEAD"} {
		w := httptest.NewRecorder()
		c.h.ServeHTTP(w, request(method, "http://localhost/", nil))
		codes = append(codes, w.Code)
		if w.Header().Get("Cross-Origin-Resource-Policy") != "same-origin" {
			t.Errorf("%s: %v", method, w.Header())
		}
		if method == "HEAD" && w.Body.Len() > 0 && w.Code == 200 {
			t.Error("HEAD has a body")
		}
	}
	if codes[0] != codes[1] {
		t.Errorf("GET and HEAD answer %v", codes)
	}
}
