package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"strings"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/clock"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/quantity"
	"reed/core/twin"
	"reed/internal/exchange"
	"reed/internal/store"
)

// GetDeployment reads a deployment with its revisions.
func (s *Server) GetDeployment(ctx context.Context, r GetDeploymentRequestObject) (GetDeploymentResponseObject, error) {
	d, err := s.deploymentDetail(ctx, r.Id)
	return GetDeployment200JSONResponse(d), err
}

func (s *Server) deploymentDetail(ctx context.Context, id string) (DeploymentDetail, error) {
	d, err := s.store.Deployment(ctx, id)
	if err != nil {
		return DeploymentDetail{}, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return DeploymentDetail{}, err
	}
	t, err := s.tag(ctx, d, me.Units)
	if err != nil {
		return DeploymentDetail{}, err
	}
	d.Plan.Units = me.Units
	out := DeploymentDetail{Deployment: d, Tag: t.tag, Planned: family.Design(d.Plan), Revisions: []Revision{},
		PlanTexts: family.FormTexts(d.Plan, me.Units)}
	before := deployment.Built{Shape: family.AsCut(out.Planned)}
	for i, r := range t.revisions {
		v := Revision{Id: r.ID, Seq: r.Seq, At: r.At, Reason: r.Reason, Built: Built{Record: r.Built}, Sweeps: []SweepInfo{},
			Changes: []Difference{}}
		if i > 0 {
			v.Changes = deployment.Differences(before, r.Built, me.Units)
		}
		before = r.Built
		v.Unconfirmed, v.Cautions, v.Drawing = dangers(r.Built, me.Units)
		v.Faults = notNil(entry.In(me.Units, deployment.Check(r.Built, out.Planned.Shape)))
		for _, sw := range t.sweeps {
			if sw.RevisionID == r.ID {
				v.Sweeps = append(v.Sweeps, SweepInfo{Id: sw.ID, Name: sw.Name, Where: sw.Where, TakenAt: sw.TakenAt, Points: len(sw.Curve.F),
					FromHz: sw.Curve.F[0], ToHz: sw.Curve.F[len(sw.Curve.F)-1], Simulated: sw.Simulated, Version: sw.Version})
			}
		}
		out.Revisions = append(out.Revisions, v)
	}
	if d.Recipe != "" {
		r, err := s.store.Recipe(ctx, d.Recipe)
		if err != nil {
			return DeploymentDetail{}, err
		}
		info := recipeInfo(r, me.Units)
		out.Recipe = &info
		if len(t.revisions) == 0 {
			before = r.Afresh()
			out.Afresh = &Built{Record: before}
		}
	}
	if grown, added := family.Of(before.Shape).Grown(family.AsCut(out.Planned)); len(added) > 0 && len(t.revisions) > 0 {
		with := before
		with.Shape = grown
		var mhz []string
		for _, f := range added {
			mhz = append(mhz, quantity.ToKHz(f))
		}
		out.Grown = &GrownRecord{Built: Built{Record: with}, Texts: family.Of(grown).Texts("built", me.Units), Mhz: strings.Join(mhz, ", ")}
	}
	photos, err := s.store.Photos(ctx, id)
	if err != nil {
		return DeploymentDetail{}, err
	}
	out.Photos = []PhotoInfo{}
	for _, p := range photos {
		out.Photos = append(out.Photos, photoInfo(p))
	}
	out.ClockParts, out.ClockMinutes = d.Clock.Parts(), d.Clock.Minutes()
	out.BuiltTexts, out.BuiltFields = family.Of(before.Shape).Texts("built", me.Units), notNil(family.Of(before.Shape).Fields("built"))
	return out, nil
}

