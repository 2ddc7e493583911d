-- +goose Up
-- Columns have the names that stand in headers, hyphens as underscores. Keys are never null: a record that can do
-- without one has the empty text. Amounts are ten-thousandths, units thousandths, degrees millionths.
ALTER TABLE orders RENAME COLUMN number TO "order";
ALTER TABLE orders ADD COLUMN extra jsonb; -- the user's own columns by name, as text

CREATE TABLE order_lines (
    "order"         text NOT NULL,
    line            text NOT NULL,
    product         text,
    units           bigint,
    cancelled_units bigint,
    line_value      bigint,
    line_shipped    date,
    line_delivered  date,
    extra           jsonb,
    load_id         bigint NOT NULL,
    PRIMARY KEY ("order", line)
);

CREATE TABLE shipments (
    "order"   text NOT NULL,
    shipment  text NOT NULL,
    line      text NOT NULL,
    shipped   date,
    delivered date,
    carrier   text,
    units     bigint,
    load_id   bigint NOT NULL,
    PRIMARY KEY ("order", shipment, line)
);

CREATE TABLE payments (
    "order"  text NOT NULL,
    receipt  text NOT NULL,
    paid     date,
    amount   bigint,
    currency text,
    load_id  bigint NOT NULL,
    PRIMARY KEY ("order", receipt)
);

CREATE TABLE status_records (
    "order"  text NOT NULL,
    status   text NOT NULL,
    at       text NOT NULL, -- a day or an instant, ISO 8601
    sequence text NOT NULL,
    source   text NOT NULL,
    load_id  bigint NOT NULL,
    PRIMARY KEY ("order", status, at, sequence, source)
);

CREATE TABLE customers (
    customer  text PRIMARY KEY,
    contact   text,
    telephone text,
    country   text,
    region    text,
    place     text,
    load_id   bigint NOT NULL
);

CREATE TABLE products (
    product      text PRIMARY KEY,
    product_name text,
    category     text,
    load_id      bigint NOT NULL
);

CREATE TABLE sites (
    site     text PRIMARY KEY,
    zone     text,
    cut_off  text,
    calendar text,
    region   text,
    country  text,
    load_id  bigint NOT NULL
);

CREATE TABLE places (
    place     text NOT NULL,
    country   text NOT NULL,
    region    text NOT NULL,
    latitude  bigint,
    longitude bigint,
    load_id   bigint NOT NULL,
    PRIMARY KEY (place, country, region)
);

-- What a load changed is read once, after it.
CREATE INDEX ON order_lines USING brin (load_id) WITH (autosummarize = on);
CREATE INDEX ON shipments USING brin (load_id) WITH (autosummarize = on);
CREATE INDEX ON payments USING brin (load_id) WITH (autosummarize = on);

-- The columns that files have brought beside those above.
CREATE TABLE extra_columns (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind         text    NOT NULL,
    name         text    NOT NULL,
    is_milestone boolean NOT NULL,
    is_plan      boolean NOT NULL,
    load_id      bigint  NOT NULL REFERENCES loads,
    UNIQUE (kind, name)
);

-- Records as they were before a load changed them, whole.
CREATE TABLE changes (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    load_id    bigint NOT NULL,
    kind       text   NOT NULL,
    record_key text   NOT NULL, -- the keys, joined
    "order"    text,            -- where the record belongs to one
    before     jsonb  NOT NULL
);
CREATE INDEX ON changes (load_id);
CREATE INDEX ON changes ("order") WHERE "order" IS NOT NULL;

ALTER TABLE loads ADD COLUMN undone_at timestamptz;
ALTER TABLE loads ALTER COLUMN id DROP IDENTITY; -- loads are numbered without gaps; one runs at a time
ALTER TABLE set_aside_rows ADD COLUMN kind text NOT NULL DEFAULT '';
ALTER TABLE set_aside_rows ADD COLUMN record_key text NOT NULL DEFAULT ''; -- empty where it could not be told
ALTER TABLE set_aside_rows ADD COLUMN cleared_by bigint; -- the load that brought the mended row
ALTER TABLE load_files ADD COLUMN header jsonb NOT NULL DEFAULT '[]';
CREATE INDEX ON set_aside_rows (kind, record_key) WHERE cleared_by IS NULL AND record_key <> '';
