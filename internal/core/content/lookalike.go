package content

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"github.com/mtibben/confusables"
)

// scripts whose letters are mixed into names to pass for others.
var scripts = map[string]*unicode.RangeTable{"Latin": unicode.Latin, "Cyrillic": unicode.Cyrillic, "Greek": unicode.Greek,
	"Armenian": unicode.Armenian, "Cherokee": unicode.Cherokee, "Coptic": unicode.Coptic}

// Lookalike says in a sentence which letters of a host name pass for others (Unicode Technical Standard 39, clauses 4 and
// 5.1), "" for none. A label is pointed out that looks like one of plain letters, or mixes scripts that look alike; names in
// one script of their own are not.
func Lookalike(host string) string {
	for _, label := range strings.Split(host, ".") {
		if isASCII(label) {
			continue
		}
		var found, letters []string
		twin := ""
		for _, r := range label {
			s := confusables.Skeleton(string(r))
			script := ""
			for name, table := range scripts {
				if unicode.Is(table, r) {
					script = name
				}
			}
			if script != "" && !slices.Contains(found, script) {
				found = append(found, script)
			}
			if r > unicode.MaxASCII && isASCII(s) {
				letters = append(letters, letterOf(r, script))
				if len(s) == 1 {
					twin += strings.ToLower(s)
					continue
				}
			}
			twin += string(r)
		}
		switch slices.Sort(found); {
		case isASCII(confusables.Skeleton(label)) && isASCII(twin):
			return fmt.Sprintf("The address looks like %s and is another: %s.", strings.Replace(host, label, twin, 1),
				whatIs(letters))
		case isASCII(confusables.Skeleton(label)), len(found) > 1:
			if len(letters) == 0 {
				letters = []string{strings.Join(found, " and ") + " letters are mixed"}
				return "The address can be taken for another: " + letters[0] + "."
			}
			return "The address can be taken for another: " + whatIs(letters) + "."
		}
	}
	return ""
}

func letterOf(r rune, script string) string {
	if script == "" {
		return fmt.Sprintf("%c is U+%04X", r, r)
	}
	return fmt.Sprintf("%c is %s", r, script)
}

func whatIs(letters []string) string {
	letters = slices.Compact(letters)
	if len(letters) > 3 {
		letters = append(letters[:3:3], "and more")
	}
	return "its " + strings.Join(letters, ", ")
}

func isASCII(s string) bool {
	return !strings.ContainsFunc(s, func(r rune) bool { return r > unicode.MaxASCII })
}
