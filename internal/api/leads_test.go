package api

import (
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/core/leads"
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
		`{"to":{"kind":"url","url":"javascript:x"}}`:                    "/to/url",
		`{"to":{"kind":"url","url":"https://` + l.Links[0].Link + `"}}`: "/to",
		`{"to":{"kind":"url","url":"a.example"},"ends":"soon"}`:         "/ends",
		`{"to":{"kind":"url","url":"a.example"},"colour":"blue"}`:       "/colour", `{}`: "/to", `[]`: "",
	} {
		t.Run(body, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "PUT", path+"/lead", body); len(d.Problems) == 0 || d.Problems[0].Field != field {
				t.Errorf("%s: %+v", body, d)
			}
		})
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

// TestRoutes: by the API routes are kept, and it is asked who is sent where; a job file that says where its link leads makes a
// code with links of its own.
func TestRoutes(t *testing.T) {
	s := open(t)
	const lead = `{"to":{"kind":"url","url":"https://marrowby.example/fair"},"timezone":"London","language":"English","routes":[
		{"where":["Wales"],"languages":["Welsh"],"to":{"kind":"url","url":"https://marrowby.example/cy/ffair"}},
		{"hours":["09:00-18:00"],"to":{"kind":"phone","number":"+44 113 496 0123"}}]}`
	made, _ := expect[Code](s, 201, "POST", "/codes", `{"job":{"name":"Fair","content":{"kind":"dynamic",
		"link":"go.elsewhere.example/SOME"},"lead":`+lead+`,"placements":[{"name":"gate","width_mm":160,"distance_mm":1500,
		"link":"go.elsewhere.example/OTHER"},{"name":"till","width_mm":30,"distance_mm":300}]}}`)
	path := "/codes/" + made.ID
	l, _ := expect[Lead](s, 200, "GET", path+"/lead", "")
	if len(l.Links) != 2 || strings.Contains(fmt.Sprint(l.Links, made.Payload), "ELSEWHERE") || l.Live != nil {
		t.Errorf("its links are %v", l.Links)
	}
	draft := fmt.Sprint(l.Draft)
	for _, part := range []string{"where:[Wales (GB)]", "languages:[cy]", "hours:[09:00-18:00]", "language:en",
		"timezone:Europe/London", "id:r1", "id:r2"} {
		t.Run(part, func(t *testing.T) {
			if !strings.Contains(draft, part) {
				t.Errorf("the draft lacks %s: %s", part, draft)
			}
		})
	}
	for query, want := range map[string]string{
		"where=Newtown,+Wales&languages=cy,en&at=2027-03-20T08:00": "r1 go https://marrowby.example/cy/ffair",
		"where=Newtown,+Wales&languages=en,cy&at=2027-03-20T08:00": " go https://marrowby.example/fair",
		"at=2027-03-20T17:59": "r2 ask tel:+441134960123",
	} {
		t.Run(query, func(t *testing.T) {
			w, _ := expect[leads.Who](s, 200, "GET", path+"/lead/who?"+query, "")
			if o := w.Outcomes[0]; len(w.Outcomes) != 1 || fmt.Sprintf("%s %s %s", o.Route, o.Does, o.To) != want {
				t.Errorf("%s: %+v, want %s", query, w, want)
			}
		})
	}
	for query, field := range map[string]string{"where=Walles": "/where", "languages=Klingonish": "/languages",
		"at=soon": "/at"} {
		t.Run(query, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "GET", path+"/lead/who?"+query, ""); len(d.Problems) != 1 ||
				d.Problems[0].Field != field {
				t.Errorf("%s: %+v", query, d)
			}
		})
	}
	if d, _ := expect[Details](s, 422, "PUT", path+"/lead", strings.Replace(lead, "09:00", "25:00",
		1)); d.Problems[0].Field != "/routes/1/hours" {
		t.Errorf("%+v", d)
	}
	fixed, _ := expect[Code](s, 201, "POST", "/codes", `{"job":`+gate+`}`)
	expect[Details](s, 404, "GET", "/codes/"+fixed.ID+"/lead/who", "")
	for job, field := range map[string]string{
		`{"content":{"kind":"url","url":"a.example"},"lead":` + lead + `}`:                                                 "/job/lead",
		`{"content":{"kind":"dynamic","link":"go.a.example/SOME"},"lead":{"routes":[]}}`:                                   "/job/lead/to",
		`{"content":{"kind":"dynamic","link":"go.a.example/SOME"},"lead":` + strings.Replace(lead, "Welsh", "xx", 1) + `}`: "/job/lead/routes/0/languages",
	} {
		t.Run(job, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "POST", "/codes", `{"job":`+job+`}`); d.Problems[0].Field != field {
				t.Errorf("%s: %+v", job, d.Problems)
			}
		})
	}
}
