package code

import (
	"context"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
)

// Remark is what a workspace keeps of a code for itself: it is no part of what is printed.
type Remark struct {
	Note   string
	Labels []string // in their order, none twice whatever its case
}

// Bounds of a remark, in characters.
const (
	maxRemark = 2000
	maxLabels = 12
	maxLabel  = 40
)

// ReadRemark reads a note, and labels with commas between them. Its problems point to /note and /labels.
func ReadRemark(note, labels string) (r Remark, problems problem.List) {
	r.Note = strings.TrimSpace(strings.ReplaceAll(note, "\r\n", "\n"))
	if len([]rune(r.Note)) > maxRemark {
		problems.Add("/note", "remark.note", "has more than %d characters; keep what one needs to know here", maxRemark)
	}
	for _, l := range strings.Split(labels, ",") {
		l = strings.Join(strings.Fields(l), " ")
		switch {
		case l == "", slices.ContainsFunc(r.Labels, func(other string) bool { return strings.EqualFold(other, l) }):
		case len([]rune(l)) > maxLabel:
			problems.Add("/labels", "remark.label", "has one of more than %d characters; a word or two is enough", maxLabel)
		default:
			r.Labels = append(r.Labels, l)
		}
	}
	if len(r.Labels) > maxLabels {
		problems.Add("/labels", "remark.labels", "are more than %d; keep those that you look for", maxLabels)
	}
	return r, problems
}

// SetRemark keeps a note and labels with a code, in place of those that it had.
func (s *Store) SetRemark(ctx context.Context, actor access.Actor, id string, r Remark) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	sought := strings.ToLower(strings.Join(r.Labels, "\n") + "\n" + r.Note)
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `UPDATE codes SET note = $3, labels = $4, remark = $5 WHERE workspace = $1 AND id = $2`,
			actor.Workspace, id, r.Note, append([]string{}, r.Labels...), strings.TrimSpace(sought))
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		return err
	})
}
