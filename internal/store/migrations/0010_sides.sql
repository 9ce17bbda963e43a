-- +goose Up
-- What one heard oneself (1), and what others heard of others (2), is no report of who heard one (0): it does not count there.
ALTER TABLE report ADD COLUMN side INTEGER NOT NULL DEFAULT 0;
UPDATE report SET side = 1, bearing = NULL WHERE sender_base <> receiver_base
  AND receiver_base = (SELECT upper(trim(doc ->> 'call')) FROM operator WHERE deleted = 0);
DELETE FROM heard WHERE (outing_id, receiver) IN (SELECT outing_id, receiver FROM report WHERE side = 1);
UPDATE air SET pack = NULL WHERE (outing_id, hour) IN (SELECT outing_id, at / 3600000 FROM report WHERE side = 1);
DROP TRIGGER report_added;
DROP TRIGGER report_gone;
DROP TRIGGER report_back;
-- +goose StatementBegin
CREATE TRIGGER report_added AFTER INSERT ON report WHEN NEW.deleted = 0 AND NEW.side = 0 BEGIN
  INSERT INTO heard VALUES (NEW.outing_id, NEW.band, coalesce(NEW.deployment_id, ''), NEW.receiver, NEW.locator, 1, NEW.snr IS NOT NULL,
    coalesce(NEW.snr, 0), NEW.distance, NEW.bearing, NEW.simulated)
  ON CONFLICT (outing_id, band, deployment_id, receiver) DO UPDATE SET reports = reports + 1, strengths = strengths + excluded.strengths,
    strength = strength + excluded.strength, locator = max(locator, excluded.locator), distance = coalesce(excluded.distance, distance),
    bearing = coalesce(excluded.bearing, bearing), simulated = max(simulated, excluded.simulated);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER report_gone AFTER UPDATE OF deleted, deployment_id ON report WHEN OLD.deleted = 0 AND OLD.side = 0 BEGIN
  UPDATE heard SET reports = reports - 1, strengths = strengths - (OLD.snr IS NOT NULL), strength = strength - coalesce(OLD.snr, 0)
    WHERE outing_id = OLD.outing_id AND band = OLD.band AND deployment_id = coalesce(OLD.deployment_id, '') AND receiver = OLD.receiver;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER report_back AFTER UPDATE OF deleted, deployment_id ON report WHEN NEW.deleted = 0 AND NEW.side = 0 BEGIN
  INSERT INTO heard VALUES (NEW.outing_id, NEW.band, coalesce(NEW.deployment_id, ''), NEW.receiver, NEW.locator, 1, NEW.snr IS NOT NULL,
    coalesce(NEW.snr, 0), NEW.distance, NEW.bearing, NEW.simulated)
  ON CONFLICT (outing_id, band, deployment_id, receiver) DO UPDATE SET reports = reports + 1, strengths = strengths + excluded.strengths,
    strength = strength + excluded.strength, locator = max(locator, excluded.locator), distance = coalesce(excluded.distance, distance),
    bearing = coalesce(excluded.bearing, bearing), simulated = max(simulated, excluded.simulated);
END;
-- +goose StatementEnd
