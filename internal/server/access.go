package server

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"reed/internal/access"
)

// tokenCookie holds the token of a device that was let in.
const tokenCookie = "reed-token"

// caller is who asks: the machine itself, or a device.
type caller struct {
	address       string // that the request comes from
	local, secure bool
	device        access.Device
	known         bool
	set           func(*http.Cookie)
	at            string // the address at which it reached the notebook
}

func (c caller) allowed() bool { return c.local || c.known }

type callerKey struct{}

func callerOf(ctx context.Context) caller {
	c, _ := ctx.Value(callerKey{}).(caller)
	return c
}

// open are the paths of the contract that are answered to everyone: whether one may come in, and how.
var open = map[string]bool{"/api/access": true, "/api/health": true}

// onlyPaired answers the machine itself and devices that were let in. What comes through a proxy is not the machine
// itself.
func (s *Server) onlyPaired(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		who := caller{secure: r.TLS != nil, set: func(k *http.Cookie) { http.SetCookie(c.Response(), k) }}
		who.at = c.Scheme() + "://" + r.Host
		if host, _, err := net.SplitHostPort(r.RemoteAddr); err == nil {
			ip := net.ParseIP(host)
			who.address = host
			who.local = ip != nil && ip.IsLoopback() && r.Header.Get("X-Forwarded-For") == "" && r.Header.Get("Forwarded") == ""
		}
		if k, err := r.Cookie(tokenCookie); err == nil && s.guard != nil {
			who.device, who.known = s.guard.Known(k.Value)
		}
		if isAPI(r.URL.Path) && !open[r.URL.Path] && !who.allowed() {
			return &problem{status: http.StatusUnauthorized, title: "This device was not let in yet",
				detail: "Open the notebook's page and type the pairing word."}
		}
		c.SetRequest(r.WithContext(context.WithValue(r.Context(), callerKey{}, who)))
		return next(c)
	}
}

func (s *Server) accessOf(ctx context.Context) Access {
	who := callerOf(ctx)
	return Access{Allowed: who.allowed(), Local: who.local, Lan: s.guard != nil && s.lan, Round: who.local && s.round != nil, Own: s.own}
}

// LookRound opens the notebook of made-up data beside one's own. It has its door on this machine alone.
func (s *Server) LookRound(ctx context.Context, _ LookRoundRequestObject) (LookRoundResponseObject, error) {
	who := callerOf(ctx)
	if s.round == nil || !who.local {
		return nil, &problem{status: http.StatusForbidden, title: "The made-up notebook is opened on the machine that the notebook runs on"}
	}
	address, err := s.round(ctx, who.at)
	return LookRound200JSONResponse{Address: address}, err
}

// GetAccess says whether this device may come in.
func (s *Server) GetAccess(ctx context.Context, _ GetAccessRequestObject) (GetAccessResponseObject, error) {
	return GetAccess200JSONResponse(s.accessOf(ctx)), nil
}

// Pair lets a device in.
func (s *Server) Pair(ctx context.Context, r PairRequestObject) (PairResponseObject, error) {
	if s.guard == nil {
		return nil, &problem{status: http.StatusForbidden, title: "No device is let in here"}
	}
	token, device, err := s.guard.Pair(r.Body.Secret, r.Body.Name, callerOf(ctx).address)
	var wait *access.WaitError
	switch {
	case errors.As(err, &wait):
		return nil, &problem{status: http.StatusTooManyRequests, title: "Too many wrong ones",
			errors: []FieldError{{Path: "secret", Detail: err.Error()}}}
	case errors.Is(err, access.ErrWrong):
		return nil, invalid("secret", err.Error()+"; the word stands where the notebook was started, and opens once")
	case err != nil:
		return nil, err
	}
	who := callerOf(ctx)
	who.set(&http.Cookie{Name: tokenCookie, Value: token, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: who.secure,
		MaxAge: int((400 * 24 * time.Hour).Seconds())})
	s.log.Warn("a device was let in", "name", device.Name)
	return Pair200JSONResponse{Allowed: true, Local: who.local, Lan: s.lan}, nil
}

// NewWord makes a pairing word for another device.
func (s *Server) NewWord(_ context.Context, _ NewWordRequestObject) (NewWordResponseObject, error) {
	if s.guard == nil || !s.lan {
		return nil, &problem{status: http.StatusConflict, title: "Other devices cannot reach this notebook", detail: "Start it with --lan first."}
	}
	word, until := s.guard.NewWord()
	return NewWord200JSONResponse{Word: word, Until: until, Addresses: notNil(s.addresses)}, nil
}

// ListDevices lists the devices that were let in.
func (s *Server) ListDevices(ctx context.Context, _ ListDevicesRequestObject) (ListDevicesResponseObject, error) {
	out := ListDevices200JSONResponse{}
	if s.guard == nil {
		return out, nil
	}
	for _, d := range s.guard.Devices() {
		out = append(out, Device{Id: d.ID, Name: d.Name, Since: d.Since, Seen: d.Seen, Here: d.ID == callerOf(ctx).device.ID})
	}
	return out, nil
}

// RemoveDevice takes a device's token away.
func (s *Server) RemoveDevice(_ context.Context, r RemoveDeviceRequestObject) (RemoveDeviceResponseObject, error) {
	ok := false
	if s.guard != nil {
		var err error
		if ok, err = s.guard.Remove(r.Id); err != nil {
			return nil, err
		}
	}
	if !ok {
		return nil, &problem{status: http.StatusNotFound, title: "Device not found", detail: fmt.Sprintf("device %s", r.Id)}
	}
	return RemoveDevice204Response{}, nil
}
