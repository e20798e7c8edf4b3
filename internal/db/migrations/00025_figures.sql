-- +goose Up
-- What the scans of one link were, within a span.
CREATE INDEX scans_of_link ON scans (workspace, link, id);

-- +goose Down
DROP INDEX scans_of_link;
