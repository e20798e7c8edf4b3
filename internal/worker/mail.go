package worker

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"sodrik/internal/db"
	"sodrik/internal/mailer"
	"sodrik/internal/seal"
)

const queueMails = "mails"

// Post sends a letter.
type Post interface {
	Post(ctx context.Context, l mailer.Letter) error
}

// Outbox takes mails that a worker sends: a mail server that does not answer keeps nobody waiting and loses nothing. Contents
// are sealed, since they hold links that let people in.
type Outbox struct {
	client *river.Client[pgx.Tx]
	seal   *seal.Box
}

// NewOutbox is one whose jobs stand in a database.
func NewOutbox(d *db.DB, box *seal.Box) (*Outbox, error) {
	client, err := inserting(d)
	return &Outbox{client, box}, err
}

// mailArgs hold a sealed letter. Its Message-ID is the same however often it is tried, so that what arrives twice can be told
// for one.
type mailArgs struct {
	ID     string `json:"id"`
	Sealed []byte `json:"sealed"`
}

func (mailArgs) Kind() string { return "mail" }

// InsertOpts has a mail tried for about a day.
func (mailArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueMails, MaxAttempts: 16}
}

func mailPlace(id string) string { return "mails/" + id }

// Send puts a mail down.
func (o *Outbox) Send(ctx context.Context, to, subject, body string) error {
	id := strings.ToLower(rand.Text())
	text, err := json.Marshal(mailer.Letter{ID: id, To: []string{to}, Subject: subject, Body: body})
	if err != nil {
		return err
	}
	_, err = o.client.Insert(ctx, mailArgs{id, o.seal.Seal(text, mailPlace(id))}, nil)
	return err
}

// sender sends what stands in the outbox.
type sender struct {
	river.WorkerDefaults[mailArgs]
	seal *seal.Box
	post Post
}

// Work sends one mail; an address that does not exist is not tried again.
func (w *sender) Work(ctx context.Context, job *river.Job[mailArgs]) error {
	text, err := w.seal.Open(job.Args.Sealed, mailPlace(job.Args.ID))
	if err != nil {
		return river.JobCancel(err)
	}
	var l mailer.Letter
	if err := json.Unmarshal(text, &l); err != nil {
		return river.JobCancel(err)
	}
	switch err := w.post.Post(ctx, l); {
	case errors.Is(err, mailer.ErrBounced):
		return river.JobCancel(err)
	case err != nil:
		return fmt.Errorf("a mail under way: %w", err)
	}
	return nil
}
