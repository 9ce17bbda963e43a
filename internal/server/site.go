package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"reed/core/antenna"
	"reed/core/kit"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/scout"
	"reed/core/site"
	"reed/core/sky"
	"reed/internal/exchange"
	"reed/internal/store"
)

// ListSites lists the sites that are kept, and plain ones to start from.
func (s *Server) ListSites(ctx context.Context, _ ListSitesRequestObject) (ListSitesResponseObject, error) {
	list, err := s.store.Sites(ctx)
	if list == nil {
		list = []site.Site{}
	}
	return ListSites200JSONResponse{Sites: list, Patterns: site.Patterns(), Weights: scout.Usual, Surroundings: sky.Surroundings(),
		Kinds: site.Kinds()}, err
}

// ReadSite says what lines come to, with one thing moved where that is asked.
func (s *Server) ReadSite(ctx context.Context, r ReadSiteRequestObject) (ReadSiteResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	in := *r.Body
	lines := slices.Clone(in.Lines)
	m, faults := site.Read(lines, string(in.Unit))
	if in.Move != nil {
		for _, t := range m.Things {
			if t.Line != in.Move.Line {
				continue
			}
			if line, ok := t.Moved(in.Move.Point, in.Move.To, me.Units); ok {
				lines[t.Line] = line
			}
		}
		m, faults = site.Read(lines, string(in.Unit))
	}
	if in.Add != nil {
		line, ok := site.Drawn(in.Add.Kind, in.Add.Points, me.Units)
		if !ok {
			return nil, invalid("add", "a line needs two points and an area three, of a kind that is known")
		}
		for len(lines) > 0 && strings.TrimSpace(lines[len(lines)-1]) == "" {
			lines = lines[:len(lines)-1]
		}
		lines = append(lines, line)
		m, faults = site.Read(lines, string(in.Unit))
	}
	out := SiteRead{Map: m, Lines: lines, Faults: []Fault{}}
	for _, f := range faults {
		out.Faults = append(out.Faults, f.In(me.Units))
	}
	return ReadSite200JSONResponse(out), nil
}

// PutSite stores a site.
func (s *Server) PutSite(ctx context.Context, r PutSiteRequestObject) (PutSiteResponseObject, error) {
	v := *r.Body
	v.ID, v.Name, v.Deleted = r.Id, strings.TrimSpace(v.Name), false
	_, faults := v.Check()
	if err := faulty(quantity.SI, "", faults); err != nil {
		return nil, err
	}
	v, err := s.store.PutSite(ctx, v, r.Params.Version)
	return PutSite200JSONResponse(v), err
}

// ComputeScout answers what fits a site. The weights only order what was found, so that they follow a finger.
func (s *Server) ComputeScout(ctx context.Context, r ComputeScoutRequestObject) (ComputeScoutResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	recipes, err := s.store.Recipes(ctx)
	if err != nil {
		return nil, err
	}
	c := scout.Case{Site: q.Site, Purpose: q.Purpose, Recipes: recipes, Units: me.Units}
	if c.Site.Name == "" {
		c.Site.Name = "here"
	}
	for _, id := range sorted(bag) {
		c.Bag = append(c.Bag, bag[id])
	}
	if c.Forgotten, c.Unused, err = s.packedBefore(ctx, q.Site.ID, q.Purpose.Date); err != nil {
		return nil, err
	}
	if c.Clocks, err = s.clocks(ctx); err != nil {
		return nil, err
	}
	weights := c.Purpose.Weights
	c.Purpose.Weights = nil
	if faults := c.Faults(); len(faults) > 0 {
		return nil, faulty(me.Units, "", faults)
	}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{"scout", c}, func(ctx context.Context, done func(step,
		of int)) (scout.Answer, error) {
		a, err := scout.Scout(ctx, &s.twin, c, done)
		var faults scout.FaultsError
		if errors.As(err, &faults) {
			return a, faulty(me.Units, "", faults)
		}
		return a, err
	})
	if out.Result != nil && weights != nil {
		c.Purpose.Weights = weights
		a := out.Result.Weighed(c)
		out.Result = &a
	}
	return ComputeScout200JSONResponse(out), err
}

