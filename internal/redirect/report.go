package redirect

import (
	"net/http"
	"strings"
	"unicode"

	"sodrik/internal/client"
	"sodrik/internal/core/scan"
)

// reportsEach is how many reports are taken of a network within an hour.
const reportsEach = 20

// report takes what somebody has to say about a link, of which the owners are told. It is asked for by GET, as all is here:
// nothing but the words and the link is kept.
func (s *Service) report(w http.ResponseWriter, r *http.Request, host, whose string) {
	path := strings.ToUpper(strings.Trim(r.FormValue("of"), "/ "))
	live := s.find(host + "/" + path)
	if live == nil {
		s.missing(w, r, host, whose)
		return
	}
	why := plainWords(r.FormValue("why"))
	p := page{Title: "Report this code", Of: path, Most: scan.MaxWords,
		Lines: []string{"What is wrong with it? Whoever put it up is told. Nothing about you is kept."}}
	if why == "" || r.Method == http.MethodHead {
		s.show(w, http.StatusOK, live.Workspace, p)
		return
	}
	now := s.o.Now()
	if !s.reports.take(client.Of(r, s.o.Proxies), now) {
		p.Lines, p.Why = []string{"There were many reports from your network. Try again in an hour."}, why
		s.show(w, http.StatusTooManyRequests, live.Workspace, p)
		return
	}
	e := scan.Event{
		Version:   1,
		ID:        newID(now),
		At:        now.UnixMilli(),
		Kind:      scan.Report,
		Link:      host + "/" + path,
		Workspace: live.Workspace,
		Code:      live.Code,
		Place:     live.Place,
		Bare:      true,
		Words:     why,
	}
	s.recorder.record(e, s.o.Wait)
	s.show(w, http.StatusOK, live.Workspace, page{Title: "Thank you.", Lines: []string{"Whoever put it up is told."}})
}

// plainWords is a text without what cannot be seen, and no longer than is kept.
func plainWords(text string) string {
	text = strings.Map(func(r rune) rune {
		if r == '\n' || unicode.IsGraphic(r) && r != unicode.ReplacementChar {
			return r
		}
		return -1
	}, text)
	runes := []rune(strings.TrimSpace(text))
	return string(runes[:min(len(runes), scan.MaxWords)])
}
