-- +goose Up
-- Days that came with a time of day stand, as they were written, in extra under the name of their column.
ALTER TABLE shipments ADD COLUMN extra jsonb;
ALTER TABLE payments ADD COLUMN extra jsonb;
