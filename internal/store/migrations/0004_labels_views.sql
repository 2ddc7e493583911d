-- +goose Up
-- What people keep: labels, which are fields of orders told by rule, and views, which are addresses under a name.
CREATE TABLE labels (
    name       text PRIMARY KEY,
    definition jsonb       NOT NULL,
    saved_at   timestamptz NOT NULL
);

CREATE TABLE views (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name     text        NOT NULL,
    address  text        NOT NULL, -- page and question: /orders?where=…
    sentence text        NOT NULL, -- as it read when it was kept
    saved_at timestamptz NOT NULL
);
CREATE UNIQUE INDEX ON views (lower(name));
