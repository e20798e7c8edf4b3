-- +goose Up
-- Tells the phones of a day apart (UTC); the key it was made with is gone with the day.
ALTER TABLE scans ADD phone text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE scans DROP phone;
