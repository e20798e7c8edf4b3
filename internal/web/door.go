package web

import (
	"net/http"
	"net/netip"
	"strings"
	"unicode/utf8"

	"sodrik/internal/api"
	from "sodrik/internal/client"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/ui"
)

// maxField bounds one field of a form, in bytes: a job file or a long text fits.
const maxField = 1 << 20

// door lets in what can be stored and shown: text in UTF-8 without the character that no database keeps. It stands once
// before everything, so that no handler meets anything else; the field is named.
func door(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if field := unsound(r); field != "" {
			unsoundFail(w, r, field)
			return
		}
		next.ServeHTTP(w, r)
	})
}

func unsoundFail(w http.ResponseWriter, r *http.Request, field string) {
	problems := problem.List{{Field: "/" + field, Code: "text",
		Message: "holds something that is no text in UTF-8, or is too long; type it again"}}
	if !strings.HasPrefix(r.URL.Path, "/api/") {
		ui.Fail(w, r, problems)
		return
	}
	api.Refuse(w, http.StatusBadRequest, "The request holds something that is no text", problems)
}

// unsound names what of a request holds no sound text: the address, or a field of its query or its form; "" for nothing.
// Files are left alone.
func unsound(r *http.Request) string {
	if !sound(r.URL.Path) {
		return "address"
	}
	for name, values := range r.URL.Query() {
		if !sound(name) {
			return "address"
		}
		for _, v := range values {
			if !sound(v) {
				return name
			}
		}
	}
	if strings.HasPrefix(r.URL.Path, "/api/") || !strings.HasPrefix(r.Header.Get("Content-Type"),
		"application/x-www-form-urlencoded") {
		return ""
	}
	if err := r.ParseForm(); err != nil {
		return "" // whoever reads the form says what is wrong with it
	}
	return unsoundForm(r.PostForm)
}

func unsoundForm(form map[string][]string) string {
	for name, values := range form {
		if !sound(name) {
			return "form"
		}
		for _, v := range values {
			if !sound(v) || len(v) > maxField {
				return name
			}
		}
	}
	return ""
}

// doorOfFiles is door for forms with files, which only those who are let in get parsed.
func doorOfFiles(w http.ResponseWriter, r *http.Request) bool {
	if !strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/form-data") {
		return true
	}
	if err := r.ParseMultipartForm(maxInMemory); err != nil {
		return true
	}
	if field := unsoundForm(r.PostForm); field != "" {
		unsoundFail(w, r, field)
		return false
	}
	return true
}

// maxInMemory is how many bytes of an upload are kept in memory; the bounds of uploads are below it.
const maxInMemory = 32 << 20

func sound(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }

// client puts the network address of who asks where ui.Address finds it: that of the connection, or where that is a proxy
// that is trusted, the last address in X-Forwarded-For that is none.
func client(proxies []netip.Prefix) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			next.ServeHTTP(w, ui.WithAddress(r, from.Of(r, proxies)))
		})
	}
}
