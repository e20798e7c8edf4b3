package handover

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/proofsheet"
	"sodrik/internal/proving"
)

// Pack makes a zip of the files of a parcel; with all, the proof sheet, the job file and a note to the printer are in it too.
func (d *Door) Pack(ctx context.Context, actor access.Actor, p *Parcel, all bool) ([]byte, error) {
	files := p.Files
	if all {
		more, err := d.beside(ctx, actor, p)
		if err != nil {
			return nil, err
		}
		files = append(files[:len(files):len(files)], more...)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		e, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: p.At.UTC()})
		if err == nil {
			_, err = e.Write(f.Data)
		}
		if err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

// beside is what goes with the files.
func (d *Door) beside(ctx context.Context, actor access.Actor, p *Parcel) ([]File, error) {
	sheet, verdicts, err := d.Sheet(ctx, actor, SheetOf{p.Code, p.Rendition, p.Name, p.N, p.Names})
	if err != nil {
		return nil, err
	}
	text, err := p.Rendition.Job.MarshalJSON()
	if err != nil {
		return nil, err
	}
	var names []string
	for _, f := range p.Files {
		names = append(names, f.Name)
	}
	note := compose.Note(p.Rendition, p.Name, p.N, p.At.Format("2 January 2006"), verdicts, names)
	named := func(what, ending string) string {
		return p.Names.File(export.Named{Name: p.Name + " " + what, Version: p.N}, ending)
	}
	return []File{{Name: named("proof sheet", "pdf"), Data: sheet}, {Name: named("job", "json"), Data: append(text, '\n')},
		{Name: named("note to the printer", "txt"), Data: []byte(note)}}, nil
}

// SheetOf is what a proof sheet is about: a code as it was made, and its version, 0 for a draft.
type SheetOf struct {
	Code      string
	Rendition *compose.Rendition
	Name      string
	Version   int
	Names     export.Names
}

// Sheet draws the proof sheet of a made job as a PDF, and gives the verdict of every placement. It waits for every set of
// every place.
func (d *Door) Sheet(ctx context.Context, actor access.Actor, of SheetOf) ([]byte, map[int]proof.Verdict, error) {
	m, name, version, names := of.Rendition, of.Name, of.Version, of.Names
	checks, err := d.Records.Checks(ctx, actor, of.Code)
	if err != nil {
		return nil, nil, err
	}
	s, verdicts := sheetOf(m, name, version, names, d.Codes.Now().Format("2 January 2006")), map[int]proof.Verdict{}
	for i := min(0, len(m.Job.Placements)-1); i < len(m.Job.Placements); i++ {
		p, err := d.Codes.Prove(proving.Hurry(ctx), actor, m, i, proof.Margins)
		if err != nil {
			return nil, nil, err
		}
		verdicts[i] = p.Verdict
		at := m.Place(i)
		place := proofsheet.Place{Code: m.For(at).Scene(at), Proof: p}
		for _, c := range slices.Backward(checks) {
			if at != nil && version > 0 && c.N == version && c.Place == at.Name {
				place.Checked = fmt.Sprintf("Print checked %s: %s.", c.At.Format("2 January 2006"), c.Line())
			}
		}
		s.Places = append(s.Places, place)
		if s.Readers == nil {
			for _, family := range p.Families() {
				for _, engine := range p.Engines(family) {
					s.Readers = append(s.Readers, proof.ReaderName(engine))
				}
			}
		}
		if i < 0 {
			break
		}
	}
	drawn, _ := proofsheet.Draw(s)
	return pdf.Encode(drawn, export.Meta{Title: name + ", proof sheet", Payload: content.Shown(m.Job.Content)}), verdicts, nil
}

// sheetOf is what the page says of the code itself.
func sheetOf(m *compose.Rendition, name string, version int, names export.Names, date string) proofsheet.Sheet {
	s := proofsheet.Sheet{Name: name, State: "Draft", Date: date, Says: m.Job.Content.Summary().Verb,
		Payload: content.Shown(m.Job.Content), Forecast: "Every figure is a forecast from the file.",
		Symbol: fmt.Sprintf("%d × %d modules, version %d, level %v, mask %d, border of %d modules", m.Symbol.Size, m.Symbol.Size,
			m.Symbol.Version, m.Symbol.Level, m.Symbol.Mask,
			(layout.Modules(m.Symbol, m.Job.Symbol.QuietZone)-m.Symbol.Size)/2)}
	if version > 0 {
		s.State = fmt.Sprintf("Version %d", version)
	}
	for i := min(0, len(m.Job.Placements)-1); i < len(m.Job.Placements); i++ {
		s.Files = append(s.Files, strings.TrimSuffix(FileName(names, m.Job, i, version, compose.Format{Kind: "svg"}), ".svg"))
		if i < 0 {
			break
		}
	}
	return s
}
