-- +goose Up
-- Scans as the log has kept them. The id is a UUIDv7, which begins with its time, so that a partition holds a month. Workspace is '' for what
-- was no link.
CREATE TABLE scans (
    workspace text NOT NULL,
    id        uuid NOT NULL,
    at        timestamptz NOT NULL,
    kind      text NOT NULL,
    link      text NOT NULL,
    code      text NOT NULL,
    place     text NOT NULL,
    does      text NOT NULL,
    bare      boolean NOT NULL,
    device    text NOT NULL,
    system    text NOT NULL,
    languages text[] NOT NULL,
    country   text NOT NULL,
    part      text NOT NULL,
    town      text NOT NULL,
    accuracy  int NOT NULL,
    route     text NOT NULL,
    draw      double precision NOT NULL,
    PRIMARY KEY (workspace, id)
) PARTITION BY RANGE (id);
CREATE TABLE scans_other PARTITION OF scans DEFAULT;
GRANT SELECT ON scans TO sodrik_workspace;
ALTER TABLE scans ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON scans TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- How many people scanned a link in each quarter of an hour.
CREATE TABLE scan_quarters (
    workspace text NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    quarter   timestamptz NOT NULL,
    n         bigint NOT NULL,
    PRIMARY KEY (workspace, code, link, quarter)
);
GRANT SELECT ON scan_quarters TO sodrik_workspace;
ALTER TABLE scan_quarters ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON scan_quarters TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE scan_quarters;
DROP TABLE scans;
