package server

import (
	"context"
	"fmt"
	"net"
	"strings"
	"sync"
	"time"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/quantity"
	"reed/core/sky"
	"reed/core/twin"
	"reed/internal/device"
	"reed/internal/standin"
)

// board keeps what was announced on the simulated spotting board, by outing, while the program runs.
type board struct {
	mu   sync.Mutex
	said map[string]standin.Spot
}

// announced is how long an announcement stands.
const announced = time.Hour

// GetBoard says who is out.
func (s *Server) GetBoard(ctx context.Context, r GetBoardRequestObject) (GetBoardResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	out := GetBoard200JSONResponse{}
	s.board.mu.Lock()
	if own, ok := s.board.said[r.Id]; ok && s.now().Sub(own.At) < announced {
		out = append(out, own)
	}
	s.board.mu.Unlock()
	return append(out, standin.Board{Seed: 2026, Region: me.Region}.Spots(s.now())...), nil
}

// Announce puts oneself on the simulated board.
func (s *Server) Announce(ctx context.Context, r AnnounceRequestObject) (AnnounceResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	f, err := quantity.ParseFrequency(r.Body.Mhz, "MHz")
	if err != nil {
		return nil, invalid("mhz", err.Error())
	}
	if _, ok := band.At(me.Region, f.Value); !ok {
		return nil, invalid("mhz", fmt.Sprintf("%s MHz is in no amateur band of region %d", quantity.MHz(f.Value), me.Region))
	}
	if _, _, ok := onair.ModeOf(r.Body.Mode); !ok {
		return nil, invalid("mode", fmt.Sprintf("%q is not a known mode", r.Body.Mode))
	}
	spot := standin.Spot{At: s.now(), Call: me.Call, MHz: quantity.MHz(f.Value), Mode: strings.ToUpper(r.Body.Mode), Ref: o.OwnRef,
		Where: o.Name,
		Own:   true, Simulated: true}
	s.board.mu.Lock()
	defer s.board.mu.Unlock()
	if s.board.said == nil {
		s.board.said = map[string]standin.Spot{}
	}
	s.board.said[r.Id] = spot
	return Announce200JSONResponse(spot), nil
}

// AskRadio asks the radio how it stands.
func (s *Server) AskRadio(ctx context.Context, r AskRadioRequestObject) (AskRadioResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	address, port := me.Radio, ""
	if address == "" {
		if port, err = s.radioPort(ctx, r.Params); err != nil {
			return nil, err
		}
		if address, err = s.set.start(func(ctx context.Context, ln net.Listener) error {
			return device.ServeRadio(ctx, ln, standin.Radio{Lookup: s.behindRadio, Region: me.Region, Watts: me.PowerW, Now: s.now})
		}); err != nil {
			return nil, err
		}
	}
	got, err := device.Client{}.Ask(ctx, address, port)
	if err != nil {
		return nil, invalid("radio", err.Error())
	}
	out := AskRadio200JSONResponse{Name: got.Name, Simulated: got.Simulated, Mhz: quantity.MHz(got.Hz), Mode: got.Mode,
		Watts: got.Watts, Swr: got.SWR,
		Dbm: got.DBm}
	out.Says = onair.RadioSays(got.Name, got.Simulated, got.SWR, got.DBm)
	return out, nil
}

// radioPort names to the simulated radio what it stands on: the antenna in use, a band and a mode.
func (s *Server) radioPort(ctx context.Context, p AskRadioParams) (string, error) {
	revision := "-"
	if p.Deployment != "" {
		all, err := s.store.Revisions(ctx, p.Deployment)
		if err != nil {
			return "", err
		}
		if len(all) > 0 {
			revision = all[len(all)-1].ID
		}
	}
	name, mode := p.Band, p.Mode
	if name == "" {
		name = "20m"
	}
	if mode == "" {
		mode = "CW"
	}
	return revision + "/" + name + "/" + mode, nil
}

// behindRadio returns the antenna behind the simulated radio.
func (s *Server) behindRadio(ctx context.Context, revision string) (a standin.Analyser, b deployment.Built, err error) {
	rev, err := s.store.Revision(ctx, revision)
	if err != nil {
		return a, b, err
	}
	setup, err := s.setup(ctx, ModelQuestion{RevisionId: rev.ID})
	if err != nil {
		return a, b, err
	}
	return standin.Of(rev.DeploymentID, setup.Ground, &s.twin), rev.Built, nil
}

// beams keeps what antennas send where, by revision and frequency: somebody who works a pile-up asks a hundred times.
type beams struct {
	mu   sync.Mutex
	kept map[string]twin.Beam
}

const mostBeams = 64

// of is a beam, solved once.
func (b *beams) of(key string, solve func() (twin.Beam, error)) (twin.Beam, error) {
	b.mu.Lock()
	have, ok := b.kept[key]
	b.mu.Unlock()
	if ok {
		return have, nil
	}
	have, err := solve()
	if err != nil {
		return have, err
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.kept == nil || len(b.kept) >= mostBeams {
		b.kept = map[string]twin.Beam{}
	}
	b.kept[key] = have
	return have, nil
}

// GetToward says what an antenna sends towards somebody.
func (s *Server) GetToward(ctx context.Context, r GetTowardRequestObject) (GetTowardResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	b, ok := band.Named(me.Region, r.Params.Band)
	if !ok {
		return nil, invalid("band", fmt.Sprintf("%q is not a band", r.Params.Band))
	}
	d, err := s.store.Deployment(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Revisions(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	if len(all) == 0 {
		return nil, invalid("id", d.Name+" is planned only; record in Raise what was put up")
	}
	o, err := s.store.Outing(ctx, d.OutingID)
	if err != nil {
		return nil, err
	}
	rev := all[len(all)-1]
	ctx, done := context.WithTimeout(ctx, 20*time.Second)
	defer done()
	beam, err := s.beams.of(rev.ID+b.Name+d.GroundAt(rev.Built, o.Ground), func() (twin.Beam, error) {
		setup := twin.Setup{Built: rev.Built, Ground: d.GroundAt(rev.Built, o.Ground), PowerW: me.PowerW, Units: me.Units}
		return s.twin.Beam(ctx, setup, b.Centre())
	})
	if err != nil {
		return nil, fmt.Errorf("the pattern of %s on %s: %w", d.Name, b.Name, err)
	}
	up := sky.HopsOver(r.Params.Km).TakeOff
	gain, best := beam.Toward(up, r.Params.Bearing, rev.Built.Bearing())
	return GetToward200JSONResponse{GainDbi: gain, BestDbi: best, TakeOff: up, Says: onair.ShootsSays(d.Name, gain, best, up)}, nil
}
