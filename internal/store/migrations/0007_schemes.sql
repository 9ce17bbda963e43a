-- +goose Up
-- Schemes that were edited or added; those to begin with stand in core.
CREATE TABLE scheme (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, form INTEGER NOT NULL DEFAULT 1
);
-- What a contact counts something new for: references, operators, or both; empty where a scheme does not tell them apart.
ALTER TABLE contact ADD COLUMN counts TEXT NOT NULL DEFAULT '';
DROP TRIGGER contact_added;
DROP TRIGGER contact_changed_from;
DROP TRIGGER contact_changed_to;
DROP TRIGGER contact_gone;
DROP TABLE tally;
CREATE TABLE tally (
  outing_id TEXT NOT NULL, day TEXT NOT NULL, deployment_id TEXT NOT NULL, band TEXT NOT NULL, counts TEXT NOT NULL,
  contacts INTEGER NOT NULL, fresh INTEGER NOT NULL,
  PRIMARY KEY (outing_id, day, deployment_id, band, counts)
) WITHOUT ROWID;
INSERT INTO tally SELECT outing_id, day, coalesce(deployment_id, ''), band, '', count(*), sum(fresh) FROM contact WHERE deleted = 0
  GROUP BY 1, 2, 3, 4;
-- +goose StatementBegin
CREATE TRIGGER contact_added AFTER INSERT ON contact WHEN new.deleted = 0 BEGIN
  INSERT INTO tally VALUES (new.outing_id, new.day, coalesce(new.deployment_id, ''), new.band, new.counts, 1, new.fresh)
    ON CONFLICT DO UPDATE SET contacts = contacts + 1, fresh = fresh + excluded.fresh;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_changed_from AFTER UPDATE OF deleted, outing_id, day, deployment_id, band, fresh, counts ON contact
WHEN old.deleted = 0 BEGIN
  UPDATE tally SET contacts = contacts - 1, fresh = fresh - old.fresh
    WHERE outing_id = old.outing_id AND day = old.day AND deployment_id = coalesce(old.deployment_id, '') AND band = old.band
    AND counts = old.counts;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_changed_to AFTER UPDATE OF deleted, outing_id, day, deployment_id, band, fresh, counts ON contact
WHEN new.deleted = 0 BEGIN
  INSERT INTO tally VALUES (new.outing_id, new.day, coalesce(new.deployment_id, ''), new.band, new.counts, 1, new.fresh)
    ON CONFLICT DO UPDATE SET contacts = contacts + 1, fresh = fresh + excluded.fresh;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER contact_gone AFTER DELETE ON contact WHEN old.deleted = 0 BEGIN
  UPDATE tally SET contacts = contacts - 1, fresh = fresh - old.fresh
    WHERE outing_id = old.outing_id AND day = old.day AND deployment_id = coalesce(old.deployment_id, '') AND band = old.band
    AND counts = old.counts;
END;
-- +goose StatementEnd
-- Everything is counted anew under the rules as they are now.
UPDATE outing SET counted_by = '';
