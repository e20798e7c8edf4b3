package led

import (
	"fmt"
	"reflect"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/route"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/desk/bound/boundtest"
	"sodrik/internal/web/forms"
)

var now = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)

func to(t *testing.T, url string) *leads.Lead {
	t.Helper()
	c, problems := content.New(map[string]any{"kind": "url", "url": url})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return leads.Of(c)
}

const jobFile = `{"content":{"kind":"dynamic","link":"go.marrowby.example/GATE"},"placements":[
	{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"till","width_mm":30,"distance_mm":300,"link":"go.marrowby.example/TILL"},
	{"name":"door","width_mm":60,"distance_mm":600}]}`

func TestOf(t *testing.T) {
	b := boundtest.Of(t, jobFile, nil)
	if v := Of(b, nil, nil, now, nil); v.Here {
		t.Errorf("a code that leads nowhere has the stub: %+v", v)
	}
	fair, shop := to(t, "marrowby.example/fair"), to(t, "shop.example")
	v := Of(b, &link.Led{Draft: fair, Rev: 3}, nil, now, func(a shortlink.Address) string { return "http://near/" + a.Path })
	if !v.Here || !v.Waiting || v.Rev != 3 || v.Line != "marrowby.example/fair · not live yet" ||
		v.To.Value != "https://marrowby.example/fair" || v.To.Below != "/lead" {
		t.Errorf("before it is handed over: %+v", v)
	}
	if len(v.Links) != 2 || v.Links[0].Where != "gate, door" || v.Links[0].Place != -1 || v.Links[1].Where != "till" ||
		v.Links[1].Place != 1 || v.Links[1].Try != "http://near/TILL" {
		t.Errorf("its links: %+v", v.Links)
	}

	live := &link.Version{N: 2, Lead: fair, At: now.Add(-time.Hour), Who: "Ada Thorne"}
	past := []link.Version{{N: 1, Lead: shop, At: now.Add(-48 * time.Hour), Who: "Ada Thorne"}}
	counted := map[string]scans.Count{"go.marrowby.example/GATE": {All: 1234, Day: 56}, "go.marrowby.example/TILL": {All: 1,
		Day: 1}}
	v = Of(b, &link.Led{Draft: fair, Live: live, Past: past}, counted, now, nil)
	if v.Waiting || v.Changed || v.Line != "marrowby.example/fair" ||
		v.Status != "Live since 1 March 2027, 08:00, by Ada Thorne." ||
		v.Links[0].Scans != "1,234 scans, 56 since yesterday" || v.Links[1].Scans != "1 scan" ||
		v.Links[0].Try != "https://go.marrowby.example/GATE" || len(v.Past) != 1 ||
		v.Past[0].Says != "shop.example" {
		t.Errorf("live: %+v", v)
	}
	v = Of(b, &link.Led{Draft: shop, Live: live}, nil, now, nil)
	if !v.Changed || v.NewHost != "shop.example" || v.Now.Offer.Strong != "marrowby.example" ||
		v.Then.Offer.Strong != "shop.example" ||
		v.Line != "marrowby.example/fair · draft" || v.Links[0].Scans != "no scan yet" || len(v.Differs) != 0 {
		t.Errorf("a draft beside what is live: %+v", v)
	}
	rest := *fair
	rest.Paused, rest.Words = true, "Back in spring."
	v = Of(b, &link.Led{Draft: &rest, Live: &link.Version{N: 3, Lead: &rest, At: now}}, nil, now, nil)
	if !v.Resting || v.Line != "marrowby.example/fair · paused" || v.Status != "Live since 1 March 2027, 09:00." {
		t.Errorf("paused: %+v", v)
	}
	v = Of(b, &link.Led{Draft: fair, Live: &link.Version{N: 3, Lead: &rest, At: now}}, nil, now, nil)
	if v.Now.Quiet != "Back in spring." || v.Then.Quiet != "" || !strings.Contains(strings.Join(v.Differs, " "), "It goes on.") {
		t.Errorf("a draft that goes on: %+v", v)
	}
}

// TestLegAtATime: what a phone gets is that of the moment.
func TestLegAtATime(t *testing.T) {
	web := func(url string) any { return map[string]any{"kind": "url", "url": url} }
	l, problems := leads.Read(map[string]any{"to": web("marrowby.example/fair"), "then": web("shop.example"),
		"from": "2027-03-01T10:00", "until": "2027-03-01T12:00", "timezone": "London"})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	for after, want := range map[time.Duration]string{59 * time.Minute: "marrowby.example", time.Hour: "shop.example",
		3*time.Hour - time.Second: "shop.example", 3 * time.Hour: "marrowby.example"} {
		t.Run(fmt.Sprint(after), func(t *testing.T) {
			if got := leg(l, now.Add(after)); got.Offer.Strong != want {
				t.Errorf("after %v: %+v", after, got)
			}
		})
	}
}

