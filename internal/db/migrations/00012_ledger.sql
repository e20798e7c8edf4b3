-- +goose Up
-- What the ledger shows of a code is kept with it, sealed, so that listing makes no code; NULL until it is written, which upkeep does for codes from
-- before. modules is the size of the symbol, 0 for not known.
ALTER TABLE codes ADD summary bytea, ADD modules int NOT NULL DEFAULT 0;

-- The ledger goes through the campaigns and within each through its codes, newest change first.
-- The index holds all that is read to count and order them; an expression in its place would send the scan to the rows.
ALTER TABLE codes ADD in_campaign text NOT NULL GENERATED ALWAYS AS (coalesce(campaign, '')) STORED;
CREATE INDEX codes_ledger ON codes (workspace, state, in_campaign, changed_at DESC, id);
DROP INDEX codes_changed;

-- Parts of words are found by their trigrams. Behind row-level security a condition that is not leakproof, such as LIKE, does not reach an index;
-- this function looks past the wall, and bounds itself to the workspace of the transaction.
CREATE EXTENSION IF NOT EXISTS pg_trgm;
CREATE INDEX codes_search ON codes USING gin (search gin_trgm_ops);
-- +goose StatementBegin
CREATE FUNCTION sodrik_found(wanted text, patterns text[]) RETURNS TABLE (id text, in_campaign text, changed_at timestamptz)
LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = pg_catalog, public, pg_temp AS $$
BEGIN
	-- Literals, so that the plan is made for the very words.
	RETURN QUERY EXECUTE format(
		'SELECT id, in_campaign, changed_at FROM codes WHERE workspace = %L AND state = %L AND search LIKE %L AND search LIKE ALL (%L)',
		current_setting('sodrik.workspace', true), wanted, (SELECT p FROM unnest(patterns) p ORDER BY length(p) DESC LIMIT 1), patterns);
END $$;
-- +goose StatementEnd

-- +goose Down
DROP FUNCTION sodrik_found;
DROP INDEX codes_search;
CREATE INDEX codes_changed ON codes (workspace, changed_at DESC);
DROP INDEX codes_ledger;
ALTER TABLE codes DROP in_campaign, DROP summary, DROP modules;
