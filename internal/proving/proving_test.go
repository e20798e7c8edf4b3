package proving

import (
	"context"
	"errors"
	"image"
	"sync/atomic"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/proof"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var ws = access.OfProgram("marrowby", "")

// teller reads in every picture what it is told to, and counts how often it is asked.
type teller struct {
	payload string
	err     error
	asked   atomic.Int32
}

func (r *teller) Name() string   { return "teller" }
func (r *teller) Family() string { return "own" }
func (r *teller) Read(_ context.Context, pictures []*image.Gray) []proof.Answer {
	r.asked.Add(1)
	out := make([]proof.Answer, len(pictures))
	for i := range out {
		out[i] = proof.Answer{Payloads: []string{r.payload}, Err: r.err}
	}
	return out
}

func open(t *testing.T) (*Prover, *teller, *compose.Rendition) {
	t.Helper()
	m, problems := compose.Parse(
		[]byte(
			`{"content":{"kind":"url","url":"marrowby.example/fair"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`,
		),
		nil,
	)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	d := dbtest.Open(t)
	if _, err := d.Pool.Exec(t.Context(),
		`INSERT INTO workspaces (id, name) VALUES ('marrowby', 'Marrowby'), ('other', 'Other')`); err != nil {
		t.Fatal(err)
	}
	r := &teller{payload: m.Payload}
	return &Prover{
		Ground: &ground.Ground{DB: d, Seal: sealtest.Box(t), Now: time.Now}, Brief: true,
		Panel: proof.Panel{Readers: []proof.Reader{r}, Families: []string{"own"}}, PanelVersion: "test",
	}, r, m
}

// TestProve: a proof is made once and kept for its workspace; the next set is added to it; another panel proves anew; what a
// reader could not do is not kept.
func TestProve(t *testing.T) {
	p, r, m := open(t)
	prove := func(actor access.Actor, upto proof.Stage) *proof.Proof {
		t.Helper()
		out, err := p.Prove(t.Context(), actor, m, 0, upto)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	asked := func(what string, want bool) {
		t.Helper()
		if got := r.asked.Swap(0) > 0; got != want {
			t.Errorf("%s: the reader was asked: %v", what, got)
		}
	}
	r.err = errors.New("no space left on device")
	if out := prove(ws, proof.Hard); out.Verdict != proof.Unknown || out.Has(proof.Hard) {
		t.Errorf("a broken reader: %+v", out)
	}
	asked("broken", true)
	r.err = nil
	if out := prove(ws, proof.Ordinary); out.Verdict != proof.Safe || out.Has(proof.Hard) {
		t.Errorf("%+v", out)
	}
	asked("after the repair", true)
	prove(ws, proof.Ordinary)
	asked("again", false)
	if out := prove(ws, proof.Hard); !out.Has(proof.Hard) {
		t.Errorf("%+v", out)
	}
	asked("the next set", true)
	prove(access.OfProgram("other", ""), proof.Ordinary)
	asked("another workspace", true)
	p.PanelVersion = "newer"
	prove(ws, proof.Ordinary)
	asked("another panel", true)
	if _, err := p.Prove(t.Context(), access.Actor{Workspace: "marrowby"}, m, 0, proof.Ordinary); err == nil {
		t.Error("nobody proves")
	}
}

// TestUnkept: strangers get a verdict and files, and nothing of that is stored.
func TestUnkept(t *testing.T) {
	p, r, m := open(t)
	out, err := p.ProveUnkept(t.Context(), m, 0)
	if err != nil || out.Verdict != proof.Safe {
		t.Errorf("%+v %v", out, err)
	}
	file, reads, err := p.FileUnkept(t.Context(), m, 0, compose.MustFormat("svg"))
	if err != nil || !reads || len(file) == 0 {
		t.Errorf("%d bytes, reads %v, %v", len(file), reads, err)
	}
	r.payload = "something else"
	if _, reads, err := p.FileUnkept(t.Context(), m, 0, compose.MustFormat("png")); err != nil || reads {
		t.Errorf("a file that says something else is taken for right: %v", err)
	}
	var n int
	if err := p.DB.Pool.QueryRow(t.Context(), `SELECT count(*) FROM proofs`).Scan(&n); err != nil || n != 0 {
		t.Errorf("%d proofs are kept, %v", n, err)
	}
}

// TestReadBack: bytes that are no picture are not read; without a program that draws pages a PDF is taken as it is.
func TestReadBack(t *testing.T) {
	p, r, m := open(t)
	pdf, problems := m.File(compose.MustFormat("pdf"), m.Place(0), export.Meta{})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	for _, c := range []struct {
		name, format string
		file         []byte
		want         bool
	}{{"damaged PNG", "png", []byte("\x89PNG no more"), false}, {"damaged SVG", "svg", []byte("<svg"), false},
		{"PDF", "pdf", pdf, true}} {
		t.Run(c.name, func(t *testing.T) {
			if got, err := p.ReadBack(t.Context(), m, 0, compose.MustFormat(c.format), c.file); err != nil || got != c.want {
				t.Errorf("%s: %v, %v", c.name, got, err)
			}
		})
	}
	if r.asked.Load() != 0 {
		t.Error("a reader was asked for what cannot be drawn")
	}
}
