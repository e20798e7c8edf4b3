-- +goose Up
-- Who did something is kept by id, with the name at the time. Records from before have the name alone.
ALTER TABLE edits ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE issued_versions ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE handed_over ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE shown_pictures ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE trials ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE assets ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE house_styles ADD who_id text NOT NULL DEFAULT '';
ALTER TABLE house_style_history ADD who_id text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE house_style_history DROP who_id;
ALTER TABLE house_styles DROP who_id;
ALTER TABLE assets DROP who_id;
ALTER TABLE trials DROP who_id;
ALTER TABLE shown_pictures DROP who_id;
ALTER TABLE handed_over DROP who_id;
ALTER TABLE issued_versions DROP who_id;
ALTER TABLE edits DROP who_id;
