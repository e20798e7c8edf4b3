package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// maxKeys is how many towns or languages of a day are kept apart; the rest of a day stands together.
const maxKeys = 100

// foldedAtOnce is how many days of workspaces are folded by one call.
const foldedAtOnce = 50

// Fold adds up what the scans of each day of UTC that is over were, by workspace, campaign, code and link, with how many
// different phones there were, and says how many days that was. A day to which something came late is folded anew.
func (s *Store) Fold(ctx context.Context) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT u.workspace, u.day FROM scan_unfolded u WHERE u.day < $1
		ORDER BY u.day, u.workspace LIMIT $2`, s.today(), foldedAtOnce)
	if err != nil {
		return 0, err
	}
	type due struct {
		Workspace string
		Day       time.Time
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[due])
	for _, d := range list {
		if err == nil {
			err = s.fold(ctx, d.Workspace, d.Day)
		}
		if err != nil {
			return n, err
		}
		n++
	}
	return n, err
}

func (s *Store) today() time.Time {
	day, _ := moment(s.Now())
	return day
}

// fold adds up one day. Of a day whose events are deleted, what came later is left out: what is folded stays.
func (s *Store) fold(ctx context.Context, workspace string, day time.Time) error {
	return pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		// Whoever brings events of that day just now has written the mark, and is waited for.
		tag, err := tx.Exec(ctx, `DELETE FROM scan_unfolded WHERE workspace = $1 AND day = $2`, workspace, day)
		if err != nil || tag.RowsAffected() == 0 {
			return err
		}
		var gone bool
		if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM scan_deletions WHERE workspace = $1 AND before > $2)`, workspace,
			day).Scan(&gone); err != nil || gone {
			return err
		}
		dims := ""
		for _, d := range dimensions {
			dims += `('` + d.name + `', CASE WHEN kind = 'scan' THEN ` + d.sql + ` END), `
		}
		_, err = tx.Exec(ctx, `WITH e AS MATERIALIZED (
				SELECT s.kind, s.phone, s.town, s.device, s.system, s.languages, x.scope FROM scans s
				LEFT JOIN codes c ON c.workspace = s.workspace AND c.id = s.code
				CROSS JOIN LATERAL (VALUES (''), ('code:' || s.code), ('link:' || s.link), ('campaign:' || c.campaign)) x(scope)
				WHERE s.workspace = $1 AND s.id >= $2::uuid AND s.id < $3::uuid AND x.scope IS NOT NULL
				AND s.kind IN ('scan', 'robot', 'head', 'where')),
			keys AS (SELECT scope, d.name, d.key, count(*) AS n FROM e
				CROSS JOIN LATERAL (VALUES `+dims+`('apart', CASE WHEN kind IN `+apartKinds+` THEN kind END)) d(name, key)
				WHERE d.key IS NOT NULL GROUP BY 1, 2, 3),
			few AS (SELECT scope, name, key, n, row_number() OVER (PARTITION BY scope, name ORDER BY n DESC, key) AS k FROM keys),
			kept AS (SELECT scope, name, CASE WHEN k <= $5 THEN key ELSE $6 END AS key, sum(n) AS n FROM few GROUP BY 1, 2, 3),
			parts AS (SELECT scope, jsonb_object_agg(name, of) AS parts
				FROM (SELECT scope, name, jsonb_object_agg(key, n) AS of FROM kept GROUP BY 1, 2) x GROUP BY 1),
			phones AS (SELECT scope, count(DISTINCT phone) FILTER (WHERE kind = 'scan' AND phone <> '') AS n FROM e GROUP BY 1),
			gone AS (DELETE FROM scan_parts f WHERE workspace = $1 AND day = $4 AND NOT EXISTS (SELECT 1 FROM e WHERE e.scope = f.scope))
			INSERT INTO scan_parts SELECT $1, scope, $4, parts, n FROM parts JOIN phones USING (scope)
			ON CONFLICT (workspace, scope, day) DO UPDATE SET parts = excluded.parts, phones = excluded.phones`,
			workspace, firstID(day), firstID(day.AddDate(0, 0, 1)), day, maxKeys, others)
		return err
	})
}
