-- +goose Up
-- How antennas were used over all outings is read from an index alone, in order of time.
DROP INDEX contact_time;
CREATE INDEX contact_time ON contact (outing_id, at, deployment_id, band) WHERE deleted = 0;
