package server

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"runtime"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/bench"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/onair"
	"reed/core/phrase"
	"reed/core/place"
	"reed/core/quantity"
	"reed/internal/device"
	"reed/internal/store"
)

// GetHealth answers that the server is alive.
func (s *Server) GetHealth(ctx context.Context, _ GetHealthRequestObject) (GetHealthResponseObject, error) {
	out := GetHealth200JSONResponse{Version: s.version}
	if callerOf(ctx).local {
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		out.Goroutines, out.HeapBytes = runtime.NumGoroutine(), int64(m.HeapAlloc)
	}
	return out, nil
}

// GetReference lists the tables to choose from.
func (s *Server) GetReference(_ context.Context, r GetReferenceRequestObject) (GetReferenceResponseObject, error) {
	region := band.Region(max(r.Params.Region, 1))
	grammar := make([][]string, len(onair.Grammar))
	for i, g := range onair.Grammar {
		grammar[i] = g[:]
	}
	return GetReference200JSONResponse{
		Bands: band.All(region), Segments: band.DefaultSegments(region), Cables: circuit.Cables(), Grounds: earth.Kinds(), Wires: antenna.Wires(),
		Families: family.Families(), Grammar: grammar, Modes: onair.UsualModes(), Winds: deployment.Winds,
		Metals: deployment.MetalKinds(),
		Kinds:  kit.Kinds(), Tools: bench.Tools(), Names: phrase.Names,
	}, nil
}

// Convert reads a typed quantity or place.
func (s *Server) Convert(_ context.Context, r ConvertRequestObject) (ConvertResponseObject, error) {
	kind, unit := string(r.Params.Kind), r.Params.Unit
	switch kind {
	case "frequency":
		v, err := quantity.ParseFrequency(r.Params.Text, cmp.Or(unit, "MHz"))
		if err != nil {
			return nil, invalid("text", err.Error())
		}
		return Convert200JSONResponse{Kind: kind, Value: v.Value, Unit: "Hz", Prints: []string{quantity.MHz(v.Value) + " MHz"},
			Notes: notNil(v.Notes)}, nil
	case "place":
		p, err := place.ParsePosition(r.Params.Text)
		if err != nil {
			return nil, invalid("text", err.Error())
		}
		return Convert200JSONResponse{Kind: kind, Unit: "degrees", Prints: []string{place.Locator(p, 6),
			fmt.Sprintf("%.4f, %.4f", p.Lat, p.Lon)}, Notes: []string{}}, nil
	}
	v, err := quantity.ParseLength(r.Params.Text, cmp.Or(unit, "m"))
	if err != nil {
		return nil, invalid("text", err.Error())
	}
	prints := []string{quantity.Metric(v.Value, 1), quantity.Imperial(v.Value, 16)}
	if unit == "mm" || unit == "in" { // of small things tenths of a millimetre count
		prints = []string{quantity.SI.Fine(v.Value), quantity.FeetInches.Fine(v.Value)}
	}
	return Convert200JSONResponse{Kind: "length", Value: v.Value, Unit: "m", Prints: prints, Notes: notNil(v.Notes)}, nil
}

// GetMe reads the operator.
func (s *Server) GetMe(ctx context.Context, _ GetMeRequestObject) (GetMeResponseObject, error) {
	me, err := s.store.Me(ctx)
	return GetMe200JSONResponse(me), err
}

// mostUsual is the most power in watts that an operator usually runs.
const mostUsual = 2000

// read is the operator that was typed, and what of it cannot be.
func (f MeForm) read() (me store.Me, faults []antenna.Fault) {
	me = store.Me{Region: band.Region(f.Region), Units: quantity.System(f.Imperial), GoodSWR: f.GoodSwr, Segments: []band.Segment{},
		Analyser: strings.TrimSpace(f.Analyser), Radio: strings.TrimSpace(f.Radio)}
	bad := func(path string, err error) {
		if err != nil {
			faults = append(faults, antenna.Fault{Path: path, Severity: "error", Text: err.Error()})
		}
	}
	me.Call, faults = onair.CheckCall(f.Call)
	var err error
	me.PowerW, err = f.PowerW.Watts()
	bad("power_w", err)
	if err == nil && (me.PowerW < 0 || me.PowerW > mostUsual) {
		bad("power_w", fmt.Errorf("%.4g W found; expected 0 to %d", me.PowerW, mostUsual))
	}
	if me.Analyser != "" {
		bad("analyser", device.CheckAddress(me.Analyser))
	}
	if me.Radio != "" {
		bad("radio", device.CheckAddress(me.Radio))
	}
	unread := map[int]bool{}
	for i, x := range f.Segments {
		seg, end, err := x.Read()
		bad(fmt.Sprintf("segments.%d.%s", i, end), err)
		unread[i] = err != nil
		me.Segments = append(me.Segments, seg)
	}
	wrong := band.CheckSegments(me.Region, me.Segments)
	for i := range me.Segments {
		if text := wrong[i]; text != "" && !unread[i] {
			bad(fmt.Sprintf("segments.%d", i), errors.New(text))
		}
	}
	return me, faults
}

// PutMe stores the operator.
func (s *Server) PutMe(ctx context.Context, r PutMeRequestObject) (PutMeResponseObject, error) {
	me, faults := r.Body.read()
	if err := faulty(me.Units, "", faults); err != nil {
		return nil, err
	}
	was, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	if who := callerOf(ctx); !who.local {
		// A device that was let in could try out the ports of this network by them.
		const says = "the address of an instrument is set on the machine that runs the notebook"
		if me.Analyser != was.Analyser {
			return nil, invalid("analyser", says)
		}
		if me.Radio != was.Radio {
			return nil, invalid("radio", says)
		}
	}
	me, err = s.store.PutMe(ctx, me, r.Params.Version)
	return PutMe200JSONResponse(me), err
}

func notNil[T any](v []T) []T {
	if v == nil {
		return []T{}
	}
	return v
}
