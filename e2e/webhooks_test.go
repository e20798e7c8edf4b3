package e2e

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	standardwebhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"sodrik/internal/standin"
)

// TestWebhooks: an address is added, tried, told of what is handed over with a signature that holds under the key on
// the page, and of what it does not answer the page says when the next call is made.
func TestWebhooks(t *testing.T) {
	t.Parallel()
	a := open(t)
	type call struct {
		header http.Header
		body   []byte
	}
	got, status := make(chan call, 100), http.StatusNoContent
	far := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		w.WriteHeader(status)
		got <- call{r.Header, body}
	}))
	defer far.Close()
	p := a.page(t, "/webhooks")
	go_ := func(words string) {
		wait := nextPage(t, p)
		p.MustElementR("main button", words).MustClick()
		wait()
	}
	p.MustElement("#address").MustInput("ftp://stock.marrowby.example")
	go_("Add it")
	hasText(t, p, "#e-address", "The address must begin with https://")
	if typed := p.MustElement("#address").MustProperty("value").Str(); typed != "ftp://stock.marrowby.example" {
		t.Errorf("what was typed is %q now", typed)
	}
	p.MustElement("#address").MustSelectAllText().MustInput(far.URL + "/in")
	go_("Add it")
	hasText(t, p, "#e-kinds", "What is told: none is chosen")
	p.MustElementR("label", "A version is handed over").MustClick()
	go_("Add it")
	hasText(t, p, "[role=status]", "The address is told from now on.")
	row := p.MustElementR("tr", far.URL)
	row.MustElement("summary").MustEval(`() => this.click()`)
	reader, err := standardwebhooks.NewWebhook(row.MustElement("code").MustText())
	if err != nil {
		t.Fatal(err)
	}
	next := func(kind string) []byte {
		for {
			select {
			case c := <-got:
				if err := reader.Verify(c.body, c.header); err != nil {
					t.Error(err)
				}
				if strings.Contains(string(c.body), kind) {
					return c.body
				}
			case <-time.After(time.Minute):
				t.Fatalf("nothing of %s arrives", kind)
			}
		}
	}
	wait := nextPage(t, p)
	row.MustElementR("button", "Send a test").MustClick()
	wait()
	next(`"type":"test"`)
	hasText(t, p, "#calls", "It answered 204 within")

	desk := a.create(t, `{"name":"Told of","content":{"kind":"url","url":"https://marrowby.example/told"}}`)
	q := a.page(t, desk)
	download(t, q, func() { q.MustElement("#hand-over").MustClick() })
	id := strings.TrimPrefix(desk, "/codes/")
	for found := false; !found; {
		var m struct {
			Data struct {
				Versions []struct {
					Code, Name string
					Version    int
				}
			}
		}
		if err := json.Unmarshal(next("versions.issued"), &m); err != nil {
			t.Fatal(err)
		}
		for _, v := range m.Data.Versions { // others hand over too
			found = found || v.Code == id && v.Name == "Told of" && v.Version == 1
		}
	}
	status = http.StatusInternalServerError
	p.MustNavigate(a.url + "/webhooks").MustWaitLoad()
	wait = nextPage(t, p)
	p.MustElementR("tr", far.URL).MustElementR("button", "Send a test").MustClick()
	wait()
	hasText(t, p, "#calls", "It answered 500. Given up.")
	hasText(t, p, ".hooks", "It took nothing since")
	wait = nextPage(t, p)
	p.MustElementR("tr", far.URL).MustElementR("button", "Pause").MustClick()
	wait()
	hasText(t, p, ".hooks", "Paused since")
	// One that does not open any more, as after a server's key was lost, says so, and can still be taken away.
	broken := p.MustElementR("tr", far.URL).MustElement("[name=id]").MustProperty("value").Str()
	err = a.store.DB.InWorkspace(t.Context(), standin.Workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(t.Context(), `UPDATE webhooks SET address = '\x00' WHERE id = $1`, broken)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	p.MustReload().MustWaitLoad()
	hasText(t, p, ".hooks", "does not open with the key of this server")
	wait = nextPage(t, p)
	p.MustElementR("tr", "does not open").MustElementR("button", "Take away").MustClick()
	wait()
	hasText(t, p, "[role=status]", "Taken away.")
	if p.MustHasR("tr", "does not open") {
		t.Error("it stands there still")
	}
}
