package server

import (
	"cmp"
	"context"
	"fmt"
	"runtime"
	"strings"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/bench"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/quantity"
	"reed/internal/device"
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
		Families: antenna.Families(), Schemes: onair.Schemes(), Grammar: grammar, Winds: deployment.Winds, Kinds: kit.Kinds(), Tools: bench.Tools(),
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
		return Convert200JSONResponse{Kind: kind, Value: v.Value, Unit: "Hz", Prints: []string{quantity.MHz(v.Value) + " MHz"}, Notes: notNil(v.Notes)}, nil
	case "place":
		p, err := place.ParsePosition(r.Params.Text)
		if err != nil {
			return nil, invalid("text", err.Error())
		}
		return Convert200JSONResponse{Kind: kind, Unit: "degrees", Prints: []string{place.Locator(p, 6), fmt.Sprintf("%.4f, %.4f", p.Lat, p.Lon)}, Notes: []string{}}, nil
	}
	v, err := quantity.ParseLength(r.Params.Text, cmp.Or(unit, "m"))
	if err != nil {
		return nil, invalid("text", err.Error())
	}
	return Convert200JSONResponse{Kind: "length", Value: v.Value, Unit: "m", Prints: []string{quantity.Metric(v.Value, 1), quantity.Imperial(v.Value, 16)}, Notes: notNil(v.Notes)}, nil
}

// GetMe reads the operator.
func (s *Server) GetMe(ctx context.Context, _ GetMeRequestObject) (GetMeResponseObject, error) {
	me, err := s.store.Me(ctx)
	return GetMe200JSONResponse(me), err
}

// PutMe stores the operator.
func (s *Server) PutMe(ctx context.Context, r PutMeRequestObject) (PutMeResponseObject, error) {
	me := *r.Body
	me.Call = strings.ToUpper(strings.TrimSpace(me.Call))
	var faults []antenna.Fault
	if !onair.IsCall(me.Call) {
		faults = append(faults, antenna.Fault{Path: "call", Severity: "error", Text: fmt.Sprintf("%q does not look like a call; write it like Q2TAV", me.Call)})
	}
	if me.Analyser = strings.TrimSpace(me.Analyser); me.Analyser != "" {
		if err := device.CheckAddress(me.Analyser); err != nil {
			faults = append(faults, antenna.Fault{Path: "analyser", Severity: "error", Text: err.Error()})
		}
	}
	bad := band.CheckSegments(me.Region, me.Segments)
	for i := range me.Segments {
		if text := bad[i]; text != "" {
			faults = append(faults, antenna.Fault{Path: fmt.Sprintf("segments.%d", i), Severity: "error", Text: text})
		}
	}
	if err := faulty("", faults); err != nil {
		return nil, err
	}
	me, err := s.store.PutMe(ctx, me, r.Params.Version)
	return PutMe200JSONResponse(me), err
}

func notNil[T any](v []T) []T {
	if v == nil {
		return []T{}
	}
	return v
}
