-- +goose Up
-- Links under which a code is tried on a phone without being counted, for a day each. link is what is printed.
CREATE TABLE link_trials (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    link      text NOT NULL,
    host      text NOT NULL,
    path      text NOT NULL,
    ends      timestamptz NOT NULL,
    PRIMARY KEY (workspace, host, path),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);
CREATE INDEX link_trials_of ON link_trials (workspace, code, link, ends);
GRANT SELECT, INSERT, UPDATE, DELETE ON link_trials TO sodrik_workspace;
ALTER TABLE link_trials ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON link_trials TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE link_trials;
