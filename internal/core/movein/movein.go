// Package movein reads where the paths of a domain lead that is in print already: from a table, or from redirect rules of nginx,
// Caddy and Apache. Rules that hold for more than one path are named, not guessed at.
package movein

import (
	"encoding/csv"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Row is a path with where it leads.
type Row struct {
	Line int    // in the text, from 1
	Path string // as it is printed, unescaped, without slashes around it
	To   string // an address
	Name string // from a third column, "" for none
	Bad  string // why it cannot move, as a sentence; "" where it can
}

// Key is what a path is found by: without regard to case.
func (r Row) Key() string { return strings.ToUpper(r.Path) }

// MaxRows is how many paths move at once; MaxPath how long one may be, in characters.
const (
	MaxRows = 1000
	MaxPath = 200
)

// Read reads a text. Lines that are no rule of a path are left out where they say nothing, and else are rows with a reason.
func Read(text string) []Row {
	text = strings.TrimPrefix(strings.ReplaceAll(text, "\r\n", "\n"), "\ufeff")
	rows := rules(text)
	if len(rows) == 0 {
		rows = table(text)
	}
	seen := map[string]int{}
	out := rows[:0]
	for _, r := range rows {
		r.check()
		first, again := seen[r.Key()]
		switch {
		case r.Bad != "":
		case again && out[first].To == r.To:
			continue
		case again:
			r.Bad = fmt.Sprintf(
				"Line %d has this path already, and leads elsewhere. Capital and small letters count alike.",
				out[first].Line,
			)
		default:
			seen[r.Key()] = len(out)
		}
		out = append(out, r)
		if len(out) > MaxRows {
			out[MaxRows] = Row{
				Line: r.Line,
				Path: r.Path,
				Bad:  fmt.Sprintf("At most %d paths move at once. Move these in, then the rest.", MaxRows),
			}
			return out[:MaxRows+1]
		}
	}
	return out
}

// check says why a row cannot move.
func (r *Row) check() {
	if r.Bad != "" {
		return
	}
	if path, err := url.PathUnescape(r.Path); err == nil {
		r.Path = path
	}
	r.Path = strings.Trim(r.Path, "/ ")
	u, err := url.Parse(r.To)
	switch r.Bad = Unfit(r.Path); {
	case r.Bad != "":
	case err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "":
		r.Bad = fmt.Sprintf("It leads to %q, which is no web address.", r.To)
	}
}

// Unfit says why a path, unescaped and without slashes around it, can be none of a short link, as a sentence; "" where it can.
func Unfit(path string) string {
	key := strings.ToUpper(path)
	switch {
	case path == "":
		return "The host itself is no path. It shows a quiet page."
	case strings.ContainsAny(path, "?#"):
		return "What follows a question mark cannot tell one link from another here."
	case utf8.RuneCountInString(path) > MaxPath:
		return fmt.Sprintf("The path is longer than %d characters.", MaxPath)
	case !utf8.ValidString(path) || strings.ContainsFunc(path, unicode.IsControl) || strings.Contains(path, ".."):
		return "The path holds characters that no address has."
	case key == "WHERE" || key == "REPORT" || strings.HasPrefix(key, "F/"):
		return "The service needs this path for itself."
	}
	return ""
}

// table reads rows of path or address, destination, and perhaps a name, with commas, semicolons or tabs between.
func table(text string) (out []Row) {
	first, _, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = -1, true, true
	for _, c := range "\t;," {
		if strings.ContainsRune(first, c) {
			r.Comma = c
			break
		}
	}
	for {
		fields, err := r.Read()
		if fields == nil {
			return out
		}
		line, _ := r.FieldPos(0)
		row := Row{Line: line, Path: strings.TrimSpace(fields[0])}
		switch {
		case err != nil:
			row.Bad = "This row cannot be read."
		case len(fields) < 2:
			row.Bad = "The destination is missing. Write the path, a comma, and where it leads."
		default:
			if row.To = strings.TrimSpace(fields[1]); !strings.Contains(row.To, "://") && line == 1 &&
				!strings.HasPrefix(row.Path, "/") {
				continue // a heading
			}
			if u, err := url.Parse(row.Path); err == nil && u.Scheme != "" {
				row.Path = u.EscapedPath()
				if u.RawQuery != "" {
					row.Path += "?" + u.RawQuery
				}
			}
			if len(fields) > 2 {
				row.Name = strings.TrimSpace(fields[2])
			}
		}
		out = append(out, row)
	}
}

const (
	word   = `"((?:[^"\\]|\\.)*)"|([^\s;"{}]+)` // of a rule, quoted or not
	status = `(?:\s+(?:30[1278]|permanent|temporary|temp|redirect|last|seeother))?`
)

// forms are the rules of one path, with where path and destination stand.
var forms = []*regexp.Regexp{
	regexp.MustCompile(
		`^rewrite\s+(?:` + word + `)\s+(?:` + word + `)` + status + `\s*;`,
	), // nginx
	regexp.MustCompile(
		`^location\s+=\s+(?:` + word + `)\s*\{\s*return\s+30[1278]\s+(?:` + word + `)\s*;`,
	), // nginx
	regexp.MustCompile(
		`^redir\s+(?:` + word + `)\s+(?:"((?:[^"\\]|\\.)*)"|([^\s;"]+))` + status + `$`,
	), // Caddy
	regexp.MustCompile(
		`(?i)^Redirect(?:Permanent|Temp)?` + status + `\s+(?:` + word + `)\s+(?:` + word + `)$`,
	), // Apache
	regexp.MustCompile(
		`(?i)^RewriteRule\s+(?:` + word + `)\s+(?:` + word + `)(?:\s+\[([^\]]*)\])?$`,
	), // Apache
	regexp.MustCompile(
		`^(?:"(/(?:[^"\\]|\\.)*)"|(/[^\s;"{}]*))\s+(?:"(https?://(?:[^"\\]|\\.)*)"|(https?://[^\s;"]+))\s*;`,
	), // nginx, map
}

var (
	matcher = regexp.MustCompile(`^@(\S+)\s+path\s+(?:"([^"]*)"|(\S+))`) // Caddy
	open    = regexp.MustCompile(`^location\s+=\s+(\S+)\s*\{$`)
	answer  = regexp.MustCompile(`^return\s+30[1278]\s+(.+);$`)
)

// rules reads redirect rules, a line each; a location of nginx may take three.
func rules(text string) (out []Row) {
	named := map[string]string{}
	location, some := "", false
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" || line[0] == '#' {
			continue
		}
		if m := matcher.FindStringSubmatch(line); m != nil {
			named["@"+m[1]] = m[2] + m[3]
			continue
		}
		if m := open.FindStringSubmatch(line); m != nil {
			location = m[1]
			continue
		}
		if m := answer.FindStringSubmatch(line); m != nil && location != "" {
			line, location = "location = "+location+" { "+line, ""
		}
		known := false
		for _, f := range forms {
			m := f.FindStringSubmatch(line)
			if m == nil {
				continue
			}
			known, some = true, true
			r := Row{Line: i + 1, Path: unquoted(m[1], m[2]), To: unquoted(m[3], m[4])}
			if at, ok := named[r.Path]; ok {
				r.Path = at
			}
			if strings.HasPrefix(line, "@") || strings.HasPrefix(r.Path, "@") {
				break // a matcher of something else
			}
			if strings.HasPrefix(strings.ToLower(line), "rewrite") {
				if r.Path = onePath(r.Path); !strings.Contains(r.To, "://") {
					break // within the server
				}
			}
			if r.Path == "" || strings.ContainsAny(r.Path, "*[](){}|^$") ||
				strings.Contains(strings.ReplaceAll(r.To, "${sodrik_dollar}", ""),
					"{") && strings.HasPrefix(line, "redir") && !strings.Contains(r.To, `\{`) {
				r.Path, r.Bad = line, "This rule holds for many paths. Write out those that are in print."
			}
			r.To = strings.ReplaceAll(r.To, "${sodrik_dollar}", "$") // of a leaving pack
			r.To = strings.NewReplacer(`\{`, "{", `\}`, "}", `\%`, "%", `\$`, "$").Replace(r.To)
			out = append(out, r)
			break
		}
		if r, is := between(line); is && !known {
			r.Line = i + 1
			out = append(out, r)
		}
	}
	if !some {
		return nil // a table
	}
	return out
}

