package api

import (
	"fmt"
	"strings"
	"testing"
)

// TestLeads goes the way of a dynamic code by the API alone; the outside validator holds each answer against the document.
func TestLeads(t *testing.T) {
	s := open(t)
	made, _ := expect[Code](s, 201, "POST", "/codes", `{"job":`+gate+`}`)
	path := "/codes/" + made.ID
	expect[Details](s, 404, "GET", path+"/lead", "")
	l, w := expect[Lead](s, 200, "POST", path+"/link", "")
	if len(l.Links) != 2 || l.Links[1].Places[0] != "card" || l.Live != nil || w.Header().Get("ETag") != `"1"` ||
		fmt.Sprint(l.Draft) != "map[to:map[kind:url url:https://marrowby.example/fair]]" {
		t.Errorf("%+v", l)
	}
	if x, _ := expect[Code](s, 200, "GET", path, ""); x.Payload != "HTTPS://"+strings.ToUpper(l.Links[0].Link) {
		t.Errorf("it says %s, and its link is %s", x.Payload, l.Links[0].Link)
	}
	expect[Details](s, 422, "POST", path+"/link", "") // it leads through one already
	expect[Details](s, 422, "POST", path+"/lead/live", "")
	expect[Version](s, 200, "POST", path+"/versions", "")
	if l, _ = expect[Lead](s, 200, "GET", path+"/lead", ""); l.Live == nil || l.Live.N != 1 || l.Live.Who != "Tamsin by test" {
		t.Errorf("%+v", l.Live)
	}

	const after = `{"to":{"kind":"url","url":"https://marrowby.example/bulbs"}}`
	l, w = expect[Lead](s, 200, "PUT", path+"/lead", after, "If-Match", `"1"`)
	if fmt.Sprint(l.Live.Lead) == fmt.Sprint(l.Draft) {
		t.Error("a draft is live at once")
	}
	expect[Details](s, 412, "PUT", path+"/lead", after, "If-Match", `"1"`)
	expect[Details](s, 412, "POST", path+"/lead/live", "", "If-Match", `"1"`)
	l, _ = expect[Lead](s, 200, "POST", path+"/lead/live", "", "If-Match", w.Header().Get("ETag"))
	if fmt.Sprint(l.Live.Lead) != fmt.Sprint(l.Draft) || l.Live.N != 2 || len(l.Past) != 1 {
		t.Errorf("%+v", l)
	}
	if l, _ = expect[Lead](s, 200, "POST", path+"/lead/back?n=1", ""); l.Live.N != 3 || l.Live.Back != 1 || len(l.Past) != 2 {
		t.Errorf("%+v", l)
	}
	expect[Details](s, 404, "POST", path+"/lead/back?n=9", "")
	for body, field := range map[string]string{
		`{"to":{"kind":"wifi","ssid":"Shed","security":"open"}}`:        "/to",
		`{"to":{"kind":"url","url":"javascript:x"}}`:                    "/to",
		`{"to":{"kind":"url","url":"https://` + l.Links[0].Link + `"}}`: "/to",
		`{"to":{"kind":"url","url":"a.example"},"ends":"soon"}`:         "/ends",
		`{"to":{"kind":"url","url":"a.example"},"colour":"blue"}`:       "/colour", `{}`: "/to", `[]`: "",
	} {
		if d, _ := expect[Details](s, 422, "PUT", path+"/lead", body); len(d.Problems) == 0 || d.Problems[0].Field != field {
			t.Errorf("%s: %+v", body, d)
		}
	}
	if all, _ := expect[Links](s, 200, "GET", "/links", ""); len(all.Links) != 2 || all.Links[0].Does != "go" ||
		all.Links[0].To != "https://marrowby.example/fair" || all.Links[0].Code != made.ID {
		t.Errorf("all links are %+v", all)
	}
	expect[Details](s, 422, "PUT", path+"/lead/file?name=guide.pdf", "<html>", "Content-Type", "application/pdf")
	l, _ = expect[Lead](s, 200, "PUT", path+"/lead/file?name=Guide.pdf", "%PDF-1.7\n", "Content-Type", "application/pdf")
	if to := fmt.Sprint(l.Draft); !strings.Contains(to, "/guide.pdf") {
		t.Errorf("with a file it is to lead to %s", to)
	}
	if x, _ := expect[Code](s, 200, "DELETE", path+"/link", ""); !strings.HasSuffix(x.Payload, "/guide.pdf") {
		t.Errorf("turned back it says %s", x.Payload)
	}
}
