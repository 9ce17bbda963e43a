-- +goose Up
-- Settings found for an antenna; it may be used at later outings, so the deployment is only where it began.
CREATE TABLE marks (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  deployment_id TEXT NOT NULL REFERENCES deployment (id)
);
CREATE INDEX marks_deployment ON marks (deployment_id);
CREATE TABLE recipe (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  revision_id TEXT NOT NULL REFERENCES revision (id)
);
CREATE TABLE photo (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  deployment_id TEXT NOT NULL REFERENCES deployment (id), file BLOB NOT NULL
);
CREATE INDEX photo_deployment ON photo (deployment_id);
