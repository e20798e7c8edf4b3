-- +goose Up
-- Many codes made of rows. plan, rows and what came of them are sealed; a row that went to a desk of its own names its code.
-- total and bad are counted when rows are made, for lists; settled says that none is to be made.
CREATE TABLE batches (
    workspace  text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    id         text NOT NULL,
    name       text NOT NULL,
    campaign   text,
    rev        bigint NOT NULL,
    plan       bytea NOT NULL,
    least      int NOT NULL DEFAULT 0,
    total      int NOT NULL DEFAULT 0,
    bad        int NOT NULL DEFAULT 0,
    settled    boolean NOT NULL DEFAULT false,
    retired    boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL,
    changed_at timestamptz NOT NULL,
    who        text NOT NULL,
    who_id     text NOT NULL,
    PRIMARY KEY (workspace, id)
);
CREATE TABLE batch_rows (
    workspace text NOT NULL,
    batch     text NOT NULL,
    n         int NOT NULL,
    cells     bytea NOT NULL,
    rev       bigint NOT NULL DEFAULT 0,
    state     text NOT NULL DEFAULT '',
    line      bytea,
    version   int NOT NULL DEFAULT 0,
    hard      double precision NOT NULL DEFAULT 0,
    code      text,
    linked    boolean NOT NULL DEFAULT false,
    PRIMARY KEY (workspace, batch, n),
    FOREIGN KEY (workspace, batch) REFERENCES batches ON DELETE CASCADE
);
CREATE TABLE batch_proofs (
    workspace text NOT NULL,
    batch     text NOT NULL,
    version   int NOT NULL,
    n         int NOT NULL,
    rev       bigint NOT NULL,
    verdict   text NOT NULL,
    codes     int NOT NULL,
    PRIMARY KEY (workspace, batch, version),
    FOREIGN KEY (workspace, batch) REFERENCES batches ON DELETE CASCADE
);
CREATE TABLE batch_runs (
    workspace text NOT NULL,
    batch     text NOT NULL,
    id        text NOT NULL,
    rev       bigint NOT NULL,
    asked     bytea NOT NULL,
    state     text NOT NULL,
    labels    int NOT NULL,
    bytes     bigint NOT NULL DEFAULT 0,
    note      text NOT NULL DEFAULT '',
    at        timestamptz NOT NULL,
    done_at   timestamptz,
    taken_at  timestamptz,
    who       text NOT NULL,
    who_id    text NOT NULL,
    PRIMARY KEY (workspace, id),
    FOREIGN KEY (workspace, batch) REFERENCES batches ON DELETE CASCADE
);
CREATE TABLE batch_parts (
    workspace text NOT NULL,
    run       text NOT NULL,
    part      int NOT NULL,
    first_row int NOT NULL,
    last_row  int NOT NULL,
    labels    int NOT NULL,
    done      int NOT NULL DEFAULT 0,
    state     text NOT NULL DEFAULT '',
    note      text NOT NULL DEFAULT '',
    began     timestamptz,
    PRIMARY KEY (workspace, run, part),
    FOREIGN KEY (workspace, run) REFERENCES batch_runs ON DELETE CASCADE
);
CREATE TABLE batch_pieces (
    workspace text NOT NULL,
    run       text NOT NULL,
    part      int NOT NULL,
    piece     int NOT NULL,
    data      bytea NOT NULL,
    PRIMARY KEY (workspace, run, part, piece),
    FOREIGN KEY (workspace, run, part) REFERENCES batch_parts ON DELETE CASCADE
);
-- Which field a column of some head was put into the last time.
CREATE TABLE batch_heads (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    kind      text NOT NULL,
    head      text NOT NULL,
    path      text NOT NULL,
    PRIMARY KEY (workspace, kind, head)
);
-- Sheets of own measures, and the shift of a printer on a sheet, as they were used the last time.
CREATE TABLE batch_sheets (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    sheet     text NOT NULL,
    printer   text NOT NULL,
    setting   jsonb NOT NULL,
    used_at   timestamptz NOT NULL,
    PRIMARY KEY (workspace, sheet, printer)
);
-- Codes of rows that lead through short links: the ledger shows their batch instead.
ALTER TABLE codes ADD COLUMN batch text;
-- All that the ledger counts and orders stands in this index.
CREATE INDEX codes_ledger_alone ON codes (workspace, state, in_campaign, changed_at DESC, id) WHERE batch IS NULL;

-- +goose Down
DROP INDEX codes_ledger_alone;
ALTER TABLE codes DROP COLUMN batch;
DROP TABLE batch_sheets;
DROP TABLE batch_heads;
DROP TABLE batch_pieces;
DROP TABLE batch_parts;
DROP TABLE batch_runs;
DROP TABLE batch_proofs;
DROP TABLE batch_rows;
DROP TABLE batches;
