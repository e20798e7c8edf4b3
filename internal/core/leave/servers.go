package leave

import (
	"fmt"
	"strings"
	"time"

	"sodrik/internal/core/leads"
)

// nginx is a configuration to be included in nginx's http block. Its map takes paths in either case. A dollar sign cannot be
// escaped there; it comes out of a variable.
func nginx(links []Link, now time.Time) string {
	var b strings.Builder
	b.WriteString("geo $sodrik_dollar { default \"$\"; }\n")
	quote := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, `$`, `${sodrik_dollar}`).Replace(s) + `"`
	}
	for i, host := range hosts(links) {
		fmt.Fprintf(&b, "\nmap $uri $sodrik_to_%d {\n", i)
		for _, l := range of(links, host) {
			if a := l.Live.At(now); a.Does == leads.Goes {
				fmt.Fprintf(&b, "    /%s %s;\n    /%s/ %s;\n", l.Path, quote(a.To), l.Path, quote(a.To))
			}
		}
		fmt.Fprintf(&b, "}\nmap $uri $sodrik_page_%d {\n", i)
		for _, l := range of(links, host) {
			a := l.Live.At(now)
			if a.Does == leads.Goes {
				continue
			}
			fmt.Fprintf(&b, "    /%s /%s/index.html;\n    /%s/ /%s/index.html;\n", l.Path, l.Path, l.Path, l.Path)
			if a.File != nil {
				fmt.Fprintf(&b, "    /%s/%s /%s/%s;\n", l.Path, a.File.Name, l.Path, a.File.Name)
			}
		}
		fmt.Fprintf(&b, `}
server {
    listen 80;
    server_name %s;
    root /var/www/%s; # the folder site/%s of this pack
    charset utf-8;
    charset_types text/vcard text/calendar;
    add_header Cache-Control no-store always;
    types { text/html html; text/vcard vcf; text/calendar ics; %s}
    if ($sodrik_to_%d) { return 302 $sodrik_to_%d; }
    if ($sodrik_page_%d) { rewrite ^ $sodrik_page_%d break; }
}
`, name(host), name(host), name(host), leads.TypesServed(), i, i, i, i)
	}
	return b.String()
}

// caddy is a Caddyfile. In it braces would be placeholders.
func caddy(links []Link, now time.Time) string {
	var b strings.Builder
	quote := func(s string) string {
		return `"` + strings.NewReplacer(`"`, `\"`, `{`, `\{`, `}`, `\}`).Replace(s) + `"`
	}
	for _, host := range hosts(links) {
		fmt.Fprintf(&b, "%s {\n\troot * /var/www/%s # the folder site/%s of this pack\n\theader Cache-Control no-store\n", name(host),
			name(host), name(host))
		for i, l := range of(links, host) {
			a := l.Live.At(now)
			fmt.Fprintf(&b, "\t@l%d path /%s /%s/\n", i, l.Path, l.Path)
			if a.Does == leads.Goes {
				fmt.Fprintf(&b, "\tredir @l%d %s 302\n", i, quote(a.To))
				continue
			}
			fmt.Fprintf(&b, "\trewrite @l%d /%s/index.html\n", i, l.Path)
			if a.File != nil {
				media, _, _ := strings.Cut(a.File.Type, ";")
				fmt.Fprintf(&b, "\t@f%d path /%s/%s\n\trewrite @f%d /%s/%s\n\theader @f%d Content-Type \"%s; charset=utf-8\"\n", i,
					l.Path, a.File.Name, i, l.Path, a.File.Name, i, media)
			}
		}
		b.WriteString("\tfile_server\n}\n")
	}
	return b.String()
}

// apache is rules of mod_rewrite for a server or a virtual host. In them a percent sign, a dollar sign and a backslash stand
// for others, and a quotation mark, which no address holds, cannot be escaped.
func apache(links []Link, now time.Time) string {
	var b strings.Builder
	quote := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\%22`, `%`, `\%`, `$`, `\$`).Replace(s) + `"`
	}
	b.WriteString("# For a server or a virtual host, beside: DocumentRoot with the folder site/ of this pack, for its host.\n")
	b.WriteString("RewriteEngine on\nAddDefaultCharset utf-8\nAddType \"text/vcard; charset=utf-8\" .vcf\nAddType \"text/calendar; charset=utf-8\" .ics\n")
	b.WriteString("DirectorySlash off\n")
	for _, host := range hosts(links) {
		for _, l := range of(links, host) {
			a := l.Live.At(now)
			fmt.Fprintf(&b, "RewriteCond \"%%{HTTP_HOST}\" \"^%s(:[0-9]+)?$\" [NC]\n", strings.ReplaceAll(name(host), ".", `\.`))
			if a.Does == leads.Goes {
				fmt.Fprintf(&b, "RewriteRule \"^/%s/?$\" %s [NC,R=302,L,NE,QSD]\n", l.Path, quote(a.To))
				continue
			}
			fmt.Fprintf(&b, "RewriteRule \"^/%s(/|/index\\.html)?$\" \"/%s/index.html\" [NC,L]\n", l.Path, l.Path)
			if a.File != nil {
				fmt.Fprintf(&b, "RewriteCond \"%%{HTTP_HOST}\" \"^%s(:[0-9]+)?$\" [NC]\nRewriteRule \"^/%s/%s$\" \"/%s/%s\" [NC,L]\n",
					strings.ReplaceAll(name(host), ".", `\.`), l.Path, strings.ReplaceAll(a.File.Name, ".", `\.`), l.Path,
					a.File.Name)
			}
		}
	}
	return b.String()
}
