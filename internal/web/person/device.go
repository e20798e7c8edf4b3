package person

import (
	"net/http"
	"strings"
	"time"

	"sodrik/internal/people"
)

// deviceCookie holds marks of the people who have signed in here before: whoever guesses passwords elsewhere does not lock
// them out of this device.
const deviceCookie = "sodrik-device"

// Bounds of the cookie.
const (
	maxMarks    = 4
	marksFor    = 365 * 24 * time.Hour
	signedInFor = 30 * 24 * time.Hour
)

func marksOf(r *http.Request) []string {
	c, err := r.Cookie(deviceCookie)
	if err != nil || len(c.Value) > 1<<10 {
		return nil
	}
	return strings.Split(c.Value, "~")
}

// device is the mark of somebody's earlier sign-in here, "" where there is none that is ours.
func (h *Handler) device(r *http.Request, email string) string {
	for _, mark := range marksOf(r) {
		if h.Store.Marked(mark, email) {
			return mark
		}
	}
	return ""
}

// remember marks this device with a sign-in.
func (h *Handler) remember(w http.ResponseWriter, r *http.Request, p *people.Person) {
	mark := h.Store.Mark(p.Email)
	if mark == "" {
		return
	}
	marks := []string{mark}
	for _, m := range marksOf(r) {
		if !h.Store.Marked(m, p.Email) && m != "" && len(marks) < maxMarks {
			marks = append(marks, m)
		}
	}
	http.SetCookie(w, &http.Cookie{Name: deviceCookie, Value: strings.Join(marks, "~"), Path: "/sign-in",
		MaxAge: int(marksFor.Seconds()), HttpOnly: true,
		Secure: h.Sessions.Cookie.Secure, SameSite: http.SameSiteLaxMode})
}
