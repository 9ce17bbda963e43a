-- +goose Up
-- Why a report does not count in a comparison; empty for one that does.
ALTER TABLE report ADD COLUMN aside TEXT NOT NULL DEFAULT '';
