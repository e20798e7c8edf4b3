package e2e

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// token makes a token of the API by hand, on the account page.
func (a *app) token(t *testing.T) string {
	t.Helper()
	p := a.page(t, "/account")
	fill(p, "#token-name", "browser test")
	for _, box := range p.MustElements("input[name=scope]") {
		box.MustClick()
	}
	wait := nextPage(t, p)
	p.MustElementR("button", "Make a token").MustClick()
	wait()
	text := p.MustElement("#new-token").MustText()
	p.MustNavigate(a.url + "/account").MustWaitLoad()
	until(t, p, "the token not shown again",
		`(text) => !document.body.innerHTML.includes(text) && document.body.innerText.includes("browser test")`, text)
	return text
}

func (a *app) call(t *testing.T, token, method, path, body string) (int, []byte) {
	t.Helper()
	r, err := http.NewRequest(method, a.url+"/api/v1"+path, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Authorization", "Bearer "+token)
	w, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer w.Body.Close()
	b, err := io.ReadAll(w.Body)
	if err != nil {
		t.Fatal(err)
	}
	return w.StatusCode, b
}

// TestSameBytes: the same job by page, API and command line gives byte for byte the same file, and the same words where it
// is wrong.
func TestSameBytes(t *testing.T) {
	t.Parallel()
	a := open(t)
	token := a.token(t)
	dir := t.TempDir()
	sodrik := filepath.Join(dir, "sodrik")
	if _, err := os.ReadDir("../cmd/sodrik"); err != nil { // so that Go keeps no result once this is another
		t.Fatal(err)
	}
	if out, err := exec.Command("go", "build", "-ldflags=-s -w", "-o", sodrik, "../cmd/sodrik").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	const job = `{"name":"Same bytes","content":{"kind":"url","url":"marrowby.example/same?x=ü"},"look":{"ink":"#12352b"},"placements":[{"name":"gate","medium":"poster-a2"}]}`
	status, answer := a.call(t, token, "POST", "/codes", `{"job":`+job+`}`)
	var made struct{ ID string }
	if err := json.Unmarshal(answer, &made); status != 201 || err != nil {
		t.Fatalf("%d %s", status, answer)
	}
	p := a.page(t, "/codes/"+made.ID)
	p.MustElement("[data-stub=ships]").MustClick()
	for _, format := range []string{"svg", "pdf", "png"} {
		_, byPage := download(t, p, func() { takeFile(p, strings.ToUpper(format)) })
		_, byDraw := a.call(t, token, "POST", "/draw?format="+format, job)
		_, byVersion := a.call(t, token, "GET", "/codes/"+made.ID+"/versions/1/file?format="+format, "")
		file := filepath.Join(dir, "out."+format)
		cmd := exec.Command(sodrik, "draw", "-", "-o", file)
		cmd.Stdin = strings.NewReader(job)
		if out, err := cmd.CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		byCommand, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		if len(byPage) < 500 || !bytes.Equal(byPage, byDraw) || !bytes.Equal(byPage, byVersion) ||
			!bytes.Equal(byPage, byCommand) {
			t.Errorf("%s: page %d bytes, draw %d, version %d, command line %d; they are not the same", format, len(byPage),
				len(byDraw), len(byVersion), len(byCommand))
		}
	}
	const wrong = `{"content":{"kind":"url","url":"javascript:alert(1)"}}`
	_, refusal := a.call(t, token, "POST", "/encode", wrong)
	var d struct {
		Problems []struct{ Field, Message string }
	}
	if err := json.Unmarshal(refusal, &d); err != nil || len(d.Problems) != 1 || d.Problems[0].Field != "/content/url" {
		t.Fatalf("%s", refusal)
	}
	cmd := exec.Command(sodrik, "encode", "-")
	cmd.Stdin = strings.NewReader(wrong)
	out, _ := cmd.CombinedOutput()
	if want := "content.url: " + d.Problems[0].Message + "\n"; string(out) != want {
		t.Errorf("the command line says %q, the API %q", out, want)
	}
	p.MustElement("[data-stub=says]").MustClick()
	fill(p, "#f-content-url", "javascript:alert(1)")
	hasText(t, p, "#e-f-content-url", d.Problems[0].Message)
}

// TestReferencePage runs an example of the API from its page.
func TestReferencePage(t *testing.T) {
	t.Parallel()
	a := open(t)
	token := a.token(t)
	p := a.page(t, "/api")
	fill(p, "#api-token", token)
	p.MustElement("#encode button").MustClick()
	hasText(t, p, "#encode [data-answer]", `"payload": "https://marrowby.example/fair"`)
	p.MustElement("#draw button").MustClick()
	hasText(t, p, "#draw [data-answer]", "<svg")
	fill(p, "#listCodes-q", "foxglove")
	p.MustElement("#listCodes button").MustClick()
	hasText(t, p, "#listCodes [data-answer]", "Foxglove Lanterne")
	fill(p, "#api-token", "sodrik_wrong")
	p.MustElement("#encode button").MustClick()
	hasText(t, p, "#encode [data-answer]", "The token is not known")
}
