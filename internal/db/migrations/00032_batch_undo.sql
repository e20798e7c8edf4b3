-- +goose Up
-- What acts upon a batch changed: the batch as it was before, and the rows that were changed or taken out. Rows after last_row were
-- added. All of it is sealed where it stood before, under the same places.
CREATE TABLE batch_undos (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    workspace text NOT NULL,
    batch     text NOT NULL,
    words     text NOT NULL,
    name      text NOT NULL,
    campaign  text,
    plan      bytea NOT NULL,
    last_row  int NOT NULL,
    at        timestamptz NOT NULL,
    who       text NOT NULL,
    who_id    text NOT NULL,
    FOREIGN KEY (workspace, batch) REFERENCES batches ON DELETE CASCADE
);
CREATE INDEX batch_undos_newest ON batch_undos (workspace, batch, id DESC);
CREATE TABLE batch_undo_rows (
    workspace text NOT NULL,
    undo      bigint NOT NULL REFERENCES batch_undos ON DELETE CASCADE,
    batch     text NOT NULL,
    n         int NOT NULL,
    cells     bytea NOT NULL,
    code      text,
    linked    boolean NOT NULL,
    PRIMARY KEY (workspace, undo, n)
);

-- +goose Down
DROP TABLE batch_undo_rows;
DROP TABLE batch_undos;
