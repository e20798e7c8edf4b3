-- +goose Up
-- Files of a workspace that short links may lead to, sealed. One is never taken away while its workspace is there: print may lead to it.
CREATE TABLE files (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    id        text NOT NULL,
    host      text NOT NULL,
    name      text NOT NULL,
    size      bigint NOT NULL,
    data      bytea NOT NULL,
    made_at   timestamptz NOT NULL,
    who       text NOT NULL,
    PRIMARY KEY (workspace, id)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON files TO sodrik_workspace;
ALTER TABLE files ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON files TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- Under another key it is brought again to those who answer scans.
-- +goose StatementBegin
CREATE FUNCTION sodrik_file_again() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
	UPDATE live_links SET seq = 0 WHERE workspace = NEW.workspace AND link = NEW.host || '/f/' || NEW.id;
	RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER file_again AFTER UPDATE OF data ON files FOR EACH ROW EXECUTE FUNCTION sodrik_file_again();

-- +goose Down
DROP TABLE files;
DROP FUNCTION sodrik_file_again;
