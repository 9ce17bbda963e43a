-- +goose Up
-- Where versions come from, so that notebooks can be merged: for each written version its id and those that it was made from. version
-- is under which its text is kept here, in history or as the current one. open are conflicts that its writer left undecided.
CREATE TABLE lineage (
  kind TEXT NOT NULL, id TEXT NOT NULL, vid TEXT NOT NULL, version INTEGER NOT NULL, at INTEGER NOT NULL, parents TEXT NOT NULL,
  open TEXT NOT NULL DEFAULT '', PRIMARY KEY (kind, id, vid)
) WITHOUT ROWID;
-- Versions that a merge put together: nobody wrote them, and other notebooks put together the same.
CREATE TABLE settled (kind TEXT NOT NULL, id TEXT NOT NULL, version INTEGER NOT NULL, PRIMARY KEY (kind, id, version)) WITHOUT ROWID;
-- Fields that two notebooks changed, each in its own way, until somebody decides.
CREATE TABLE conflict (kind TEXT NOT NULL, id TEXT NOT NULL, fields TEXT NOT NULL, PRIMARY KEY (kind, id)) WITHOUT ROWID;
-- Merges, with what is needed to undo each.
CREATE TABLE merge (id INTEGER PRIMARY KEY, at TEXT NOT NULL, call TEXT NOT NULL, says TEXT NOT NULL, undone INTEGER NOT NULL DEFAULT 0, doc TEXT NOT NULL);
