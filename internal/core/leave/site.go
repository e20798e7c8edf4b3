package leave

import (
	"fmt"
	"html"
	"strings"
	"time"

	"sodrik/internal/core/leads"
)

// style is that of the pages.
const style = `body{margin:0;min-height:100vh;display:grid;place-items:center;padding:24px;box-sizing:border-box;background:#e6e9e4;` +
	`color:#16241f;font:17px/1.5 system-ui,sans-serif}main{width:100%;max-width:26rem;background:#fff;padding:28px 24px;` +
	`box-sizing:border-box}h1{margin:0 0 12px;font-size:22px}p{margin:0 0 8px;overflow-wrap:anywhere;white-space:pre-line}` +
	`a{display:block;margin-top:20px;padding:14px;text-align:center;background:#12594a;color:#fff;text-decoration:none}`

// Below is the folder of the pack that stands for the root of a host.
func Below(host string) string { return "site/" + name(host) + "/" }

// site is a folder a link, with a page that leads on by itself or shows what the link shows, and the file that it hands over:
// once in capitals, as it is printed, and once in small letters, as people type it.
func site(links []Link, now time.Time) (out []File) {
	for _, l := range links {
		a := l.Live.Lasting(now)
		for _, path := range []string{l.Path, strings.ToLower(l.Path)} {
			folder := Below(l.Host) + path + "/"
			out = append(out, File{folder + "index.html", []byte(page(a))})
			if a.File != nil {
				out = append(out, File{folder + a.File.Name, []byte(a.File.Text)})
			}
			if path == strings.ToLower(path) && path == l.Path { // digits alone
				break
			}
		}
	}
	return out
}

// page is what a link shows, as HTML.
func page(a leads.Act) string {
	var b strings.Builder
	title, head := a.Title, ""
	if a.Does == leads.Goes {
		title = "Leads on to " + a.To
		head = fmt.Sprintf("<meta http-equiv=\"refresh\" content=\"0; url=%s\">\n<link rel=\"canonical\" href=\"%s\">\n",
			html.EscapeString(a.To), html.EscapeString(a.To))
	}
	fmt.Fprintf(&b, "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\">\n%s<meta name=\"viewport\" "+
		"content=\"width=device-width, initial-scale=1\"><meta name=\"robots\" content=\"noindex\"><title>%s</title>\n"+
		"<style>%s</style></head>\n<body><main><h1>%s</h1>\n", head, html.EscapeString(title), style, html.EscapeString(title))
	for _, line := range a.Lines {
		fmt.Fprintf(&b, "<p>%s</p>\n", html.EscapeString(line))
	}
	switch {
	case a.File != nil:
		fmt.Fprintf(&b, "<a href=\"%s\" download>%s</a>\n", a.File.Name, html.EscapeString(a.Label))
	case a.Does == leads.Goes:
		fmt.Fprintf(&b, "<a href=\"%s\">Go there</a>\n", html.EscapeString(a.To))
	case a.Label != "":
		fmt.Fprintf(&b, "<a href=\"%s\">%s</a>\n", html.EscapeString(a.To), html.EscapeString(a.Label))
	}
	b.WriteString("</main></body></html>\n")
	return b.String()
}
