package server

import (
	"context"
	"fmt"
	"strings"
	"time"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/moment/earth"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/rigging"
	"reed/internal/store"
)

// tagged is a deployment with what its tag and its stage follow from.
type tagged struct {
	deployment deployment.Deployment
	revisions  []deployment.Revision
	sweeps     []store.Sweep
	tag        deployment.Tag
}

// dangers lists the cautions of a revision, how many of them the user has not confirmed, and its layout.
func dangers(b deployment.Built) (open int, all []rigging.Caution, d antenna.Drawing) {
	d, _ = b.Layout()
	all = rigging.Cautions(b.Shape, d, b.PowerW)
	return rigging.Open(all, b.Confirmed), all, d
}

func (s *Server) tag(ctx context.Context, d deployment.Deployment, contacts int, imperial bool) (t tagged, err error) {
	t.deployment = d
	if t.revisions, err = s.store.Revisions(ctx, d.ID); err != nil {
		return t, err
	}
	if t.sweeps, err = s.store.Sweeps(ctx, d.ID); err != nil {
		return t, err
	}
	t.tag = deployment.MakeTag(d, t.revisions, len(t.sweeps), contacts, imperial)
	return t, nil
}

// tags lists the tags of an outing, or of all with an empty id.
func (s *Server) tags(ctx context.Context, outingID string) ([]tagged, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	counts, err := s.store.CountContacts(ctx, outingID)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Deployments(ctx, outingID)
	if err != nil {
		return nil, err
	}
	out := []tagged{}
	for _, d := range all {
		t, err := s.tag(ctx, d, counts[d.ID], me.Imperial)
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

func tagsOf(all []tagged) []deployment.Tag {
	out := []deployment.Tag{}
	for _, t := range all {
		out = append(out, t.tag)
	}
	return out
}

// ListOutings lists the shelf.
func (s *Server) ListOutings(ctx context.Context, _ ListOutingsRequestObject) (ListOutingsResponseObject, error) {
	all, err := s.store.Outings(ctx)
	if err != nil {
		return nil, err
	}
	out := ListOutings200JSONResponse{}
	for _, o := range all {
		tags, err := s.tags(ctx, o.ID)
		if err != nil {
			return nil, err
		}
		contacts, err := s.store.Contacts(ctx, o.ID)
		if err != nil {
			return nil, err
		}
		p := onair.SchemeNamed(o.Scheme).Count(contacts, s.now())
		out = append(out, OutingSummary{Outing: o, Tags: tagsOf(tags), Contacts: len(contacts), Sentence: p.Sentence})
	}
	return out, nil
}

// ListTags lists every deployment with the outing it belongs to.
func (s *Server) ListTags(ctx context.Context, _ ListTagsRequestObject) (ListTagsResponseObject, error) {
	outings, err := s.store.Outings(ctx)
	if err != nil {
		return nil, err
	}
	byID := map[string]store.Outing{}
	for _, o := range outings {
		byID[o.ID] = o
	}
	all, err := s.tags(ctx, "")
	out := ListTags200JSONResponse{}
	for _, t := range all {
		o := byID[t.deployment.OutingID]
		out = append(out, PlacedTag{Tag: t.tag, Outing: o.Name, OutingId: o.ID, Date: o.Date})
	}
	return out, err
}

// GetOuting reads one outing with its stages.
func (s *Server) GetOuting(ctx context.Context, r GetOutingRequestObject) (GetOutingResponseObject, error) {
	d, err := s.outingDetail(ctx, r.Id)
	return GetOuting200JSONResponse(d), err
}

func (s *Server) outingDetail(ctx context.Context, id string) (OutingDetail, error) {
	o, err := s.store.Outing(ctx, id)
	if err != nil {
		return OutingDetail{}, err
	}
	tags, err := s.tags(ctx, id)
	if err != nil {
		return OutingDetail{}, err
	}
	contacts, err := s.store.Contacts(ctx, id)
	if err != nil {
		return OutingDetail{}, err
	}
	f := deployment.Facts{Deployments: len(tags), Contacts: len(contacts), Missing: onair.SchemeNamed(o.Scheme).Count(contacts, s.now()).Missing}
	for _, t := range tags {
		if n := len(t.revisions); n > 0 {
			f.Built++
			if open, _, _ := dangers(t.revisions[n-1].Built); open > 0 {
				f.Unconfirmed++
			}
		}
		if len(t.sweeps) > 0 {
			f.Swept++
		}
		if t.tag.State == "swept" || t.tag.State == "worked" {
			f.Comparable++
		}
	}
	out := OutingDetail{Outing: o, Tags: tagsOf(tags)}
	day, derr := time.Parse(time.DateOnly, o.Date)
	if p, err := place.ParsePosition(o.Place); err == nil && derr == nil {
		f.HasPlace = true
		out.Lat, out.Lon, out.Locator, out.Sun = p.Lat, p.Lon, place.Locator(p, 6), place.SunOn(p, day)
	}
	if t, err := time.Parse("15:04", o.Until); err == nil && derr == nil {
		out.Until = day.Add(time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute)
	}
	out.Stages = deployment.Stages(f)
	return out, nil
}

// PutOuting stores an outing.
func (s *Server) PutOuting(ctx context.Context, r PutOutingRequestObject) (PutOutingResponseObject, error) {
	o := *r.Body
	o.ID = r.Id
	o.Name = strings.TrimSpace(o.Name)
	var faults []antenna.Fault
	bad := func(path, format string, args ...any) {
		faults = append(faults, antenna.Fault{Path: path, Severity: "error", Text: fmt.Sprintf(format, args...)})
	}
	if o.Name == "" {
		bad("name", "a name is missing; the place or the day will do")
	}
	if _, err := time.Parse(time.DateOnly, o.Date); err != nil {
		bad("date", "%q is not a date; write it like 2026-05-16", o.Date)
	}
	if o.Place != "" {
		if _, err := place.ParsePosition(o.Place); err != nil {
			bad("place", "%s", err)
		}
	}
	if _, ok := earth.Kind(o.Ground); o.Ground != "" && !ok {
		bad("ground", "%q is not a known kind of ground", o.Ground)
	}
	if _, err := time.Parse("15:04", o.Until); o.Until != "" && err != nil {
		bad("until", "%q is not a time; write it like 17:30, in UTC", o.Until)
	}
	if err := faulty("", faults); err != nil {
		return nil, err
	}
	if _, err := s.store.PutOuting(ctx, o); err != nil {
		return nil, err
	}
	d, err := s.outingDetail(ctx, r.Id)
	return PutOuting200JSONResponse(d), err
}

// SetVersion undoes and redoes.
func (s *Server) SetVersion(ctx context.Context, r SetVersionRequestObject) (SetVersionResponseObject, error) {
	version, deleted, err := s.store.SetVersion(ctx, string(r.Body.Kind), r.Body.Id, r.Body.To)
	return SetVersion200JSONResponse{Version: version, Deleted: deleted}, err
}
