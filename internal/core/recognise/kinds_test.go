package recognise

import (
	"testing"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
)

// TestEveryKind: what a code of any kind says, pasted, is taken for that kind first, where its payload tells the kind at all.
func TestEveryKind(t *testing.T) {
	for _, k := range content.Register() {
		if len(k.Takes) == 0 {
			continue
		}
		v, err := fields.Decode([]byte(k.Example))
		if err != nil {
			t.Fatal(err)
		}
		c, problems := content.New(v.(map[string]any))
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		list := Text(c.Payload(), "GB")
		if len(list) == 0 || list[0].Weak || list[0].Content == nil || list[0].Content.Kind() != k.Key {
			t.Errorf("%s: %q is taken for %+v", k.Key, c.Payload(), list[0])
		}
	}
}
