-- +goose Up
-- Every state of a house style, with what was changed in words, so that any change can be taken back. A workspace's first row is what it had.
CREATE TABLE house_style_history (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    rev       bigint NOT NULL,
    style     jsonb NOT NULL,
    words     text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL,
    who       text NOT NULL DEFAULT '',
    PRIMARY KEY (workspace, rev)
);
INSERT INTO house_style_history (workspace, rev, style, at, who) SELECT workspace, rev, style, at, who FROM house_styles;
ALTER TABLE house_style_history ENABLE ROW LEVEL SECURITY;

-- Retries are looked for by tab.
CREATE INDEX edits_tab ON edits (workspace, code, tab);

-- What a request with an idempotency key has done, kept in the transaction that did it; lease is how long a request without an effect keeps the key.
ALTER TABLE api_answers ADD effect jsonb, ADD lease timestamptz NOT NULL DEFAULT now();

-- A mail is counted before it goes out, and taken off again where it does not.
ALTER TABLE handed_over ADD sent boolean NOT NULL DEFAULT true;

-- What can be found of a code follows rules that have a number; codes that were written under another are brought up to date.
ALTER TABLE codes ADD findable int NOT NULL DEFAULT 0;

-- Which key the digests depend on, by its id; '' is the oldest that the program is given.
CREATE TABLE keyring (one boolean PRIMARY KEY DEFAULT true CHECK (one), digests text NOT NULL);

-- Proofs are kept while somebody may ask for them.
ALTER TABLE proofs ADD asked timestamptz NOT NULL DEFAULT now();

-- When a timetable's job ran last, so that of many instances one does it.
CREATE TABLE timetable (job text PRIMARY KEY, at timestamptz NOT NULL);

-- +goose Down
DROP TABLE timetable, keyring, house_style_history;
ALTER TABLE proofs DROP asked;
ALTER TABLE codes DROP findable;
ALTER TABLE handed_over DROP sent;
ALTER TABLE api_answers DROP effect, DROP lease;
DROP INDEX edits_tab;
