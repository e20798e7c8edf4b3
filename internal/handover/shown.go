package handover

import (
	"context"
	"slices"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/records"
)

// Pictures that have an address of their own are of one issued version, so that what is behind the address never changes, or
// of whichever was handed over last; whoever has the address may see them, which is why it cannot be guessed and can be taken
// away.

// shownAs are the formats under which such a picture is shown.
var shownAs = []string{"png", "svg", "webp", "jpg"}

// GiveAddress hands a picture of a placement over by giving it an address; the same one every time. follows has it show
// whichever version is handed over last.
func (d *Door) GiveAddress(ctx context.Context, actor access.Actor, id, place string, follows bool) (p *Parcel, i int,
	token string, err error) {
	if p, err = d.Give(ctx, actor, Ask{Code: id, Formats: []string{"png"}, Places: []string{place},
		Way: records.ByAddress}); err != nil {
		return nil, 0, "", err
	}
	i = p.Files[0].Place
	n := p.N
	if follows {
		n = records.Newest
	}
	token, err = d.Records.ShowPicture(ctx, actor, id, n, i)
	return p, i, token, err
}

// Shown is the picture behind an address, for anybody who has it. It was put on record when the address was given.
func (d *Door) Shown(ctx context.Context, token, format string) (*File, error) {
	f, ok := compose.FormatOf(format)
	if !ok || !slices.Contains(shownAs, format) {
		return nil, code.ErrNotFound
	}
	st, n, i, err := d.Records.Shown(ctx, token)
	if err != nil {
		return nil, err
	}
	p := &Parcel{Name: code.NameOf(st.Rendition.Job), N: n, Rendition: st.Rendition} // no date: such a picture says none
	data, reads, err := d.draw(ctx, "", p, i, f)
	if err != nil {
		return nil, err
	}
	if !reads {
		return nil, code.ErrNotFound
	}
	return &File{Format: f, Name: FileName("", st.Rendition.Job, i, n, f), Place: i, Data: data}, nil
}
