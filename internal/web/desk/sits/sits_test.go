package sits

import (
	"testing"

	"sodrik/internal/web/desk/bound/boundtest"
)

// TestSizes: width and distance ask of one another what the rule of a tenth says, unless they follow it already within a
// twentieth.
func TestSizes(t *testing.T) {
	for _, c := range []struct {
		name, place string
		want        []string
	}{
		{"too small", `"width_mm":20,"distance_mm":400`, []string{"40 mm wide", "from 200 mm"}},
		{"as it should be", `"width_mm":40,"distance_mm":400`, nil},
		{"within a twentieth", `"width_mm":41.9,"distance_mm":400`, nil},
		{"a little more", `"width_mm":42.1,"distance_mm":400`, []string{"40 mm wide", "from 421 mm"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := Of(
				boundtest.Of(
					t,
					`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"tent",`+c.place+`}]}`,
					nil,
				),
			)
			var got []string
			for _, a := range v.Sizes {
				got = append(got, a.Label)
			}
			if len(got) != len(c.want) || len(got) > 0 && (got[0] != c.want[0] || got[1] != c.want[1]) ||
				(v.Rule == "") != (c.want == nil) {
				t.Errorf("%q after %q, want %q", got, v.Rule, c.want)
			}
		})
	}
}

// TestPlaces: without a place the stub asks for one; with several the line names all.
func TestPlaces(t *testing.T) {
	if v := Of(boundtest.Of(t, `{"content":{"kind":"url","url":"marrowby.example"}}`, nil)); v.Line != "Where will it hang?" ||
		v.Fields() != nil ||
		len(v.Media) == 0 {
		t.Errorf("%q, %d fields, %d media", v.Line, len(v.Fields()), len(v.Media))
	}
	v := Of(
		boundtest.Of(
			t,
			`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"bag","width_mm":22,"distance_mm":200}]}`,
			nil,
		),
	)
	if v.Line != "gate 160 mm, from 1.5 m · bag 22 mm, from 200 mm" || len(v.Places) != 2 || !v.Places[0].Current ||
		v.Places[1].Current {
		t.Errorf("%q %+v", v.Line, v.Places)
	}
}
