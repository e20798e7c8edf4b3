-- +goose Up
-- Hosts on which a workspace has short links of its own. One is proved by a TXT record that holds the token, and asked for again
-- daily: missing_since says since when the record is gone. Links that hang go on all the same. chosen is where new links are drawn.
CREATE TABLE link_hosts (
    workspace     text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    host          text NOT NULL,
    token         text NOT NULL,
    added_at      timestamptz NOT NULL,
    proved_at     timestamptz,
    asked_at      timestamptz,
    missing_since timestamptz,
    trouble       text NOT NULL DEFAULT '',
    chosen        boolean NOT NULL DEFAULT false,
    PRIMARY KEY (workspace, host)
);
CREATE UNIQUE INDEX link_hosts_proved ON link_hosts (host) WHERE proved_at IS NOT NULL;
CREATE UNIQUE INDEX link_hosts_chosen ON link_hosts (workspace) WHERE chosen;
GRANT SELECT, INSERT, UPDATE, DELETE ON link_hosts TO sodrik_workspace;
ALTER TABLE link_hosts ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON link_hosts TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- What an owner allows: hosts that links may lead to; no row for any.
CREATE TABLE link_rules (
    workspace text PRIMARY KEY REFERENCES workspaces ON DELETE CASCADE,
    allowed   text[] NOT NULL
);
GRANT SELECT, INSERT, UPDATE, DELETE ON link_rules TO sodrik_workspace;
ALTER TABLE link_rules ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON link_rules TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- Where a dynamic code leads and its short links, as words by which it is found.
DROP INDEX codes_sought;
ALTER TABLE codes DROP sought;
ALTER TABLE codes ADD leads text NOT NULL DEFAULT '';
ALTER TABLE codes ADD sought text NOT NULL GENERATED ALWAYS AS (search || E'\n' || remark || E'\n' || leads) STORED;
CREATE INDEX codes_sought ON codes USING gin (sought gin_trgm_ops);

-- +goose Down
DROP INDEX codes_sought;
ALTER TABLE codes DROP sought;
ALTER TABLE codes ADD sought text NOT NULL GENERATED ALWAYS AS (search || E'\n' || remark) STORED;
CREATE INDEX codes_sought ON codes USING gin (sought gin_trgm_ops);
ALTER TABLE codes DROP leads;
DROP TABLE link_rules;
DROP TABLE link_hosts;
