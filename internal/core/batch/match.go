package batch

import (
	"slices"
	"strings"
	"sync"

	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/core/recognise"
	"sodrik/internal/core/schema"
)

// Columns find their fields by their heads: the key, the label and the other heads that each field declares, without regard
// to capitals, accents and what stands between words. Where a required field finds none, a column is taken whose cells are
// recognised as it.

// folded is a head by which columns are compared.
func folded(head string) string {
	if strings.TrimSpace(head) == "" {
		return ""
	}
	if s := strings.ReplaceAll(export.Slug(head), "-", ""); s != "code" || strings.EqualFold(strings.TrimSpace(head), "code") {
		return s
	}
	return strings.ToLower(strings.Join(strings.Fields(head), "")) // letters that have no ASCII
}

// Folded is a head by which columns of tables are compared.
func Folded(head string) string { return folded(head) }

// headsOf are the folded heads of a field, the surest first. Beyond its content a code has fields of many parts with common
// names, so that these are found by their declared heads alone.
func headsOf(c schema.Column) (out []string) {
	for _, h := range strings.Split(c.Field.Heads, ",") {
		if !strings.Contains(h, "+") {
			out = append(out, folded(h))
		}
	}
	inContent := strings.HasPrefix(c.Path, "/content/")
	if inContent || c.Path == "/name" {
		key := c.Path[strings.LastIndexByte(c.Path, '/')+1:]
		out = append(out, folded(key), folded(strings.ReplaceAll(c.Field.Label, "\u00ad", "")))
	}
	out = append(out, folded(strings.TrimPrefix(c.Path, "/content/")), folded(c.Path))
	return slices.DeleteFunc(out, func(s string) bool { return s == "" })
}

// fillable are the fields of a kind that columns may find.
func fillable(kind string) []schema.Column {
	return slices.DeleteFunc(job.Columns(kind), func(c schema.Column) bool { return c.Field.Typed && c.Field.Heads == "" })
}

// headed is a field with its heads.
type headed struct {
	path  string
	heads []string
}

// headedOf are the fillable fields of a kind with their heads; what is declared does not change.
func headedOf(kind string) []headed {
	if known, ok := allHeads.Load(kind); ok {
		return known.([]headed)
	}
	var out []headed
	for _, c := range fillable(kind) {
		out = append(out, headed{c.Path, headsOf(c)})
	}
	allHeads.Store(kind, out)
	return out
}

var allHeads sync.Map // by kind

// Match finds for each column of a table the field of a kind that it fills: its pointer, "" for none. Fields find the first
// column of their head; further columns of it fill the next entries of a list. known holds what somebody chose before, by
// folded head.
func Match(kind string, columns []string, sample [][]string, known map[string]string) []string {
	out := make([]string, len(columns))
	taken := map[string]bool{}
	for i, c := range columns {
		if path, ok := known[folded(c)]; ok && !taken[path] {
			if f := job.Field(kind, path); path == "" || f != nil && f.Leaf() {
				out[i], taken[path] = path, path != ""
			}
		}
	}
	all := headedOf(kind)
	heads := make([]string, len(columns))
	for i, c := range columns {
		heads[i] = trimmed(folded(c))
	}
	for rank := range maxHeads { // the surest heads of all fields first
		for _, c := range all {
			if rank >= len(c.heads) {
				continue
			}
			for i := range columns {
				if out[i] != "" || heads[i] != c.heads[rank] {
					continue
				}
				if _, chosen := known[folded(columns[i])]; chosen {
					continue
				}
				path := c.path
				for n := 1; taken[path] && n < 10; n++ { // the next entry of its list
					next := entry(c.path, n)
					if next == c.path {
						break
					}
					path = next
				}
				if !taken[path] {
					out[i], taken[path] = path, true
				}
			}
		}
	}
	if main := mainField(kind); main != "" && !taken[main] {
		best, at := 0, -1
		for i := range columns {
			if _, chosen := known[folded(columns[i])]; chosen || out[i] != "" && out[i] != "/name" {
				continue
			}
			if n := recognised(kind, sample, i); n > best {
				best, at = n, i
			}
		}
		if at >= 0 && 2*best > len(sample) {
			out[at] = main
		}
	}
	return out
}

