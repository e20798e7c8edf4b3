-- +goose Up
-- What is typed into fields of where a code leads and refused, sealed, by field, with what is wrong with it: nothing that holds it goes live.
ALTER TABLE leads ADD refused bytea;

-- +goose Down
ALTER TABLE leads DROP refused;
