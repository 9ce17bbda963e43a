package store

import (
	"context"
	"database/sql"

	"reed/core/kit"
)

var parts = keep(kind[kit.Part]{
	name: "part", columns: []string{"kind"},
	values: func(p kit.Part) []any { return []any{p.Kind} },
	check:  kit.Part.CheckKept,
	strip:  func(p *kit.Part) { p.Version, p.Deleted = 0, false },
})

// PutPart stores a thing of the bag, made from a version.
func (s *Store) PutPart(ctx context.Context, p kit.Part, from int) (kit.Part, error) {
	p.Version = from
	list, err := s.PutParts(ctx, []kit.Part{p})
	if err != nil {
		return p, err
	}
	return list[0], nil
}

// PutParts stores several things together, each made from the version that it has: all or none.
func (s *Store) PutParts(ctx context.Context, list []kit.Part) ([]kit.Part, error) {
	out := make([]kit.Part, len(list))
	err := s.inTx(ctx, "storing the bag", func(tx *sql.Tx) error {
		for i, p := range list {
			version, err := parts.put(ctx, tx, p.ID, p, p.Version, p.Deleted, nil)
			if err != nil {
				return err
			}
			p.Version = version
			out[i] = p
		}
		return nil
	})
	return out, err
}

// Part reads one thing, also one that was taken out of the bag.
func (s *Store) Part(ctx context.Context, id string) (kit.Part, error) {
	p, version, deleted, err := parts.one(ctx, s.r, id)
	p.Version, p.Deleted = version, deleted
	return p, err
}

// Bag lists what is in the bag, in the order in which it came.
func (s *Store) Bag(ctx context.Context) ([]kit.Part, error) {
	return listed(ctx, s, "the bag", "SELECT version, doc FROM part WHERE deleted = 0 ORDER BY rowid",
		func(p *kit.Part, version int) { p.Version = version })
}

// Use is a deployment that a thing of the bag was planned for or part of.
type Use struct {
	DeploymentID string `json:"deployment_id"`
	Deployment   string `json:"deployment"`
	OutingID     string `json:"outing_id"`
	Outing       string `json:"outing"`
	Date         string `json:"date"`
	Built        bool   `json:"built"`
}

// Uses lists the deployments of a thing, newest first.
func (s *Store) Uses(ctx context.Context, id string) ([]Use, error) {
	out := []Use{}
	err := s.rows(ctx, "the history of a thing", `SELECT u.id, u.name, o.id, json_extract(o.doc, '$.name'), o.date, u.built FROM (
			SELECT d.id, json_extract(d.doc, '$.name') AS name, d.outing_id,
				EXISTS (SELECT 1 FROM revision r, json_each(r.doc, '$.built.parts') j WHERE r.deployment_id = d.id AND j.value = ?1) AS built,
				EXISTS (SELECT 1 FROM json_each(d.doc, '$.plan.parts') j WHERE j.value = ?1) AS planned
			FROM deployment d WHERE d.deleted = 0) u
		JOIN outing o ON o.id = u.outing_id AND o.deleted = 0
		WHERE u.built OR u.planned ORDER BY o.date DESC, u.name`, func(r *sql.Rows) error {
		var u Use
		if err := r.Scan(&u.DeploymentID, &u.Deployment, &u.OutingID, &u.Outing, &u.Date, &u.Built); err != nil {
			return err
		}
		out = append(out, u)
		return nil
	}, id)
	return out, err
}
