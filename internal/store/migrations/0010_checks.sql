-- +goose Up
-- What people expect of answers, kept so that it can be checked again.
CREATE TABLE checks (
    name       text PRIMARY KEY,
    definition jsonb       NOT NULL,
    saved_at   timestamptz NOT NULL
);
