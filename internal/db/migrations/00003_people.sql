-- +goose Up
CREATE TABLE people (
    id         text PRIMARY KEY,
    email      text NOT NULL,
    name       text NOT NULL,
    password   text NOT NULL DEFAULT '', -- argon2id in PHC form, empty for none
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX people_email ON people (lower(email));

CREATE TABLE members (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    person    text NOT NULL REFERENCES people ON DELETE CASCADE,
    role      text NOT NULL CHECK (role IN ('owner', 'editor', 'printer', 'viewer')),
    since     timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (workspace, person)
);
CREATE INDEX members_person ON members (person);

-- Cookies, as the session library keeps them.
CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

-- Where a person is signed in, to be listed and ended.
CREATE TABLE sign_ins (
    id         text PRIMARY KEY,
    person     text NOT NULL REFERENCES people ON DELETE CASCADE,
    workspace  text REFERENCES workspaces ON DELETE SET NULL,
    agent      text NOT NULL,
    address    text NOT NULL,
    created_at timestamptz NOT NULL,
    seen_at    timestamptz NOT NULL
);
CREATE INDEX sign_ins_person ON sign_ins (person);

-- Links that work once: the first owner's, an invitation's, a recovery's. Only the hash of the secret is kept.
CREATE TABLE one_time_links (
    hash      text PRIMARY KEY,
    purpose   text NOT NULL CHECK (purpose IN ('owner', 'invitation', 'recovery')),
    email     text NOT NULL DEFAULT '',
    person    text REFERENCES people ON DELETE CASCADE,
    workspace text REFERENCES workspaces ON DELETE CASCADE,
    role      text NOT NULL DEFAULT '',
    made_at   timestamptz NOT NULL,
    expires   timestamptz NOT NULL
);

CREATE TABLE attempts (
    key text NOT NULL,
    at  timestamptz NOT NULL
);
CREATE INDEX attempts_key ON attempts (key, at);

CREATE TABLE passkeys (
    id         bytea PRIMARY KEY,
    person     text NOT NULL REFERENCES people ON DELETE CASCADE,
    name       text NOT NULL,
    credential jsonb NOT NULL,
    created_at timestamptz NOT NULL,
    used_at    timestamptz
);

-- The stand-in for a mail server.
CREATE TABLE mailbox (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    recipient text NOT NULL,
    subject   text NOT NULL,
    body      text NOT NULL,
    at        timestamptz NOT NULL
);

-- The second wall: queries of a workspace run as a role that row-level security holds for, whatever the query says.
-- +goose StatementBegin
DO $$ BEGIN
    CREATE ROLE sodrik_workspace NOLOGIN NOSUPERUSER NOBYPASSRLS;
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$ BEGIN
    EXECUTE format('GRANT sodrik_workspace TO %I', current_user);
EXCEPTION WHEN OTHERS THEN
    IF NOT pg_has_role(current_user, 'sodrik_workspace', 'MEMBER') THEN RAISE; END IF;
END $$;
-- +goose StatementEnd
GRANT SELECT, INSERT, UPDATE, DELETE ON campaigns, codes, edits, issued_versions, proofs TO sodrik_workspace;
GRANT SELECT ON workspaces TO sodrik_workspace;
ALTER TABLE campaigns ENABLE ROW LEVEL SECURITY;
ALTER TABLE codes ENABLE ROW LEVEL SECURITY;
ALTER TABLE edits ENABLE ROW LEVEL SECURITY;
ALTER TABLE issued_versions ENABLE ROW LEVEL SECURITY;
ALTER TABLE proofs ENABLE ROW LEVEL SECURITY;
ALTER TABLE workspaces ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON campaigns TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
CREATE POLICY own ON codes TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
CREATE POLICY own ON edits TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
CREATE POLICY own ON issued_versions TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
CREATE POLICY own ON proofs TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
CREATE POLICY own ON workspaces TO sodrik_workspace USING (id = current_setting('sodrik.workspace', true));

-- +goose Down
DROP POLICY own ON workspaces;
DROP POLICY own ON proofs;
DROP POLICY own ON issued_versions;
DROP POLICY own ON edits;
DROP POLICY own ON codes;
DROP POLICY own ON campaigns;
ALTER TABLE workspaces DISABLE ROW LEVEL SECURITY;
DROP TABLE mailbox, passkeys, attempts, one_time_links, sign_ins, sessions, members, people;
