package scanned

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/table"
	"sodrik/internal/ground"
)

// TestDownload: a download goes on when the time of other requests is over; one that fails before its first row says so, and one
// that fails later ends in the middle, so that nobody takes a part for the whole.
func TestDownload(t *testing.T) {
	h := &Handler{Codes: code.New(ground.Ground{Now: func() time.Time { return now }}, proof.Panel{}, "test")}
	get := func(kind string, rows func(r *http.Request, a asked, out table.Writer) error) (w *httptest.ResponseRecorder,
		aborted any) {
		over, cancel := context.WithCancel(t.Context())
		cancel()
		defer func() { aborted = recover() }()
		w = httptest.NewRecorder()
		h.download(rows, "scans", kind)(w, httptest.NewRequest(http.MethodGet, "/scans/days."+kind, nil).WithContext(over))
		return w, nil
	}
	two := func(r *http.Request, _ asked, out table.Writer) error {
		out.Head("day", "scans")
		return errors.Join(out.Row("2027-03-01", 1), out.Row("2027-03-02", 2), r.Context().Err())
	}
	for kind, want := range map[string]string{"csv": "day,scans\n2027-03-01,1\n2027-03-02,2\n",
		"json": "[\n{\"day\":\"2027-03-01\",\"scans\":1},\n{\"day\":\"2027-03-02\",\"scans\":2}\n]\n"} {
		t.Run(kind, func(t *testing.T) {
			w, aborted := get(kind, two)
			if got := w.Body.String(); got != want || aborted != nil ||
				!strings.Contains(w.Header().Get("Content-Disposition"), "scans-2027-02-28."+kind) {
				t.Errorf("%s: %q, %v, %v", kind, got, w.Header(), aborted)
			}
		})
	}
	bad := errors.New("the database is away")
	if w, aborted := get("csv", func(*http.Request, asked, table.Writer) error { return bad }); w.Code != 500 || aborted != nil ||
		w.Header().Get("Content-Disposition") != "" {
		t.Errorf("before the first row: %d, %v, %v", w.Code, w.Header(), aborted)
	}
	if _, aborted := get("json", func(_ *http.Request, _ asked, out table.Writer) error {
		out.Head("day")
		return errors.Join(out.Row("2027-03-01"), bad)
	}); aborted != http.ErrAbortHandler {
		t.Errorf("after the first row: %v", aborted)
	}
}