// PutRevision adds a revision.
func (s *Server) PutRevision(ctx context.Context, r PutRevisionRequestObject) (PutRevisionResponseObject, error) {
	v := r.Body.Revision
	v.ID, v.Seq = r.Id, 0
	if v.At.IsZero() {
		v.At = s.now()
	}
	if clock.InFuture(v.At, s.now()) {
		return nil, invalid("at", v.At.UTC().Format("2006-01-02 15:04")+" lies in the future; times are UTC")
	}
	d, err := s.store.Deployment(ctx, v.DeploymentID)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	bag, err := s.bag(ctx)
	if err != nil {
		return nil, err
	}
	r.Body.Built.Record = r.Body.Built.Record.Use(bag)
	built, unread := deployment.Read(r.Body.Built)
	v.Built = built
	if err := faulty(me.Units, "built.", append(unread, deployment.Check(v.Built, family.Design(d.Plan).Shape)...)); err != nil {
		return nil, err
	}
	if _, err := s.store.AddRevision(ctx, v); err != nil {
		return nil, err
	}
	detail, err := s.deploymentDetail(ctx, v.DeploymentID)
	return PutRevision200JSONResponse(detail), err
}

func recipeInfo(r deployment.Recipe, units quantity.System) RecipeInfo {
	return RecipeInfo{Id: r.ID, Name: r.Name, Says: r.Says(units), Revision: r.Revision, Place: r.Place, Date: r.Date, Version: r.Version}
}

func photoInfo(p store.Photo) PhotoInfo {
	return PhotoInfo{Id: p.ID, Caption: p.Caption, Width: p.Width, Height: p.Height, At: p.At, Version: p.Version}
}

