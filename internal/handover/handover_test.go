package handover_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"image"
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/mailer"
	"sodrik/internal/records"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// reader reads what it is told, and counts.
type reader struct {
	says string
	n    int
}

func (r *reader) Name() string   { return "teller" }
func (r *reader) Family() string { return "teller" }
func (r *reader) Read(_ context.Context, pictures []*image.Gray) (out []proof.Answer) {
	r.n += len(pictures)
	for range pictures {
		out = append(out, proof.Answer{Payloads: []string{r.says}})
	}
	return out
}

type box struct{ letters []mailer.Letter }

func (b *box) Post(_ context.Context, l mailer.Letter) error {
	if l.To[0] == "full@printer.example" {
		return mailer.ErrBounced
	}
	b.letters = append(b.letters, l)
	return nil
}

const says = "https://marrowby.example/fair"

var owner = access.Actor{Kind: access.Person, ID: "p1", Name: "Tamsin", Workspace: "marrowby", Role: access.Owner}

type house struct {
	*handover.Door
	t    *testing.T
	read *reader
	box  *box
	id   string
}

func open(t *testing.T) *house {
	t.Helper()
	d := dbtest.Open(t)
	read := &reader{says: says}
	store := code.New(ground.Ground{DB: d, Seal: sealtest.Box(t), Now: time.Now},
		proof.Panel{Readers: []proof.Reader{read}, Families: []string{"teller"}}, "none")
	h := &house{t: t, read: read, box: &box{}}
	h.Door = &handover.Door{Codes: store, Records: records.Of(store), House: &housestyle.Store{DB: d, Now: time.Now}, Post: h.box}
	if _, err := store.EnsureWorkspace(t.Context(), "marrowby", "Marrowby"); err != nil {
		t.Fatal(err)
	}
	m,
		problems := compose.Parse(
		[]byte(
			`{"name":"Gate poster","content":{"kind":"url","url":"`+says+`"},"placements":[{"name":"gate","medium":"poster-a2"},{"name":"till","medium":"business-card"}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	var err error
	if h.id, err = store.Create(t.Context(), owner, m, ""); err != nil {
		t.Fatal(err)
	}
	return h
}

// recorded is what is on record of the code, newest first: the way and the files.
func (h *house) recorded() (out []string) {
	_, list, err := h.Records.Afterwards(h.t.Context(), owner, h.id, "")
	if err != nil {
		h.t.Fatal(err)
	}
	for _, one := range list {
		out = append(out, string(one.Way)+" "+strings.Join(one.Files, "+")+" by "+one.Who)
	}
	return out
}

// TestEveryWay: whichever way a file leaves, it is of an issued version, read back, on record with who took it, and refused
// where it does not read.
func TestEveryWay(t *testing.T) {
	h := open(t)
	printer := access.Actor{Kind: access.Person, ID: "p2", Name: "Juno", Workspace: "marrowby", Role: access.Printer}
	token := access.Actor{Kind: access.Token, ID: "t1", Name: "Tamsin by till", Workspace: "marrowby", Role: access.Owner,
		Only: []access.Right{access.Look, access.Files}}
	ways := []struct {
		name  string
		as    access.Actor
		give  func(as access.Actor, insist bool) ([]byte, error)
		wants string
	}{
		{"from the desk", owner, func(as access.Actor, insist bool) ([]byte, error) {
			return first(h.Give(t.Context(), as, handover.Ask{Code: h.id, Formats: []string{"svg"}, Places: []string{"0"},
				Way: records.ByFiles, Insist: insist}))
		}, "files svg by Tamsin"},
		{"from the page of a version", printer, func(as access.Actor, insist bool) ([]byte, error) {
			return first(h.Give(t.Context(), as, handover.Ask{Code: h.id, Version: 1, Formats: []string{"png"},
				Places: []string{"1"}, Way: records.ByVersion, Insist: insist}))
		}, "version png by Juno"},
		{"by the API", token, func(as access.Actor, insist bool) ([]byte, error) {
			return first(h.Give(t.Context(), as, handover.Ask{Code: h.id, Version: 1, Formats: []string{"jpg"},
				Places: []string{"1"}, Way: records.ByAPI, Insist: insist}))
		}, "api jpg by Tamsin by till"},
		{"by mail", owner, func(as access.Actor, insist bool) ([]byte, error) {
			_, err := h.Send(t.Context(), as, handover.Ask{Code: h.id, Formats: []string{"webp"}, Places: []string{"0"},
				To: "wren@printer.example", Insist: insist}, "")
			if err != nil {
				return nil, err
			}
			return h.box.letters[len(h.box.letters)-1].Files[0].Data, nil
		}, "mail webp by Tamsin"},
	}
	for _, w := range ways {
		t.Run(w.name, func(t *testing.T) {
			h.read.n = 0
			data, err := w.give(w.as, false)
			if err != nil || len(data) == 0 || h.read.n == 0 {
				t.Fatalf("%d bytes, read %d times, %v", len(data), h.read.n, err)
			}
			if got := h.recorded(); got[0] != w.wants {
				t.Errorf("on record is %q, want %q", got[0], w.wants)
			}
			if _, err := w.give(access.Actor{Kind: access.Person, ID: "x", Name: "X", Workspace: "elsewhere", Role: access.Owner},
				false); err == nil {
				t.Error("another workspace gets it")
			}
			if _, err := w.give(access.Actor{}, false); !errors.Is(err, access.ErrForbidden) {
				t.Errorf("a stranger: %v", err)
			}
		})
	}
	h.read.n = 0
	again, err := ways[1].give(printer, false)
	once, _ := ways[1].give(printer, false)
	if err != nil || h.read.n != 0 || !bytes.Equal(again, once) {
		t.Errorf("a file of a version is drawn and read anew: %d, %v", h.read.n, err)
	}

	h.read.says = "https://elsewhere.example"
	before := len(h.recorded())
	other := []struct {
		name   string
		insist bool
		give   func(insist bool) error
	}{
		{"from the desk", true, func(insist bool) error {
			_, err := h.Give(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"png"}, Places: []string{"0"},
				Way: records.ByFiles, Insist: insist})
			return err
		}},
		{"from a version", true, func(insist bool) error {
			_, err := h.Give(t.Context(), printer, handover.Ask{Code: h.id, Version: 1, Formats: []string{"webp"},
				Places: []string{"1"}, Way: records.ByVersion, Insist: insist})
			return err
		}},
		{"by mail", true, func(insist bool) error {
			_, err := h.Send(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"label"}, Places: []string{"0"},
				To: "wren@printer.example", Insist: insist}, "")
			return err
		}},
		{"an address", false, func(bool) error {
			_, _, _, err := h.GiveAddress(t.Context(), owner, h.id, "1", false)
			return ignore(err)
		}},
	}
	for i, o := range other {
		t.Run(o.name, func(t *testing.T) {
			if err := o.give(false); err == nil && o.name != "an address" {
				t.Errorf("%s: what does not read back leaves", o.name)
			}
			if got := len(h.recorded()); i < 3 && got != before {
				t.Errorf("%s: what was refused is on record", o.name)
			}
			if err := o.give(true); o.insist && err != nil {
				t.Errorf("%s, insisting: %v", o.name, err)
			}
			before = len(h.recorded())
		})
	}
}

func ignore(error) error { return nil }

func first(p *handover.Parcel, err error) ([]byte, error) {
	if err != nil {
		return nil, err
	}
	return p.Files[0].Data, nil
}

// TestAddress: a picture is put on record when its address is given; whoever has the address sees it, in four formats, and
// nothing else.
func TestAddress(t *testing.T) {
	h := open(t)
	_, i, token, err := h.GiveAddress(t.Context(), owner, h.id, "1", false)
	if err != nil || i != 1 {
		t.Fatalf("place %d, %v", i, err)
	}
	if got := h.recorded(); got[0] != "address png by Tamsin" {
		t.Errorf("on record: %v", got)
	}
	n := len(h.recorded())
	for _, format := range []string{"png", "svg", "webp", "jpg"} {
		t.Run(format, func(t *testing.T) {
			if f, err := h.Shown(t.Context(), token, format); err != nil || len(f.Data) == 0 || f.Format.Kind != format {
				t.Errorf("%s: %v", format, err)
			}
		})
	}
	for _, format := range []string{"pdf", "eps", "sheet-png", "", "exe"} {
		t.Run(format, func(t *testing.T) {
			if _, err := h.Shown(t.Context(), token, format); !errors.Is(err, code.ErrNotFound) {
				t.Errorf("%q: %v", format, err)
			}
		})
	}
	if _, err := h.Shown(t.Context(), "nobody-has-it", "png"); !errors.Is(err, code.ErrNotFound) {
		t.Errorf("another address: %v", err)
	}
	if len(h.recorded()) != n {
		t.Error("looking is on record")
	}
}

// TestAddressOfNewest: an address that follows shows the version handed over last; one of a version stays with it.
func TestAddressOfNewest(t *testing.T) {
	h := open(t)
	_, _, fixed, err := h.GiveAddress(t.Context(), owner, h.id, "0", false)
	if err != nil {
		t.Fatal(err)
	}
	_, _, follows, err := h.GiveAddress(t.Context(), owner, h.id, "0", true)
	if err != nil || follows == fixed {
		t.Fatalf("%s, %v", follows, err)
	}
	shown := func(token string) []byte {
		f, err := h.Shown(t.Context(), token, "png")
		if err != nil {
			t.Fatal(err)
		}
		return f.Data
	}
	first := shown(fixed)
	if !bytes.Equal(shown(follows), first) {
		t.Error("the two show different pictures of one version")
	}
	if _, err := h.Codes.Edit(t.Context(), owner, h.id,
		code.Edit{Path: "/look/ink", Text: "#7a2e1f", Tab: "t", Seq: 1, Base: -1}); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(shown(follows), first) {
		t.Error("a draft is shown")
	}
	if _, err := h.Give(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"png"}, Places: []string{"0"},
		Way: records.ByFiles}); err != nil {
		t.Fatal(err)
	}
	if bytes.Equal(shown(follows), first) || !bytes.Equal(shown(fixed), first) {
		t.Error("the newest is not shown, or the version has changed")
	}
}

// TestAsked: what cannot be given is refused in words, before a version is issued.
func TestAsked(t *testing.T) {
	h := open(t)
	for _, c := range []struct {
		name, code string
		ask        handover.Ask
	}{
		{"no format", "output.none", handover.Ask{}},
		{"an unknown format", "output.format", handover.Ask{Formats: []string{"svg", "exe"}}},
		{"an unknown format of the whole", "output.format", handover.Ask{Formats: []string{"sheet-label"}}},
		{"a payment part in no language", "output.format", handover.Ask{Formats: []string{"slip-xx.pdf"}}},
		{"a payment part of a link", "output.slip", handover.Ask{Formats: []string{"slip-de.pdf"}}},
		{"a place that is not there", "place.unknown", handover.Ask{Formats: []string{"svg"}, Places: []string{"7"}}},
		{"a place without a number", "place.unknown", handover.Ask{Formats: []string{"svg"}, Places: []string{"barn"}}},
		{"too many", "output.many", handover.Ask{Formats: []string{"svg", "pdf", "png"},
			Places: slices.Repeat([]string{"0"}, 90)}},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.ask.Code, c.ask.Way = h.id, records.ByFiles
			_, err := h.Give(t.Context(), owner, c.ask)
			problems, ok := code.IsProblem(err)
			if !ok || problems[0].Code != c.code {
				t.Errorf("%v", err)
			}
		})
	}
	if got := h.recorded(); len(got) != 0 {
		t.Errorf("on record: %v", got)
	}
}

// TestPack: several files make a zip; with all, the proof sheet, the job and the note are in it.
func TestPack(t *testing.T) {
	h := open(t)
	p, err := h.Give(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"svg", "pdf", "svg"},
		Places: []string{"0", "1"}, Way: records.ByFiles})
	if err != nil || len(p.Files) != 4 { // a format that is asked for twice is given once
		t.Fatalf("%d files, %v", len(p.Files), err)
	}
	h.Codes.Brief = true
	data, err := h.Pack(t.Context(), owner, p, true)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	all := strings.Join(names, " ")
	if len(names) != 7 || !strings.Contains(all, "proof-sheet") || !strings.Contains(all, ".json") ||
		!strings.Contains(all, "note-to-the-printer") {
		t.Errorf("in the zip: %v", names)
	}
}

// TestMail: what keeps a mail from going is said of its address, and nothing of it stays on record.
func TestMail(t *testing.T) {
	h := open(t)
	for to, want := range map[string]string{"": "mail.address", "wren": "mail.address",
		"a@b.example, c@d.example": "mail.address", "full@printer.example": "mail.bounced"} {
		t.Run(to, func(t *testing.T) {
			_, err := h.Send(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"svg"}, To: to}, "")
			if problems, ok := code.IsProblem(err); !ok || problems[0].Code != want || problems[0].Field != "/to" {
				t.Errorf("%q: %v, want %s", to, err, want)
			}
		})
	}
	if got := h.recorded(); len(got) != 0 || len(h.box.letters) != 0 {
		t.Errorf("on record: %v", got)
	}
	done, err := h.Send(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"svg", "pdf"},
		To: " wren@printer.example ", Note: "For the fair."}, "tamsin@marrowby.example")
	if err != nil || done != "Sent to wren@printer.example: 2 files." {
		t.Fatalf("%q, %v", done, err)
	}
	l := h.box.letters[0]
	if l.ReplyTo != "tamsin@marrowby.example" || !strings.HasPrefix(l.Body, "For the fair.\n") ||
		!strings.Contains(l.Body, "Tamsin sends") || l.Files[1].Type != "application/pdf" {
		t.Errorf("the mail is %+v", l)
	}
	h.Post = nil
	if _, err := h.Send(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"svg"}, To: "wren@printer.example"},
		""); err == nil {
		t.Error("without a mail server it is sent")
	}
}

// postman looks at what is on record while a mail goes out.
type postman func() error

func (p postman) Post(context.Context, mailer.Letter) error { return p() }

// TestMailOnRecord: what a mail hands over is on record before it goes out, as not sure, so that a process that ends in the
// middle leaves no files outside that nobody knows of.
func TestMailOnRecord(t *testing.T) {
	h := open(t)
	list := func() []records.HandOver {
		t.Helper()
		_, all, err := h.Records.Afterwards(t.Context(), owner, h.id, "")
		if err != nil {
			t.Fatal(err)
		}
		return all
	}
	var during []records.HandOver
	h.Post = postman(func() error { during = list(); return nil })
	if _, err := h.Send(t.Context(), owner, handover.Ask{Code: h.id, Formats: []string{"svg"}, To: "wren@printer.example"},
		""); err != nil {
		t.Fatal(err)
	}
	if len(during) != 1 || !during[0].Unsure || during[0].Recipient != "wren@printer.example" || during[0].N != 1 {
		t.Errorf("while it goes out: %+v", during)
	}
	if after := list(); len(after) != 1 || after[0].Unsure {
		t.Errorf("once it is out: %+v", after)
	}
}
