package code

import (
	"fmt"
	"testing"
	"time"

	"sodrik/internal/core/compose"
)

// TestProducts: each product once, whatever says it, under the name of the code that was changed last; none out of use.
func TestProducts(t *testing.T) {
	s, c := open(t)
	var ids []string
	for _, job := range []string{
		`{"name":"Foxglove","content":{"kind":"gs1link","gtin":"09521234500018","lot":"A1"}}`,
		`{"name":"Kale","content":{"kind":"gs1data","elements":"(01)09521234500025(10)A1209"}}`,
		`{"name":"Foxglove, large","content":{"kind":"gs1link","gtin":"9521234500018"}}`,
		`{"name":"A pallet","content":{"kind":"gs1data","elements":"(00)395212345000000019"}}`,
		`{"name":"Fair","content":{"kind":"url","url":"https://marrowby.example/01/09521234500032"}}`,
		`{"name":"Leek","content":{"kind":"gs1link","gtin":"09521234500032"}}`,
	} {
		m, problems := compose.Parse([]byte(job), nil)
		if len(problems) > 0 {
			t.Fatal(job, problems)
		}
		id, err := s.Create(t.Context(), ws, m, "")
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
		c.t = c.t.Add(time.Second)
	}
	if _, err := s.SetStates(t.Context(), ws, ids[5:], Retired); err != nil {
		t.Fatal(err)
	}
	list, err := s.Products(t.Context(), ws)
	if got := fmt.Sprint(list); err != nil || got != "[{09521234500018 Foxglove, large} {09521234500025 Kale}]" {
		t.Errorf("%s, %v", got, err)
	}
}
