package link

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
)

// Refusal is what is typed into a field of where a code leads, and cannot be taken.
type Refusal struct {
	Text    string `json:"text"`
	Code    string `json:"code"`
	Message string `json:"message"`
}

// maxRefused bounds a text that is kept though it is refused, in bytes.
const maxRefused = 16 << 10

// refuse keeps what is typed and refused beside the draft, so that nothing goes live in its place.
func (s *Store) refuse(ctx context.Context, actor access.Actor, id, key, text string, why problem.Problem) error {
	if len(text) > maxRefused {
		text = text[:maxRefused]
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		l, err := s.held(ctx, tx, actor.Workspace, id)
		if err != nil || l == nil {
			return err
		}
		if l.Refused == nil {
			l.Refused = map[string]Refusal{}
		}
		l.Refused[key] = Refusal{text, why.Code, why.Message}
		sealed, err := s.sealedRefused(actor.Workspace, id, l)
		if err == nil {
			_, err = tx.Exec(ctx, `UPDATE leads SET refused = $3 WHERE workspace = $1 AND code = $2`, actor.Workspace, id, sealed)
		}
		return err
	})
}

// sealedRefused is what is refused as it is kept, nil for nothing.
func (s *Store) sealedRefused(workspace, id string, l *Led) ([]byte, error) {
	if len(l.Refused) == 0 {
		return nil, nil
	}
	text, err := json.Marshal(l.Refused)
	if err != nil {
		return nil, err
	}
	return s.Codes.Seal.Seal(text, place(workspace, id, "refused")), nil
}

func (s *Store) openRefused(workspace, id string, sealed []byte, l *Led) error {
	if sealed == nil {
		return nil
	}
	text, err := s.Codes.Seal.Open(sealed, place(workspace, id, "refused"))
	if err != nil {
		return err
	}
	return json.Unmarshal(text, &l.Refused)
}

// unready is why a draft cannot go live: a field of it holds what was refused.
func (l *Led) unready() error {
	var out problem.List
	for _, key := range slices.Sorted(maps.Keys(l.Refused)) {
		r := l.Refused[key]
		shown := []rune(r.Text)
		if len(shown) > 60 {
			shown = append(shown[:60], '…')
		}
		out.Add("/"+key, "lead.refused", "is “%s”, which %s. Mend it first, or type where it led before", string(shown),
			r.Message)
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// noted keeps what of an edit was refused, and gives the error on.
func (s *Store) noted(ctx context.Context, actor access.Actor, id string, edits map[string]string, err error) error {
	problems, is := code.IsProblem(err)
	if !is || len(edits) != 1 {
		return err // a form of several fields is taken as a whole, by its button, and keeps what is typed
	}
	for key, text := range edits {
		for _, p := range problems {
			if key != "to" && !strings.HasPrefix(key, below) || p.Field != "/"+key { // those that are sent as they are typed
				continue
			}
			if failed := s.refuse(ctx, actor, id, key, text, p); failed != nil {
				return fmt.Errorf("link: what is refused is not kept: %w", failed)
			}
		}
	}
	return err
}
