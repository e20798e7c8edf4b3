package batches

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol/detect"
	"sodrik/internal/core/table"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var editor = access.Actor{Kind: access.Person, ID: "p1", Name: "Ada Pell", Workspace: "marrowby", Role: access.Editor}

// eye reads what our own detector finds.
type eye struct{}

func (eye) Name() string   { return "eye" }
func (eye) Family() string { return "own" }
func (eye) Read(_ context.Context, pictures []*image.Gray) []proof.Answer {
	out := make([]proof.Answer, len(pictures))
	for i, p := range pictures {
		for _, found := range detect.Find(p, 1) {
			out[i].Payloads = append(out[i].Payloads, found.Payload)
		}
	}
	return out
}

func store(t *testing.T) *Store {
	t.Helper()
	codes := code.New(ground.Ground{DB: dbtest.Open(t), Now: time.Now, Seal: sealtest.Box(t)},
		proof.Panel{Readers: []proof.Reader{eye{}}, Families: []string{"own"}}, "eye")
	codes.Brief = true
	if _, err := codes.EnsureWorkspace(t.Context(), "marrowby", "Marrowby"); err != nil {
		t.Fatal(err)
	}
	return &Store{Codes: codes}
}

func rows(t *testing.T, text string) *table.Rows {
	t.Helper()
	r, err := table.Open(t.Context(), strings.NewReader(text), table.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return r
}

const seeds = "SKU;Variety;Link\nMB-1;Leek;https://marrowby.example/1\nMB-2;Kale;https://marrowby.example/2\n" +
	"MB-2;Bean;https://marrowby.example/3\nMB-4;Beet;no address\nMB-5;Pea;https://marrowby.example/" // and more

func made(t *testing.T, s *Store, text string) (id string) {
	t.Helper()
	id, err := s.Create(
		t.Context(),
		editor,
		Ask{Name: "Plant labels", Campaign: "Spring", Rows: rows(t, text), Source: "seeds.csv"},
	)
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func got(t *testing.T, s *Store, id string) (*Batch, []Row) {
	t.Helper()
	b, err := s.Get(t.Context(), editor, id)
	if err != nil {
		t.Fatal(err)
	}
	all, err := s.Rows(t.Context(), editor, id, Filter{})
	if err != nil {
		t.Fatal(err)
	}
	return b, all
}

func TestCreateAndMend(t *testing.T) {
	s := store(t)
	id := made(t, s, seeds+strings.Repeat("x", 120)+"\n")
	b, all := got(t, s, id)
	if b.Rows != 5 || b.Bad != 2 || b.Stale != 0 || b.Campaign != "Spring" || b.Plan.Kind() != "url" ||
		b.Plan.At("/content/url") != "{Link}" {
		t.Fatalf("%+v", b)
	}
	if list, err := s.List(t.Context(), editor); err != nil || len(list) != 1 || list[0].Rows != 5 || list[0].Bad != 2 ||
		list[0].Stale != 0 || len(list[0].Sorts) != 2 {
		t.Errorf("listed as %+v, %v", list[0], err)
	}
	if left, err := s.Unfinished(t.Context(), 10); err != nil || len(left) != 1 { // its proofs
		t.Error(left, err)
	}
	if r := all[0]; r.State != Good || r.Says != "https://marrowby.example/1" || r.Reserve != 1 || r.Line.Key == "" {
		t.Errorf("%+v", r)
	}
	if r := all[2]; r.State != Bad || r.Problems[0].Code != "batch.double" {
		t.Errorf("%+v", r)
	}
	if r := all[3]; r.State != Bad || r.Problems[0].Field != "/content/url" {
		t.Errorf("%+v", r)
	}
	if len(b.Sorts) != 2 || b.Sorts[0].Codes != 2 || b.Sorts[0].Row != 1 || b.Sorts[1].Codes != 1 || b.Sorts[1].Row != 5 {
		t.Errorf("%+v", b.Sorts)
	}
	for range b.Sorts {
		if more, err := s.Prove(t.Context(), "marrowby", id); err != nil || !more {
			t.Fatal(more, err)
		}
	}
	if more, err := s.Prove(t.Context(), "marrowby", id); err != nil || more {
		t.Fatal(more, err)
	}
	if b, _ = got(t, s, id); b.Sorts[0].Verdict == "" || b.Sorts[1].Verdict == "" {
		t.Errorf("%+v", b.Sorts)
	}
	if err := s.Mend(t.Context(), editor, id, 4, "/content/url", "https://marrowby.example/4"); err != nil {
		t.Fatal(err)
	}
	if b, all = got(t, s, id); all[3].State != Good || b.Bad != 1 || all[3].Own["/content/url"] == "" ||
		b.Sorts[0].Verdict == "" {
		t.Errorf("%+v %+v", b, all[3])
	}
	if err := s.Mend(t.Context(), editor, id, 4, "/content/url", "no address"); err != nil {
		t.Fatal(err)
	}
	if _, all = got(t, s, id); all[3].State != Bad || len(all[3].Own) != 0 {
		t.Errorf("the plan's own text is nothing of one's own: %+v", all[3])
	}
	var l problem.List
	if err := s.Mend(t.Context(), editor, id, 4, "/content/tags/source", "x"); !errors.As(err, &l) {
		t.Error(err)
	}
	if err := s.Mend(t.Context(), editor, id, 9, "/content/url", "x"); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	if n, err := s.Drop(t.Context(), editor, id, nil); err != nil || n != 2 {
		t.Error(n, err)
	}
	if b, _ = got(t, s, id); b.Rows != 3 || b.Bad != 0 {
		t.Errorf("%+v", b)
	}
}

func TestPlan(t *testing.T) {
	s := store(t)
	id := made(t, s, "SKU;Variety\nMB-1;Leek\nMB-2;Kale\n")
	set := func(path, text string) error { return s.Set(t.Context(), editor, id, path, text) }
	for _, c := range [][2]string{{"/kind", "url"}, {"/set/content/url", "https://marrowby.example/v/{SKU}"}, {"/set/name",
		"{variety} {sku}"},
		{"/line", "{variety}"}, {"/file", "{sku}"}, {"/same", "true"}, {"/formats", "svg, png"}, {"/sheet/sheet", "a4-3x7"},
		{"/sheet/order", "stack"}, {"/job/placements/0/width_mm", "30 mm"}, {"/look", "sampler"}, {"/name", "Labels"},
		{"/campaign", "Fair"},
		{"/sheet/sheet", "own"}, {"/sheet/gap_y_mm", "0.1"}} {
		if c[0] == "/look" {
			continue
		}
		if err := set(c[0], c[1]); err != nil {
			t.Fatal(c, err)
		}
	}
	b, all := got(t, s, id)
	if all[0].Says != "https://marrowby.example/v/MB-1" || all[1].Name != "Kale MB-2" || b.Campaign != "Fair" ||
		b.Name != "Labels" ||
		b.Plan.Line != "{variety}" ||
		strings.Join(b.Formats, " ") != "svg png" ||
		b.Least == 0 {
		t.Errorf("%+v %+v", b, all)
	}
	if setting := b.Setting(); setting.Key != "own" || setting.LabelWidth != 63.5 || setting.GapY != 0.1 ||
		setting.Order != "stack" {
		t.Errorf("%+v", setting)
	}
	for path, text := range map[string]string{"/set/content/url": "{lot}", "/line": "{lot}", "/formats": "bmp",
		"/sheet/across":  "9",
		"/sheet/nothing": "1", "/kind": "dynamic", "/key": "lot", "/name": "", "/job/placements/0/width_mm": "wide",
		"/look":    "gone",
		"/nothing": "x"} {
		t.Run(path, func(t *testing.T) {
			var l problem.List
			if err := set(path, text); !errors.As(err, &l) {
				t.Errorf("%s: %v", path, err)
			}
		})
	}
	if again, _ := got(t, s, id); again.Rev != b.Rev {
		t.Error("what was refused has changed the plan")
	}
	// what was chosen by hand is known the next time
	if err := set("/set/placements/0/words/headline", "{Variety}"); err != nil {
		t.Fatal(err)
	}
	next, err := s.Create(
		t.Context(),
		editor,
		Ask{Name: "Again", Rows: rows(t, "SKU;Variety\nMB-1;Leek\nMB-2;Kale\n"), Kind: "url"},
	)
	if err != nil {
		t.Fatal(err)
	}
	if b, _ := got(t, s, next); b.Plan.At("/placements/0/words/headline") != "{Variety}" {
		t.Errorf("%+v", b.Plan.Set)
	}
}

func TestUpdate(t *testing.T) {
	s := store(t)
	id := made(
		t,
		s,
		"SKU;Variety;Link\nMB-1;Leek;https://marrowby.example/1\nMB-2;Kale;https://marrowby.example/2\nMB-3;Pea;https://marrowby.example/3\n",
	)
	if err := s.Set(t.Context(), editor, id, "/key", "SKU"); err != nil {
		t.Fatal(err)
	}
	u, err := s.Update(t.Context(), editor, id, rows(t, "Link,SKU,Variety,Bed\nhttps://marrowby.example/2,MB-2,Kale,4\n"+
		"https://marrowby.example/33,MB-3,Pea,4\nhttps://marrowby.example/4,MB-4,Beet,5\nhttps://marrowby.example/5,MB-4,Beet,5\n"))
	if err != nil || u.New != 1 || u.Changed != 2 || u.Same != 0 || u.Bad != 1 || len(u.Gone) != 1 || u.Gone[0] != "MB-1" {
		t.Fatalf("%+v %v", u, err) // MB-2 has a bed now
	}
	b, all := got(t, s, id)
	if b.Rows != 4 || all[0].Says != "https://marrowby.example/1" || all[2].Says != "https://marrowby.example/33" ||
		all[3].Key != "MB-4" || len(b.Columns) != 4 {
		t.Errorf("%+v %+v", b.Columns, all)
	}
	var l problem.List
	if _, err := s.Update(t.Context(), editor, id, rows(t, "SKU,Variety\nMB-1,Leek\n")); !errors.As(err, &l) ||
		!strings.Contains(l[0].Message, "no column Link") {
		t.Error(err)
	}
}

func TestToDesk(t *testing.T) {
	s := store(t)
	id := made(t, s, "SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\n")
	desk, err := s.ToDesk(t.Context(), editor, id, 2)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := s.ToDesk(t.Context(), editor, id, 2); err != nil || again != desk {
		t.Error(again, err)
	}
	if _, err := s.Codes.Edit(t.Context(), editor, desk, code.Edit{Path: "/content/url",
		Text: "https://marrowby.example/two", Base: -1}); err != nil {
		t.Fatal(err)
	}
	if err := s.Set(t.Context(), editor, id, "/same", "true"); err != nil { // any change makes rows again
		t.Fatal(err)
	}
	if _, all := got(t, s, id); all[1].Code != desk || all[1].Says != "https://marrowby.example/two" || all[0].Code != "" {
		t.Errorf("%+v", all)
	}
}

// taken makes files and takes them.
func taken(t *testing.T, s *Store, id, as string) (*Run, string, []byte) {
	t.Helper()
	run, err := s.Start(t.Context(), editor, id, as)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	name := ""
	if err := s.Take(t.Context(), editor, run, false, func(_ *Run, n string) io.Writer { name = n; return &out }); err != nil {
		r, _ := s.Run(t.Context(), editor, run)
		t.Fatal(err, r)
	}
	r, err := s.Run(t.Context(), editor, run)
	if err != nil {
		t.Fatal(err)
	}
	return r, name, out.Bytes()
}

func TestRuns(t *testing.T) {
	s := store(t)
	text := "SKU;Link\n"
	for i := range 450 {
		text += fmt.Sprintf("MB-%03d;https://marrowby.example/%d\n", i+1, i+1)
	}
	id := made(t, s, text+"MB-500;nothing\n")
	if b, _ := got(t, s, id); b.Rows != 451 || b.Bad != 1 {
		t.Fatalf("%+v", b)
	}
	r, name, file := taken(t, s, id, AsZip)
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil || name != "plant-labels.zip" || r.Parts != 4 || r.Made != 450 || r.Taken == nil {
		t.Fatalf("%v %s %+v", err, name, r)
	}
	if n := len(z.File); n != 451 || z.File[0].Name != "mb-001.svg" || z.File[449].Name != "mb-450.svg" ||
		z.File[450].Name != "rows.csv" {
		t.Error(n, z.File[0].Name)
	}
	list, _ := z.File[450].Open()
	all, err := io.ReadAll(list)
	if err != nil || strings.Count(string(all), "\n") != 452 || !strings.Contains(string(all), "mb-450.svg") ||
		!strings.Contains(string(all), "MB-500") {
		t.Error(err, string(all[:200]))
	}
	if err := s.Set(t.Context(), editor, id, "/sheet/sheet", "a4-4x10"); err != nil {
		t.Fatal(err)
	}
	var l problem.List
	if _, err := s.Start(t.Context(), editor, id, AsSheets); !errors.As(err, &l) || l[0].Field != "/placements/0/width_mm" {
		t.Fatal(err)
	}
	width, ok, err := s.Fit(t.Context(), editor, id)
	if err != nil || !ok || width < 16 || width > 21.4 {
		t.Fatal(width, ok, err)
	}
	if err := s.Set(t.Context(), editor, id, "/job/placements/0/width_mm", fmt.Sprint(width)); err != nil {
		t.Fatal(err)
	}
	drawn := 0
	s.Back = Back{Sheet: func(_ context.Context, path string, page int, dpi float64) (image.Image, error) {
		drawn++
		out := filepath.Join(t.TempDir(), "page")
		n := fmt.Sprint(page)
		if b, err := exec.Command("pdftoppm", "-r", fmt.Sprint(dpi), "-f", n, "-l", n, "-singlefile", "-gray", path,
			out).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%w: %s", err, b)
		}
		return readPGM(out + ".pgm")
	}, Texts: func(ctx context.Context, pictures []*image.Gray) (out [][]string, err error) {
		for _, a := range (eye{}).Read(ctx, pictures) {
			out = append(out, a.Payloads)
		}
		return out, nil
	}}
	r, name, file = taken(t, s, id, AsSheets)
	if name != "plant-labels.pdf" || !bytes.HasPrefix(file, []byte("%PDF-1.4")) || drawn < 6 ||
		!strings.Contains(r.Note, "read back from the file") {
		t.Errorf("%s %+v %d", name, r, drawn)
	}
	s.Back.Texts = func(_ context.Context, pictures []*image.Gray) ([][]string, error) {
		return make([][]string, len(pictures)), nil
	}
	run, err := s.Start(t.Context(), editor, id, AsSheets)
	if err != nil {
		t.Fatal(err)
	}
	if r, err := s.Run(t.Context(), editor, run); err != nil || r.State != Unread ||
		!strings.Contains(r.Note, "do not read back") {
		t.Errorf("%+v %v", r, err)
	}
	none := func(*Run, string) io.Writer { return io.Discard }
	if err := s.Take(t.Context(), editor, run, false, none); !errors.As(err, &l) {
		t.Error(err)
	}
	if err := s.Take(t.Context(), editor, run, true, none); err != nil {
		t.Error(err)
	}
	if runs, err := s.Runs(t.Context(), editor, id); err != nil || len(runs) != 3 {
		t.Error(len(runs), err)
	}
}

// readPGM reads a picture of poppler's.
func readPGM(path string) (image.Image, error) {
	b, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	var w, h, most int
	r := bytes.NewReader(b)
	if _, err := fmt.Fscanf(r, "P5\n%d %d\n%d\n", &w, &h, &most); err != nil {
		return nil, err
	}
	img := image.NewGray(image.Rect(0, 0, w, h))
	_, err = io.ReadFull(r, img.Pix)
	return img, err
}

// TestStopped: what is stopped goes on where it was, and is there once.
func TestStopped(t *testing.T) {
	s := store(t)
	text := "SKU;Link\n"
	for i := range 250 {
		text += fmt.Sprintf("MB-%03d;https://marrowby.example/%d\n", i+1, i+1)
	}
	id := made(t, s, text)
	s.Queue = nowhere{}
	run, err := s.Start(t.Context(), editor, id, AsZip)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Part(t.Context(), "marrowby", run, 0); err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(t.Context(), editor, run); err != nil {
		t.Fatal(err)
	}
	if err := s.Part(t.Context(), "marrowby", run, 1); err != nil {
		t.Fatal(err)
	}
	r, err := s.Run(t.Context(), editor, run)
	if err != nil || r.State != Stopped || r.Made != 200 {
		t.Fatalf("%+v %v", r, err)
	}
	// as after a process that was killed in the middle of the second part: pieces without an end
	for piece := range 3 {
		if _, err := s.Codes.DB.Pool.Exec(t.Context(), `INSERT INTO batch_pieces (workspace, run, part, piece, data)
			VALUES ('marrowby', $1, 1, $2, 'half')`, run, piece); err != nil {
			t.Fatal(err)
		}
	}
	s.Queue = nil
	if err := s.Continue(t.Context(), editor, run); err != nil {
		t.Fatal(err)
	}
	for range 2 { // again, as after a process that died before it could say so
		if err := s.Part(t.Context(), "marrowby", run, 1); err != nil {
			t.Fatal(err)
		}
	}
	var out bytes.Buffer
	if err := s.Take(t.Context(), editor, run, false, func(*Run, string) io.Writer { return &out }); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil || len(z.File) != 251 {
		t.Fatal(err, len(z.File))
	}
	// a plan that was changed since is not mixed with the old one
	s.Queue = nowhere{}
	if run, err = s.Start(t.Context(), editor, id, AsZip); err != nil {
		t.Fatal(err)
	}
	s.Queue = nil
	if err := s.Set(t.Context(), editor, id, "/set/name", "{SKU} x"); err != nil {
		t.Fatal(err)
	}
	if err := s.Part(t.Context(), "marrowby", run, 0); err != nil {
		var l problem.List
		if !errors.As(err, &l) {
			t.Fatal(err)
		}
	}
	if r, err := s.Run(t.Context(), editor, run); err != nil || r.State != Failed ||
		!strings.Contains(r.Note, "start it again") {
		t.Errorf("%+v %v", r, err)
	}
}

// TestWalls: another workspace finds nothing of a batch, whatever it tries.
func TestWalls(t *testing.T) {
	s := store(t)
	if _, err := s.Codes.EnsureWorkspace(t.Context(), "other", "Other"); err != nil {
		t.Fatal(err)
	}
	id := made(t, s, "SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\n")
	run, err := s.Start(t.Context(), editor, id, AsZip)
	if err != nil {
		t.Fatal(err)
	}
	other, ctx := access.Actor{Kind: access.Person, ID: "p2", Name: "B", Workspace: "other", Role: access.Owner}, t.Context()
	one := func(_ any, err error) error { return err }
	for name, err := range map[string]error{
		"get": one(s.Get(ctx, other, id)), "row": one(s.Row(ctx, other, id, 1)), "mend": s.Mend(ctx, other, id, 1,
			"/content/url", "x"),
		"set": s.Set(ctx, other, id, "/line", "x"), "drop": one(s.Drop(ctx, other, id, nil)), "retire": s.Retire(ctx, other,
			id, true),
		"desk": one(s.ToDesk(ctx, other, id, 1)), "update": one(s.Update(ctx, other, id, rows(t, "SKU;Link\nMB-1;x\n"))),
		"start": one(s.Start(ctx, other, id, AsZip)), "run": one(s.Run(ctx, other, run)),
		"take":  s.Take(ctx, other, run, true, func(*Run, string) io.Writer { return io.Discard }),
		"drawn": one(s.Drawn(ctx, other, id, Filter{}))} {
		t.Run(name, func(t *testing.T) {
			if !errors.Is(err, ErrNotFound) {
				t.Errorf("%s: %v", name, err)
			}
		})
	}
	if all, err := s.List(ctx, other); err != nil || len(all) != 0 {
		t.Error(len(all), err)
	}
	if all, err := s.Rows(ctx, other, id, Filter{}); err != nil || len(all) != 0 {
		t.Error(len(all), err)
	}
	if runs, err := s.Runs(ctx, other, id); err != nil || len(runs) != 0 {
		t.Error(len(runs), err)
	}
	if err := s.Stop(ctx, other, run); err != nil {
		t.Error(err)
	}
	if r, err := s.Run(ctx, editor, run); err != nil || r.State != Done {
		t.Errorf("%+v %v", r, err)
	}
}

// TestSheetsAreKept: a sheet of own measures, and the shift of a printer on it, are there again in the next batch.
func TestSheetsAreKept(t *testing.T) {
	s := store(t)
	text := "SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\n"
	set := func(id string, fields ...string) {
		t.Helper()
		for i := 0; i < len(fields); i += 2 {
			if err := s.Set(t.Context(), editor, id, "/sheet/"+fields[i], fields[i+1]); err != nil {
				t.Fatal(fields[i], err)
			}
		}
	}
	id := made(t, s, text)
	set(id, "sheet", "own", "label_width_mm", "60", "printer", "Office", "shift_x_mm", "0.5")
	if _, err := s.Start(t.Context(), editor, id, AsSheets); err != nil {
		t.Fatal(err)
	}
	own, printers, err := s.Sheets(t.Context(), editor)
	if err != nil || len(own) != 1 || own[0].Name != "210 × 297 mm, 3 × 8 labels of 60 × 37 mm" || len(printers) != 1 {
		t.Fatal(own, printers, err)
	}
	next := made(t, s, text)
	set(next, "printer", "Office", "sheet", own[0].ID)
	if b, _ := got(t, s, next); b.Setting().LabelWidth != 60 || b.Setting().ShiftX != 0.5 {
		t.Errorf("%+v", b.Setting())
	}
	set(next, "printer", "Shop")
	if b, _ := got(t, s, next); b.Setting().LabelWidth != 60 || b.Setting().ShiftX != 0 {
		t.Errorf("another printer has a shift of its own: %+v", b.Setting())
	}
	set(next, "printer", "Office")
	if b, _ := got(t, s, next); b.Setting().ShiftX != 0.5 {
		t.Errorf("%+v", b.Setting())
	}
	var l problem.List
	if err := s.Set(t.Context(), editor, next, "/sheet/sheet", "own-none"); !errors.As(err, &l) {
		t.Error(err)
	}
}