// PutClock stores the moments of setting up.
func (s *Server) PutClock(ctx context.Context, r PutClockRequestObject) (PutClockResponseObject, error) {
	if path, text := r.Body.Check(s.now()); path != "" {
		return nil, invalid(path, text)
	}
	d, err := s.store.Deployment(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	d.Clock = *r.Body
	if _, err := s.store.PutDeployment(ctx, d, r.Params.Version); err != nil {
		var other *store.Conflict
		if errors.As(err, &other) {
			return nil, clockAsSent(other)
		}
		return nil, err
	}
	detail, err := s.deploymentDetail(ctx, r.Id)
	return PutClock200JSONResponse(detail), err
}

// clockAsSent shows the moments that stand in the way of a write.
func clockAsSent(c *store.Conflict) error {
	return conflictIn(c, func(doc []byte) (map[string]any, error) {
		var d deployment.Deployment
		if err := json.Unmarshal(doc, &d); err != nil {
			return nil, err
		}
		return generic(d.Clock)
	})
}

// ComputeMove says what another place does to the recipe that a deployment was laid out from.
func (s *Server) ComputeMove(ctx context.Context, r ComputeMoveRequestObject) (ComputeMoveResponseObject, error) {
	q := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	now, err := s.setup(ctx, ModelQuestion{Plan: q.Plan, Built: &q.Built, RevisionId: q.RevisionId, OutingId: q.OutingId, Ground: q.Ground})
	if err != nil {
		return nil, err
	}
	recipe, err := s.recipeOf(ctx, q.DeploymentId)
	if err != nil {
		return nil, err
	}
	was := twin.Setup{Built: recipe.Built, Ground: recipe.Ground, PowerW: now.PowerW}
	out, err := answer(ctx, s, asks{q.Id, q.Slot, q.WaitMs}, []any{was, now, me.Region, recipe.Dips},
		func(ctx context.Context, done func(step, of int)) (twin.Moved, error) {
			return s.twin.Move(ctx, was, now, me.Region, recipe.Dips, done)
		})
	return ComputeMove200JSONResponse(out), err
}

// recipeOf is the recipe that a deployment was laid out from.
func (s *Server) recipeOf(ctx context.Context, id string) (deployment.Recipe, error) {
	d, err := s.store.Deployment(ctx, id)
	if err != nil {
		return deployment.Recipe{}, err
	}
	if d.Recipe == "" {
		return deployment.Recipe{}, invalid("deployment_id", "this antenna was not made from a recipe")
	}
	return s.store.Recipe(ctx, d.Recipe)
}

// ListRecipes lists the recipes on the shelf.
func (s *Server) ListRecipes(ctx context.Context, _ ListRecipesRequestObject) (ListRecipesResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Recipes(ctx)
	if err != nil {
		return nil, err
	}
	out := ListRecipes200JSONResponse{}
	for _, r := range list {
		out = append(out, recipeInfo(r, me.Units))
	}
	return out, nil
}

// PutRecipe keeps a revision as a recipe, with what its sweeps found.
func (s *Server) PutRecipe(ctx context.Context, r PutRecipeRequestObject) (PutRecipeResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	name := strings.TrimSpace(r.Body.Name)
	if name == "" {
		return nil, invalid("name", "a name is missing; use one you will recognise")
	}
	rev, all, err := s.sweptWith(ctx, r.Body.RevisionId)
	if err != nil {
		return nil, err
	}
	d, err := s.store.Deployment(ctx, rev.DeploymentID)
	if err != nil {
		return nil, err
	}
	o, err := s.store.Outing(ctx, d.OutingID)
	if err != nil {
		return nil, err
	}
	// The same request again, after a lost answer, finds its recipe; more sweeps may have come since.
	if have, err := s.store.Recipe(ctx, r.Id); err == nil && have.RevisionID == rev.ID && have.Name == name {
		return PutRecipe200JSONResponse(recipeInfo(have, me.Units)), nil
	} else if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	dips := map[string]float64{}
	for _, b := range band.All(me.Region) {
		here, readings := inBand(all, me, b)
		for i, m := range here {
			if m.revision.ID == rev.ID && readings[i].Clear() {
				dips[b.Name] = readings[i].MinAt
			}
		}
	}
	recipe, err := s.store.PutRecipe(ctx, deployment.MakeRecipe(r.Id, name, d, rev, o.Name, o.Date, o.Ground, dips), r.Params.Version)
	return PutRecipe200JSONResponse(recipeInfo(recipe, me.Units)), err
}

// LayOut makes a deployment of a recipe.
func (s *Server) LayOut(ctx context.Context, r LayOutRequestObject) (LayOutResponseObject, error) {
	recipe, err := s.store.Recipe(ctx, r.Body.RecipeId)
	if err != nil {
		return nil, err
	}
	d := recipe.LaidOut(r.Id, r.Body.OutingId, strings.TrimSpace(r.Body.Name))
	d.CreatedAt = s.now()
	beside, err := s.store.Deployments(ctx, d.OutingID)
	if err != nil {
		return nil, err
	}
	d.Name = deployment.Free(d.Name, d.ID, beside)
	if _, err := s.store.PutDeployment(ctx, d, 0); err != nil {
		return nil, err
	}
	detail, err := s.deploymentDetail(ctx, r.Id)
	return LayOut200JSONResponse(detail), err
}

// GetPhoto is a photo's picture.
func (s *Server) GetPhoto(ctx context.Context, r GetPhotoRequestObject) (GetPhotoResponseObject, error) {
	file, err := s.store.PhotoFile(ctx, r.Id)
	return GetPhoto200ImagejpegResponse{Body: bytes.NewReader(file), ContentLength: int64(len(file))}, err
}

// PutPhoto keeps a picture with a deployment, clean of all that a camera notes beside it.
func (s *Server) PutPhoto(ctx context.Context, r PutPhotoRequestObject) (PutPhotoResponseObject, error) {
	clean, err := exchange.CleanPhoto(r.Body.Content)
	if err != nil {
		return nil, err
	}
	at, have, err := s.now(), store.Photo{}, error(nil)
	if have, err = s.store.Photo(ctx, r.Id); err == nil {
		at = have.At
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	p, err := s.store.PutPhoto(ctx, store.Photo{ID: r.Id, DeploymentID: r.Body.DeploymentId, Caption: strings.TrimSpace(r.Body.Caption),
		Width: clean.Width, Height: clean.Height, At: at, File: clean.JPEG}, r.Params.Version)
	if errors.Is(err, store.ErrFull) {
		return nil, invalid("content", store.ErrFull.Error())
	}
	return PutPhoto200JSONResponse(photoInfo(p)), err
}
