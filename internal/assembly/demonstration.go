package assembly

import (
	"context"
	"fmt"
	"net/netip"
	"time"

	"sodrik/internal/db"
	"sodrik/internal/outside"
	"sodrik/internal/seal"
	"sodrik/internal/standin"
	"sodrik/internal/web"
	"sodrik/internal/web/person"
)

// Loopback are the networks of this machine alone.
var Loopback = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8"), netip.MustParsePrefix("::1/128")}

// Demonstration is the demonstration on a database: hosts, destinations and whoever is called are made up, and mails arrive in a
// mailbox.
func Demonstration(d *db.DB, key *seal.Box, base string) (Settings, *standin.Mailbox) {
	return Settings{DB: d, Seal: key, Base: base, Links: standin.LinkHost, Names: standin.Names{DB: d}, Outside: standin.World{},
		Send: standin.World{Own: outside.New(Loopback...)}, Plain: true}, &standin.Mailbox{DB: d, Now: time.Now}
}

// Guests lets anybody enter as one of the demonstration's people, shows the mailbox, and opens the bench to strangers.
func Guests(box *standin.Mailbox) web.Options {
	o := web.Options{Mailbox: func(ctx context.Context) (out []person.Mail, err error) {
		mails, err := box.Newest(ctx)
		for _, m := range mails {
			out = append(out, person.Mail(m))
		}
		return out, err
	}, MailFile: box.File, Post: box, Bench: true}
	for _, p := range standin.People {
		o.Guests = append(o.Guests, person.Guest{Email: p.Email, Words: fmt.Sprintf("%s, %s (%s)", p.Name, p.Job, p.Role)})
	}
	return o
}
