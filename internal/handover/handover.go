// Package handover is the one door through which files of codes leave. Whoever asks, by whatever way, passes the same steps:
// the right is checked, a version is issued, or an issued one is taken as it was frozen, its files are drawn where there is
// room for drawing, read back by the readers, and what left is put on record. Pages, mails, the API and pictures with an
// address of their own only bring the files to whom they are for.
package handover

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/core/problem"
	"sodrik/internal/housestyle"
	"sodrik/internal/mailer"
	"sodrik/internal/records"
)

// Post sends mails.
type Post interface {
	Post(ctx context.Context, l mailer.Letter) error
}

// Door is the way out. Post is nil where nothing can be mailed.
type Door struct {
	Codes   *code.Store
	Records *records.Records
	House   *housestyle.Store
	Post    Post

	drawn shelf
}

// Bounds of one handing over.
const (
	MaxFiles  = 200
	maxPlaces = job.MaxPlacements
)

// Ask is what somebody asks for.
type Ask struct {
	Code    string
	Version int // 0 issues the code as it stands, unless its newest version is the same already
	Formats []string
	Places  []string // ids or indices; "-1", and none at all, is the code alone, one millimetre a module
	Way     records.Way
	Insist  bool   // files that do not read back are handed over too
	All     bool   // the proof sheet, the job file and a note to the printer go with them
	Copied  bool   // the file goes into the clipboard: nothing leaves that could be on record
	To      string // of a mail
	Note    string
}

// Parcel is what is handed over.
type Parcel struct {
	Code      string
	Name      string // of the code
	N         int    // of the version
	At        time.Time
	Rendition *compose.Rendition
	Issued    *code.Code // the code as it stands, where it was issued for this; nil of an older version
	Files     []File
	Names     export.Names
}

// File is one of them.
type File struct {
	Format compose.Format
	Name   string
	Place  int // −1 for none
	Data   []byte
}

// Unread is what stops a handing over: files that say nothing, or something else.
type Unread struct{ Names []string }

func (u *Unread) Error() string {
	return fmt.Sprintf("%s does not read back: phones would not find in it what it should say", strings.Join(u.Names, ", "))
}

// Problem is an Unread as a problem of the format that was asked for.
func (u *Unread) Problem() problem.List {
	return problem.List{{Field: "/format", Code: "output.unread", Message: u.Error()}}
}

// Give hands files over. Problems are those of the formats, of the placements and of a code that cannot be issued; files that
// do not read back are an *Unread, unless somebody insists.
func (d *Door) Give(ctx context.Context, actor access.Actor, a Ask) (*Parcel, error) {
	formats, err := asked(a.Formats)
	if err != nil {
		return nil, err
	}
	p, err := d.parcel(ctx, actor, a)
	if err != nil {
		return nil, err
	}
	places, err := p.places(a.Places)
	if err != nil {
		return nil, err
	}
	if err := d.fill(ctx, actor, p, formats, places, a.Insist); err != nil {
		return nil, err
	}
	if a.Copied || a.Way == records.ByMail { // a mail is on record once it is sent
		return p, nil
	}
	return p, d.Records.Record(ctx, actor, p.Code, p.record(a))
}

func asked(keys []string) (out []compose.Format, err error) {
	if len(keys) == 0 {
		return nil, problem.List{{Field: "/format", Code: "output.none", Message: "none is chosen; choose SVG, PDF or PNG"}}
	}
	for _, key := range keys {
		f, problems := compose.ParseFormat(key)
		if len(problems) > 0 {
			return nil, problems
		}
		if !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	return out, nil
}

// parcel is an empty parcel of the version that is asked for.
func (d *Door) parcel(ctx context.Context, actor access.Actor, a Ask) (*Parcel, error) {
	if a.Version == 0 {
		c, err := d.Codes.Issue(ctx, actor, a.Code)
		if err != nil {
			return nil, err
		}
		return &Parcel{Code: c.ID, Name: c.Name(), N: c.Issued.N, At: c.Issued.At, Rendition: c.Rendition, Issued: c,
			Names: c.House.FileNames()}, nil
	}
	st, err := d.Codes.At(ctx, actor, a.Code, "v"+strconv.Itoa(a.Version))
	if err != nil {
		return nil, err
	}
	if st.Rendition == nil {
		return nil, code.ErrNotFound
	}
	house, _, err := d.House.Get(ctx, actor)
	if err != nil {
		return nil, err
	}
	return &Parcel{Code: a.Code, Name: code.NameOf(st.Rendition.Job), N: a.Version, At: st.At, Rendition: st.Rendition,
		Names: house.FileNames()}, nil
}

// places reads the placements that are asked for.
func (p *Parcel) places(asked []string) (out []int, err error) {
	n := len(p.Rendition.Job.Placements)
	if len(asked) == 0 || n == 0 {
		return []int{-1}, nil
	}
	for _, text := range asked {
		i := slices.IndexFunc(p.Rendition.Job.Placements, func(at placement) bool { return at.ID != "" && at.ID == text })
		if i < 0 {
			if i, err = strconv.Atoi(text); err != nil {
				i = n
			}
		}
		if i < -1 || i >= n {
			return nil, problem.List{{Field: "/placements", Code: "place.unknown",
				Message: "has no such place any more; look at the desk again"}}
		}
		out = append(out, i)
	}
	return out, nil
}

// fill makes the files, one for each format and placement, and reads them back.
func (d *Door) fill(ctx context.Context, actor access.Actor, p *Parcel, formats []compose.Format, places []int,
	insist bool) error {
	if len(formats)*len(places) > MaxFiles || len(places) > maxPlaces {
		return problem.List{{Field: "/format", Code: "output.many",
			Message: fmt.Sprintf("makes more than %d files at once; take fewer formats or places", MaxFiles)}}
	}
	var u Unread
	for _, i := range places {
		for _, f := range formats {
			if f.Of == compose.Whole && !compose.HasSurface(p.Rendition.Place(i)) && len(places) > 1 {
				continue // places that say nothing of what the code lies on have no whole
			}
			data, reads, err := d.draw(ctx, actor.Workspace, p, i, f)
			if err != nil {
				return err
			}
			file := File{f, FileName(p.Names, p.Rendition.Job, i, p.N, f), i, data}
			if slices.ContainsFunc(p.Files, func(other File) bool { return other.Name == file.Name }) {
				file.Name = fmt.Sprintf("%d-%s", i+1, file.Name)
			}
			if !reads {
				u.Names = append(u.Names, file.Name)
			}
			p.Files = append(p.Files, file)
		}
	}
	if len(u.Names) > 0 && !insist {
		return &u
	}
	return nil
}

// record says what is put on record.
func (p *Parcel) record(a Ask) records.HandOver {
	out := records.HandOver{N: p.N, Way: a.Way, Files: a.Formats, Recipient: a.To}
	if len(p.Files) > 0 && p.Files[0].Place >= 0 {
		out.Medium = p.Rendition.Job.Placements[p.Files[0].Place].Medium
	}
	return out
}

// Says is what a code says, without its secrets.
func (p *Parcel) Says() string { return content.Shown(p.Rendition.Job.Content) }
