package person

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"net"
	"net/http"
	"net/url"
	"time"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"sodrik/internal/code"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// ceremonyKey is where a session keeps the challenge of a passkey ceremony under way.
const ceremonyKey = "passkey"

// relyingParty is this application to an authenticator: the host name of its base address. Passkeys are bound to a name and
// refuse IP addresses; on loopback the name is localhost, and nil where the page was opened by number.
func (h *Handler) relyingParty(r *http.Request) (*webauthn.WebAuthn, error) {
	base, err := url.Parse(h.Store.Base)
	if err != nil {
		return nil, err
	}
	host, origin := base.Hostname(), base.Scheme+"://"+base.Host
	if ip := net.ParseIP(host); ip != nil {
		name, port, err := net.SplitHostPort(r.Host)
		if err != nil || name != "localhost" || !ip.IsLoopback() {
			return nil, nil
		}
		host, origin = "localhost", "http://localhost:"+port
	}
	return webauthn.New(&webauthn.Config{RPID: host, RPDisplayName: "Sodrik", RPOrigins: []string{origin}})
}

// ceremonyTime is how long somebody may take to touch their authenticator.
const ceremonyTime = 10 * time.Minute

// keep stores a ceremony's state in the session; it is taken out once.
func (h *Handler) keep(r *http.Request, s *webauthn.SessionData) error {
	b, err := json.Marshal(s)
	if err == nil {
		h.Sessions.Put(r.Context(), ceremonyKey, b)
		if ui.Who(r) == nil { // a stranger's session is gone when the ceremony is
			h.Sessions.SetDeadline(r.Context(), h.Store.Now().Add(ceremonyTime))
		}
	}
	return err
}

func (h *Handler) kept(r *http.Request) (s webauthn.SessionData, err error) {
	b := h.Sessions.PopBytes(r.Context(), ceremonyKey)
	if b == nil {
		return s, errors.New("there is no ceremony under way")
	}
	return s, json.Unmarshal(b, &s)
}

func answer(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	json.NewEncoder(w).Encode(v)
}

// resume finds the relying party and the ceremony under way; where there is none it has answered, and ok is false.
func (h *Handler) resume(w http.ResponseWriter, r *http.Request) (rp *webauthn.WebAuthn, s webauthn.SessionData, ok bool) {
	rp, err := h.relyingParty(r)
	if err != nil || rp == nil {
		refuse(w, byNumber)
		return nil, s, false
	}
	if s, err = h.kept(r); err != nil {
		refuse(w, "That took too long; try again.")
		return nil, s, false
	}
	return rp, s, true
}

// refuse answers a ceremony that did not succeed; what exactly failed is for the log only.
func refuse(w http.ResponseWriter, words string) { http.Error(w, words, http.StatusBadRequest) }

const byNumber = "Passkeys need a host name; this page was opened by a number. On this machine, open it as localhost."

func (h *Handler) newPasskey(w http.ResponseWriter, r *http.Request) {
	rp, err := h.relyingParty(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if rp == nil {
		refuse(w, byNumber)
		return
	}
	if err := h.Store.Confirm(r.Context(), &ui.Who(r).Person, r.PostFormValue("confirm")); err != nil {
		if problems, is := code.IsProblem(err); is {
			refuse(w, "The password "+problems[0].Message+".")
		} else {
			ui.Fail(w, r, err)
		}
		return
	}
	k, err := h.Store.Keyholder(r.Context(), ui.Who(r).Person.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	options, session, err := rp.BeginRegistration(k, webauthn.WithResidentKeyRequirement(protocol.ResidentKeyRequirementRequired),
		webauthn.WithExclusions(webauthn.Credentials(k.WebAuthnCredentials()).CredentialDescriptors()))
	if err == nil {
		err = h.keep(r, session)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	answer(w, options)
}

func (h *Handler) addPasskey(w http.ResponseWriter, r *http.Request) {
	rp, session, ok := h.resume(w, r)
	if !ok {
		return
	}
	k, err := h.Store.Keyholder(r.Context(), ui.Who(r).Person.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	c, err := rp.FinishRegistration(k, session, r)
	if err != nil {
		refuse(w, "The passkey was not accepted; try again.")
		return
	}
	if err := h.Store.AddPasskey(r.Context(), k.ID, browser(r.UserAgent()), c); err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

func (h *Handler) removePasskey(w http.ResponseWriter, r *http.Request) {
	id, err := base64.RawURLEncoding.DecodeString(r.PostFormValue("id"))
	if err == nil {
		err = h.Store.RemovePasskey(r.Context(), ui.Who(r).Person.ID, id)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/account#passkeys", http.StatusSeeOther)
}

func (h *Handler) askPasskey(w http.ResponseWriter, r *http.Request) {
	rp, err := h.relyingParty(r)
	if err != nil || rp == nil {
		refuse(w, byNumber)
		return
	}
	options, session, err := rp.BeginDiscoverableLogin()
	if err == nil {
		err = h.keep(r, session)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	answer(w, options)
}

func (h *Handler) usePasskey(w http.ResponseWriter, r *http.Request) {
	rp, session, ok := h.resume(w, r)
	if !ok {
		return
	}
	var holder *people.Keyholder
	c, err := rp.FinishDiscoverableLogin(func(_, handle []byte) (webauthn.User, error) {
		k, err := h.Store.Keyholder(context.WithoutCancel(r.Context()), string(handle))
		holder = k
		return k, err
	}, session, r)
	if err == nil {
		err = h.Store.PasskeyUsed(r.Context(), c)
	}
	if err != nil || holder == nil {
		refuse(w, "This passkey does not open anything here.")
		return
	}
	if err := h.begin(r, &holder.Person, ""); err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}
