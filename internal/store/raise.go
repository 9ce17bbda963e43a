package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"reed/core/deployment"
)

var recipes = keep(kind[deployment.Recipe]{
	name: "recipe", columns: []string{"revision_id"},
	values: func(r deployment.Recipe) []any { return []any{r.RevisionID} },
	check:  deployment.Recipe.CheckKept,
	strip:  func(r *deployment.Recipe) { r.Version, r.Deleted = 0, false },
})

var photos = keep(kind[Photo]{
	name: "photo", columns: []string{"deployment_id"}, file: true,
	values: func(p Photo) []any { return []any{p.DeploymentID} },
	strip:  func(p *Photo) { p.Version, p.Deleted, p.File = 0, false, nil },
	after: func(ctx context.Context, tx *sql.Tx, _, p *Photo) error {
		var n int
		err := tx.QueryRowContext(ctx, "SELECT count(*) FROM photo WHERE deployment_id = ? AND deleted = 0", p.DeploymentID).Scan(&n)
		if err == nil && n > MostPhotos {
			err = ErrFull
		}
		return err
	},
})

// PutRecipe stores a recipe, made from a version.
func (s *Store) PutRecipe(ctx context.Context, r deployment.Recipe, from int) (deployment.Recipe, error) {
	err := s.inTx(ctx, "storing the recipe", func(tx *sql.Tx) (err error) {
		r.Version, err = recipes.put(ctx, tx, r.ID, r, from, r.Deleted, nil)
		return err
	})
	return r, err
}

// Recipe reads one recipe, also one that was taken off the shelf.
func (s *Store) Recipe(ctx context.Context, id string) (deployment.Recipe, error) {
	r, version, deleted, err := recipes.one(ctx, s.r, id)
	r.Version, r.Deleted = version, deleted
	return r, err
}

// Recipes lists them, the newest first.
func (s *Store) Recipes(ctx context.Context) ([]deployment.Recipe, error) {
	return listed(ctx, s, "the recipes", "SELECT version, doc FROM recipe WHERE deleted = 0 ORDER BY rowid DESC",
		func(v *deployment.Recipe, version int) { v.Version = version })
}

// Photo is a picture of a deployment, without its bytes.
type Photo struct {
	ID           string    `json:"id"`
	DeploymentID string    `json:"deployment_id"`
	Caption      string    `json:"caption,omitempty"`
	Width        int       `json:"width"`
	Height       int       `json:"height"`
	At           time.Time `json:"at"`
	Version      int       `json:"version"`
	Deleted      bool      `json:"deleted,omitempty"`
	File         []byte    `json:"-"`
}

// MostPhotos is how many a deployment keeps.
const MostPhotos = 12

// ErrFull says that a deployment has all the photos that it may have.
var ErrFull = fmt.Errorf("a deployment keeps %d photos; take one off first", MostPhotos)

// PutPhoto stores a photo, made from a version; one too many is ErrFull.
func (s *Store) PutPhoto(ctx context.Context, v Photo, from int) (Photo, error) {
	err := s.inTx(ctx, "storing the photo", func(tx *sql.Tx) (err error) {
		v.Version, err = photos.put(ctx, tx, v.ID, v, from, v.Deleted, v.File)
		return err
	})
	return v, err
}

// Photos lists those of a deployment, oldest first, without their bytes.
func (s *Store) Photos(ctx context.Context, deploymentID string) ([]Photo, error) {
	return listed(ctx, s, "the photos", "SELECT version, doc FROM photo WHERE deployment_id = ? AND deleted = 0 ORDER BY rowid",
		func(v *Photo, version int) { v.Version = version }, deploymentID)
}

// PhotoFile is a photo's JPEG.
func (s *Store) PhotoFile(ctx context.Context, id string) (file []byte, err error) {
	err = s.r.QueryRowContext(ctx, "SELECT file FROM photo WHERE id = ?", id).Scan(&file)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("photo %s: %w", id, ErrNotFound)
	}
	return file, err
}

// Photo reads one photo without its bytes, removed ones too.
func (s *Store) Photo(ctx context.Context, id string) (Photo, error) {
	v, version, deleted, err := photos.one(ctx, s.r, id)
	v.Version, v.Deleted = version, deleted
	return v, err
}
