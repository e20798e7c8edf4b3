package redirect

import (
	"net/http"
	"strings"

	"sodrik/internal/core/scan"
)

// reachedEach is how many reports of sites that are not signed are taken in a second, reachedAtOnce how many may come together.
const reachedEach, reachedAtOnce = 10, 200

// dot is a picture of one transparent dot (GIF89a), for pages that report by showing it.
const dot = "GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\x00\x00\x00!\xf9\x04\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;"

// reached takes what a site reports: that somebody who scanned a link reached what it is for. A page shows a picture, of which
// anybody can ask for any number, so it counts as unsigned; a server signs (scan.Sign). Nothing of whoever asks is kept. What
// cannot be taken is said, but in the place of a picture, where a page would look broken.
func (s *Service) reached(w http.ResponseWriter, r *http.Request, host string) {
	bad := func(status int, words string) { http.Error(w, words, status) }
	values := r.URL.Query()
	picture := values.Get("sign") == ""
	if picture {
		bad = func(int, string) {
			w.Header().Set("Content-Type", "image/gif")
			w.Write([]byte(dot))
		}
	}
	path := strings.ToUpper(strings.Trim(values.Get("scan"), "/ "))
	live := s.find(host + "/" + path)
	goal, err := scan.Goal(values.Get("goal"))
	switch {
	case live == nil || live.Trial:
		bad(http.StatusNotFound, "scan is no short link of this host.")
		return
	case err != nil:
		bad(http.StatusBadRequest, err.Error()+".")
		return
	}
	now := s.o.Now()
	signed, err := scan.Verify(s.key(live.Workspace), values, now)
	if err != nil {
		bad(http.StatusForbidden, err.Error()+".")
		return
	}
	if r.Method == http.MethodHead || !signed && !s.goals.Allow() { // a picture is shown all the same
		bad(http.StatusNoContent, "")
		return
	}
	e := scan.Event{Version: 1, ID: newID(now), At: now.UnixMilli(), Kind: scan.Reached, Link: host + "/" + path,
		Workspace: live.Workspace, Code: live.Code, Place: live.Place, Bare: true, Goal: goal, Signed: signed}
	if signed {
		e.ID, e.At = scan.SignedID(values)
	}
	kept := s.recorder.record(e, s.o.Wait)
	if !signed {
		bad(0, "")
		return
	}
	if !kept { // a server can ask again
		w.Header().Set("Retry-After", "1")
		bad(http.StatusServiceUnavailable, "It could not be kept. Report it again.")
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// key is that with which the servers of a workspace sign, nil for none.
func (s *Service) key(workspace string) []byte {
	if v, ok := s.houses.Load(workspace); ok {
		return v.(*house).Key
	}
	return nil
}
