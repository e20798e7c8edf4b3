-- +goose Up
CREATE TABLE api_tokens (
    id         text PRIMARY KEY,
    workspace  text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    person     text NOT NULL REFERENCES people ON DELETE CASCADE,
    name       text NOT NULL,
    hash       text NOT NULL UNIQUE,
    scopes     text[] NOT NULL,
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at    timestamptz
);
CREATE INDEX api_tokens_workspace ON api_tokens (workspace);

-- Requests of a token in one minute.
CREATE TABLE api_minutes (
    token  text NOT NULL REFERENCES api_tokens ON DELETE CASCADE,
    minute timestamptz NOT NULL,
    n      int NOT NULL,
    PRIMARY KEY (token, minute)
);

-- Answers to requests with an idempotency key, for a day.
CREATE TABLE api_answers (
    token   text NOT NULL REFERENCES api_tokens ON DELETE CASCADE,
    key     text NOT NULL,
    request text NOT NULL, -- digest of method, path and body
    status  int NOT NULL DEFAULT 0, -- 0 while the first request is under way
    kind    text NOT NULL DEFAULT '',
    place   text NOT NULL DEFAULT '',
    body    bytea NOT NULL DEFAULT '', -- sealed
    at      timestamptz NOT NULL,
    PRIMARY KEY (token, key)
);

-- +goose Down
DROP TABLE api_answers, api_minutes, api_tokens;
