// Package leave writes the leaving pack: every short link with its live destination, as files with which an ordinary web server
// goes on without us. It says which answer stands behind each link at one moment; what a file cannot hold (changes at a time,
// counts, redirects that keep a query behind another) is named.
package leave

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/leads"
)

// Link is one short link with what is live of it.
type Link struct {
	Host, Path string // "go.marrowby.example", "FA1R"
	Code       string // name of the code
	Live       *leads.Live
}

// File is one file of the pack, by its path in it.
type File struct {
	Name string
	Data []byte
}

// Pack is the files of some links as they answer at a time.
func Pack(links []Link, now time.Time) []File {
	links = slices.Clone(links)
	slices.SortFunc(links, func(a, b Link) int { return strings.Compare(a.Host+"/"+a.Path, b.Host+"/"+b.Path) })
	files := []File{{"README.txt", []byte(readme(links, now))}, {"links.csv", table(links, now)}, {"links.json", list(links,
		now)},
		{"nginx.conf", []byte(nginx(links, now))}, {"Caddyfile", []byte(caddy(links, now))},
		{"apache.conf", []byte(apache(links, now))}}
	return append(files, site(links, now)...)
}

// hosts are those of the links, which are sorted by them.
func hosts(links []Link) (out []string) {
	for _, l := range links {
		if len(out) == 0 || out[len(out)-1] != l.Host {
			out = append(out, l.Host)
		}
	}
	return out
}

// of are the links of a host.
func of(links []Link, host string) (out []Link) {
	for _, l := range links {
		if l.Host == host {
			out = append(out, l)
		}
	}
	return out
}

// name is a host without its port, as configurations name it.
func name(host string) string {
	name, _, _ := strings.Cut(host, ":")
	return name
}

// Lost is what of a link the pack cannot hold, as sentences; none for most.
func (l Link) Lost(now time.Time) (out []string) {
	out = append(out, l.routesLost(now)...)
	for _, s := range l.Live.Steps[1:] {
		if s.From > now.Unix() {
			out = append(out, fmt.Sprintf("What is to change on %s will not: it goes on as it is now.",
				time.Unix(s.From, 0).UTC().Format("2 January 2006, 15:04 UTC")))
		}
	}
	if l.Live.Status != 302 {
		out = append(out, fmt.Sprintf("It is answered by 302, no longer by %d.", l.Live.Status))
	}
	if l.Live.KeepQuery {
		out = append(out, "What follows a question mark in the scanned address is dropped.")
	}
	return out
}

// routesLost is what is lost of routes: the pack says what somebody gets of whom nothing is known, at one moment. A route that
// asks for nothing but a time that is still to come is a change that will not be.
func (l Link) routesLost(now time.Time) (out []string) {
	for _, r := range l.Live.Routes {
		timed := r.Rule.Timed()
		if timed {
			for _, at := range r.Rule.Changes(l.Live.Zone) {
				if at.After(now) {
					out = append(out, fmt.Sprintf("What is to change on %s will not: it goes on as it is now.",
						at.UTC().Format("2 January 2006, 15:04 UTC")))
				}
			}
			continue
		}
		to := r.Act.To
		if to == "" {
			to = r.Act.Title
		}
		out = append(out, fmt.Sprintf("A route is left out. %s: %s.", r.Rule.Sentence(l.Live.Zone), to))
	}
	return out
}

func readme(links []Link, now time.Time) string {
	var b strings.Builder
	fmt.Fprintf(&b, `Leaving pack, %s

%d short links as they answer today. Whoever has these files needs us no longer: point the name of
the host at a web server of your own, and use one of

  nginx.conf    for nginx, included in its http block
  Caddyfile     for Caddy
  apache.conf   for Apache, in the configuration or a virtual host (mod_rewrite)
  site/         for any host of plain files: a folder a link. Each page leads on by itself

links.csv and links.json hold the same as a table; figures.csv says how often each was scanned on each day.
Letters of a path are taken in either case, but by plain files: there a path is as it is printed, in capitals,
or in small letters.

What cannot be taken along: scans are not counted any more.
`, now.UTC().Format("2 January 2006, 15:04 UTC"), len(links))
	for _, l := range links {
		for _, words := range l.Lost(now) {
			fmt.Fprintf(&b, "  %s/%s: %s\n", l.Host, l.Path, words)
		}
	}
	return b.String()
}
