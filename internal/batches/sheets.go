package batches

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/problem"
)

// Kept is a sheet of own measures that was used before.
type Kept struct{ ID, Name string }

// Sheets are the sheets of own measures that were used, and the printers, the newest first.
func (s *Store) Sheets(ctx context.Context, actor access.Actor) (own []Kept, printers []string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT sheet, printer, setting FROM batch_sheets WHERE workspace = $1 ORDER BY used_at DESC LIMIT 100`,
			actor.Workspace)
		if err != nil {
			return err
		}
		var sheet, printer string
		var text []byte
		_, err = pgx.ForEachRow(rows, []any{&sheet, &printer, &text}, func() error {
			if printer != "" && !has(printers, printer) {
				printers = append(printers, printer)
			}
			if setting, err := settingIn(text); err == nil && strings.HasPrefix(sheet, impose.OwnPrefix) {
				one := Kept{sheet, setting.Name()}
				for _, k := range own {
					if k == one {
						return nil
					}
				}
				own = append(own, one)
			}
			return nil
		})
		return err
	})
	return own, printers, err
}

func settingIn(text []byte) (impose.Setting, error) {
	v, err := fields.Decode(text)
	if err != nil {
		return impose.Setting{}, err
	}
	setting, problems := impose.Read(v)
	return setting, problems.Err()
}

// keepSheet notes that a sheet is used, with the shift of the printer.
func (s *Store) keepSheet(ctx context.Context, tx pgx.Tx, workspace string, setting impose.Setting) error {
	text, err := json.Marshal(setting.JSON())
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO batch_sheets (workspace, sheet, printer, setting, used_at) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (workspace, sheet, printer) DO UPDATE SET setting = excluded.setting, used_at = excluded.used_at`, workspace,
		setting.ID(), setting.Printer, text, s.Codes.Now())
	return err
}

// keptSheet is a sheet as it was used the last time, on a printer or on any; ok is false where it was not.
func keptSheet(ctx context.Context, tx pgx.Tx, workspace, sheet, printer string) (setting impose.Setting, ok bool, err error) {
	var text []byte
	err = tx.QueryRow(ctx, `SELECT setting FROM batch_sheets WHERE workspace = $1 AND sheet = $2 ORDER BY printer = $3 DESC, used_at DESC
		LIMIT 1`, workspace, sheet, printer).Scan(&text)
	if errors.Is(err, pgx.ErrNoRows) {
		return setting, false, nil
	}
	if err == nil {
		setting, err = settingIn(text)
	}
	return setting, err == nil, err
}

// setSheet types into a field of the setting. A sheet of own measures that was used before brings its measures; a sheet or a
// printer brings the shift that was found for both.
func (s *Store) setSheet(ctx context.Context, tx pgx.Tx, workspace string, b *Batch, key, text string) error {
	f := impose.Fields.Field(key)
	if f == nil {
		return problem.List{{Field: "/sheet/" + key, Code: "field", Message: "is not a field that can be edited"}}
	}
	setting := b.Setting()
	if key == "sheet" && strings.HasPrefix(text, impose.OwnPrefix) {
		kept, ok, err := keptSheet(ctx, tx, workspace, text, setting.Printer)
		if err != nil {
			return err
		}
		if !ok {
			return problem.List{{Field: "/sheet/sheet", Code: "sheet.gone", Message: "is not kept any more; write its measures"}}
		}
		setting.Key, setting.Sheet, text = impose.Own, kept.Sheet, impose.Own
	}
	if key == "sheet" && text == impose.Own { // what was chosen is where own measures begin
		setting.Key = impose.Own
	}
	all := setting.JSON()
	value, bad := f.Parse("/sheet/"+key, text)
	if bad != nil {
		return problem.List{*bad}
	}
	all[key] = value
	decoded, err := plain(all)
	if err != nil {
		return err
	}
	setting, problems := impose.Read(decoded)
	if len(problems) > 0 {
		return problems
	}
	if key == "sheet" || key == "printer" {
		kept, ok, err := keptSheet(ctx, tx, workspace, setting.ID(), setting.Printer)
		if err != nil {
			return err
		}
		setting.ShiftX, setting.ShiftY = 0, 0
		if ok && kept.Printer == setting.Printer {
			setting.ShiftX, setting.ShiftY = kept.ShiftX, kept.ShiftY
		}
	}
	b.Sheet, err = plain(setting.JSON())
	return err
}
