package look

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// placeField declares the field under which x and y of a part, which stand at half and half unless they are given, are typed as
// one, in percent. at is its pointer.
func placeField(called, at, hint string) schema.Field {
	part := strings.TrimSuffix(at, "/place")
	return schema.Field{Key: "place", Typed: true, Called: "place of the " + called, Label: "Position", Hint: hint,
		Put: func(_ any, path, typed string) (patch.Patch, *problem.Problem) {
			of := strings.FieldsFunc(typed, func(r rune) bool { return strings.ContainsRune(", ;%", r) })
			var to [2]float64
			ok := len(of) == 2
			for i := 0; ok && i < 2; i++ {
				var f float64
				f, ok = measure.ParseDecimal(of[i])
				to[i] = math.Round(f*1e4) / 1e6
			}
			if !ok {
				return nil, &problem.Problem{
					Field:   path,
					Code:    called + ".place",
					Message: fmt.Sprintf("%q is no place; write percent from the left and from the top, such as 50, 50", typed),
				}
			}
			return append(patch.Set(part+"/x", to[0]), patch.Set(part+"/y", to[1])...), nil
		},
		Show: func(draft any, _ string) string {
			if _, ok := patch.Get(draft, part); !ok {
				return ""
			}
			percent := func(path string) string {
				v, ok := patch.Get(draft, path)
				if !ok {
					v = 0.5
				}
				return (&schema.Field{Type: schema.Share}).Format(v)
			}
			return percent(part+"/x") + ", " + percent(part+"/y")
		}}
}
