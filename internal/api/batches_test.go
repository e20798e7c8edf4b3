package api

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
)

// TestBatches goes the way of a batch by the API alone, each operation once; the outside validator holds each answer against the
// document.
func TestBatches(t *testing.T) {
	s := open(t)
	const rows = "SKU;Variety;Link\nMB-1;Leek;https://marrowby.example/1\nMB-2;Kale;https://marrowby.example/2\nMB-3;Pea;no address\n"
	b, w := expect[Batch](s, 201, "POST", "/batches?name=Plant+labels&campaign=Spring", rows, "Content-Type", "text/csv")
	path := "/batches/" + b.ID
	if b.Rows != 3 || b.Bad != 1 || b.Stale != 0 || b.Kind != "url" || b.Set["/content/url"] != "{Link}" || b.Key != "SKU" ||
		b.Campaign != "Spring" || w.Header().Get("Location") != "/api/v1"+path || len(b.Sizes) != 1 || b.Sizes[0].Codes != 2 {
		t.Errorf("%+v", b)
	}
	if all, _ := expect[Batches](s, 200, "GET", "/batches", ""); len(all.Batches) != 1 || all.Batches[0].ID != b.ID {
		t.Errorf("%+v", all)
	}
	b, _ = expect[Batch](s, 200, "PATCH", path, `{"/set/content/url": "https://marrowby.example/p/{SKU}", "/set/name": "{Variety}"}`)
	if b.Bad != 0 || b.Set["/name"] != "{Variety}" {
		t.Errorf("%+v", b)
	}
	for body, field := range map[string]string{`{"/set/content/url": "{lot}"}`: "/set/content/url",
		`{"/nothing": "x"}`: "/nothing",
		`null`:              "", `[]`: "", `{"/line": 7}`: ""} {
		t.Run(body, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "PATCH", path, body); len(d.Problems) == 0 || d.Problems[0].Field != field {
				t.Errorf("%s: %+v", body, d)
			}
		})
	}
	page, _ := expect[BatchRows](s, 200, "GET", path+"/rows?limit=2", "")
	if len(page.Rows) != 2 || page.Next != 2 || page.Rows[0].Says != "https://marrowby.example/p/MB-1" ||
		page.Rows[1].Name != "Kale" {
		t.Errorf("%+v", page)
	}
	if page, _ = expect[BatchRows](s, 200, "GET", path+"/rows?after=2&state=good", ""); len(page.Rows) != 1 || page.Next != 0 {
		t.Errorf("%+v", page)
	}
	expect[Details](s, 422, "GET", path+"/rows?limit=0", "")
	u, _ := expect[BatchUpdate](s, 200, "PUT", path+"/rows", "SKU;Variety;Link\nMB-1;Leek;x\nMB-4;Beet;y\n", "Content-Type", "text/csv")
	if u.New != 1 || u.Changed != 1 || len(u.Gone) != 2 {
		t.Errorf("%+v", u)
	}
	f, w := expect[BatchFiles](s, 202, "POST", path+"/files?as=zip", "")
	if w.Header().Get("Location") != "/api/v1"+path+"/files/"+f.ID || f.Labels != 4 {
		t.Errorf("%+v", f)
	}
	if f, _ = expect[BatchFiles](s, 200, "GET", path+"/files/"+f.ID, ""); f.State != "done" || f.Made != 4 {
		t.Errorf("%+v", f)
	}
	got := s.send("GET", path+"/files/"+f.ID+"/file", "")
	z, err := zip.NewReader(bytes.NewReader(got.Body.Bytes()), int64(got.Body.Len()))
	if err != nil || len(z.File) != 5 || got.Header().Get("Content-Type") != "application/zip" {
		t.Errorf("%d %v %v", got.Code, err, got.Header())
	}
	f, _ = expect[BatchFiles](s, 202, "POST", path+"/files?as=pages", "")
	if got = s.send("GET", path+"/files/"+f.ID+"/file", ""); got.Code != 200 || !strings.HasPrefix(got.Body.String(), "%PDF") {
		t.Error(got.Code)
	}
	expect[Details](s, 422, "POST", path+"/files?as=song", "")
	expect[Details](s, 404, "GET", path+"/files/none", "")
	expect[Details](s, 404, "GET", "/batches/none", "")
	expect[Details](s, 404, "GET", "/batches/none/rows", "")
	expect[Details](s, 422, "POST", "/batches?name=Nothing", " \n", "Content-Type", "text/csv")
	expect[Details](s, 422, "POST", "/batches", rows, "Content-Type", "text/csv")
}
