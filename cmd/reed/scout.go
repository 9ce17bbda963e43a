package main

import (
	"context"
	"encoding/json"
	"errors"
	"strconv"

	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/quantity"
	"reed/core/scout"
	"reed/core/site"
	"reed/core/twin"
)

// thing is a part of a bag as the contract writes it, or as it is typed into the bag: kind, name and texts.
type thing struct {
	kit.Part
	Texts map[string]string `json:"texts"`
	Unit  string            `json:"unit"`
}

type scoutCase struct {
	Site    site.Site           `json:"site"`
	Purpose scout.Purpose       `json:"purpose"`
	Bag     []thing             `json:"bag"`
	Recipes []deployment.Recipe `json:"recipes"`
	Unit    string              `json:"unit"`
}

// scoutSite answers what fits a site for a purpose, as one JSON object.
func scoutSite(ctx context.Context, c *call) error {
	var x scoutCase
	if err := decode(c, &x); err != nil {
		return err
	}
	in := scout.Case{Site: x.Site, Purpose: x.Purpose, Recipes: x.Recipes, Units: quantity.In(x.Unit)}
	if in.Site.Name == "" {
		in.Site.Name = "site"
	}
	for i, t := range x.Bag {
		p := t.Part
		if t.Texts != nil {
			read, faults := kit.Read(p.Kind, p.Name, t.Texts, t.Unit)
			for _, f := range faults {
				if f.Severity == "error" {
					return usagef("bag.%d.%s: %s", i, f.Path, f.Text)
				}
			}
			read.ID = p.ID
			p = read
		}
		if _, ok := kit.KindNamed(p.Kind); !ok {
			return usagef("bag.%d.kind: %q is not a kind of thing in the bag", i, p.Kind)
		}
		if p.ID == "" {
			p.ID = "part-" + strconv.Itoa(i)
		}
		in.Bag = append(in.Bag, p)
	}
	a, err := scout.Scout(ctx, new(twin.Engine), in, nil)
	var faults scout.FaultsError
	switch {
	case errors.As(err, &faults):
		return usagef("%s", faults)
	case err != nil:
		return err
	}
	return json.NewEncoder(c.out).Encode(a)
}
