-- +goose Up
-- What the columns of kinds of files mean, found again by their headings.
CREATE TABLE layouts (
    name       text        NOT NULL,
    headings   text        NOT NULL UNIQUE, -- a digest of them, whatever their order
    definition jsonb       NOT NULL,
    saved_at   timestamptz NOT NULL,
    load_id    bigint REFERENCES loads -- that brought it, and with which it goes; null where a person did
);
CREATE UNIQUE INDEX ON layouts (lower(name));
