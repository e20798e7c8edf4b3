-- +goose Up
-- The house style of a workspace, as the one JSON object that leaves and comes in too. rev counts its changes, so that two people do not
-- overwrite one another unseen.
CREATE TABLE house_styles (
    workspace text PRIMARY KEY REFERENCES workspaces ON DELETE CASCADE,
    rev       bigint NOT NULL DEFAULT 1,
    style     jsonb NOT NULL,
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT ''
);
GRANT SELECT, INSERT, UPDATE, DELETE ON house_styles TO sodrik_workspace;
ALTER TABLE house_styles ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON house_styles TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
-- The look that a draft says it came from, beside the sealed draft, so that a look knows where it is worn.
ALTER TABLE codes ADD wears text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE codes DROP wears;
DROP TABLE house_styles;
