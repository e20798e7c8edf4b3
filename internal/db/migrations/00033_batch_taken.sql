-- +goose Up
-- Files of batches that were taken: what they held, and what somebody says of the print. The files themselves go after a week.
CREATE TABLE batch_taken (
    workspace   text NOT NULL,
    batch       text NOT NULL,
    run         text NOT NULL,
    what        text NOT NULL,
    labels      int NOT NULL,
    medium      text NOT NULL,
    width_mm    double precision NOT NULL,
    at          timestamptz NOT NULL,
    who         text NOT NULL,
    who_id      text NOT NULL,
    printed_on  date,
    printer     text NOT NULL DEFAULT '',
    quantity    int NOT NULL DEFAULT 0,
    printed_who text NOT NULL DEFAULT '',
    PRIMARY KEY (workspace, run),
    FOREIGN KEY (workspace, batch) REFERENCES batches ON DELETE CASCADE
);
CREATE INDEX batch_taken_newest ON batch_taken (workspace, batch, at DESC);

-- +goose Down
DROP TABLE batch_taken;
