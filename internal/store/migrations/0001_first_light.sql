-- +goose Up
-- A kept thing is a document with the columns that are searched; its earlier versions go to history.
CREATE TABLE me (id INTEGER PRIMARY KEY CHECK (id = 1), doc TEXT NOT NULL);
CREATE TABLE outing (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  date TEXT NOT NULL
);
CREATE TABLE deployment (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  outing_id TEXT NOT NULL REFERENCES outing (id)
);
CREATE INDEX deployment_outing ON deployment (outing_id);
-- Revisions are only ever added.
CREATE TABLE revision (
  id TEXT PRIMARY KEY, deployment_id TEXT NOT NULL REFERENCES deployment (id), seq INTEGER NOT NULL, doc TEXT NOT NULL,
  UNIQUE (deployment_id, seq)
);
CREATE TABLE sweep (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  revision_id TEXT NOT NULL REFERENCES revision (id), file BLOB
);
CREATE INDEX sweep_revision ON sweep (revision_id);
CREATE TABLE contact (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  outing_id TEXT NOT NULL REFERENCES outing (id), deployment_id TEXT, at INTEGER NOT NULL, batch TEXT
);
CREATE INDEX contact_outing ON contact (outing_id, at);
CREATE INDEX contact_deployment ON contact (deployment_id) WHERE deployment_id IS NOT NULL;
CREATE INDEX contact_batch ON contact (batch) WHERE batch IS NOT NULL;
CREATE TABLE history (
  kind TEXT NOT NULL, id TEXT NOT NULL, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, replaced_at TEXT NOT NULL,
  PRIMARY KEY (kind, id, version)
) WITHOUT ROWID;
