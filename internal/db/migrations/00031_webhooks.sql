-- +goose Up
-- Addresses that are told what happens, each with keys that calls are signed with: address and keys are sealed. keys is JSON, the
-- newest first; an older one signs until its time is over.
CREATE TABLE webhooks (
    workspace     text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    id            text NOT NULL,
    address       bytea NOT NULL,
    keys          bytea NOT NULL,
    kinds         text[] NOT NULL,
    at            timestamptz NOT NULL,
    who           text NOT NULL,
    paused_at     timestamptz,
    paused_why    text NOT NULL DEFAULT '',
    failing_since timestamptz,
    PRIMARY KEY (workspace, id)
);
-- What happened and is to be told, written within the transaction in which it happened, and taken away when calls are made of it.
CREATE TABLE webhook_events (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    kind      text NOT NULL,
    subject   jsonb NOT NULL
);
-- Calls, with what came of them.
CREATE TABLE webhook_calls (
    workspace text NOT NULL,
    id        text NOT NULL,
    webhook   text NOT NULL,
    kind      text NOT NULL,
    body      bytea NOT NULL,
    at        timestamptz NOT NULL,
    state     text NOT NULL DEFAULT 'waiting',
    tries     int NOT NULL DEFAULT 0,
    tried_at  timestamptz,
    next_at   timestamptz,
    status    int NOT NULL DEFAULT 0,
    took      int NOT NULL DEFAULT 0,
    trouble   text NOT NULL DEFAULT '',
    PRIMARY KEY (workspace, id),
    FOREIGN KEY (workspace, webhook) REFERENCES webhooks ON DELETE CASCADE
);
CREATE INDEX webhook_calls_log ON webhook_calls (workspace, at DESC, id);

-- +goose StatementBegin
CREATE FUNCTION sodrik_tell(workspace text, kind text, subject jsonb) RETURNS void LANGUAGE sql AS $$
    INSERT INTO webhook_events (workspace, kind, subject) SELECT $1, $2, $3
    WHERE EXISTS (SELECT 1 FROM webhooks w WHERE w.workspace = $1 AND $2 = ANY (w.kinds) AND w.paused_at IS NULL)
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION sodrik_tell_version() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    PERFORM sodrik_tell(NEW.workspace, 'versions.issued', jsonb_build_object('code', NEW.code, 'n', NEW.n));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION sodrik_tell_batch() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    PERFORM sodrik_tell(NEW.workspace, 'batches.done', jsonb_build_object('run', NEW.id));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION sodrik_tell_scans() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    PERFORM sodrik_tell(s.workspace, 'scans.kept', jsonb_agg(s.id)) FROM kept s
        WHERE s.kind <> 'report' AND s.workspace IN (SELECT w.workspace FROM webhooks w WHERE 'scans.kept' = ANY (w.kinds))
        GROUP BY s.workspace;
    RETURN NULL;
END $$;
-- +goose StatementEnd
CREATE TRIGGER tell AFTER INSERT ON issued_versions FOR EACH ROW EXECUTE FUNCTION sodrik_tell_version();
CREATE TRIGGER tell AFTER UPDATE OF state ON batch_runs FOR EACH ROW
    WHEN (NEW.state IN ('done', 'unread', 'failed') AND OLD.state <> NEW.state) EXECUTE FUNCTION sodrik_tell_batch();
CREATE TRIGGER tell AFTER INSERT ON scans REFERENCING NEW TABLE AS kept FOR EACH STATEMENT EXECUTE FUNCTION sodrik_tell_scans();

-- +goose Down
DROP TRIGGER tell ON scans;
DROP TRIGGER tell ON batch_runs;
DROP TRIGGER tell ON issued_versions;
DROP FUNCTION sodrik_tell_scans;
DROP FUNCTION sodrik_tell_batch;
DROP FUNCTION sodrik_tell_version;
DROP FUNCTION sodrik_tell;
DROP TABLE webhook_calls;
DROP TABLE webhook_events;
DROP TABLE webhooks;
