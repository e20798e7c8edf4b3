-- +goose Up
-- What sites report: that somebody who scanned reached what a code is for. Signed is by a server that has the key.
ALTER TABLE scans ADD goal text NOT NULL DEFAULT '';
ALTER TABLE scans ADD signed boolean NOT NULL DEFAULT false;
CREATE TABLE scan_reached (
    workspace text NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    day       date NOT NULL,
    goal      text NOT NULL,
    signed    boolean NOT NULL,
    n         int NOT NULL,
    PRIMARY KEY (workspace, code, link, day, goal, signed)
);
-- With which the servers of a workspace sign, sealed.
CREATE TABLE goal_keys (
    workspace text PRIMARY KEY REFERENCES workspaces ON DELETE CASCADE,
    key       bytea NOT NULL
);

-- +goose Down
DROP TABLE goal_keys;
DROP TABLE scan_reached;
ALTER TABLE scans DROP signed;
ALTER TABLE scans DROP goal;
