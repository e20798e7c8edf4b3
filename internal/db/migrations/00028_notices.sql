-- +goose Up
-- What a house is told of its codes and hosts. What is said is sealed. One that is gone was seen, and is not made again.
CREATE TABLE notices (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    key       text NOT NULL,
    kind      text NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    words     bytea NOT NULL,
    at        timestamptz NOT NULL,
    gone_at   timestamptz,
    mailed_at timestamptz,
    PRIMARY KEY (workspace, key)
);
-- Which kinds an owner turned on or off; those that are not here are as usual.
CREATE TABLE notice_kinds (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    kind      text NOT NULL,
    told      boolean NOT NULL,
    PRIMARY KEY (workspace, kind)
);
-- When a workspace's destinations and hosts were asked last.
CREATE TABLE notices_asked (
    workspace text PRIMARY KEY REFERENCES workspaces ON DELETE CASCADE,
    at        timestamptz NOT NULL
);
-- Until when a name is registered, as an owner notes it.
ALTER TABLE link_hosts ADD registered_until date;

-- Overviews that people without an account may see for a while, by an address that cannot be guessed. Query is what it shows, as the page of
-- scans is asked.
CREATE TABLE shared_overviews (
    token     text PRIMARY KEY,
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    title     text NOT NULL,
    query     text NOT NULL,
    who       text NOT NULL,
    at        timestamptz NOT NULL,
    until     timestamptz NOT NULL
);

-- +goose Down
DROP TABLE shared_overviews;
ALTER TABLE link_hosts DROP registered_until;
DROP TABLE notices_asked;
DROP TABLE notice_kinds;
DROP TABLE notices;
