-- +goose Up
-- Reception reports come by the hundred thousand: a row each, without a document. A report of an import has its number in
-- the batch, so that a repeated import adds nothing.
CREATE TABLE report (
  seq INTEGER PRIMARY KEY, batch TEXT NOT NULL, number INTEGER NOT NULL,
  outing_id TEXT NOT NULL REFERENCES outing (id), deployment_id TEXT REFERENCES deployment (id),
  at INTEGER NOT NULL, seconds INTEGER NOT NULL, sender TEXT NOT NULL, sender_base TEXT NOT NULL, receiver TEXT NOT NULL,
  receiver_base TEXT NOT NULL, sender_locator TEXT NOT NULL, locator TEXT NOT NULL, freq REAL, band TEXT NOT NULL, mode TEXT NOT NULL,
  snr REAL, power REAL, distance REAL, bearing REAL, extra TEXT, simulated INTEGER NOT NULL DEFAULT 0, deleted INTEGER NOT NULL DEFAULT 0,
  UNIQUE (batch, number)
);
CREATE INDEX report_when ON report (outing_id, at, seq) WHERE deleted = 0;
CREATE INDEX report_who ON report (outing_id, receiver_base, at) WHERE deleted = 0;
CREATE INDEX report_batch ON report (batch);
-- What a map shows is summed up as reports come and go: a million of them are not gone through for it.
CREATE TABLE heard (
  outing_id TEXT NOT NULL, band TEXT NOT NULL, deployment_id TEXT NOT NULL, receiver TEXT NOT NULL,
  locator TEXT NOT NULL, reports INTEGER NOT NULL, strengths INTEGER NOT NULL, strength REAL NOT NULL, distance REAL, bearing REAL,
  simulated INTEGER NOT NULL, PRIMARY KEY (outing_id, band, deployment_id, receiver)
) WITHOUT ROWID;
-- +goose StatementBegin
CREATE TRIGGER report_added AFTER INSERT ON report WHEN NEW.deleted = 0 BEGIN
  INSERT INTO heard VALUES (NEW.outing_id, NEW.band, coalesce(NEW.deployment_id, ''), NEW.receiver, NEW.locator, 1, NEW.snr IS NOT NULL,
    coalesce(NEW.snr, 0), NEW.distance, NEW.bearing, NEW.simulated)
  ON CONFLICT (outing_id, band, deployment_id, receiver) DO UPDATE SET reports = reports + 1, strengths = strengths + excluded.strengths,
    strength = strength + excluded.strength, locator = max(locator, excluded.locator), distance = coalesce(excluded.distance, distance),
    bearing = coalesce(excluded.bearing, bearing), simulated = max(simulated, excluded.simulated);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER report_gone AFTER UPDATE OF deleted, deployment_id ON report WHEN OLD.deleted = 0 BEGIN
  UPDATE heard SET reports = reports - 1, strengths = strengths - (OLD.snr IS NOT NULL), strength = strength - coalesce(OLD.snr, 0)
    WHERE outing_id = OLD.outing_id AND band = OLD.band AND deployment_id = coalesce(OLD.deployment_id, '') AND receiver = OLD.receiver;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER report_back AFTER UPDATE OF deleted, deployment_id ON report WHEN NEW.deleted = 0 BEGIN
  INSERT INTO heard VALUES (NEW.outing_id, NEW.band, coalesce(NEW.deployment_id, ''), NEW.receiver, NEW.locator, 1, NEW.snr IS NOT NULL,
    coalesce(NEW.snr, 0), NEW.distance, NEW.bearing, NEW.simulated)
  ON CONFLICT (outing_id, band, deployment_id, receiver) DO UPDATE SET reports = reports + 1, strengths = strengths + excluded.strengths,
    strength = strength + excluded.strength, locator = max(locator, excluded.locator), distance = coalesce(excluded.distance, distance),
    bearing = coalesce(excluded.bearing, bearing), simulated = max(simulated, excluded.simulated);
END;
-- +goose StatementEnd
-- Beacon runs are kept with their slots as they were sent.
CREATE TABLE run (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, form INTEGER NOT NULL DEFAULT 1,
  outing_id TEXT NOT NULL REFERENCES outing (id)
);
CREATE INDEX run_outing ON run (outing_id) WHERE deleted = 0;
-- Notes are what is seen between contacts.
CREATE TABLE note (
  id TEXT PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, doc TEXT NOT NULL, form INTEGER NOT NULL DEFAULT 1,
  outing_id TEXT NOT NULL REFERENCES outing (id), at INTEGER NOT NULL
);
CREATE INDEX note_when ON note (outing_id, at) WHERE deleted = 0;
