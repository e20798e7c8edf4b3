-- +goose Up
-- Pictures of issued versions that have an address of their own, which needs no sign-in: for web pages and for phones.
CREATE TABLE shown_pictures (
    token     text PRIMARY KEY,
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    n         int NOT NULL,  -- of the version
    place     int NOT NULL,  -- of the placement, −1 for none
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT '',
    UNIQUE (workspace, code, n, place)
);
-- What was handed over, to whom and how. The newest of a medium is what is offered there next time.
CREATE TABLE handed_over (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    n         int NOT NULL,
    way       text NOT NULL,            -- 'files' or 'mail'
    files     text[] NOT NULL,          -- keys of formats
    medium    text NOT NULL DEFAULT '',
    recipient text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT ''
);
CREATE INDEX handed_over_medium ON handed_over (workspace, medium, id DESC);
CREATE INDEX handed_over_code ON handed_over (workspace, code, id DESC);
GRANT SELECT, INSERT, UPDATE, DELETE ON shown_pictures, handed_over TO sodrik_workspace;
ALTER TABLE shown_pictures ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON shown_pictures TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
ALTER TABLE handed_over ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON handed_over TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- Files of mails in the stand-in mailbox.
CREATE TABLE mailbox_files (
    mail bigint NOT NULL REFERENCES mailbox ON DELETE CASCADE,
    k    int NOT NULL,
    name text NOT NULL,
    kind text NOT NULL,
    data bytea NOT NULL,
    PRIMARY KEY (mail, k)
);

-- +goose Down
DROP TABLE mailbox_files, handed_over, shown_pictures;
