-- +goose Up
-- What was measured in pictures of printed versions. print holds figures alone, nothing of what the code says.
CREATE TABLE print_checks (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    id        bigint GENERATED ALWAYS AS IDENTITY,
    n         int NOT NULL,
    place     text NOT NULL,
    dpi       double precision NOT NULL,
    print     jsonb NOT NULL,
    verdict   text NOT NULL,
    forecast  text NOT NULL,
    at        timestamptz NOT NULL,
    who       text NOT NULL,
    who_id    text NOT NULL,
    PRIMARY KEY (workspace, code, id),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);
GRANT SELECT, INSERT, UPDATE, DELETE ON print_checks TO sodrik_workspace;
ALTER TABLE print_checks ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON print_checks TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- +goose Down
DROP TABLE print_checks;
