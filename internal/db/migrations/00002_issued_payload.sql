-- +goose Up
-- What a version in print says, so that the ledger can tell a draft that says otherwise.
ALTER TABLE issued_versions ADD COLUMN payload text NOT NULL DEFAULT '';
ALTER TABLE edits ADD COLUMN who text NOT NULL DEFAULT '';
ALTER TABLE issued_versions ADD COLUMN who text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE edits DROP COLUMN who;
ALTER TABLE issued_versions DROP COLUMN payload, DROP COLUMN who;
