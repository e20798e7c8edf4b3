-- +goose Up
-- What an upload is, so that typefaces are not offered as marks: 'drawing' or 'typeface'.
ALTER TABLE assets ADD kind text NOT NULL DEFAULT 'drawing';

-- +goose Down
DELETE FROM assets WHERE kind = 'typeface';
ALTER TABLE assets DROP kind;
