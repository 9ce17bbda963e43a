package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"reed/core/deployment"
)

var (
	recipes = tableOf("recipe", "revision_id")
	photos  = tableOf("photo", "deployment_id", "file")
)

// PutRecipe stores a recipe.
func (s *Store) PutRecipe(ctx context.Context, r deployment.Recipe) (deployment.Recipe, error) {
	deleted := r.Deleted
	r.Version, r.Deleted = 0, false
	err := s.inTx(ctx, "storing the recipe", func(tx *sql.Tx) (err error) {
		r.Version, err = recipes.put(ctx, tx, r.ID, r, deleted, r.RevisionID)
		return err
	})
	r.Deleted = deleted
	return r, err
}

// Recipe reads one recipe, also one that was taken off the shelf.
func (s *Store) Recipe(ctx context.Context, id string) (r deployment.Recipe, err error) {
	version, deleted, err := s.one(ctx, recipes, id, &r)
	r.Version, r.Deleted = version, deleted
	return r, err
}

// Recipes lists them, the newest first.
func (s *Store) Recipes(ctx context.Context) ([]deployment.Recipe, error) {
	return listed(ctx, s, "the recipes", "SELECT version, doc FROM recipe WHERE deleted = 0 ORDER BY rowid DESC", func(v *deployment.Recipe, version int) { v.Version = version })
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

// PutPhoto stores a photo; one too many is ErrFull.
func (s *Store) PutPhoto(ctx context.Context, v Photo) (Photo, error) {
	deleted := v.Deleted
	v.Version, v.Deleted = 0, false
	err := s.inTx(ctx, "storing the photo", func(tx *sql.Tx) (err error) {
		var others int
		if err := tx.QueryRowContext(ctx, "SELECT count(*) FROM photo WHERE deployment_id = ? AND deleted = 0 AND id <> ?", v.DeploymentID, v.ID).Scan(&others); err != nil {
			return err
		}
		if others >= MostPhotos && !deleted {
			return ErrFull
		}
		v.Version, err = photos.put(ctx, tx, v.ID, v, deleted, v.DeploymentID, v.File)
		return err
	})
	v.Deleted = deleted
	return v, err
}

// Photos lists those of a deployment, oldest first, without their bytes.
func (s *Store) Photos(ctx context.Context, deploymentID string) ([]Photo, error) {
	return listed(ctx, s, "the photos", "SELECT version, doc FROM photo WHERE deployment_id = ? AND deleted = 0 ORDER BY rowid", func(v *Photo, version int) { v.Version = version }, deploymentID)
}

// PhotoFile is a photo's JPEG.
func (s *Store) PhotoFile(ctx context.Context, id string) (file []byte, err error) {
	err = s.r.QueryRowContext(ctx, "SELECT file FROM photo WHERE id = ?", id).Scan(&file)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("photo %s: %w", id, ErrNotFound)
	}
	return file, err
}

func (s *Store) setPhoto(ctx context.Context, id string, to int) (int, bool, error) {
	var v Photo
	if err := s.versionDoc(ctx, photos, id, to, &v); err != nil {
		return 0, false, err
	}
	var err error
	if v.File, err = s.PhotoFile(ctx, id); err != nil {
		return 0, false, err
	}
	v.Deleted = to == 0
	v, err = s.PutPhoto(ctx, v)
	return v.Version, v.Deleted, err
}

func (s *Store) setRecipe(ctx context.Context, id string, to int) (int, bool, error) {
	var r deployment.Recipe
	if err := s.versionDoc(ctx, recipes, id, to, &r); err != nil {
		return 0, false, err
	}
	r.Deleted = to == 0
	r, err := s.PutRecipe(ctx, r)
	return r.Version, r.Deleted, err
}
