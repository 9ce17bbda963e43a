-- +goose Up
-- Sites are kept by themselves and used by many outings.
CREATE TABLE site (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, form INTEGER NOT NULL DEFAULT 1,
  name TEXT NOT NULL
);
CREATE INDEX site_name ON site (name) WHERE deleted = 0;
