-- +goose Up
-- Every document carries the number of its form, and a replaced file stays with its version.
ALTER TABLE outing ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE deployment ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE revision ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE sweep ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE part ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE marks ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE recipe ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE photo ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE history ADD COLUMN form INTEGER NOT NULL DEFAULT 1;
ALTER TABLE history ADD COLUMN file BLOB;

-- The operator is a kept thing like the others, with versions.
CREATE TABLE operator (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, form INTEGER NOT NULL DEFAULT 1
);
INSERT INTO operator (id, version, deleted, doc) SELECT 'me', 1, 0, doc FROM me;
DROP TABLE me;

-- The scheme by whose rule the contacts' "fresh" was worked out; empty when it has to be.
ALTER TABLE outing ADD COLUMN counted_by TEXT NOT NULL DEFAULT '';

-- What of a contact is searched, counted or sorted. line is the line that wrote it, fresh whether it counts something
-- new under the outing's scheme.
CREATE TABLE contact_new (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL,
  outing_id TEXT NOT NULL REFERENCES outing (id), deployment_id TEXT, at INTEGER NOT NULL, batch TEXT,
  day TEXT NOT NULL, call TEXT NOT NULL, band TEXT NOT NULL, mode TEXT NOT NULL, own_ref TEXT NOT NULL, other_ref TEXT NOT NULL,
  locator TEXT NOT NULL, power_w REAL NOT NULL, line TEXT, fresh INTEGER NOT NULL DEFAULT 1, form INTEGER NOT NULL DEFAULT 1
);
INSERT INTO contact_new (rowid, id, version, deleted, doc, outing_id, deployment_id, at, batch, day, call, band, mode, own_ref, other_ref, locator, power_w, line)
  SELECT rowid, id, version, deleted, doc, outing_id, deployment_id, at, batch,
    strftime('%Y-%m-%d', at / 1000, 'unixepoch'), upper(doc ->> 'call'), coalesce(doc ->> 'band', ''),
    coalesce(doc ->> 'mode', ''), coalesce(doc ->> 'own_ref', ''), coalesce(doc ->> 'other_ref', ''),
    coalesce(doc ->> 'locator', ''), coalesce(doc ->> 'power_w', 0), doc ->> 'line'
  FROM contact;
DROP TABLE contact;
ALTER TABLE contact_new RENAME TO contact;
CREATE INDEX contact_time ON contact (outing_id, at) WHERE deleted = 0;
CREATE INDEX contact_typed ON contact (outing_id, at) WHERE deleted = 0 AND line IS NOT NULL;
CREATE INDEX contact_recent ON contact (at, outing_id, day) WHERE deleted = 0 AND fresh = 1;
CREATE INDEX contact_station ON contact (outing_id, call, at) WHERE deleted = 0;
CREATE INDEX contact_search ON contact (outing_id, at, call, other_ref, locator) WHERE deleted = 0;
CREATE INDEX contact_call ON contact (call, at) WHERE deleted = 0;
CREATE INDEX contact_deployment ON contact (deployment_id, at) WHERE deleted = 0 AND deployment_id IS NOT NULL;
CREATE INDEX contact_batch ON contact (batch) WHERE batch IS NOT NULL;
CREATE INDEX sweep_live ON sweep (revision_id) WHERE deleted = 0;

-- How many contacts there are, kept by the triggers below, so that nothing has to count a log.
CREATE TABLE tally (
  outing_id TEXT NOT NULL, day TEXT NOT NULL, deployment_id TEXT NOT NULL, band TEXT NOT NULL,
  contacts INTEGER NOT NULL, fresh INTEGER NOT NULL,
  PRIMARY KEY (outing_id, day, deployment_id, band)
) WITHOUT ROWID;
INSERT INTO tally SELECT outing_id, day, coalesce(deployment_id, ''), band, count(*), sum(fresh) FROM contact WHERE deleted = 0 GROUP BY 1, 2, 3, 4;
-- +goose StatementBegin
CREATE TRIGGER contact_added AFTER INSERT ON contact WHEN new.deleted = 0 BEGIN
  INSERT INTO tally VALUES (new.outing_id, new.day, coalesce(new.deployment_id, ''), new.band, 1, new.fresh)
    ON CONFLICT DO UPDATE SET contacts = contacts + 1, fresh = fresh + excluded.fresh;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_changed_from AFTER UPDATE OF deleted, outing_id, day, deployment_id, band, fresh ON contact WHEN old.deleted = 0 BEGIN
  UPDATE tally SET contacts = contacts - 1, fresh = fresh - old.fresh
    WHERE outing_id = old.outing_id AND day = old.day AND deployment_id = coalesce(old.deployment_id, '') AND band = old.band;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_changed_to AFTER UPDATE OF deleted, outing_id, day, deployment_id, band, fresh ON contact WHEN new.deleted = 0 BEGIN
  INSERT INTO tally VALUES (new.outing_id, new.day, coalesce(new.deployment_id, ''), new.band, 1, new.fresh)
    ON CONFLICT DO UPDATE SET contacts = contacts + 1, fresh = fresh + excluded.fresh;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_gone AFTER DELETE ON contact WHEN old.deleted = 0 BEGIN
  UPDATE tally SET contacts = contacts - 1, fresh = fresh - old.fresh
    WHERE outing_id = old.outing_id AND day = old.day AND deployment_id = coalesce(old.deployment_id, '') AND band = old.band;
END;
-- +goose StatementEnd
