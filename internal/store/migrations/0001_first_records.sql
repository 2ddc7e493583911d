-- +goose Up
CREATE TABLE loads (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    loaded_at  timestamptz NOT NULL,
    loaded_on  date        NOT NULL, -- the day of the load where it was made
    loaded_by  text        NOT NULL, -- operating-system user
    data_date  date                  -- the latest day of any fact that it brought, not after loaded_on
);

CREATE TABLE load_files (
    id             bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    load_id        bigint NOT NULL REFERENCES loads,
    name           text   NOT NULL,
    kind           text   NOT NULL,
    sha256         text   NOT NULL,
    rows_new       bigint NOT NULL,
    rows_changed   bigint NOT NULL,
    rows_same      bigint NOT NULL,
    rows_set_aside bigint NOT NULL,
    unused_columns jsonb NOT NULL
);
CREATE INDEX ON load_files (load_id);

-- Days are dates; a missing one is null. The columns follow the milestones and fields of the order book.
CREATE TABLE orders (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number    text   NOT NULL UNIQUE,
    customer  text,
    site      text,
    country   text,
    place     text,
    channel   text,
    currency  text,
    ordered   date,
    wanted    date,
    promised  date,
    shipped   date,
    expected  date,
    delivered date,
    invoiced  date,
    paid      date,
    cancelled date,
    value     bigint, -- minor units of the currency
    load_id   bigint NOT NULL -- the load that last changed it; a foreign key would be checked row by row
);
-- What a load changed is read once, after it; new versions of rows lie together, which is all that BRIN needs.
CREATE INDEX ON orders USING brin (load_id) WITH (autosummarize = on);

CREATE TABLE set_aside_rows (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    file_id     bigint NOT NULL REFERENCES load_files,
    row_number  bigint NOT NULL,
    column_name text   NOT NULL,
    value       text   NOT NULL,
    reason      text   NOT NULL,
    raw         text   NOT NULL
);
CREATE INDEX ON set_aside_rows (file_id, row_number);

CREATE TABLE calendars (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name       text   NOT NULL,
    definition jsonb  NOT NULL, -- weekly patterns, holidays, extra working days, coverage
    load_id    bigint NOT NULL REFERENCES loads
);
CREATE UNIQUE INDEX ON calendars (lower(name));

-- One row: what people have set about the book. A null follows from the records.
CREATE TABLE book_settings (
    one       boolean PRIMARY KEY DEFAULT true CHECK (one),
    first_day date,
    data_date date,
    changes   bigint NOT NULL DEFAULT 0 -- how often they were set
);
INSERT INTO book_settings DEFAULT VALUES;
