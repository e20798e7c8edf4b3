-- +goose Up
CREATE TABLE workspaces (
    id         text PRIMARY KEY,
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE campaigns (
    workspace  text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    id         text NOT NULL,
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, id),
    UNIQUE (workspace, name)
);

-- The draft may hold what cannot be made (a wrong address) and, in unparsed, what a job cannot hold at all (the width
-- "abc"); sound says that neither is the case. last_good is the newest state that could be made; name, payload and search are taken from it.
-- What contents say is sealed (bytea) under a key the database does not hold, since it may be a password; digests are keyed.
-- name and search hold what is meant to be found and read.
-- undo and redo are stacks of revisions in edits, the next one last.
CREATE TABLE codes (
    workspace  text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    id         text NOT NULL,
    campaign   text,
    rev        bigint NOT NULL DEFAULT 0,
    draft      bytea NOT NULL,
    unparsed   bytea NOT NULL,
    sound      boolean NOT NULL DEFAULT true,
    last_good  bytea NOT NULL,
    digest     text NOT NULL,
    name       text NOT NULL,
    payload_mac text NOT NULL,
    search     text NOT NULL,
    undo       bigint[] NOT NULL DEFAULT '{}',
    redo       bigint[] NOT NULL DEFAULT '{}',
    state      text NOT NULL DEFAULT 'active' CHECK (state IN ('active', 'retired')),
    created_at timestamptz NOT NULL DEFAULT now(),
    changed_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, id),
    FOREIGN KEY (workspace, campaign) REFERENCES campaigns (workspace, id)
);
CREATE INDEX codes_payload ON codes (workspace, payload_mac);
CREATE INDEX codes_changed ON codes (workspace, changed_at DESC);

-- seqs are the sequence numbers of the tab that this edit has taken in: more than one where edits of one field followed
-- each other quickly.
CREATE TABLE edits (
    workspace text NOT NULL,
    code      text NOT NULL,
    rev       bigint NOT NULL,
    kind      text NOT NULL CHECK (kind IN ('edit', 'undo', 'redo')),
    path      text NOT NULL,
    paths     text[] NOT NULL, -- every place that the patch touches
    words     bytea NOT NULL,
    tab       text NOT NULL,
    seqs      bigint[] NOT NULL,
    patch     bytea NOT NULL,
    inverse   bytea NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, code, rev),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);

CREATE TABLE issued_versions (
    workspace text NOT NULL,
    code      text NOT NULL,
    n         int NOT NULL,
    job       bytea NOT NULL,
    digest    text NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, code, n),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);

-- placement is the index in the job, −1 for none; panel names the readers that were asked.
CREATE TABLE proofs (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    digest    text NOT NULL,
    placement int NOT NULL,
    panel     text NOT NULL,
    verdict   text NOT NULL,
    proof     bytea NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, digest, placement, panel)
);

-- +goose Down
DROP TABLE proofs, issued_versions, edits, codes, campaigns, workspaces;
