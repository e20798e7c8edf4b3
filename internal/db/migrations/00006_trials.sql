-- +goose Up
-- What people saw when they held a phone against a code on screen or on paper. digest is that of the job as it was tried, sealed like the
-- digests of proofs; version is 0 for a draft.
CREATE TABLE trials (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    id        bigint GENERATED ALWAYS AS IDENTITY,
    digest    text NOT NULL,
    version   int NOT NULL,
    place     text NOT NULL,
    phone     text NOT NULL,
    result    text NOT NULL CHECK (result IN ('at-once', 'slowly', 'not')),
    note      text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT '',
    PRIMARY KEY (workspace, code, id),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);
GRANT SELECT, INSERT, UPDATE, DELETE ON trials TO sodrik_workspace;
ALTER TABLE trials ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON trials TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE trials;
