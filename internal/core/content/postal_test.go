package content

import (
	"testing"

	"sodrik/internal/core/patch"
)

// TestPostal: an address in one line is read as people of each country write it, and written so that it is read as the same.
func TestPostal(t *testing.T) {
	for text, want := range map[string]PostalAddress{
		"1 Orchard Lane, Ludlow SY8 1AA": {Street: "1 Orchard Lane", City: "Ludlow",
			Postcode: "SY8 1AA"},
		"1 Orchard Lane, Ludlow, SY8 1AA, United Kingdom": {Street: "1 Orchard Lane", City: "Ludlow", Postcode: "SY8 1AA", Country: "United Kingdom"},
		"The Old Barn\n1 Orchard Lane\r\nLudlow  SY8 1AA": {Street: "The Old Barn, 1 Orchard Lane", City: "Ludlow", Postcode: "SY8 1AA"},
		"Lindenweg 4, 80331 München, Deutschland":         {Street: "Lindenweg 4", City: "München", Postcode: "80331", Country: "Deutschland"},
		"Kerkstraat 12, 1017 GC Amsterdam": {Street: "Kerkstraat 12", City: "Amsterdam",
			Postcode: "1017 GC"},
		"9 rue des Jardins, F-75011 Paris": {Street: "9 rue des Jardins", City: "Paris",
			Postcode: "75011"},
		"40 Mill Street, Springfield, OR 97477, USA":                 {Street: "40 Mill Street", City: "Springfield, OR", Postcode: "97477", Country: "USA"},
		"1 Orchard Lane, Ludlow SY8 1AA, Shropshire, United Kingdom": {Street: "1 Orchard Lane", City: "Ludlow", Postcode: "SY8 1AA", Region: "Shropshire", Country: "United Kingdom"},
		"Ludlow SY8 1AA":                        {City: "Ludlow", Postcode: "SY8 1AA"},
		" , 1 Orchard Lane,, Ludlow SY8 1AA , ": {Street: "1 Orchard Lane", City: "Ludlow", Postcode: "SY8 1AA"},
	} {
		t.Run(text, func(t *testing.T) {
			got, ok := ParsePostal(text)
			if !ok || got != want {
				t.Errorf("%+v, %v; want %+v", got, ok, want)
			}
			if again, ok := ParsePostal(got.OneLine()); !ok || again != got {
				t.Errorf("%q is read as %+v", got.OneLine(), again)
			}
		})
	}
	for _, text := range []string{"", "Ludlow", "1 Orchard Lane, Ludlow", "SY8 1AA", "80331", ",\n,"} {
		if got, ok := ParsePostal(text); ok {
			t.Errorf("%q is taken for %+v", text, got)
		}
	}
}

// TestPostalTyped: an address that is typed in one line fills the fields, and leaves what is not an address alone.
func TestPostalTyped(t *testing.T) {
	var draft any = map[string]any{"content": map[string]any{"kind": "contact", "given": "Åsa",
		"address": map[string]any{"region": "Shropshire"}}}
	p, bad := putPostal(draft, "/content/address/line", "Lindenweg 4, 80331 München")
	if bad != nil {
		t.Fatal(bad)
	}
	draft, _, err := p.Apply(draft)
	if err != nil {
		t.Fatal(err)
	}
	if v, _ := patch.Get(draft, "/content/address"); len(v.(map[string]any)) != 3 ||
		v.(map[string]any)["street"] != "Lindenweg 4" {
		t.Errorf("%v", v)
	}
	if got := showPostal(draft, ""); got != "Lindenweg 4, 80331 München" {
		t.Errorf("shown as %q", got)
	}
	for text, want := range map[string]string{"Lindenweg 4, 80331 München": "Street Lindenweg 4, town München, postcode 80331.",
		"Ludlow SY8 1AA, Shropshire, Wales": "Town Ludlow, postcode SY8 1AA, county Shropshire, country Wales.", "somewhere": ""} {
		if got := notePostal(text, nil); got != want {
			t.Errorf("%q is said to be %q", text, got)
		}
	}
	if _, bad := putPostal(draft, "/content/address/line", "somewhere"); bad == nil || bad.Field != "/content/address/line" {
		t.Error(bad)
	}
}

func FuzzPostal(f *testing.F) {
	f.Add("1 Orchard Lane, Ludlow SY8 1AA, United Kingdom")
	f.Add("40 Mill Street, Springfield, OR 97477, USA")
	f.Fuzz(func(t *testing.T, text string) {
		a, ok := ParsePostal(text)
		if !ok && a != (PostalAddress{}) || ok && (a.City == "" || a.Postcode == "") {
			t.Errorf("%q is %+v, %v", text, a, ok)
		}
	})
}
