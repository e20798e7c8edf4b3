package handover

import (
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
)

// FileName is the name under which a version's file is handed over.
func FileName(names export.Names, j *job.Job, i, version int, f compose.Format) string {
	of := export.Named{Name: code.NameOf(j), Version: version}
	if f.Of == compose.PaymentPart {
		of.Name += " payment part " + f.Language
		return names.File(of, f.Ending())
	}
	if i >= 0 {
		of.Width = j.Placements[i].Width
		if len(j.Placements) > 1 {
			of.Place = j.Placements[i].Name
		}
	}
	if f.Of == compose.Whole {
		of.Name, of.Width = of.Name+" whole", 0
	}
	switch f.Kind {
	case "pdfx":
		of.Name += " press"
	case "label":
		of.Name += " label"
	case "svg-current":
		of.Name += " text colour"
	}
	return names.File(of, f.Ending())
}

// ZipName is what several files of a version together are called.
func (p *Parcel) ZipName() string {
	return p.Names.File(export.Named{Name: p.Name, Version: p.N}, "zip")
}