// clocks are how many minutes the user's own set-ups took, by family.
func (s *Server) clocks(ctx context.Context) (map[string][]float64, error) {
	all, err := s.store.Shelf(ctx, "", s.now())
	if err != nil {
		return nil, err
	}
	out := map[string][]float64{}
	for _, o := range all {
		for _, d := range o.Standing {
			if d.Newest == nil {
				continue
			}
			took := d.Newest.Built.SetupMinutes
			if n := d.Clock.Minutes(); n > 0 {
				took = n
			}
			if took > 0 {
				out[d.Newest.Built.Family] = append(out[d.Newest.Built.Family], float64(took))
			}
		}
	}
	return out, nil
}

// GetBulletin is the bulletin of a place and day.
func (s *Server) GetBulletin(ctx context.Context, r GetBulletinRequestObject) (GetBulletinResponseObject, error) {
	at, err := place.ParsePosition(r.Params.Place)
	if err != nil {
		return nil, invalid("place", "a bulletin needs a position: "+err.Error())
	}
	day, err := time.Parse(time.DateOnly, r.Params.Date)
	if err != nil {
		return nil, invalid("date", fmt.Sprintf("%q is not a date; write it like 2026-05-16", r.Params.Date))
	}
	weather, err := s.bulletins.Weather(ctx, at, day)
	if err != nil {
		return nil, fmt.Errorf("the weather bulletin: %w", err)
	}
	space, err := s.bulletins.Space(ctx, at, day)
	if err != nil {
		return nil, fmt.Errorf("the space-weather bulletin: %w", err)
	}
	simulated := weather.Simulated || space.Simulated
	weather.Simulated, space.Simulated = simulated, false
	return GetBulletin200JSONResponse{Text: weather.Write() + "\n" + space.Write(), Simulated: simulated}, nil
}

// GetFix is where this machine is.
func (s *Server) GetFix(ctx context.Context, _ GetFixRequestObject) (GetFixResponseObject, error) {
	at, accuracy, simulated, err := s.position.Fix(ctx)
	if err != nil {
		return nil, fmt.Errorf("the position fix: %w", err)
	}
	return GetFix200JSONResponse{Place: fmt.Sprintf("%.5f, %.5f", at.Lat, at.Lon), Locator: place.Locator(at, 8), AccuracyM: accuracy,
		Simulated: simulated}, nil
}

// packedBefore returns the packing notes of the last outing before a day that has any: missing and unused; one
// to the same site goes first.
func (s *Server) packedBefore(ctx context.Context, siteID, date string) (missing, unused []string, err error) {
	all, err := s.store.Outings(ctx)
	if err != nil {
		return nil, nil, err
	}
	var last *store.Outing
	for i, o := range all {
		if o.Date >= date || o.Missing == "" && o.Unused == "" {
			continue
		}
		if here := o.Site == siteID; last == nil || here && last.Site != siteID || here == (last.Site == siteID) && o.Date > last.Date {
			last = &all[i]
		}
	}
	if last == nil {
		return nil, nil, nil
	}
	return things(last.Missing), things(last.Unused), nil
}

// things are the lines of a text that are not empty.
func things(text string) (out []string) {
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// ExportDay writes the day of an outing as a calendar.
func (s *Server) ExportDay(ctx context.Context, r ExportDayRequestObject) (ExportDayResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	var p scout.Purpose
	if len(o.Purpose) == 0 || json.Unmarshal(o.Purpose, &p) != nil {
		return nil, invalid("purpose", "this outing has no goal yet; save site and goal first")
	}
	p.Date = o.Date
	if err := faulty(quantity.SI, "purpose.", p.Check()); err != nil {
		return nil, err
	}
	list, err := s.store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	var m site.Map
	c := scout.Case{Purpose: p}
	for _, x := range list {
		if x.ID == o.Site {
			m, _ = x.Check()
			c.Site = x
		}
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	for _, id := range sorted(bag) {
		c.Bag = append(c.Bag, bag[id])
	}
	at, err := place.ParsePosition(o.Place)
	if err != nil {
		return nil, invalid("place", "the outing has no position, so sunrise and sunset are not known: "+err.Error())
	}
	setup := antenna.Or(p.SetupMinutes, usualSetup)
	text := exchange.Calendar(o.ID, o.Name, o.Place, c.Day(at, m.Rules, setup), s.now())
	return ExportDay200TextcalendarResponse{Body: bytes.NewReader(text), ContentLength: int64(len(text))}, nil
}

// usualSetup is how many minutes setting up takes where nobody says it.
const usualSetup = 20

// sorted are the ids of a bag in their order, so that the same bag is the same question.
func sorted(bag map[string]kit.Part) []string {
	out := make([]string, 0, len(bag))
	for id := range bag {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}
