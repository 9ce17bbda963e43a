package deployment

import (
	"fmt"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/bounds"
)

// MostPower is the highest power in watts that a plan or a set-up may have.
const MostPower = 10_000

// shapeKept is an error for a shape that no family can read.
func shapeKept(s antenna.Shape) error {
	if _, known := family.Named(s.Family); s.Family != "" && !known {
		return fmt.Errorf("%.60q is no kind of antenna that is known here", s.Family)
	}
	if n := len(s.More) + 1; n > antenna.MostFrequencies {
		return fmt.Errorf("%d frequencies found; at most %d are kept", n, antenna.MostFrequencies)
	}
	for _, f := range s.All() {
		if err := bounds.Number("a frequency in hertz", f, 0, antenna.MostHz); err != nil {
			return err
		}
	}
	for id, l := range s.Sizes {
		if err := bounds.Number(id+" in metres", l.M, -antenna.LongestWire*10, antenna.LongestWire*10); err != nil {
			return err
		}
	}
	return nil
}

func planKept(p antenna.Request) error {
	const mostSolved = 200
	if len(p.Solved) > mostSolved || len(p.Measured) > mostSolved {
		return fmt.Errorf("%d solved and %d measured lengths found; at most %d are kept", len(p.Solved), len(p.Measured), mostSolved)
	}
	return bounds.All(shapeKept(p.Shape), bounds.Number("the plan's power in watts", p.PowerW, 0, MostPower),
		bounds.Number("to trim, in per cent", p.TrimPercent, 0, 100))
}

// CheckKept checks what holds for every set-up that is kept.
func (b Built) CheckKept() error {
	const mostMetal = 50
	if len(b.Metal) > mostMetal {
		return fmt.Errorf("%d things of metal found; at most %d are kept", len(b.Metal), mostMetal)
	}
	return bounds.All(shapeKept(b.Shape), bounds.Number("the power in watts", b.PowerW, 0, MostPower),
		bounds.Number("the set-up's minutes", float64(b.SetupMinutes), 0, 100_000))
}

// CheckKept checks what holds for every outing that is kept.
func (o Outing) CheckKept() error {
	const mostPacked = 2000
	if len(o.Packed) > mostPacked {
		return fmt.Errorf("%d things ticked; at most %d are kept", len(o.Packed), mostPacked)
	}
	return bounds.All(bounds.Name("the outing", o.Name), bounds.Day("the outing", o.Date))
}

// CheckKept checks what holds for every deployment that is kept.
func (d Deployment) CheckKept() error {
	if d.Name != "" {
		if err := bounds.Name("the deployment", d.Name); err != nil {
			return err
		}
	}
	return bounds.All(bounds.ID(d.OutingID), planKept(d.Plan), bounds.Moment("the deployment", d.CreatedAt))
}

// CheckKept checks what holds for every revision that is kept.
func (r Revision) CheckKept() error {
	return bounds.All(bounds.ID(r.ID), bounds.ID(r.DeploymentID), r.Built.CheckKept(), bounds.Moment("the revision", r.At),
		bounds.Number("the revision's number", float64(r.Seq), 0, 100_000))
}

// CheckKept checks what holds for every recipe that is kept.
func (r Recipe) CheckKept() error {
	return bounds.All(bounds.Name("the recipe", r.Name), bounds.ID(r.RevisionID), planKept(r.Plan), r.Built.CheckKept())
}
