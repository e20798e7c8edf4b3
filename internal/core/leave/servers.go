package leave

import (
	"fmt"
	"regexp"
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
			if a := l.Live.Lasting(now); a.Does == leads.Goes {
				fmt.Fprintf(&b, "    %s %s;\n    %s %s;\n", quote("/"+l.Path), quote(a.To), quote("/"+l.Path+"/"), quote(a.To))
			}
		}
		fmt.Fprintf(&b, "}\nmap $uri $sodrik_page_%d {\n", i)
		for _, l := range of(links, host) {
			a := l.Live.Lasting(now)
			if a.Does == leads.Goes {
				continue
			}
			page := quote("/" + l.Path + "/index.html")
			fmt.Fprintf(&b, "    %s %s;\n    %s %s;\n", quote("/"+l.Path), page, quote("/"+l.Path+"/"), page)
			if a.File != nil {
				file := quote("/" + l.Path + "/" + a.File.Name)
				fmt.Fprintf(&b, "    %s %s;\n", file, file)
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
			a := l.Live.Lasting(now)
			fmt.Fprintf(&b, "\t@l%d path %s %s\n", i, quote("/"+l.Path), quote("/"+l.Path+"/"))
			if a.Does == leads.Goes {
				fmt.Fprintf(&b, "\tredir @l%d %s 302\n", i, quote(a.To))
				continue
			}
			fmt.Fprintf(&b, "\trewrite @l%d %s\n", i, quote("/"+l.Path+"/index.html"))
			if a.File != nil {
				media, _, _ := strings.Cut(a.File.Type, ";")
				file := quote("/" + l.Path + "/" + a.File.Name)
				fmt.Fprintf(&b, "\t@f%d path %s\n\trewrite @f%d %s\n\theader @f%d Content-Type \"%s; charset=utf-8\"\n", i, file, i, file, i,
					media)
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
	pattern := func(s string) string { return strings.ReplaceAll(regexp.QuoteMeta(s), `"`, `\x22`) }
	b.WriteString("# For a server or a virtual host, beside: DocumentRoot with the folder site/ of this pack, for its host.\n")
	b.WriteString("RewriteEngine on\nAddDefaultCharset utf-8\nAddType \"text/vcard; charset=utf-8\" .vcf\nAddType \"text/calendar; charset=utf-8\" .ics\n")
	b.WriteString("DirectorySlash off\n")
	for _, host := range hosts(links) {
		for _, l := range of(links, host) {
			a := l.Live.Lasting(now)
			fmt.Fprintf(&b, "RewriteCond \"%%{HTTP_HOST}\" \"^%s(:[0-9]+)?$\" [NC]\n", pattern(name(host)))
			if a.Does == leads.Goes {
				fmt.Fprintf(&b, "RewriteRule \"^/%s/?$\" %s [NC,R=302,L,NE,QSD]\n", pattern(l.Path), quote(a.To))
				continue
			}
			fmt.Fprintf(&b, "RewriteRule \"^/%s(/|/index\\.html)?$\" %s [NC,L]\n", pattern(l.Path), quote("/"+l.Path+"/index.html"))
			if a.File != nil {
				fmt.Fprintf(&b, "RewriteCond \"%%{HTTP_HOST}\" \"^%s(:[0-9]+)?$\" [NC]\nRewriteRule \"^/%s$\" %s [NC,L]\n",
					pattern(name(host)), pattern(l.Path+"/"+a.File.Name), quote("/"+l.Path+"/"+a.File.Name))
			}
		}
	}
	return b.String()
}
