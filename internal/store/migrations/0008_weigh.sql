-- +goose Up
-- Why a report does not count in a comparison; empty for one that does.
ALTER TABLE report ADD COLUMN aside TEXT NOT NULL DEFAULT '';
-- What is weighed of an outing's reports, hour by hour, packed so that a million are read at once; NULL where it has to be packed
-- anew (air.go); what is added says so itself, hour by hour. Nothing stands in it that does not stand in report.
CREATE TABLE air (
  outing_id TEXT NOT NULL, hour INTEGER NOT NULL, pack BLOB, PRIMARY KEY (outing_id, hour)
) WITHOUT ROWID;
INSERT INTO air SELECT DISTINCT outing_id, at / 3600000, NULL FROM report WHERE deleted = 0;
-- +goose StatementBegin
CREATE TRIGGER report_aired_anew AFTER UPDATE OF deleted, aside ON report BEGIN
  UPDATE air SET pack = NULL WHERE outing_id = NEW.outing_id AND hour = NEW.at / 3600000;
END;
-- +goose StatementEnd
-- What a comparison counts of a contact is read from an index alone.
ALTER TABLE contact ADD COLUMN submode TEXT NOT NULL DEFAULT '';
ALTER TABLE contact ADD COLUMN received TEXT NOT NULL DEFAULT '';
UPDATE contact SET submode = coalesce(doc ->> 'submode', ''), received = coalesce(doc ->> 'received', '')
  WHERE doc ->> 'submode' <> '' OR doc ->> 'received' <> '';
DROP INDEX contact_deployment;
CREATE INDEX contact_deployment ON contact (deployment_id, at, call, band, mode, submode, received, locator, power_w)
  WHERE deleted = 0 AND deployment_id IS NOT NULL;
