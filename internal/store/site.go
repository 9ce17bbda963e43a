package store

import (
	"context"
	"database/sql"

	"reed/core/site"
)

var sites = keep(kind[site.Site]{
	name: "site", columns: []string{"name"},
	values: func(s site.Site) []any { return []any{s.Name} },
	check:  site.Site.CheckKept,
	strip:  func(s *site.Site) { s.Version, s.Deleted = 0, false },
})

// PutSite stores a site, made from a version.
func (s *Store) PutSite(ctx context.Context, v site.Site, from int) (site.Site, error) {
	err := s.inTx(ctx, "storing the site", func(tx *sql.Tx) (err error) {
		v.Version, err = sites.put(ctx, tx, v.ID, v, from, v.Deleted, nil)
		return err
	})
	return v, err
}

// Sites lists them by name.
func (s *Store) Sites(ctx context.Context) ([]site.Site, error) {
	return listed(ctx, s, "the sites", "SELECT version, doc FROM site WHERE deleted = 0 ORDER BY name",
		func(v *site.Site, version int) { v.Version = version })
}
