package server

import (
	"context"
	"reflect"
	"strings"
	"sync"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/clock"
	"reed/core/deployment"
	"reed/core/place"
	"reed/core/quantity"
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
func dangers(b deployment.Built, units quantity.System) (open int, all []rigging.Caution, d antenna.Drawing) {
	d, _ = family.Of(b.Shape).Layout()
	all = rigging.Cautions(b.Shape, d, b.PowerW, units)
	return rigging.Open(all, b.Confirmed), all, d
}

func (s *Server) tag(ctx context.Context, d deployment.Deployment, units quantity.System) (t tagged, err error) {
	t.deployment = d
	if t.revisions, err = s.store.Revisions(ctx, d.ID); err != nil {
		return t, err
	}
	if t.sweeps, err = s.store.Sweeps(ctx, d.ID); err != nil {
		return t, err
	}
	worked, err := s.store.HasWorked(ctx, d.ID)
	if err != nil {
		return t, err
	}
	t.tag = deployment.MakeTag(d, t.revisions, len(t.sweeps), worked, units)
	return t, nil
}

// tagCache keeps the shapes that plans come to, by deployment: designing hundreds of them again for every look at the
// shelf takes a second. The plan itself is compared, not its version: after a restore that may be of another one.
type tagCache struct {
	mu   sync.Mutex
	kept map[string]designed
}

type designed struct {
	plan  antenna.Request
	built deployment.Built
}

const mostTags = 5000

func (c *tagCache) planned(d deployment.Deployment) deployment.Built {
	c.mu.Lock()
	defer c.mu.Unlock()
	have, ok := c.kept[d.ID]
	if !ok || !reflect.DeepEqual(have.plan, d.Plan) {
		have = designed{d.Plan, deployment.Built{Shape: family.Design(d.Plan).Shape}}
		if c.kept == nil || len(c.kept) > mostTags {
			c.kept = map[string]designed{}
		}
		c.kept[d.ID] = have
	}
	return have.built
}

// shelved is a deployment with its tag, from what stands in columns and the newest revision alone.
func (s *Server) shelved(x store.Standing, units quantity.System) deployment.Tag {
	b := s.tags.planned
	if x.Newest != nil {
		b = func(deployment.Deployment) deployment.Built { return x.Newest.Built }
	}
	return deployment.TagOf(x.Deployment, b(x.Deployment), x.Newest != nil, x.Sweeps, x.Contacts > 0, units)
}

// ListOutings lists the shelf.
func (s *Server) ListOutings(ctx context.Context, _ ListOutingsRequestObject) (ListOutingsResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Shelf(ctx, "", s.now())
	if err != nil {
		return nil, err
	}
	out := ListOutings200JSONResponse{}
	for _, x := range all {
		tags := []deployment.Tag{}
		for _, d := range x.Standing {
			tags = append(tags, s.shelved(d, me.Units))
		}
		out = append(out, OutingSummary{Outing: x.Outing, Tags: tags, Contacts: x.Contacts, Sentence: x.Progress.Sentence})
	}
	return out, nil
}

// ListTags lists every deployment with the outing it belongs to.
func (s *Server) ListTags(ctx context.Context, _ ListTagsRequestObject) (ListTagsResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Shelf(ctx, "", s.now())
	out := ListTags200JSONResponse{}
	for _, x := range all {
		for _, d := range x.Standing {
			tag := PlacedTag{Tag: s.shelved(d, me.Units), Outing: x.Outing.Name, OutingId: x.Outing.ID, Date: x.Outing.Date}
			if d.Newest != nil {
				tag.Revisions = d.Newest.Seq
			}
			out = append(out, tag)
		}
	}
	return out, err
}

// GetOuting reads one outing with its stages.
func (s *Server) GetOuting(ctx context.Context, r GetOutingRequestObject) (GetOutingResponseObject, error) {
	d, err := s.outingDetail(ctx, r.Id)
	return GetOuting200JSONResponse(d), err
}

func (s *Server) outingDetail(ctx context.Context, id string) (OutingDetail, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return OutingDetail{}, err
	}
	list, err := s.store.Shelf(ctx, id, s.now())
	if err != nil {
		return OutingDetail{}, err
	}
	x := list[0]
	o := x.Outing
	out := OutingDetail{Outing: o, Tags: []deployment.Tag{}}
	f := deployment.Facts{Deployments: len(x.Standing), Contacts: x.Contacts, Missing: x.Progress.Missing}
	for _, d := range x.Standing {
		if d.Newest != nil {
			f.Built++
			if open, _, _ := dangers(d.Newest.Built, me.Units); open > 0 {
				f.Unconfirmed++
			}
		}
		if d.Sweeps > 0 {
			f.Swept++
		}
		tag := s.shelved(d, me.Units)
		if tag.State == "swept" || tag.State == "worked" {
			f.Comparable++
		}
		out.Tags = append(out.Tags, tag)
	}
	day, derr := time.Parse(time.DateOnly, o.Date)
	if p, err := place.ParsePosition(o.Place); err == nil && derr == nil {
		f.HasPlace = true
		out.Lat, out.Lon, out.Locator, out.Sun = p.Lat, p.Lon, place.Locator(p, 6), place.SunOn(p, day)
	}
	if t, err := clock.Parse(o.Until); err == nil && derr == nil {
		out.Until = t.On(day)
	}
	out.Stages = deployment.Stages(f)
	return out, nil
}

// PutOuting stores an outing.
func (s *Server) PutOuting(ctx context.Context, r PutOutingRequestObject) (PutOutingResponseObject, error) {
	o := *r.Body
	o.ID = r.Id
	o.Name = strings.TrimSpace(o.Name)
	if err := faulty(quantity.SI, "", o.Check()); err != nil {
		return nil, err
	}
	o.Deleted = false
	if _, err := s.store.PutOuting(ctx, o, r.Params.Version); err != nil {
		return nil, err
	}
	d, err := s.outingDetail(ctx, r.Id)
	return PutOuting200JSONResponse(d), err
}

// SetVersion undoes and redoes.
func (s *Server) SetVersion(ctx context.Context, r SetVersionRequestObject) (SetVersionResponseObject, error) {
	version, deleted, err := s.store.SetVersion(ctx, string(r.Body.Kind), r.Body.Id, r.Body.To, r.Body.Version)
	return SetVersion200JSONResponse{Version: version, Deleted: deleted}, err
}
