package e2e

import (
	"net/url"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// TestPasskey adds a passkey from a simulated authenticator, signs out, and comes back with it.
func TestPasskey(t *testing.T) {
	a := open(t)
	at, err := url.Parse(a.url)
	if err != nil {
		t.Fatal(err)
	}
	local := *a
	local.url = "http://localhost:" + at.Port() // passkeys refuse numbers
	p := local.page(t, "/account")
	closesAfter(p)
	if err := (proto.WebAuthnEnable{}).Call(p); err != nil {
		t.Fatal(err)
	}
	if _,
		err := (proto.WebAuthnAddVirtualAuthenticator{
		Options: &proto.WebAuthnVirtualAuthenticatorOptions{Protocol: proto.WebAuthnAuthenticatorProtocolCtap2,
			Transport: proto.WebAuthnAuthenticatorTransportInternal, HasResidentKey: true, HasUserVerification: true,
			IsUserVerified: true, AutomaticPresenceSimulation: true}}).Call(p); err != nil {
		t.Fatal(err)
	}
	p.MustElementR("button", "Add a passkey").MustClick()
	hasText(t, p, "#passkeys td", "Chromium or Chrome")
	p.MustElement(".menu summary").MustClick()
	wait := nextPage(t, p)
	p.MustElementR("button", "Sign out").MustClick()
	wait()
	p.MustElementR("button", "Use a passkey").MustClick()
	hasText(t, p, "h1", "Codes")
	p.MustNavigate(local.url + "/account").MustWaitLoad()
	hasText(t, p, "#passkeys td", "now")
	wait = nextPage(t, p)
	p.MustElementR("#passkeys button", "Remove").MustClick()
	wait()
	hasText(t, p, "#passkeys", "None yet")
	p.MustNavigate(a.url + "/sign-in").MustWaitLoad()
	p.MustElementR("button", "Use a passkey").MustClick()
	hasText(t, p, "#notice", "open it as localhost")
}
