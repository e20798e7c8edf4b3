-- +goose Up
-- Adds two lists of numbers of the same length, place by place.
-- +goose StatementBegin
CREATE FUNCTION sodrik_added(a int[], b int[]) RETURNS int[] LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
$$ SELECT array_agg(x + y ORDER BY i) FROM unnest(a, b) WITH ORDINALITY AS t(x, y, i) $$;
-- +goose StatementEnd

-- How many people scanned a link on a day of UTC, and until the end of each of its 96 quarters of an hour: a day of any zone begins at one of
-- them, so that its count is n of the days before it and one number of two lists. Link is '' for all of
-- a code, code too for all of a workspace.
CREATE TABLE scan_days (
    workspace text NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    day       date NOT NULL,
    n         int NOT NULL,
    cum       int[] NOT NULL,
    PRIMARY KEY (workspace, code, link, day)
) WITH (fillfactor = 80);
CREATE INDEX scan_days_by_day ON scan_days (workspace, day);

-- The same of links without the lists, and by months: for sums over many links.
CREATE TABLE scan_counts (
    workspace text NOT NULL,
    day       date NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    n         int NOT NULL,
    PRIMARY KEY (workspace, day, code, link)
) WITH (fillfactor = 80);
CREATE TABLE scan_months (
    workspace text NOT NULL,
    month     date NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    n         bigint NOT NULL,
    PRIMARY KEY (workspace, month, code, link)
) WITH (fillfactor = 80);

-- What the scans of a day of UTC were: parts is {"town": {"Ludlow": 3}, …}, phones how many different ones. Scope is '' for a workspace,
-- code:…, link:… or campaign:….
CREATE TABLE scan_parts (
    workspace text NOT NULL,
    scope     text NOT NULL,
    day       date NOT NULL,
    parts     jsonb NOT NULL,
    phones    int NOT NULL,
    PRIMARY KEY (workspace, scope, day)
);

-- Days of which something came since they were folded into scan_parts.
CREATE TABLE scan_unfolded (
    workspace text NOT NULL,
    day       date NOT NULL,
    PRIMARY KEY (workspace, day)
);

-- For how many months a workspace keeps events, and what was deleted when.
CREATE TABLE scan_keeping (
    workspace text PRIMARY KEY REFERENCES workspaces ON DELETE CASCADE,
    months    int NOT NULL
);
CREATE TABLE scan_deletions (
    workspace text NOT NULL REFERENCES workspaces ON DELETE CASCADE,
    before    date NOT NULL,
    n         bigint NOT NULL,
    at        timestamptz NOT NULL,
    PRIMARY KEY (workspace, at)
);

INSERT INTO scan_days SELECT q.workspace, q.code, q.link, q.day, sum(q.n)::int,
    (SELECT array_agg(coalesce((SELECT sum(p.n) FROM scan_quarters p WHERE p.workspace = q.workspace AND p.code = q.code AND p.link = q.link
        AND p.quarter >= q.day::timestamp AT TIME ZONE 'UTC' AND p.quarter < (q.day::timestamp AT TIME ZONE 'UTC') + i * interval '15 minutes'), 0)::int
        ORDER BY i) FROM generate_series(1, 96) i)
    FROM (SELECT workspace, code, link, (quarter AT TIME ZONE 'UTC')::date AS day, n FROM scan_quarters) q GROUP BY 1, 2, 3, 4;
INSERT INTO scan_counts SELECT workspace, day, code, link, n FROM scan_days;
INSERT INTO scan_days SELECT workspace, '', '', day, sum(n), (SELECT array_agg(s ORDER BY i) FROM (SELECT i, sum(e.cum[i])::int AS s
    FROM scan_days e, generate_series(1, 96) i WHERE e.workspace = d.workspace AND e.day = d.day GROUP BY i) x)
    FROM scan_days d GROUP BY workspace, day;
INSERT INTO scan_days SELECT workspace, code, '', day, sum(n), (SELECT array_agg(s ORDER BY i) FROM (SELECT i, sum(e.cum[i])::int AS s
    FROM scan_days e, generate_series(1, 96) i WHERE e.workspace = d.workspace AND e.code = d.code AND e.day = d.day GROUP BY i) x)
    FROM scan_days d WHERE code <> '' GROUP BY workspace, code, day;
INSERT INTO scan_months SELECT workspace, date_trunc('month', day)::date, code, link, sum(n) FROM scan_days WHERE link <> '' GROUP BY 1, 2, 3, 4;
INSERT INTO scan_unfolded SELECT DISTINCT workspace, (at AT TIME ZONE 'UTC')::date FROM scans WHERE workspace <> '';
DROP TABLE scan_quarters;

-- +goose Down
CREATE TABLE scan_quarters (
    workspace text NOT NULL,
    code      text NOT NULL,
    link      text NOT NULL,
    quarter   timestamptz NOT NULL,
    n         bigint NOT NULL,
    PRIMARY KEY (workspace, code, link, quarter)
);
INSERT INTO scan_quarters SELECT workspace, code, link, (day::timestamp AT TIME ZONE 'UTC') + (i - 1) * interval '15 minutes',
    cum[i] - coalesce(cum[i - 1], 0) FROM scan_days, generate_series(1, 96) i WHERE link <> '' AND cum[i] > coalesce(cum[i - 1], 0);
DROP TABLE scan_deletions;
DROP TABLE scan_keeping;
DROP TABLE scan_unfolded;
DROP TABLE scan_parts;
DROP TABLE scan_months;
DROP TABLE scan_counts;
DROP TABLE scan_days;
DROP FUNCTION sodrik_added;
