package movein

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
)

func TestRead(t *testing.T) {
	const fair, shop = "https://marrowby.example/fair", "https://marrowby.example/shop?a=b"
	for what, c := range map[string]struct{ text, want string }{
		"table": {"/fair," + fair + "\nspring/Shop_1," + shop + ",The shop",
			"1 fair=" + fair + "; 2 spring/Shop_1=" + shop + " (The shop)"},
		"with a heading": {"path;destination\n/fair;" + fair, "2 fair=" + fair},
		"whole addresses": {"https://old.example/fair\t" + fair + "\nhttps://old.example/x?id=5\t" + shop,
			"1 fair=" + fair + "; 2 !question"},
		"nginx": {"server {\n  rewrite ^/fair/?$ " + fair + " permanent;\n  location = /shop { return 301 \"" + shop + "\"; }\n" +
			"  location = /three {\n    return 302 " + fair +
			";\n  }\n  rewrite ^/old/(.*)$ https://x.example/$1 last;\n  rewrite ^/in$ /within;\n}",
			"2 fair=" + fair + "; 3 shop=" + shop + "; 5 three=" + fair + "; 7 !many"},
		"nginx map": {"map $uri $to {\n  /fair " + fair + ";\n  \"/a b\" \"" + shop + "\";\n}",
			"2 fair=" + fair + "; 3 a b=" + shop},
		"caddy": {"old.example {\n\tredir /fair " + fair + " permanent\n\t@l path /shop /shop/\n\tredir @l \"" + shop +
			"\" 302\n\tredir /x/* https://x.example{uri}\n}",
			"2 fair=" + fair + "; 4 shop=" + shop + "; 5 !many"},
		"apache": {"Redirect 301 /fair " + fair +
			"\nRedirectPermanent /shop " + shop + "\nRewriteRule ^/?spring\\.html$ " + fair +
			" [R=301,L]\nRewriteRule ^(.*)$ https://x.example/$1 [R]\nRewriteRule ^a$ /b [L]",
			"1 fair=" + fair + "; 2 shop=" + shop + "; 3 spring.html=" + fair + "; 4 !many"},
		"twice":   {"/fair," + fair + "\n/FAIR/," + fair + "\n/Fair," + shop, "1 fair=" + fair + "; 3 !Line 1"},
		"escaped": {"/a%20b," + fair, "1 a b=" + fair},
		"no address": {"/fair,javascript:alert(1)\n/x,ftp://a.example\n/y\n/," + fair + "\n/where," + fair + "\n/f/x," + fair,
			"1 !no web; 2 !no web; 3 !missing; 4 !host itself; 5 !for itself; 6 !for itself"},
		"long": {"/" + strings.Repeat("é", 200) + "," + fair + "\n/" + strings.Repeat("é", 201) + "," + fair,
			"1 " + strings.Repeat("é", 200) + "=" + fair + "; 2 !longer than 200"},
		"a pattern that is escaped": {"rewrite ^/a\\.b\\-c\\+d$ " + fair + ";\nrewrite ^/x\\d$ " + fair + ";",
			"1 a.b-c+d=" + fair + "; 2 !many"},
		"nothing": {"", ""},
	} {
		t.Run(what, func(t *testing.T) {
			var got []string
			rows := Read(c.text)
			for i, want := range strings.Split(c.want, "; ") {
				if i >= len(rows) {
					break
				}
				r := rows[i]
				said := fmt.Sprintf("%d %s=%s", r.Line, r.Path, r.To)
				if r.Name != "" {
					said += " (" + r.Name + ")"
				}
				if line, reason, bad := strings.Cut(want, " !"); bad && strings.Contains(r.Bad, reason) &&
					fmt.Sprint(r.Line) == line {
					said = want
				}
				got = append(got, said)
			}
			if strings.Join(got, "; ") != c.want || c.want == "" && len(rows) > 0 ||
				c.want != "" && len(rows) != len(strings.Split(c.want, "; ")) {
				t.Errorf("%s: %+v\nwant %s", what, rows, c.want)
			}
		})
	}
	if rows := Read(strings.Repeat("\n", 3) + many(MaxRows)); len(rows) != MaxRows || rows[MaxRows-1].Bad != "" {
		t.Errorf("%d rows of %d", len(rows), MaxRows)
	}
	if rows := Read(many(MaxRows + 5)); len(rows) != MaxRows+1 || !strings.Contains(rows[MaxRows].Bad, "1000") {
		t.Errorf("%d rows", len(rows))
	}
}

func many(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "/p%d,https://marrowby.example/%d\n", i, i)
	}
	return b.String()
}

// TestLeft: what one of us wrote on leaving, another reads.
func TestLeft(t *testing.T) {
	to := map[string]string{"FA1R": "https://marrowby.example/fair", "D1": "https://marrowby.example/?a=$1&b=${host}$",
		"B1": "https://marrowby.example/{host}?{query}", "P1": "https://marrowby.example/%24%20y?q=%1",
		"W-2": "http://marrowby.example:8080/;#x"}
	var links []leave.Link
	for path, to := range to {
		links = append(links, leave.Link{Host: "go.marrowby.example", Path: path, Live: &leads.Live{Status: 302,
			Steps: []leads.Step{{Act: leads.Act{Does: leads.Goes, To: to}}}}})
	}
	for _, f := range leave.Pack(links, time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)) {
		if f.Name != "nginx.conf" && f.Name != "Caddyfile" && f.Name != "apache.conf" {
			continue
		}
		got := map[string]string{}
		for _, r := range Read(string(f.Data)) {
			if r.Bad != "" {
				t.Errorf("%s: %+v", f.Name, r)
			}
			got[r.Key()] = r.To
		}
		if len(got) != len(to) {
			t.Errorf("%s: %d of %d", f.Name, len(got), len(to))
		}
		for path, want := range to {
			t.Run(path, func(t *testing.T) {
				if got[path] != want {
					t.Errorf("%s: %s leads to %q, want %q", f.Name, path, got[path], want)
				}
			})
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add("/fair,https://marrowby.example\n")
	f.Add("rewrite ^/fair/?$ https://marrowby.example permanent;")
	f.Add("RewriteRule \"^/?a\\.b$\" \"https://a.example/\\%20\" [R]")
	f.Fuzz(func(t *testing.T, text string) {
		seen := map[string]bool{}
		for _, r := range Read(text) {
			if r.Bad != "" {
				continue
			}
			if r.Path == "" || seen[r.Key()] || !strings.HasPrefix(r.To, "http") || strings.ContainsAny(r.Path, "?#\n") {
				t.Errorf("%q gives %+v", text, r)
			}
			seen[r.Key()] = true
		}
	})
}

// TestMixed: no line that leads somewhere is left out without a word where rules and rows of a table were pasted together.
func TestMixed(t *testing.T) {
	rows := Read("Redirect 301 /fair https://marrowby.example/fair\nspring-list,https://marrowby.example/list,Spring list\n" +
		"old;marrowby.example/old\nreturn 301 https://marrowby.example$request_uri;\nserver_name go.marrowby.example;\n" +
		"proxy_pass http://127.0.0.1:8080;\nRewriteEngine On\n")
	if len(rows) != 4 || rows[0].Bad != "" || rows[1].Bad != "" || rows[1].Path != "spring-list" ||
		rows[1].Name != "Spring list" ||
		rows[1].Line != 2 || rows[2].Path != "old" || rows[2].Bad == "" || rows[3].Bad == "" || rows[3].Line != 4 {
		t.Errorf("%+v", rows)
	}
}
