-- +goose Up
-- Uploads, rebuilt from what came in: an SVG of outlines or a PNG. source is "asset:sha256-" and the digest of data.
CREATE TABLE assets (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    source    text NOT NULL,
    name      text NOT NULL,
    data      bytea NOT NULL,
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT '',
    PRIMARY KEY (workspace, source)
);
CREATE INDEX assets_at ON assets (workspace, at DESC);
GRANT SELECT, INSERT, UPDATE, DELETE ON assets TO sodrik_workspace;
ALTER TABLE assets ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON assets TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE assets;
