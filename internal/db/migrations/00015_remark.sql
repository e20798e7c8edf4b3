-- +goose Up
-- A note and labels stand beside a code, and are searched with its name. They are no part of what is printed, so they are not in the job.
ALTER TABLE codes ADD note text NOT NULL DEFAULT '', ADD labels text[] NOT NULL DEFAULT '{}', ADD remark text NOT NULL DEFAULT '';
ALTER TABLE codes ADD sought text NOT NULL GENERATED ALWAYS AS (search || E'\n' || remark) STORED;
CREATE INDEX codes_sought ON codes USING gin (sought gin_trgm_ops);
DROP INDEX codes_search;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION sodrik_found(wanted text, patterns text[]) RETURNS TABLE (id text, in_campaign text, changed_at timestamptz)
LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
	-- Literals, so that the plan is made for the very words.
	RETURN QUERY EXECUTE format(
		'SELECT id, in_campaign, changed_at FROM codes WHERE workspace = %L AND state = %L AND sought LIKE %L AND sought LIKE ALL (%L)',
		current_setting('sodrik.workspace', true), wanted, (SELECT p FROM unnest(patterns) p ORDER BY length(p) DESC LIMIT 1), patterns);
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION sodrik_found(wanted text, patterns text[]) RETURNS TABLE (id text, in_campaign text, changed_at timestamptz)
LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
	RETURN QUERY EXECUTE format(
		'SELECT id, in_campaign, changed_at FROM codes WHERE workspace = %L AND state = %L AND search LIKE %L AND search LIKE ALL (%L)',
		current_setting('sodrik.workspace', true), wanted, (SELECT p FROM unnest(patterns) p ORDER BY length(p) DESC LIMIT 1), patterns);
END $$;
-- +goose StatementEnd
CREATE INDEX codes_search ON codes USING gin (search gin_trgm_ops);
DROP INDEX codes_sought;
ALTER TABLE codes DROP sought, DROP remark, DROP labels, DROP note;
