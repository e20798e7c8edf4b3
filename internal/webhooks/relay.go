package webhooks

import (
	"context"
	"encoding/json"
	"log/slog"
	"slices"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/webhook"
)

// relayed is how many events become calls at once.
const relayed = 500

// Relay makes calls of what happened, and says how many. Any number may run at once: what one has taken up the others
// leave alone.
func (s *Store) Relay(ctx context.Context) (n int64, err error) {
	for more := true; more && err == nil && ctx.Err() == nil; {
		var some int64
		some, more, err = s.relay(ctx)
		n += some
	}
	return n, err
}

// of is what happened in a workspace of a kind.
type of struct{ workspace, kind string }

func (s *Store) relay(ctx context.Context) (n int64, more bool, err error) {
	err = pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `DELETE FROM webhook_events WHERE id IN
			(SELECT id FROM webhook_events ORDER BY id LIMIT $1 FOR UPDATE SKIP LOCKED) RETURNING workspace, kind, subject`, relayed)
		if err != nil {
			return err
		}
		found, took := map[of][]json.RawMessage{}, 0
		var order []of
		var k of
		var subject json.RawMessage
		if _, err := pgx.ForEachRow(rows, []any{&k.workspace, &k.kind, &subject}, func() error {
			if found[k] == nil {
				order = append(order, k)
			}
			found[k] = append(found[k], slices.Clone(subject))
			took++
			return nil
		}); err != nil {
			return err
		}
		more = took == relayed
		for _, k := range order {
			hooks, err := s.wanting(ctx, tx, k)
			if err != nil {
				return err
			}
			if len(hooks) == 0 { // paused or taken away since
				continue
			}
			messages, err := s.messages(ctx, tx, k, found[k])
			if err != nil {
				return err
			}
			for _, m := range messages {
				if err := s.put(ctx, tx, k.workspace, hooks, k.kind, m); err != nil {
					return err
				}
				n += int64(len(hooks))
			}
		}
		return nil
	})
	return n, more, err
}

// wanting are the webhooks that are told of something.
func (s *Store) wanting(ctx context.Context, tx pgx.Tx, k of) ([]*Hook, error) {
	rows, err := tx.Query(ctx, `SELECT `+hookColumns+` FROM webhooks WHERE workspace = $1 AND $2 = ANY (kinds)
		AND paused_at IS NULL ORDER BY id`, k.workspace, k.kind)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (*Hook, error) {
		h, err := s.scan(k.workspace, r)
		if err != nil && h.ID != "" { // it does not open: nothing can be told there, and others are not to wait for it
			slog.Error("a webhook does not open, and is told nothing", "workspace", k.workspace, "webhook", h.ID, "error", err)
			return nil, nil
		}
		return h, err
	})
	return slices.DeleteFunc(list, func(h *Hook) bool { return h == nil }), err
}

// messages are the data of what is told, webhook.Most things in each.
func (s *Store) messages(ctx context.Context, tx pgx.Tx, k of, subjects []json.RawMessage) (out []any, err error) {
	switch k.kind {
	case webhook.Versions:
		list, err := collected[webhook.IssuedVersion](ctx, tx, `SELECT v.code, c.name, v.n, v.at, coalesce(v.who, '')
			FROM jsonb_to_recordset($2::jsonb) AS x(code text, n int)
			JOIN issued_versions v ON v.workspace = $1 AND v.code = x.code AND v.n = x.n
			JOIN codes c ON c.workspace = v.workspace AND c.id = v.code ORDER BY v.at, v.code, v.n`, k.workspace, subjects)
		for some := range slices.Chunk(list, webhook.Most) {
			out = append(out, webhook.IssuedVersions{Versions: some})
		}
		return out, err
	case webhook.Batches:
		list, err := collected[webhook.DoneBatch](ctx, tx, `SELECT r.batch, r.id, b.name, r.state, r.labels, r.note,
			coalesce(r.done_at, r.at) FROM jsonb_to_recordset($2::jsonb) AS x(run text)
			JOIN batch_runs r ON r.workspace = $1 AND r.id = x.run
			JOIN batches b ON b.workspace = r.workspace AND b.id = r.batch ORDER BY 7, 2`, k.workspace, subjects)
		for some := range slices.Chunk(list, webhook.Most) {
			out = append(out, webhook.DoneBatches{Batches: some})
		}
		return out, err
	case webhook.Scans:
		var ids []string
		for _, text := range subjects {
			var some []string
			if err := json.Unmarshal(text, &some); err != nil {
				return nil, err
			}
			ids = append(ids, some...)
		}
		for some := range slices.Chunk(ids, webhook.Most) {
			list, err := s.Scans.Named(ctx, access.OfProgram(k.workspace, ""), some)
			if err != nil {
				return nil, err
			}
			if len(list) > 0 {
				out = append(out, webhook.KeptScans{Scans: list})
			}
		}
	}
	return out, nil
}

func collected[T any](ctx context.Context, tx pgx.Tx, sql, workspace string, subjects []json.RawMessage) ([]T, error) {
	all, err := json.Marshal(subjects)
	if err != nil {
		return nil, err
	}
	rows, err := tx.Query(ctx, sql, workspace, string(all))
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[T])
}
