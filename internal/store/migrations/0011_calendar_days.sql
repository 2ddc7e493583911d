-- +goose Up
-- The days of each calendar with a running count of working days, for questions that are asked in SQL. They are written anew where a
-- calendar has changed.
CREATE TABLE calendar_days (
    calendar text    NOT NULL,
    day      date    NOT NULL,
    works    boolean NOT NULL,
    worked   integer NOT NULL, -- working days up to and with this one
    PRIMARY KEY (calendar, day)
);
CREATE UNIQUE INDEX ON calendar_days (calendar, worked) WHERE works;
