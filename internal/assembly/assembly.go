// Package assembly puts the application together from its settings: the use cases, each with all that it depends on, the pages
// and the jobs. Whoever serves, does jobs, or tests pages takes them from here and sets other settings, nothing else, so that
// what is tested is what ships.
package assembly

import (
	"time"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/db"
	"sodrik/internal/ground"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/readers"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
	"sodrik/internal/web"
	"sodrik/internal/webhooks"
	"sodrik/internal/worker"
)

// Outside asks hosts of others: where they lead, and whether they answer.
type Outside interface {
	notices.Outside
	link.Asker
}

// Settings are what one application differs in from another. What has a usual value is left empty.
type Settings struct {
	DB   *db.DB
	Seal *seal.Box
	Now  func() time.Time // usually the machine's clock

	Brief bool // proofs look at as little as tells a verdict

	Base  string // address of the application, for links in mails
	Links string // scheme and host of short links, "" for none; without them codes are fixed

	Mail    people.Mailer          // takes mails; usually the outbox, which jobs empty
	Queue   batches.Queue          // takes the work of batches; usually jobs
	Calls   webhooks.Queue         // takes the calls of webhooks; usually jobs
	Send    webhooks.Sender        // makes those calls
	Plain   bool                   // over http too, which is for networks that whoever runs the server has named
	Names   link.Resolver          // proves hosts; usually the machine's
	Outside Outside                // nil asks nobody
	Blocked func(host string) bool // no link may lead there; nil for none
}

// App is the use cases of an application.
type App struct {
	Codes    *code.Store
	Links    *link.Store
	Batches  *batches.Store
	Webhooks *webhooks.Store
	People   *people.Store
	Scans    *scans.Store
	Notices  *notices.Store
}

// New assembles the use cases. The database is up to date.
func New(s Settings) (a *App, err error) {
	if s.Now == nil {
		s.Now = time.Now
	}
	if s.Mail == nil {
		if s.Mail, err = worker.NewOutbox(s.DB, s.Seal); err != nil {
			return nil, err
		}
	}
	if s.Queue == nil {
		if s.Queue, err = worker.NewBatches(s.DB); err != nil {
			return nil, err
		}
	}
	if s.Calls == nil {
		if s.Calls, err = worker.NewWebhooks(s.DB); err != nil {
			return nil, err
		}
	}
	a = &App{Scans: &scans.Store{DB: s.DB, Now: s.Now, Seal: s.Seal},
		People: &people.Store{DB: s.DB, Now: s.Now, Mail: s.Mail, Seal: s.Seal, Base: s.Base}}
	a.Codes = codesOf(s)
	a.Links = link.New(a.Codes, s.Links)
	a.Links.Resolver, a.Links.Blocked, a.Links.Figures = s.Names, s.Blocked, a.Scans.CSV
	a.Notices = &notices.Store{DB: s.DB, Seal: s.Seal, Now: s.Now, Links: a.Links, Scans: a.Scans}
	if s.Outside != nil {
		a.Links.Outside, a.Notices.Outside = s.Outside, s.Outside
	}
	a.Batches = &batches.Store{Codes: a.Codes, Queue: s.Queue,
		Back: batches.Back{Sheet: readers.SheetOf, Texts: readers.Texts(a.Codes.Panel)}}
	if s.Links != "" {
		a.Batches.Links = a.Links
	}
	a.Webhooks = &webhooks.Store{DB: s.DB, Seal: s.Seal, Now: s.Now, Scans: a.Scans, Queue: s.Calls, Send: s.Send, Plain: s.Plain}
	a.Webhooks.Tell = a.People.TellOwners
	return a, nil
}

// codesOf are the use cases of codes, with all readers that are installed.
func codesOf(s Settings) *code.Store {
	panel := readers.Panel()
	version := readers.Version(panel)
	if s.Brief {
		version += " in brief" // what was proved in brief is no proof for others
	}
	codes := code.New(ground.Ground{DB: s.DB, Pages: readers.PDFPage, Now: s.Now, Seal: s.Seal}, panel, version)
	codes.Brief = s.Brief
	return codes
}

// Pages are the pages and the API of the application; o holds what they differ in besides.
func (a *App) Pages(o web.Options) web.Options {
	o.Codes, o.Links, o.Batches, o.Webhooks, o.People, o.Scans, o.Notices = a.Codes, a.Links, a.Batches, a.Webhooks, a.People,
		a.Scans,
		a.Notices
	return o
}

// Jobs does the jobs of the application; mails leave by post, nil where this process sends none.
func (a *App) Jobs(post worker.Post) *worker.Worker {
	return &worker.Worker{Codes: a.Codes, Links: a.Links, Batches: a.Batches, Webhooks: a.Webhooks, People: a.People,
		Scans:   a.Scans,
		Notices: a.Notices, Post: post}
}
