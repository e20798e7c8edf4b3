package records

import (
	"fmt"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const inWS = "marrowby"

// ws is somebody without a name who may do everything, elsewhere the same in another workspace, as somebody with a name.
var (
	ws        = access.OfProgram(inWS, "")
	elsewhere = access.OfProgram("other", "")
)

func as(name string) access.Actor {
	return access.Actor{Kind: access.Person, ID: "id of " + name, Name: name, Workspace: inWS, Role: access.Editor}
}

// clock moves only when told to.
type clock struct{ t time.Time }

func (c *clock) now() time.Time { return c.t }

func open(t *testing.T) (*Records, *code.Store, *clock) {
	t.Helper()
	c := &clock{time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)}
	s := code.New(ground.Ground{DB: dbtest.Open(t), Now: c.now, Seal: sealtest.Box(t)}, proof.Panel{}, "test")
	for _, id := range []string{inWS, "other"} {
		if _, err := s.EnsureWorkspace(t.Context(), id, id); err != nil {
			t.Fatal(err)
		}
	}
	return Of(s), s, c
}

func create(t *testing.T, s *code.Store, name, url string) string {
	t.Helper()
	m, problems := compose.Parse(
		[]byte(
			fmt.Sprintf(
				`{"name":%q,"content":{"kind":"url","url":%q},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`,
				name,
				url,
			),
		),
		nil,
	)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	id, err := s.Create(t.Context(), ws, m, "Bulb Fair 2027")
	if err != nil {
		t.Fatal(err)
	}
	return id
}
