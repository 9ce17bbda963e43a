package deployment

import (
	"fmt"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/quantity"
)

// Recipe is a revision that worked, kept to be laid out again: its plan, what was built, and where it stood on what
// ground (a preset's ID). Dips are the dips of its sweeps by band, in hertz.
type Recipe struct {
	ID         string             `json:"id"`
	Name       string             `json:"name"`
	RevisionID string             `json:"revision_id"`
	Revision   string             `json:"revision"` // as people say it: r3 of Heron
	Plan       antenna.Request    `json:"plan"`
	Built      Built              `json:"built"`
	Place      string             `json:"place"`
	Date       string             `json:"date"`
	Ground     string             `json:"ground"`
	Dips       map[string]float64 `json:"dips,omitempty"`
	Version    int                `json:"version"`
	Deleted    bool               `json:"deleted,omitempty"`
}

// MakeRecipe keeps a revision of a deployment at a place and date, on the outing's ground, with the dips that were
// found.
func MakeRecipe(id, name string, d Deployment, r Revision, place, date, ground string, dips map[string]float64) Recipe {
	return Recipe{ID: id, Name: name, RevisionID: r.ID, Revision: fmt.Sprintf("r%d of %s", r.Seq, d.Name), Plan: d.Plan, Built: r.Built,
		Place: place, Date: date, Ground: d.GroundAt(r.Built, ground), Dips: dips}
}

// Afresh returns the set-up to be raised again: every length as it was, without what belonged to that day.
func (r Recipe) Afresh() Built {
	b := r.Built
	b.Confirmed, b.Metal, b.Wind, b.Notes, b.SetupMinutes, b.Ground = nil, nil, "", "", 0, ""
	return b
}

// LaidOut is a deployment of the recipe at another outing. Its ground is that of the place.
func (r Recipe) LaidOut(id, outing, name string) Deployment {
	plan := r.Plan
	plan.Ground = ""
	plan.Solved = slices.Clone(plan.Solved)
	if name == "" {
		name = r.Name
	}
	return Deployment{ID: id, OutingID: outing, Name: name, Plan: plan, Recipe: r.ID}
}

// Says is the recipe in few words: what it is, its length and ratio.
func (r Recipe) Says(units quantity.System) string {
	t := MakeTag(Deployment{Name: r.Name, Plan: r.Plan}, []Revision{{Built: r.Built}}, 0, false, units)
	fam, _ := family.Named(r.Built.Family)
	out := fam.Short + ", " + t.Radiator
	for _, x := range []string{t.Detail, t.Height} {
		if x != "" {
			out += ", " + x
		}
	}
	return out
}
