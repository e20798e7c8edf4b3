package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/access"
)

// Who may use a route: everybody, everybody signed in, or roles. Every route of the router must stand here.
const (
	everybody = "stranger outsider printer viewer editor owner"
	signedUp  = "outsider printer viewer editor owner"
	forFiles  = "printer viewer editor owner"
	forLook   = "viewer editor owner"
	forChange = "editor owner"
	forOwner  = "owner"
)

// routes says who may use which route. own marks routes that show a workspace's own things to whoever belongs to one:
// an outsider gets an answer there, but nothing of ours in it.
var routes = map[string]struct {
	may string
	own bool
}{
	"GET /": {everybody, false}, "GET /bench": {everybody, false}, "POST /bench": {everybody, false},
	"POST /bench/proof": {everybody, false}, "POST /bench/file": {everybody, false}, "GET /static/*": {everybody, false},
	"GET /healthz": {everybody, false}, "GET /readyz": {everybody, false},
	"GET /sign-in": {everybody, false}, "POST /sign-in": {everybody, false}, "POST /enter": {everybody, false},
	"POST /sign-out": {everybody, false},
	"GET /forgot":    {everybody, false}, "POST /forgot": {everybody, false}, "GET /mailbox": {signedUp, true},
	"GET /new-password/{secret}": {everybody, false}, "POST /new-password/{secret}": {everybody, false},
	"GET /first/{secret}": {everybody, false}, "POST /first/{secret}": {everybody, false},
	"GET /invitation/{secret}": {everybody, false}, "POST /invitation/{secret}": {everybody, false},
	"GET /account": {signedUp, true}, "POST /account/password": {signedUp, true}, "POST /account/end": {signedUp, true},
	"POST /account/workspace": {signedUp, true},
	"POST /passkey/ask":       {everybody, false}, "POST /passkey/use": {everybody, false},
	"POST /account/passkey/new": {signedUp, true}, "POST /account/passkey/add": {signedUp, true},
	"POST /account/passkey/remove": {signedUp, true},
	"POST /account/token":          {signedUp, true}, "POST /account/revoke": {signedUp, true}, "GET /api": {forLook, true},
	// The API asks for a token, whoever is signed in; its own test tries tokens.
	"GET /api/v1/openapi.json": {everybody, false}, "POST /api/v1/encode": {"", false}, "POST /api/v1/draw": {"", false},
	"POST /api/v1/prove": {"", false}, "POST /api/v1/read": {"", false},
	"GET /api/v1/codes": {"", false}, "POST /api/v1/codes": {"", false}, "GET /api/v1/codes/{id}": {"", false},
	"PATCH /api/v1/codes/{id}":     {"", false},
	"POST /api/v1/codes/{id}/link": {"", false}, "DELETE /api/v1/codes/{id}/link": {"", false},
	"GET /api/v1/links": {
		"",
		false,
	}, "GET /api/v1/scans": {"", false}, "GET /api/v1/scans/events": {"", false}, "PUT /api/v1/codes/{id}/lead/file": {"", false},
	"GET /api/v1/codes/{id}/lead/who": {"", false},
	"GET /api/v1/codes/{id}/lead":     {"", false}, "PUT /api/v1/codes/{id}/lead": {"", false},
	"POST /api/v1/codes/{id}/lead/live": {"", false}, "POST /api/v1/codes/{id}/lead/back": {"", false},
	"GET /api/v1/batches": {"", false}, "POST /api/v1/batches": {"", false}, "GET /api/v1/batches/{id}": {"", false},
	"PATCH /api/v1/batches/{id}": {"", false}, "GET /api/v1/batches/{id}/rows": {"", false},
	"PUT /api/v1/batches/{id}/rows": {"", false}, "POST /api/v1/batches/{id}/files": {"", false},
	"GET /api/v1/batches/{id}/files/{run}": {"", false}, "GET /api/v1/batches/{id}/files/{run}/file": {"", false},
	"POST /api/v1/codes/{id}/versions": {"", false}, "GET /api/v1/codes/{id}/versions/{n}": {"", false},
	"GET /api/v1/codes/{id}/versions/{n}/file": {"", false},
	"GET /people": {forOwner, true}, "POST /people/invite": {forOwner, true}, "POST /people/withdraw": {forOwner, true},
	"POST /people/role": {forOwner, true},
	"GET /codes":        {forFiles, true}, "POST /find": {forLook, true}, "POST /paste/png": {forLook, true},
	"POST /codes": {forChange, true}, "GET /codes/many": {forChange, true}, "POST /codes/many": {forChange, true},
	"POST /codes/many/undo": {forChange, true}, "POST /codes/many/files": {forChange, true},
	"GET /new/of/{pattern}": {forChange, true}, "POST /new/of/{pattern}": {forChange, true},
	"POST /new/of/{pattern}/open": {forChange, true}, "POST /codes/{id}/link": {forChange, false},
	"POST /style/links": {forChange, true}, "POST /style/links/remove": {forChange, true},
	"GET /icons": {forLook, true}, "GET /towns": {forLook, true}, "GET /identifiers": {forLook, true},
	"POST /identifiers": {forLook, true}, "GET /new/{kind}": {forChange, true}, "POST /new/{kind}": {forChange, true},
	"POST /new/{kind}/open": {forChange, true}, "POST /new/{kind}/png": {forChange, true},
	"GET /codes/{id}/peek": {forLook, false}, "POST /codes/{id}/duplicate": {forChange, false},
	"POST /codes/{id}/retire": {forChange, false}, "POST /codes/{id}/restore": {forChange, false},
	"GET /codes/{id}": {forLook, false}, "PATCH /codes/{id}": {forChange, false}, "POST /codes/{id}/fix": {forChange, false},
	"POST /codes/{id}/campaign": {forChange, false},
	"POST /codes/{id}/undo":     {forChange, false}, "GET /codes/{id}/undo": {forChange, false},
	"POST /style/back": {forChange, true}, "POST /codes/{id}/redo": {forChange, false},
	"POST /destinations": {forChange, true}, "GET /leaving": {forLook, true}, "POST /leaving/pack": {forOwner, true},
	"POST /leaving/rehearse": {forOwner, true}, "POST /leaving/everything": {forOwner, true},
	"GET /out": {forLook, true}, "GET /out.csv": {forLook, true}, "GET /webhooks": {forOwner, true},
	"POST /webhooks": {forOwner, true},
	"GET /hosts":     {forOwner, true}, "POST /hosts": {forOwner, true},
	"GET /batches": {forLook, true}, "GET /batches/new": {forChange, true}, "POST /batches": {forChange, true},
	"GET /batches/{id}": {forLook, false}, "GET /batches/{id}/state": {forLook, false}, "GET /batches/{id}/rows": {forLook,
		false},
	"GET /batches/{id}/outlines.pdf": {forLook, false}, "GET /batches/{id}/runs/{run}": {forLook, false},
	"POST /batches/{id}/set": {forChange, false}, "POST /batches/{id}/fit": {forChange, false},
	"POST /batches/{id}/rows/{n}": {forChange, false}, "POST /batches/{id}/rows/{n}/desk": {forChange, false},
	"POST /batches/{id}/drop": {forChange, false}, "POST /batches/{id}/undo": {forChange, false},
	"POST /batches/{id}/again": {forChange, false},
	"GET /batches/{id}/few":    {forLook, false}, "POST /batches/{id}/opens": {forChange, false},
	"POST /batches/{id}/links":  {forChange, false},
	"POST /batches/{id}/live":   {forChange, false},
	"POST /batches/{id}/retire": {forChange, false}, "POST /batches/{id}/runs": {forChange, false},
	"POST /batches/{id}/runs/{run}/{act}": {forChange, false},
	"GET /batches/{id}/taken":             {forLook, false}, "POST /batches/{id}/printed": {forChange, false},
	"GET /scans": {forLook, true}, "GET /scans/days.csv": {forLook, true},
	"GET /scans/days.json": {forLook, true}, "GET /scans/events.csv": {forLook, true}, "GET /scans/events.json": {forLook, true},
	"GET /codes/{id}/scans": {forLook, false}, "GET /scans/overview": {forLook, true}, "GET /scans/overview.pdf": {forLook, true},
	"POST /scans/overview": {forChange, true}, "POST /scans/overview/withdraw": {forChange, true},
	"GET /overview/{token}": {everybody, false}, "GET /overview/{token}/pdf": {everybody, false},
	"GET /scans/settings": {
		forOwner,
		true,
	}, "POST /scans/settings": {forOwner, true}, "POST /scans/notices": {forChange, true}, "GET /scans/now": {forLook, true},
	"GET /moving": {forOwner, true}, "POST /moving": {forOwner, true},
	"POST /codes/{id}/turn": {forChange, false}, "PATCH /codes/{id}/lead": {forChange, false},
	"GET /codes/{id}/routes": {forLook, false}, "GET /codes/{id}/routes/if": {forLook, false},
	"GET /codes/{id}/routes/week": {forLook, false}, "POST /codes/{id}/routes": {forChange, false},
	"POST /codes/{id}/routes/{act}": {forChange, false},
	"POST /codes/{id}/lead":         {forChange, false}, "POST /codes/{id}/lead/{act}": {forChange, false},
	"POST /codes/file": {
		forChange,
		true,
	}, "POST /codes/{id}/keeper": {forChange, false},
	"POST /codes/{id}/hanging": {forChange, false}, "POST /codes/{id}/lead/file": {forChange, false},
	"POST /codes/{id}/word":   {forChange, false},
	"POST /codes/{id}/places": {forChange, false}, "POST /codes/{id}/places/remove": {forChange, false},
	"GET /style": {forLook, true}, "GET /style/kit": {forLook, true}, "GET /style/looks/*": {forLook, false},
	"POST /style/colours": {forChange, true}, "POST /style/colours/remove": {forChange, true},
	"POST /style/marks": {forChange, true}, "POST /style/marks/remove": {forChange, true},
	"POST /style/typefaces": {forChange, true}, "POST /style/typefaces/add": {forChange, true},
	"POST /style/looks/wear": {forChange, false}, "POST /style/looks/rename": {forChange, false},
	"POST /style/looks/remove": {forChange, true}, "POST /style/rules": {forOwner, true}, "GET /style/first": {forOwner, true},
	"POST /style/first": {forOwner, true}, "POST /style/kit": {forOwner, true},
	"GET /codes/{id}/looks": {forLook, false}, "GET /codes/{id}/looks/verdict": {forLook, false},
	"POST /codes/{id}/look": {forChange, false}, "POST /codes/{id}/looks": {forChange, false},
	"GET /codes/{id}/variations": {forLook, false}, "GET /codes/{id}/variations/{seed}/{k}": {forLook, false},
	"GET /codes/{id}/damage": {forLook, false}, "GET /codes/{id}/frames": {forLook, false},
	"GET /codes/{id}/eyes":     {forLook, false},
	"POST /codes/{id}/printed": {forChange, false}, "GET /codes/{id}/evidence": {forLook, false},
	"GET /codes/{id}/proof-sheet": {forLook, false}, "GET /codes/{id}/phone": {forLook, false},
	"POST /codes/{id}/phone": {forChange, false}, "GET /codes/{id}/print": {forLook, false},
	"POST /codes/{id}/print": {forChange, false}, "GET /codes/{id}/evidence/{condition}": {forLook, false},
	"POST /codes/{id}/try": {forChange, false}, "POST /codes/{id}/mark": {forChange, false}, "POST /api/v1/assets": {"", false},
	"GET /codes/{id}/proof": {forLook, false}, "GET /codes/{id}/issued": {forLook, false},
	"GET /codes/{id}/changes": {forLook, false},
	"GET /codes/{id}/history": {forLook, false}, "GET /codes/{id}/compare": {forLook, false},
	"POST /codes/{id}/return": {forChange, false},
	"GET /codes/{id}/camera":  {forLook, false}, "GET /codes/{id}/picture/{name}": {forLook, false},
	"POST /codes/{id}/ship": {forChange, false},
	"POST /codes/{id}/mail": {forChange, false}, "POST /codes/{id}/address": {forChange, false},
	"POST /codes/{id}/address/remove": {forChange, true}, "POST /codes/{id}/show/{how}": {forChange, false},
	"GET /shown/{token}": {everybody, false}, "GET /shown/{token}/{name}": {everybody, false},
	"GET /mailbox/{mail}/{k}": {signedUp, false},
	"GET /codes/{id}/borne":   {forLook, false}, "GET /batches/{id}/hardest": {forLook, false},
	"GET /codes/{id}/in-place": {forLook, false}, "GET /codes/{id}/plates": {forLook, false},
	"GET /codes/{id}/artwork/{place}": {forLook, false}, "POST /codes/{id}/artwork": {forChange, false},
	"POST /codes/{id}/artwork/page": {forChange, false},
	"POST /codes/{id}/move":         {forChange, false}, "POST /codes/{id}/medium": {forChange, false},
	"GET /codes/{id}/least":                       {forLook, false},
	"GET /codes/{id}/versions/{n}/{place}/print":  {forFiles, false},
	"GET /codes/{id}/versions/{n}/{place}/screen": {forFiles, false},
	"POST /style/media/remove":                    {forChange, true}, "POST /style/names": {forChange, true},
	"GET /codes/{id}/versions/{n}": {forFiles, false}, "GET /codes/{id}/versions/{n}/{place}/{name}": {forFiles, false},
}