// Suggest is what Match finds as texts: each column in the field that it fills, and columns that make up one field together,
// whose heads are declared with a plus between them.
func Suggest(kind string, columns []string, sample [][]string, known map[string]string) (out []Set) {
	free := map[string]string{} // columns without a field by their heads
	taken := map[string]bool{}
	for i, path := range Match(kind, columns, sample, known) {
		if path != "" {
			out = append(out, Set{path, Blank(columns[i])})
			taken[path] = true
		} else if _, chosen := known[folded(columns[i])]; !chosen {
			free[trimmed(folded(columns[i]))] = columns[i]
		}
	}
	for _, c := range fillable(kind) {
		for _, head := range strings.Split(c.Field.Heads, ",") {
			together := strings.Split(head, "+")
			var blanks []string
			for _, one := range together {
				if column, ok := free[folded(one)]; ok {
					blanks = append(blanks, Blank(column))
				}
			}
			if len(together) > 1 && len(blanks) == len(together) && !taken[c.Path] {
				out = append(out, Set{c.Path, strings.Join(blanks, ", ")})
				taken[c.Path] = true
			}
		}
	}
	return out
}

// maxHeads bounds how many heads of a field are looked at.
const maxHeads = 16

// trimmed leaves out a number at the end of a head: Phone 2 is a phone.
func trimmed(head string) string {
	if s := strings.TrimRight(head, "0123456789"); s != "" && len(head)-len(s) <= 2 {
		return s
	}
	return head
}

// entry is the pointer of entry n of the list in which a pointer names the first.
func entry(path string, n int) string {
	if i := strings.LastIndex(path, "/0"); i >= 0 && !strings.HasPrefix(path, "/placements/") && (i+2 == len(path) ||
		path[i+2] == '/') {
		return path[:i+1] + string(rune('0'+n)) + path[i+2:]
	}
	return path
}

// mainField is what a content is nothing without.
func mainField(kind string) string {
	k := content.KindOf(kind)
	if k == nil {
		return ""
	}
	for _, c := range k.Fields.Columns("/content") {
		if c.Field.Required && !c.Field.Fixed && strings.Count(c.Path, "/") == 2 {
			return c.Path
		}
	}
	return ""
}

// recognised is how many cells of a column are what the kind holds.
func recognised(kind string, sample [][]string, column int) (n int) {
	for _, cells := range sample {
		if column >= len(cells) || cells[column] == "" {
			continue
		}
		if kind == "text" {
			n++
			continue
		}
		for _, r := range recognise.Text(cells[column], "") {
			if r.Content != nil && r.Content.Kind() == kind && !r.Weak {
				n++
				break
			}
		}
	}
	return n
}

// Guess is the kind of content that a table most likely holds: the one most of whose fields find a column, all required ones
// among them; else plain text.
func Guess(columns []string, sample [][]string) string {
	best, kind := 0, "text"
	for _, k := range content.Register() {
		if k.Group == content.Turned || k.Key == "text" {
			continue
		}
		found := map[string]int{}
		score := 0
		for _, s := range Suggest(k.Key, columns, sample, nil) {
			if strings.HasPrefix(s.Path, "/content/") {
				t, _ := ReadText(s.Text, columns)
				found[s.Path], score = t.Columns()[0], score+2*len(t.Columns())
			}
		}
		if main := mainField(k.Key); main != "" {
			if i, ok := found[main]; !ok {
				continue
			} else if recognised(k.Key, sample, i) > len(sample)/2 {
				score += 3
			}
		}
		if !complete(k, found) || score <= best {
			continue
		}
		best, kind = score, k.Key
	}
	return kind
}

// KindWith is the kind of content that has the fields at some pointers: the guessed one where it has them all, else the first
// that has them all with its main field among them; guessed again where there is none.
func KindWith(guessed string, paths []string) string {
	lacks := func(kind string) bool {
		return slices.ContainsFunc(paths, func(path string) bool {
			return strings.HasPrefix(path, "/content/") && job.Field(kind, path) == nil
		})
	}
	if !lacks(guessed) {
		return guessed
	}
	for _, k := range content.Register() {
		if !lacks(k.Key) && slices.Contains(paths, mainField(k.Key)) {
			return k.Key
		}
	}
	return guessed
}

// complete says whether columns fill all that a kind requires and does not have by itself.
func complete(k *content.Kind, found map[string]int) bool {
	for _, c := range k.Fields.Columns("/content") {
		if c.Field.Required && !c.Field.Fixed && strings.Count(c.Path, "/") == 2 && len(c.Field.Options()) == 0 {
			if _, ok := found[c.Path]; !ok {
				return false
			}
		}
	}
	for _, f := range k.Fields.Fields { // on no form: a field that types it stands for it
		if _, ok := found[content.Position]; f.Required && f.Off && !ok {
			return false
		}
	}
	return len(found) > 0
}
