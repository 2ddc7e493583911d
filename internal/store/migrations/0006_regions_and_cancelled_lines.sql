-- +goose Up
-- The day on which units of a line were cancelled.
ALTER TABLE order_lines ADD COLUMN line_cancelled date;
-- The region of the place to which an order goes: two places of one name in one country can be two. It was a column of the user's
-- own, where files brought it.
ALTER TABLE orders ADD COLUMN region text;
UPDATE orders SET region = nullif(extra ->> 'region', ''), extra = extra - 'region' WHERE extra ? 'region'
    AND EXISTS (SELECT FROM extra_columns WHERE kind = 'orders' AND name = 'region' AND NOT is_milestone);
DELETE FROM extra_columns WHERE kind = 'orders' AND name = 'region' AND NOT is_milestone;
