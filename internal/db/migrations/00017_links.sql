-- +goose Up
-- Short links: which code of which workspace one belongs to. A row is never taken away, so that no link is used twice, not even after its code
-- or its workspace is gone.
CREATE TABLE links (
    host      text NOT NULL,
    path      text NOT NULL,
    workspace text NOT NULL,
    code      text NOT NULL,
    made_at   timestamptz NOT NULL,
    place     bytea, -- name of the placement that it was last handed over for, sealed; NULL until it is
    PRIMARY KEY (host, path)
);
CREATE INDEX links_of ON links (workspace, code);
GRANT SELECT, INSERT, UPDATE, DELETE ON links TO sodrik_workspace;
ALTER TABLE links ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON links TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- Where a code leads: the draft, sealed, with its revision; live is the version that scans get, 0 for none yet.
CREATE TABLE leads (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    draft     bytea NOT NULL,
    rev       bigint NOT NULL DEFAULT 1,
    live      int NOT NULL DEFAULT 0,
    PRIMARY KEY (workspace, code),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);
GRANT SELECT, INSERT, UPDATE, DELETE ON leads TO sodrik_workspace;
ALTER TABLE leads ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON leads TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- What was live, and is, each version sealed. back is the version that it went back to, 0 for none.
CREATE TABLE lead_versions (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    code      text NOT NULL,
    n         int NOT NULL,
    lead      bytea NOT NULL,
    back      int NOT NULL DEFAULT 0,
    at        timestamptz NOT NULL,
    who       text NOT NULL,
    who_id    text NOT NULL,
    PRIMARY KEY (workspace, code, n),
    FOREIGN KEY (workspace, code) REFERENCES codes ON DELETE CASCADE
);
GRANT SELECT, INSERT, UPDATE, DELETE ON lead_versions TO sodrik_workspace;
ALTER TABLE lead_versions ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON lead_versions TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));

-- What is live of each link, compiled and sealed, as a relay brings it to those who answer scans: in the order of seq, which
-- each change draws anew. Who draws holds a lock until the end of its transaction, so that none with a smaller number comes later.
CREATE TABLE live_links (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    link      text NOT NULL,
    seq       bigint NOT NULL,
    value     bytea NOT NULL,
    PRIMARY KEY (workspace, link)
);
CREATE UNIQUE INDEX live_links_seq ON live_links (seq);
CREATE SEQUENCE live_links_order;
GRANT SELECT, INSERT, UPDATE, DELETE ON live_links TO sodrik_workspace;
ALTER TABLE live_links ENABLE ROW LEVEL SECURITY;
CREATE POLICY own ON live_links TO sodrik_workspace USING (workspace = current_setting('sodrik.workspace', true));
-- +goose StatementBegin
CREATE FUNCTION sodrik_live_order() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
	PERFORM pg_advisory_xact_lock(hashtextextended('sodrik live links', 0));
	NEW.seq := nextval('live_links_order');
	RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER live_order BEFORE INSERT OR UPDATE ON live_links FOR EACH ROW EXECUTE FUNCTION sodrik_live_order();

-- +goose Down
DROP TABLE live_links;
DROP FUNCTION sodrik_live_order;
DROP SEQUENCE live_links_order;
DROP TABLE lead_versions;
DROP TABLE leads;
DROP TABLE links;
