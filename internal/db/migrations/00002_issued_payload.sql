-- +goose Up
-- A keyed digest of what a version in print says, so that the ledger can tell a draft that says otherwise.
ALTER TABLE issued_versions ADD COLUMN payload_mac text NOT NULL;
ALTER TABLE edits ADD COLUMN who text NOT NULL DEFAULT '';
ALTER TABLE issued_versions ADD COLUMN who text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE edits DROP COLUMN who;
ALTER TABLE issued_versions DROP COLUMN payload_mac, DROP COLUMN who;