// silent are directives that may name an address and lead no path anywhere.
var silent = regexp.MustCompile(`(?i)^(server_name|proxy_\w+|reverse_proxy|include|root|add_header|header|ErrorDocument|Server\w+|Proxy\w+|` +
	`RewriteCond|RewriteBase|RewriteEngine|map|if|location|handle\w*|route|@\w+)\b`)

// between is a line among rules that is none: a row of a table that was pasted with them, or something that leads somewhere and
// cannot be read, which is said.
func between(line string) (r Row, is bool) {
	for _, mark := range []rune{'\t', ';', ','} {
		c := csv.NewReader(strings.NewReader(line))
		c.Comma, c.FieldsPerRecord, c.LazyQuotes, c.TrimLeadingSpace = mark, -1, true, true
		cells, err := c.Read()
		if err != nil || len(cells) < 2 || strings.ContainsAny(strings.TrimSpace(cells[0]), " {}") || cells[0] == "" {
			continue
		}
		if to := strings.TrimSpace(cells[1]); strings.Contains(to, "://") || strings.Contains(to, ".") &&
			!strings.ContainsAny(to, " {}") {
			r = Row{Path: strings.TrimSpace(cells[0]), To: to}
			if len(cells) > 2 {
				r.Name = strings.TrimSpace(cells[2])
			}
			return r, true
		}
	}
	if !strings.Contains(line, "://") || silent.MatchString(line) {
		return r, false
	}
	return Row{Path: line,
		Bad: "This line leads somewhere, and is no rule of one path. Write the path, a comma, and where it leads."}, true
}

// unquoted is what a quoted or a bare word says.
func unquoted(quoted, bare string) string {
	if quoted == "" {
		return bare
	}
	return strings.NewReplacer(`\"`, `"`, `\\`, `\`).Replace(quoted)
}

// escaped is a character that stands for itself in a pattern.
var escaped = regexp.MustCompile(`\\([.\-_/+?])`)

// onePath is the path that a pattern is for, "" where it is for several: ^/fair/?$ is for one.
func onePath(pattern string) string {
	p, ok := strings.CutPrefix(pattern, "^")
	p, end := strings.CutSuffix(p, "$")
	if !ok || !end {
		return ""
	}
	p = strings.TrimPrefix(strings.TrimPrefix(p, "/?"), "/")
	p = strings.TrimSuffix(strings.TrimSuffix(p, "/?"), "/")
	p = escaped.ReplaceAllString(p, "\x00$1")
	for i := 0; i < len(p); i++ {
		if p[i] == 0 {
			i++
		} else if strings.IndexByte(`.*+?[](){}|^$\`, p[i]) >= 0 {
			return ""
		}
	}
	return strings.ReplaceAll(p, "\x00", "")
}
