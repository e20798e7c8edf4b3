-- +goose Up
-- What a house notes of a printed place, by its short link, sealed: spot, dates, print run, cost.
CREATE TABLE hangings (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    link      text NOT NULL,
    noted     bytea NOT NULL,
    PRIMARY KEY (workspace, link)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON hangings TO sodrik_workspace;
ALTER TABLE hangings ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON hangings TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE hangings;
