package handover

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"

	"sodrik/internal/access"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/mailer"
	"sodrik/internal/records"
)

// Send hands files over by mail. replyTo is the address of whoever sends them, "" for none. done says in words what was sent.
// Problems are those of Give, and of the address.
func (d *Door) Send(ctx context.Context, actor access.Actor, a Ask, replyTo string) (done string, err error) {
	a.To, a.Way = strings.TrimSpace(a.To), records.ByMail
	switch {
	case d.Post == nil:
		return "", problem.List{{Field: "/to", Code: "mail.none", Message: "cannot be reached: no mail server is set up here"}}
	case a.To == "" || strings.Count(a.To, "@") != 1 || strings.ContainsAny(a.To, " ,;<>\r\n"):
		return "", problem.List{{Field: "/to", Code: "mail.address",
			Message: fmt.Sprintf("is %q, which is no e-mail address; write one such as wren@printer.example", a.To)}}
	}
	counted, err := d.Records.BeginMail(ctx, actor, a.Code, a.To)
	if err != nil {
		return "", err
	}
	defer func() { // takes nothing off where it was sent
		if err := counted.Unsent(context.WithoutCancel(ctx)); err != nil {
			slog.Error("a mail that was not sent stays counted", "error", err)
		}
	}()
	p, err := d.Give(ctx, actor, a)
	var u *Unread
	if errors.As(err, &u) {
		return "", problem.List{{Field: "/to", Code: "output.unread", Message: "was not written to: " + u.Error()}}
	}
	if err != nil {
		return "", err
	}
	l, err := d.letter(ctx, actor, a, p, replyTo)
	if err != nil {
		return "", err
	}
	if err := counted.Sending(ctx, p.record(a)); err != nil {
		return "", err
	}
	if err := d.Post.Post(ctx, l); errors.Is(err, mailer.ErrBounced) {
		return "", problem.List{{Field: "/to", Code: "mail.bounced",
			Message: fmt.Sprintf("refused the mail: %v. Nothing was sent", err)}}
	} else if err != nil {
		return "", problem.List{{Field: "/to", Code: "mail.server",
			Message: fmt.Sprintf("cannot be reached just now: the mail server says %v. Nothing was sent; try again", err)}}
	}
	if err := counted.Sent(context.WithoutCancel(ctx), p.record(a)); err != nil {
		return "", err
	}
	return fmt.Sprintf("Sent to %s: %s.", a.To, strings.ToLower(measure.Plural(len(l.Files), "file"))), nil
}

// letter is the mail with its files.
func (d *Door) letter(ctx context.Context, actor access.Actor, a Ask, p *Parcel, replyTo string) (l mailer.Letter, err error) {
	l = mailer.Letter{To: []string{a.To}, ReplyTo: replyTo, Subject: fmt.Sprintf("%s, version %d", p.Name, p.N),
		Body: fmt.Sprintf("%s sends the files of %s, version %d.\n\nIt says: %s\n", actor.Name, p.Name, p.N, p.Says())}
	if note := strings.TrimSpace(a.Note); note != "" {
		l.Body = note + "\n\n" + l.Body
	}
	if a.All {
		data, err := d.Pack(ctx, actor, p, true)
		if err != nil {
			return l, err
		}
		l.Files = []mailer.File{{Name: p.ZipName(), Type: "application/zip", Data: data}}
	} else {
		for _, f := range p.Files {
			l.Files = append(l.Files, mailer.File{Name: f.Name, Type: f.Format.Type(), Data: f.Data})
		}
	}
	total := 0
	for _, f := range l.Files {
		total += len(f.Data)
	}
	if total > records.MaxMailBytes {
		return l, problem.List{{Field: "/to", Code: "mail.large",
			Message: fmt.Sprintf("would get %d MB, more than most mailboxes take, %d MB; send fewer files, or download them",
				total>>20, records.MaxMailBytes>>20)}}
	}
	return l, nil
}
