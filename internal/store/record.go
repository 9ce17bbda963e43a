package store

import (
	"context"
	"database/sql"
	"fmt"

	"reed/core/onair"
	"reed/core/weigh"
)

// setUps are the deployments that were up, with their outings.
const setUps = `SELECT d.id, d.doc ->> 'name', coalesce(d.doc -> 'plan' ->> 'family', ''), coalesce(d.doc ->> 'recipe', ''), o.id,
	coalesce(o.doc ->> 'name', ''), o.date, coalesce(nullif(d.doc -> 'plan' ->> 'ground', ''), o.doc ->> 'ground', ''),
	coalesce(d.doc ->> 'lesson', ''), coalesce(o.doc ->> 'place', '')
	FROM deployment d JOIN outing o ON o.id = d.outing_id WHERE d.deleted = 0 AND o.deleted = 0
	AND EXISTS (SELECT 1 FROM revision WHERE deployment_id = d.id) ORDER BY o.date, d.rowid`

// SetUps lists the deployments that were up, by rising day, and the recipes with what they were kept from.
func (s *Store) SetUps(ctx context.Context) (out []weigh.SetUp, recipes []weigh.Recipe, err error) {
	if err = s.rows(ctx, "the set-ups", setUps, func(r *sql.Rows) error {
		var x weigh.SetUp
		err := r.Scan(&x.ID, &x.Name, &x.Family, &x.Recipe, &x.OutingID, &x.Outing, &x.Date, &x.Site, &x.Lesson, &x.Place)
		out = append(out, x)
		return err
	}); err != nil {
		return nil, nil, err
	}
	err = s.rows(ctx, "the recipes", `SELECT p.id, p.doc ->> 'name', r.deployment_id FROM recipe p JOIN revision r ON r.id = p.revision_id
		WHERE p.deleted = 0 ORDER BY p.rowid`, func(r *sql.Rows) error {
		var x weigh.Recipe
		err := r.Scan(&x.ID, &x.Name, &x.From)
		recipes = append(recipes, x)
		return err
	})
	return out, recipes, err
}

// stints sums contacts and the time before each, by outing, antenna and band, from an index: the first of an outing, and one after a long
// break, have no time of their own.
var stints = fmt.Sprintf(`SELECT outing_id, deployment_id, band, count(*), sum(gap) FROM (
	SELECT outing_id, deployment_id, band, at - lag(at) OVER (PARTITION BY outing_id ORDER BY at) AS gap FROM contact WHERE deleted = 0
	) WHERE deployment_id IS NOT NULL AND gap <= %d GROUP BY 1, 2, 3 ORDER BY 1, 2, 3`, weigh.LongBreak*60_000)

// Stints are how antennas were used over all outings.
func (s *Store) Stints(ctx context.Context) (out []weigh.Stint, err error) {
	err = s.rows(ctx, "the contacts of all outings", stints, func(r *sql.Rows) error {
		var x weigh.Stint
		var ms int64
		err := r.Scan(&x.OutingID, &x.DeploymentID, &x.Band, &x.Contacts, &ms)
		x.Hours = float64(ms) / 3_600_000
		out = append(out, x)
		return err
	})
	return out, err
}

// AllRuns lists the beacon runs of all outings, the oldest first.
func (s *Store) AllRuns(ctx context.Context) ([]onair.Run, error) {
	return listed(ctx, s, "the runs", "SELECT version, doc FROM run WHERE deleted = 0 ORDER BY doc ->> 'begin', id",
		func(v *onair.Run, version int) { v.Version = version })
}
