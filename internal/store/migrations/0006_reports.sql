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
CREATE INDEX report_band ON report (outing_id, band, deployment_id, receiver) WHERE deleted = 0;
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