// TestAccess tries every route of the router as a stranger, as somebody from another workspace, and as each role. A route
// without an expectation fails it.
func TestAccess(t *testing.T) {
	s := open(t)
	form := url.Values{"text": {"marrowby.example/x"}, "path": {"/name"}, "format": {"svg"}, "place": {"0"},
		"patch": {`[{"op":"add","path":"/name","value":"x"}]`}, "label": {"x"},
		"first": {"r0"}, "second": {"v1"}, "ref": {"v1"}, "medium": {"slide"}, "remove": {"0"}, "email": {"new@marrowby.example"},
		"role": {"viewer"}, "person": {"nobody"}}
	actors := strings.Fields(everybody)
	tried, id := 0, ""
	tree := s.handler.(chi.Routes)
	err := chi.Walk(tree, func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		key := method + " " + route
		expect, ok := routes[key]
		if !ok {
			t.Errorf("%s has no expectation", key)
			return nil
		}
		for _, actor := range actors {
			allowed := strings.Contains(" "+expect.may+" ", " "+actor+" ")
			// placements and states change on the way; each act has a code of its own
			if id == "" || allowed && method != http.MethodGet {
				var err error
				if id, err = s.store.Duplicate(t.Context(), access.OfProgram(ws, ""), s.id); err == nil {
					_, err = s.store.Issue(t.Context(), access.OfProgram(ws, ""), id)
				}
				if err != nil {
					return err
				}
			}
			path := strings.NewReplacer("{id}", id, "{n}", "1", "{place}", "0", "{name}", "x.svg", "{secret}", "none", "*",
				"app.css").Replace(route)
			if method == http.MethodGet {
				path += "?" + form.Encode()
			}
			var body url.Values
			if method != http.MethodGet {
				body = form
			}
			s.cookie = s.cookies[actor]
			if key == "POST /sign-out" || key == "POST /account/end" {
				s.cookie = again(t, s, actor)
			}
			w := s.send(method, path, body)
			tried++
			refused := w.Code == http.StatusUnauthorized || w.Code == http.StatusForbidden || w.Code == http.StatusSeeOther &&
				strings.HasPrefix(w.Header().Get("Location"), "/sign-in?")
			switch {
			case strings.Contains(route, "/api/v1/"):
				if refused == allowed {
					t.Errorf("%s without a token as %s: %d", key, actor, w.Code)
				}
			case actor == "outsider" && !allowed && !expect.own:
				if w.Code != http.StatusNotFound {
					t.Errorf("%s from another workspace: %d %.100q, want 404", key, w.Code, w.Body)
				}
			case actor == "outsider" && !allowed && expect.own:
				if w.Code >= 500 || w.Code == http.StatusForbidden {
					t.Errorf("%s for one's own workspace: %d", key, w.Code)
				}
			case key == "POST /enter" || strings.Contains(route, "{secret}"): // refused for what is asked, not for who asks
			case refused == allowed:
				t.Errorf("%s as %s: %d %.100q, allowed should be %v", key, actor, w.Code, w.Body, allowed)
			case w.Code >= 500:
				t.Errorf("%s as %s: %d %s", key, actor, w.Code, w.Body)
			}
			if leak := "fair?a=1"; actor == "outsider" && strings.Contains(w.Body.String(), leak) || actor == "stranger" &&
				strings.Contains(w.Body.String(), leak) {
				t.Errorf("%s shows %s what belongs to another workspace", key, actor)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	chi.Walk(tree, func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		seen[method+" "+route] = true
		return nil
	})
	for key := range routes {
		t.Run(key, func(t *testing.T) {
			if !seen[key] {
				t.Errorf("%s is expected and not there", key)
			}
		})
	}
	t.Logf("%d routes × %d actors = %d tries", len(seen), len(actors), tried)
}

// again signs an actor in once more, for routes that end a sign-in.
func again(t *testing.T, s *site, actor string) *http.Cookie {
	t.Helper()
	if actor == "stranger" {
		return nil
	}
	s.cookie = nil
	w := s.send("POST", "/enter", url.Values{"as": {actor + "@marrowby.example"}})
	if len(w.Result().Cookies()) == 0 {
		t.Fatal(fmt.Errorf("entering again as %s: %d", actor, w.Code))
	}
	return w.Result().Cookies()[0]
}
