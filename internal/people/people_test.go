package people

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/problem"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// outbox keeps the mails of a test.
type outbox struct{ to, subject, body []string }

func (o *outbox) Send(_ context.Context, to, subject, body string) error {
	o.to, o.subject, o.body = append(o.to, to), append(o.subject, subject), append(o.body, body)
	return nil
}

// secretOf finds the secret of a link in the last mail.
func (o *outbox) secretOf(path string) string {
	body := o.body[len(o.body)-1]
	_, rest, _ := strings.Cut(body, path)
	return strings.Fields(rest)[0]
}

type fixture struct {
	*Store
	box *outbox
	now time.Time
}

func open(t *testing.T) *fixture {
	t.Helper()
	f := &fixture{box: &outbox{}, now: time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)}
	f.Store = &Store{DB: dbtest.Open(t), Now: func() time.Time { return f.now }, Mail: f.box, Base: "https://sodrik.example",
		Seal: sealtest.Box(t), Later: func(do func()) { do() }}
	for _, id := range []string{"marrowby", "garden"} {
		if _, err := f.DB.Pool.Exec(t.Context(), `INSERT INTO workspaces (id, name) VALUES ($1, $1)`, id); err != nil {
			t.Fatal(err)
		}
	}
	return f
}

func (f *fixture) register(t *testing.T, email, password string) *Person {
	t.Helper()
	p, err := f.Register(t.Context(), email, "Somebody", password)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func codeOf(err error) string {
	var list problem.List
	if errors.As(err, &list) {
		return list[0].Code
	}
	return ""
}

func TestPasswords(t *testing.T) {
	h := hashPassword("leeks in october")
	for password, want := range map[string]bool{"leeks in october": true, "leeks in october ": false, "": false,
		"Leeks in october": false} {
		t.Run(password, func(t *testing.T) {
			if got, err := checkPassword(h, password); got != want || err != nil {
				t.Errorf("%q: %v, %v", password, got, err)
			}
		})
	}
	if hashPassword("leeks in october") == h {
		t.Error("two hashes of one password are alike: there is no salt")
	}
	if !strings.HasPrefix(h, "$argon2id$v=19$m=19456,t=2,p=1$") {
		t.Errorf("the hash is %s", h)
	}
	if fits, err := checkPassword("", "x"); fits || err != nil {
		t.Error("no password fits")
	}
	if _, err := checkPassword("$argon2id$v=19$m=1,t=1,p=1$AA$AA", "x"); err == nil {
		t.Error("a hash of other cost was taken")
	}
	for password, want := range map[string]string{"short": "password.short", "1234567890": "password.common",
		"Password123": "password.common", "QWERTYUIOP": "password.common", "aaaaaaaaaaaa": "password.common",
		"tamsin@marrowby.example": "password.own", "Tamsin Ashdown": "password.own", "tamsin2027!": "password.own",
		strings.Repeat("long ", 50): "password.long", "leeks in october": "", "ÄÖÜßäöü éèê": ""} {
		t.Run(password, func(t *testing.T) {
			got := ""
			if list := passwordProblems(password, "tamsin@marrowby.example", "Tamsin Ashdown"); len(list) > 0 {
				got = list[0].Code
			}
			if got != want {
				t.Errorf("%q: %q, want %q", password, got, want)
			}
		})
	}
}

func TestSignIn(t *testing.T) {
	f := open(t)
	p := f.register(t, "Tamsin@marrowby.example", "leeks in october")
	if _, err := f.Register(t.Context(), "tamsin@MARROWBY.example", "Other", "leeks in october"); codeOf(err) != "person.taken" {
		t.Errorf("the same address again: %v", err)
	}
	for _, email := range []string{"", "tamsin", "tamsin@marrowby", "a b@marrowby.example", "Tamsin <tamsin@marrowby.example>",
		"x@" + strings.Repeat("a", 260) + ".example"} {
		t.Run(email, func(t *testing.T) {
			if _, err := f.Register(t.Context(), email, "Other", "leeks in october"); codeOf(err) != "person.email" {
				t.Errorf("%q: %v", email, err)
			}
		})
	}
	signIn := func(password, network, device string) error {
		_, err := f.SignIn(t.Context(), " tamsin@marrowby.example ", password, network, device)
		return err
	}
	const right = "leeks in october"
	if got, err := f.SignIn(t.Context(), "tamsin@marrowby.example", right, "192.0.2.1", ""); err != nil || got.ID != p.ID {
		t.Fatalf("%v, %v", got, err)
	}
	for range triesPair {
		if err := signIn("wrong password", "192.0.2.1", ""); !errors.Is(err, ErrSignIn) {
			t.Fatalf("%v", err)
		}
	}
	if err := signIn(right, "192.0.2.1", ""); !errors.Is(err, ErrThrottled) {
		t.Errorf("after %d wrong passwords from there: %v", triesPair, err)
	}
	if err := signIn(right, "192.0.2.2", ""); err != nil {
		t.Errorf("from elsewhere nobody is locked out: %v", err)
	}
	if err := signIn(right, "192.0.2.1", f.Mark("tamsin@marrowby.example")); err != nil {
		t.Errorf("from a device of an earlier sign-in: %v", err)
	}
	for _, mark := range []string{f.Mark("wren@marrowby.example"), "abc.def", "."} {
		t.Run(mark, func(t *testing.T) {
			if err := signIn(right, "192.0.2.1", mark); !errors.Is(err, ErrThrottled) {
				t.Errorf("with the mark %q, which is not theirs: %v", mark, err)
			}
		})
	}
	f.now = f.now.Add(window + time.Second)
	if err := signIn(right, "192.0.2.1", ""); err != nil {
		t.Errorf("a quarter of an hour later: %v", err)
	}
	// What goes well does not count, and takes back what did not.
	for i := range 3 * triesPair {
		password := right
		if i%4 != 3 {
			password = "wrong password"
		}
		if err := signIn(password, "192.0.2.3", ""); errors.Is(err, ErrThrottled) {
			t.Fatalf("try %d: %v", i, err)
		}
	}
	failed := func(key string, n int) { // as that many tries that failed leave it
		t.Helper()
		if _, err := f.DB.Pool.Exec(t.Context(), `DELETE FROM attempts`); err != nil {
			t.Fatal(err)
		}
		if _, err := f.DB.Pool.Exec(t.Context(), `INSERT INTO attempts (key, at) SELECT $1, $2 FROM generate_series(1, $3)`, key,
			f.now, n); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		what, key string
		n         int
		want      error
	}{
		{"many accounts from one network", "sign-in from 203.0.113.1", 100, ErrThrottled},
		{"one fewer", "sign-in from 203.0.113.1", 99, nil},
		{"one account from many networks", "sign-in tamsin@marrowby.example", 100, ErrThrottled},
		{"one fewer", "sign-in tamsin@marrowby.example", 99, nil},
		{"one account from one network", "sign-in tamsin@marrowby.example from 203.0.113.1", 8, ErrThrottled},
		{"one fewer", "sign-in tamsin@marrowby.example from 203.0.113.1", 7, nil},
	} {
		t.Run(c.what, func(t *testing.T) {
			if failed(c.key, c.n); !errors.Is(signIn(right, "203.0.113.1", ""), c.want) {
				t.Errorf("%s, %d tries: not %v", c.what, c.n, c.want)
			}
		})
	}
	failed("sign-in tamsin@marrowby.example", 500)
	if err := signIn(right, "203.0.113.1", f.Mark("tamsin@marrowby.example")); err != nil {
		t.Errorf("meanwhile from a device of theirs: %v", err)
	}
	if _, err := f.SignIn(t.Context(), strings.Repeat("x", 1<<20), "x", "192.0.2.1", ""); !errors.Is(err, ErrSignIn) {
		t.Errorf("an endless address: %v", err)
	}
}

// TestNewPassword: whoever knew the old password holds nothing any more that opens a door.
func TestNewPassword(t *testing.T) {
	f := open(t)
	ctx := t.Context()
	p := f.register(t, "a@marrowby.example", "leeks in october")
	if err := f.Join(ctx, "marrowby", p.ID, Owner); err != nil {
		t.Fatal(err)
	}
	text, err := f.NewToken(ctx, &Present{Person: *p, Workspace: "marrowby", Role: Owner}, "script", Scopes, 30)
	if err != nil {
		t.Fatal(err)
	}
	if err := f.Recover(ctx, "a@marrowby.example", "192.0.2.1"); err != nil {
		t.Fatal(err)
	}
	link := f.box.secretOf("/new-password/")
	if err := f.SetPassword(ctx, p.ID, "onions in april", ""); err != nil {
		t.Fatal(err)
	}
	if _, err := f.TokenOf(ctx, text); !errors.Is(err, ErrNotFound) {
		t.Errorf("a token from before: %v", err)
	}
	if _, err := f.Reset(ctx, link, "garlic in june now"); !errors.Is(err, ErrLink) {
		t.Errorf("a link from before: %v", err)
	}
	if err := f.Confirm(ctx, p, "wrong"); codeOf(err) != "password.old" {
		t.Errorf("a wrong password, asked again: %v", err)
	}
	if err := f.Confirm(ctx, p, "onions in april"); err != nil {
		t.Errorf("the right one: %v", err)
	}
}

// TestInvitedOnly: an invitation opens for the address that it was sent to; one that fails half way leaves nothing behind.
func TestInvitedOnly(t *testing.T) {
	f := open(t)
	ctx := t.Context()
	other := f.register(t, "other@marrowby.example", "")
	if err := f.Invite(ctx, "marrowby", "Marrowby", "A", "new@marrowby.example", Editor); err != nil {
		t.Fatal(err)
	}
	secret := f.box.secretOf("/invitation/")
	if _, _, err := f.Accept(ctx, "invitation", secret, other, Registration{"", "", ""}); codeOf(err) != "invitation.other" {
		t.Errorf("somebody else took it up: %v", err)
	}
	if _, err := f.Link(ctx, "invitation", secret); err != nil {
		t.Errorf("it is used up: %v", err)
	}
	f.register(t, "NEW@marrowby.example", "leeks in october") // meanwhile they came by another way
	if _, _, err := f.Accept(ctx, "invitation", secret, nil,
		Registration{"", "New", "onions in april"}); codeOf(err) != "person.taken" {
		t.Errorf("taken: %v", err)
	}
	if _, err := f.Link(ctx, "invitation", secret); err != nil {
		t.Errorf("a try that failed used it up: %v", err)
	}
}

func TestWorkspaces(t *testing.T) {
	f := open(t)
	owner, editor := f.register(t, "a@marrowby.example", ""), f.register(t, "b@marrowby.example", "")
	ctx := t.Context()
	for _, err := range []error{f.Join(ctx, "marrowby", owner.ID, Owner), f.Join(ctx, "marrowby", editor.ID, Editor),
		f.Join(ctx, "garden", owner.ID, Viewer)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := f.Join(ctx, "marrowby", owner.ID, Viewer); err != nil {
		t.Fatal(err)
	}
	if m, _ := f.Members(ctx, "marrowby"); len(m) != 2 || m[0].Role != Owner {
		t.Errorf("an invitation made an owner less: %+v", m)
	}
	for _, role := range []Role{Editor, ""} {
		if err := f.SetRole(ctx, "marrowby", owner.ID, role); !errors.Is(err, ErrLastOwner) {
			t.Errorf("the last owner became %q: %v", role, err)
		}
	}
	if err := f.SetRole(ctx, "garden", editor.ID, Owner); !errors.Is(err, ErrNotFound) {
		t.Errorf("somebody from another workspace got a role: %v", err)
	}
	if err := f.SetRole(ctx, "marrowby", editor.ID, "king"); codeOf(err) != "role" {
		t.Errorf("%v", err)
	}
	id, err := f.Begin(ctx, owner.ID, "", "agent", "192.0.2.1")
	if err != nil {
		t.Fatal(err)
	}
	p, err := f.Present(ctx, id)
	if err != nil || p.Workspace == "" || p.Others != 1 {
		t.Fatalf("%+v, %v", p, err)
	}
	if err := f.Switch(ctx, id, "garden"); err != nil {
		t.Fatal(err)
	}
	if p, _ = f.Present(ctx, id); p.Workspace != "garden" || p.Role != Viewer || p.Role.May(Change) {
		t.Errorf("%+v", p)
	}
	other, _ := f.Begin(ctx, editor.ID, "", "agent", "192.0.2.1")
	if err := f.Switch(ctx, other, "garden"); !errors.Is(err, ErrNotFound) {
		t.Errorf("into a workspace one is not in: %v", err)
	}
	if err := f.SetRole(ctx, "marrowby", editor.ID, ""); err != nil {
		t.Fatal(err)
	}
	if p, err := f.Present(ctx, other); err != nil || p.Workspace != "" || p.Role.May(Files) {
		t.Errorf("after removal: %+v, %v", p, err)
	}
	if err := f.End(ctx, editor.ID, id); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Present(ctx, id); err != nil {
		t.Error("somebody ended another's sign-in")
	}
	if _, err := f.DB.Pool.Exec(ctx, `DELETE FROM people WHERE id = $1`, owner.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Present(ctx, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("the cookie of a removed person: %v", err)
	}
}

func TestLinksWorkOnce(t *testing.T) {
	f := open(t)
	ctx := t.Context()
	path, err := f.FirstOwnerLink(ctx, "marrowby")
	if err != nil || !strings.HasPrefix(path, "/first/") {
		t.Fatal(path, err)
	}
	newer, _ := f.FirstOwnerLink(ctx, "marrowby")
	if _, _, err := f.Accept(ctx, "owner", strings.TrimPrefix(path, "/first/"), nil,
		Registration{"a@marrowby.example", "A", "leeks in october"}); !errors.Is(err, ErrLink) {
		t.Errorf("an older link still opens: %v", err)
	}
	text := strings.TrimPrefix(newer, "/first/")
	if _, _, err := f.Accept(ctx, "owner", text, nil,
		Registration{"a@marrowby.example", "A", "short"}); codeOf(err) != "password.short" {
		t.Errorf("%v", err)
	}
	owner, ws, err := f.Accept(ctx, "owner", text, nil, Registration{"a@marrowby.example", "A", "leeks in october"})
	if err != nil || ws != "marrowby" {
		t.Fatal(ws, err)
	}
	if again, err := f.FirstOwnerLink(ctx, "marrowby"); again != "" || err != nil {
		t.Errorf("a second first owner: %q, %v", again, err)
	}

	if err := f.Invite(ctx, "marrowby", "Marrowby", "A", "b@marrowby.example", Editor); err != nil {
		t.Fatal(err)
	}
	first := f.box.secretOf("/invitation/")
	f.Invite(ctx, "marrowby", "Marrowby", "A", "b@marrowby.example", Viewer)
	invitation := f.box.secretOf("/invitation/")
	if _, err := f.Link(ctx, "invitation", first); !errors.Is(err, ErrLink) {
		t.Errorf("the invitation that was replaced: %v", err)
	}
	if _, err := f.Link(ctx, "recovery", invitation); !errors.Is(err, ErrLink) {
		t.Errorf("an invitation as a recovery: %v", err)
	}
	// Of many who open it at once, one gets in.
	var in int
	var mu sync.Mutex
	var wg sync.WaitGroup
	for range 6 {
		wg.Go(func() {
			err := pgx.BeginFunc(ctx, f.DB.Pool, func(tx pgx.Tx) error {
				_, err := f.use(ctx, tx, "invitation", invitation)
				return err
			})
			if err == nil {
				mu.Lock()
				in++
				mu.Unlock()
			}
		})
	}
	if wg.Wait(); in != 1 {
		t.Errorf("an invitation was used %d times", in)
	}
	f.Invite(ctx, "marrowby", "Marrowby", "A", "c@marrowby.example", Printer)
	late := f.box.secretOf("/invitation/")
	f.now = f.now.Add(invitationLife + time.Second)
	if _, err := f.Link(ctx, "invitation", late); !errors.Is(err, ErrLink) {
		t.Errorf("after two weeks: %v", err)
	}

	mails := len(f.box.to)
	if err := f.Recover(ctx, "nobody@marrowby.example", "192.0.2.1"); err != nil || len(f.box.to) != mails {
		t.Errorf("for an address nobody has: %v, %d mails", err, len(f.box.to)-mails)
	}
	kept, _ := f.Begin(ctx, owner.ID, "", "agent", "192.0.2.1")
	if err := f.Recover(ctx, "A@marrowby.example", "192.0.2.1"); err != nil {
		t.Fatal(err)
	}
	recovery := f.box.secretOf("/new-password/")
	if _, err := f.Reset(ctx, recovery, "1234567890"); codeOf(err) != "password.common" {
		t.Errorf("%v", err)
	}
	if _, err := f.Reset(ctx, recovery, "onions in april"); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Reset(ctx, recovery, "onions in may now"); !errors.Is(err, ErrLink) {
		t.Errorf("a recovery used twice: %v", err)
	}
	if _, err := f.Present(ctx, kept); !errors.Is(err, ErrNotFound) {
		t.Errorf("a sign-in from before the new password: %v", err)
	}
	if _, err := f.SignIn(ctx, "a@marrowby.example", "onions in april", "192.0.2.1", ""); err != nil {
		t.Errorf("with the new password: %v", err)
	}
	for range 6 {
		err = f.Recover(ctx, "a@marrowby.example", "192.0.2.1")
	}
	if !errors.Is(err, ErrThrottled) {
		t.Errorf("recovery again and again: %v", err)
	}
	// Nothing that opens a door is kept as it is.
	for _, table := range []string{"one_time_links", "people", "mailbox"} {
		t.Run(table, func(t *testing.T) {
			var dump string
			if err := f.DB.Pool.QueryRow(ctx,
				`SELECT coalesce(string_agg(t::text, ' '), '') FROM `+pgx.Identifier{table}.Sanitize()+` t`).Scan(&dump); err != nil {
				t.Fatal(err)
			}
			for _, secret := range []string{text, invitation, late, recovery, "onions in april"} {
				if strings.Contains(dump, secret) {
					t.Errorf("%s holds a secret as it is", table)
				}
			}
		})
	}
}
