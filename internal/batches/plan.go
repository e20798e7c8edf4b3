package batches

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/housestyle"
)

// Set changes one thing of a batch, at a pointer: /name, /campaign, /key, /line, /file, /same, /formats, /kind, /look, /set and
// the pointer of a field, /job and the pointer of a field of the pattern, /sheet and a key of the setting. What it
// cannot hold is a problem, and nothing is changed.
func (s *Store) Set(ctx context.Context, actor access.Actor, id, path, text string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	text = strings.TrimSpace(text)
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		rev, was := b.Rev, *b
		if was.Doc, err = s.copied(b.Doc); err != nil {
			return err
		}
		undo, err := s.before(ctx, tx, actor, id, setWords(b, path))
		if err != nil {
			return err
		}
		if err := s.set(ctx, tx, actor, b, path, text); err != nil {
			return err
		}
		if path != "/campaign" && was.Name == b.Name && same(was.Doc, b.Doc) {
			return nothing(ctx, tx, actor.Workspace, undo)
		}
		if b.Rev > rev {
			if _, problems := b.Plan.Compile(b.Columns); len(problems) > 0 {
				return problems
			}
		}
		return s.store(ctx, tx, actor.Workspace, b)
	})
	if err != nil {
		return err
	}
	return s.checkSoon(ctx, actor, id)
}

// copied is a state that later changes leave as it is.
func (s *Store) copied(d Doc) (out Doc, err error) {
	text, err := json.Marshal(d)
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	return out, err
}

// setWords says what a change at a pointer is of.
func setWords(b *Batch, path string) string {
	part, rest, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	words := map[string]string{"name": "the name", "campaign": "the campaign", "key": "the key",
		"line": "the line under each code",
		"file": "the file names", "same": "one size for all", "formats": "the formats", "kind": "the kind", "look": "the look",
		"sheet": "the sheet"}[part]
	if words == "" {
		words = called(b, "/"+rest)
	}
	return words
}

// called is what a field of the rows is called in a sentence.
func called(b *Batch, path string) string { return cmp.Or(job.Called(b.Plan.Job, path), "a field") }

func (s *Store) store(ctx context.Context, tx pgx.Tx, workspace string, b *Batch) error {
	sealed, err := s.seal(workspace, b.ID, "plan", b.Doc)
	if err != nil {
		return err
	}
	_, err = tx.Exec(
		ctx,
		`UPDATE batches SET rev = $3, plan = $4, name = $5, changed_at = $6, settled = false WHERE workspace = $1 AND id = $2`,
		workspace,
		b.ID,
		b.Rev,
		sealed,
		b.Name,
		s.Codes.Now(),
	)
	return err
}

// set changes a batch in memory; where rows come to be made otherwise, its revision grows.
func (s *Store) set(ctx context.Context, tx pgx.Tx, actor access.Actor, b *Batch, path, text string) error {
	part, rest, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	rest = "/" + rest
	switch part {
	case "name":
		name, err := nameOf(text)
		b.Name = name
		return err
	case "campaign":
		var in *string
		if text != "" {
			c, err := code.CampaignIn(ctx, tx, actor.Workspace, text)
			if err != nil {
				return err
			}
			in = &c
		}
		_, err := tx.Exec(ctx, `UPDATE batches SET campaign = $3 WHERE workspace = $1 AND id = $2`, actor.Workspace, b.ID, in)
		return err
	case "line", "file":
		if _, wrong := batch.ReadText(text, b.Columns); wrong != "" {
			return problem.List{{Field: path, Code: "batch.text", Message: wrong}}
		}
		if part == "line" {
			b.Plan.Line = text
		} else {
			b.Plan.File = text
		}
		return nil
	case "formats":
		return b.setFormats(strings.Fields(strings.ReplaceAll(text, ",", " ")))
	case "sheet":
		return s.setSheet(ctx, tx, actor.Workspace, b, strings.TrimPrefix(rest, "/"), text)
	}
	b.Rev++
	switch part {
	case "key":
		b.Plan.Key = text
	case "same":
		b.Plan.Same = text == "true"
	case "set":
		was := b.Plan.At(rest)
		b.Plan.Put(rest, text)
		return s.remember(ctx, tx, actor.Workspace, b, rest, was, text)
	case "job":
		return b.setJob(rest, text)
	case "kind":
		return b.setKind(text)
	case "look":
		return s.setLook(ctx, tx, actor, b, text)
	default:
		return problem.List{{Field: path, Code: "field", Message: "is not a field that can be edited"}}
	}
	return nil
}

