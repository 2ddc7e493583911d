-- +goose Up
-- The day on which units of a line were cancelled.
ALTER TABLE order_lines ADD COLUMN line_cancelled date;
