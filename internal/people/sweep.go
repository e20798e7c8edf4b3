package people

import (
	"context"
	"time"
)

// How long things are kept that open nothing any more.
const (
	attemptsKeptFor = 24 * time.Hour
	signInKeptFor   = 31 * 24 * time.Hour // a day longer than the cookie
	minutesKeptFor  = time.Hour
	mailsKeptFor    = 30 * 24 * time.Hour // of the stand-in mailbox
)

// Sweep takes away tries, links, sign-ins, answers and counts that have run out, and says how many.
func (s *Store) Sweep(ctx context.Context) (n int64, err error) {
	now := s.Now()
	for _, step := range []struct {
		sql    string
		before time.Time
	}{
		{`DELETE FROM attempts WHERE at < $1`, now.Add(-attemptsKeptFor)},
		{`DELETE FROM one_time_links WHERE expires < $1`, now},
		{`DELETE FROM sign_ins WHERE seen_at < $1`, now.Add(-signInKeptFor)},
		{`DELETE FROM sessions WHERE expiry < $1`, now},
		{`DELETE FROM api_tokens WHERE expires_at < $1`, now},
		{`DELETE FROM api_answers WHERE at < $1`, now.Add(-24 * time.Hour)},
		{`DELETE FROM api_minutes WHERE minute < $1`, now.Add(-minutesKeptFor)},
		{`DELETE FROM mailbox WHERE at < $1`, now.Add(-mailsKeptFor)},
	} {
		tag, err := s.DB.Pool.Exec(ctx, step.sql, step.before)
		if err != nil {
			return n, err
		}
		n += tag.RowsAffected()
	}
	return n, nil
}
