package worker

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/db"
	"sodrik/internal/ground"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
)

const workspace = "marrowby"

var loader = access.OfProgram(workspace, "loader")

// fair reads in every picture what the code of the fair says.
type fair struct{}

func (fair) Name() string   { return "fair" }
func (fair) Family() string { return "own" }
func (fair) Read(_ context.Context, pictures []*image.Gray) []proof.Answer {
	out := make([]proof.Answer, len(pictures))
	for i := range out {
		out[i].Payloads = []string{"https://marrowby.example/fair"}
	}
	return out
}

// on is a worker of a database.
func on(d *db.DB, box *seal.Box) *Worker {
	if box == nil {
		var err error
		if box, err = seal.New(bytes.Repeat([]byte{7}, seal.KeySize)); err != nil {
			panic(err)
		}
	}
	s := code.New(ground.Ground{DB: d, Now: time.Now, Seal: box},
		proof.Panel{Readers: []proof.Reader{fair{}}, Families: []string{"own"}}, "fair")
	s.Brief = true
	return &Worker{Codes: s, People: &people.Store{DB: d, Now: time.Now, Seal: box}, Scans: &scans.Store{DB: d, Now: time.Now,
		Seal: box}}
}

// twoPlaces makes a code with two places.
func twoPlaces(t *testing.T, s *code.Store, url string) (id string) {
	t.Helper()
	if _, err := s.EnsureWorkspace(t.Context(), workspace, "Marrowby"); err != nil {
		t.Fatal(err)
	}
	m, problems := compose.Parse(fmt.Appendf(nil,
		`{"content":{"kind":"url","url":%q},"placements":[{"name":"gate","medium":"poster-a2"},{"name":"card","medium":"business-card"}]}`, url), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Create(t.Context(), loader, m, "")
	if err != nil {
		t.Fatal(err)
	}
	return id
}