// remember keeps which field a column was put into by hand, for the next table with such a head.
func (s *Store) remember(ctx context.Context, tx pgx.Tx, workspace string, b *Batch, path, was, text string) error {
	note := func(text, path string) error {
		t, wrong := batch.ReadText(text, b.Columns)
		column, ok := t.Column()
		if wrong != "" || !ok {
			return nil
		}
		_, err := tx.Exec(ctx, `INSERT INTO batch_heads (workspace, kind, head, path) VALUES ($1, $2, $3, $4)
			ON CONFLICT (workspace, kind, head) DO UPDATE SET path = excluded.path`, workspace, b.Plan.Kind(),
			batch.Folded(b.Columns[column]), path)
		return err
	}
	if text == "" {
		return note(was, "")
	}
	return note(text, path)
}

func (b *Batch) setFormats(keys []string) error {
	if len(keys) == 0 {
		return problem.List{{Field: "/formats", Code: "output.none", Message: "none is chosen; choose SVG, PDF or PNG"}}
	}
	var out []string
	for _, key := range keys {
		f, problems := compose.ParseFormat(key)
		if len(problems) > 0 {
			return problems
		}
		if !has(out, f.Key()) {
			out = append(out, f.Key())
		}
	}
	b.Formats = out
	return nil
}

// Setting is how labels lie on sheets.
func (b *Batch) Setting() impose.Setting {
	s, _ := impose.Read(b.Sheet)
	return s
}

// plain is a value as decoding its JSON gives it.
func plain(v any) (out any, err error) {
	text, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	return out, err
}

// setJob types into a field of the pattern.
func (b *Batch) setJob(path, text string) error {
	p, bad := job.Edit(b.Plan.Job, path, text)
	if bad != nil {
		return problem.List{*bad}
	}
	out, _, err := p.Apply(b.Plan.Job)
	if err != nil {
		return problem.List{{Field: path, Code: "field", Message: "cannot be changed in this pattern"}}
	}
	b.Plan.Job = out
	return nil
}

// setKind has rows hold another kind of content; columns find their fields again.
func (b *Batch) setKind(kind string) error {
	k := content.KindOf(kind)
	if k == nil || k.Group == content.Turned {
		return problem.List{
			{Field: "/kind", Code: "content.kind", Message: fmt.Sprintf("%q is not a kind that rows can hold", kind)},
		}
	}
	out, _, err := patch.Set("/content", map[string]any{"kind": kind}).Apply(b.Plan.Job)
	if err != nil {
		return err
	}
	old := b.Plan
	b.Plan = &batch.Plan{Job: out, Key: old.Key, Line: old.Line, File: old.File, Same: old.Same}
	for _, set := range old.Set {
		if !strings.HasPrefix(set.Path, "/content/") {
			b.Plan.Put(set.Path, set.Text)
		}
	}
	for _, set := range batch.Suggest(kind, b.Columns, nil, nil) {
		if b.Plan.At(set.Path) == "" {
			b.Plan.Put(set.Path, set.Text)
		}
	}
	return nil
}

// setLook puts a look of the house on all codes; "" is plain.
func (s *Store) setLook(ctx context.Context, tx pgx.Tx, actor access.Actor, b *Batch, key string) error {
	if key == "" {
		out, _, err := patch.Patch{{Op: "add", Path: "/look", Value: map[string]any{}}}.Apply(b.Plan.Job)
		b.Plan.Job = out
		return err
	}
	house, _, err := housestyle.Read(ctx, tx, actor.Workspace)
	if err != nil {
		return err
	}
	l, ok := house.Find(key)
	if !ok {
		return problem.List{{Field: "/look", Code: "look.from", Message: "is no look of the house any more; choose another"}}
	}
	b.Plan.Job, _, err = patch.Patch{{Op: "add", Path: "/look", Value: code.Dressed(b.Plan.Job, l)}}.Apply(b.Plan.Job)
	return err
}
