-- +goose Up
-- Who looks after where a code leads: a person's id, and the name at the time. Whoever made it live first, until somebody else is named.
ALTER TABLE leads ADD keeper_id text NOT NULL DEFAULT '', ADD keeper text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE leads DROP keeper_id, DROP keeper;