// TestTyped: a destination stands in its field as somebody would type it, and is read again as the same.
func TestTyped(t *testing.T) {
	for _, k := range content.Register() {
		if k.Stays != "" {
			continue
		}
		l, problems := leads.Read(map[string]any{"to": example(t, k)})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		values, bad := link.Destination(Typed(l.To), "GB")
		if bad != nil {
			t.Errorf("%s: %q is not taken: %v", k.Key, Typed(l.To), bad)
			continue
		}
		again, problems := content.New(values)
		if len(problems) > 0 || again.Kind() != k.Key {
			t.Errorf("%s: %q is taken for %v", k.Key, Typed(l.To), values)
		}
	}
	if Typed(nil) != "" {
		t.Error("nothing is typed as something")
	}
}

func example(t *testing.T, k *content.Kind) any {
	t.Helper()
	v, err := fields.Decode([]byte(k.Example))
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// TestKept: who made it live first looks after it, until another is named; who has left is said, and only those who may change it
// can be named.
func TestKept(t *testing.T) {
	members := []people.Member{{Person: people.Person{ID: "ada", Name: "Ada Thorne"}, Role: people.Owner},
		{Person: people.Person{ID: "idris", Name: "Idris Penn"}, Role: people.Editor},
		{Person: people.Person{ID: "bea", Name: "Bea Marsh"}, Role: people.Viewer}}
	for _, c := range []struct {
		l      link.Led
		keeper string
		left   bool
		on     int
	}{{link.Led{KeeperID: "idris", Keeper: "Idris P."}, "Idris Penn", false, 1},
		{link.Led{KeeperID: "gone", Keeper: "Tom Vale"}, "Tom Vale", true, -1},
		{link.Led{Keeper: "the demonstration"}, "the demonstration", false, -1}} {
		t.Run(fmt.Sprint(c.l), func(t *testing.T) {
			var v Leads
			v.Kept(&c.l, members)
			on := -1
			for i, k := range v.Keepers {
				if k.On {
					on = i
				}
			}
			if v.Keeper != c.keeper || v.Left != c.left || on != c.on || len(v.Keepers) != 2 {
				t.Errorf("%+v: %q, left %v, %+v", c.l, v.Keeper, v.Left, v.Keepers)
			}
		})
	}
}

// TestRouteFields: each field of the form of a route has a name and a label, and shows what the route holds.
func TestRouteFields(t *testing.T) {
	r := &leads.Route{Rule: route.Rule{ID: "r1", Near: "52.367,-2.718", Within: 5, Share: 0.25, Stock: 40, Yearly: true,
		Languages: []string{"cy"}, Where: []string{"GB"}, Hours: []string{"09:00-18:00"},
		Spans: []route.Span{{From: "2027-03-20T10:00"}}}}
	f := form("code", &leads.Lead{}, r, nil, nil, "UTC")
	v := reflect.ValueOf(*f)
	for i := range v.NumField() {
		field, is := v.Field(i).Interface().(forms.Field)
		if p, pointer := v.Field(i).Interface().(*forms.Field); pointer && p != nil {
			field, is = *p, true
		}
		if is && (field.Path == "" || field.Label == "" || field.ID == "" || field.Value == "" && field.Path != "to") {
			t.Errorf("%s is %+v", v.Type().Field(i).Name, field)
		}
	}
	if f.Near.Path != "near" || f.Within.Path != "within_km" || f.Within.Value != "5" {
		t.Errorf("%+v %+v", f.Near, f.Within)
	}
}

// TestTypedMessage: a message that fits a sentence stands as one; any other as its payload.
func TestTypedMessage(t *testing.T) {
	for body, want := range map[string]string{"GUIDE": "Text GUIDE to +44 113 496 0123",
		"one to two\nthree": "SMSTO:+441134960123:one to two\nthree"} {
		c, problems := content.New(map[string]any{"kind": "sms", "number": "+441134960123", "body": body})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		if got := Typed(c); got != want {
			t.Errorf("%q is typed as %q, want %q", body, got, want)
		}
	}
}
