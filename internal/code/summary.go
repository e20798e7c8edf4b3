package code

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Summary is what a list shows of a code without making it.
type Summary struct {
	Name   string   `json:"name"`
	Verb   string   `json:"verb"` // of what it says
	Object string   `json:"object"`
	Full   string   `json:"full"` // its payload, without secrets
	Places []string `json:"places,omitempty"`
	Corner string   `json:"corner"` // a picture of its corner, as SVG
}

// SummaryOf sums up what was made.
func SummaryOf(m *compose.Rendition) Summary {
	says := m.Job.Content.Summary()
	s := Summary{Name: NameOf(m.Job), Verb: says.Verb, Object: says.Object, Full: content.Shown(m.Job.Content),
		Corner: m.Corner()}
	for _, p := range m.Job.Placements {
		s.Places = append(s.Places, p.Name)
	}
	return s
}

// proofsOf are the keys of the proofs of what was made, as they are kept.
func (s *Store) proofsOf(m *compose.Rendition) []string {
	keys := m.ProofKeys()
	for i, k := range keys {
		keys[i] = s.Seal.Mac(k)
	}
	return keys
}

// summed is the summary of what was made as it is kept.
func (s *Store) summed(workspace, id string, m *compose.Rendition) ([]byte, error) {
	text, err := json.Marshal(SummaryOf(m))
	if err != nil {
		return nil, err
	}
	return s.seal(workspace, id, "summary", text), nil
}

// unmade is the error where something stored cannot be made any more.
func unmade(what string, problems problem.List) error {
	return fmt.Errorf("%s cannot be made: %w", what, problems)
}

// Summaries are those of several codes, by their ids; one whose summary is still to be written has none.
func (s *Store) Summaries(ctx context.Context, actor access.Actor, ids []string) (map[string]Summary, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	out := make(map[string]Summary, len(ids))
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id, summary FROM codes WHERE workspace = $1 AND id = ANY ($2) AND summary IS NOT NULL`, actor.Workspace, ids).
			Query(func(rows pgx.Rows) error {
				var id string
				var sealed []byte
				_, err := pgx.ForEachRow(rows, []any{&id, &sealed}, func() error {
					text, err := s.Seal.Open(sealed, place(actor.Workspace, id, "summary"))
					if err != nil {
						return err
					}
					var one Summary
					err = json.Unmarshal(text, &one)
					out[id] = one
					return err
				})
				return err
			})
	})
	return out, err
}
