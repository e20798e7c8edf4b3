package recognise

import (
	"regexp"
	"strings"

	"sodrik/internal/core/content"
)

var (
	inLineMail   = regexp.MustCompile(`[^\s@<>:]+@[^\s@<>]+\.[\p{L}]{2,}`)
	inLineLink   = regexp.MustCompile(`(?i)(?:https?://\S+|\bwww\.\S+\.[a-z]{2,}\S*)`)
	inLineNumber = regexp.MustCompile(`\+?[0-9(][0-9().\-/ \x{00a0}]{5,22}[0-9]`)
	label        = regexp.MustCompile(
		`(?i)^\s*(mob(ile)?|cell|m|tel(ephone)?|phone|t|p|office|work|direct|d|fax|f|e-?mail|e|web(site)?|w|url)\s*[.:]?\s*$`)
)

// parting is how a letter ends above a signature.
var parting = regexp.MustCompile(
	`(?i)^(with )?(kind(est)?|best|warm(est)?|many|all the|yours|thanks|thank you|cheers|regards|mit freundlichen|viele|freundliche|beste|liebe|cordialement|bien à|meilleures|saludos|un saludo)\b[^0-9@]{0,30}$`)

// job is in the name of what somebody does, rather than of whom they do it for.
var job = regexp.MustCompile(
	`(?i)\b(manager|director|head|chief|officer|lead|owner|founder|partner|sales|buyer|grower|gardener|assistant|editor|designer|engineer|consultant|secretary|rep|representative|ceo|cto|cfo)\b`)

// signature takes lines such as stand under a letter for a contact: a name first, and a number or an address of any sort
// below. What has no field goes into the note, so that nothing is lost.
func signature(s, region string, add func(string, map[string]any)) {
	card := map[string]any{"kind": "contact"}
	withRegion(card, region)
	append1 := func(key string, item any) {
		list, _ := card[key].([]any)
		card[key] = append(list, item)
	}
	found := 0
	var note, words []string // words are the lines between name and numbers: what somebody does, and for whom
	for _, line := range strings.FieldsFunc(s, func(r rune) bool { return r == '\n' || r == '\r' }) {
		rest := strings.TrimSpace(line)
		if rest == "" || strings.Trim(rest, "-–—_=* ") == "" || card["given"] == nil && parting.MatchString(rest) {
			continue
		}
		took := false
		if m := inLineMail.FindString(rest); m != "" {
			append1("emails", map[string]any{"address": m})
			rest, took = strings.Replace(rest, m, "", 1), true
		}
		if m := inLineLink.FindString(rest); m != "" {
			append1("urls", m)
			rest, took = strings.Replace(rest, m, "", 1), true
		} else if bareAddress.MatchString(rest) {
			append1("urls", rest)
			rest, took = "", true
		}
		if m := inLineNumber.FindString(rest); m != "" {
			if n, message := content.ParseNumber(m, region); message == "" && !n.Short {
				item := map[string]any{"number": m}
				switch before := strings.ToLower(rest[:strings.Index(rest, m)]); {
				case strings.Contains(before, "fax"), strings.HasPrefix(strings.TrimSpace(before), "f"):
					item["type"] = "fax"
				case strings.Contains(before, "mob"), strings.Contains(before, "cell"),
					strings.HasPrefix(strings.TrimSpace(before), "m"):
					item["type"] = "mobile"
				case strings.Contains(before, "office"), strings.Contains(before, "work"):
					item["type"] = "work"
				}
				append1("phones", item)
				rest, took = strings.Replace(rest, m, "", 1), true
			}
		}
		if took {
			found++
			if rest = strings.Trim(rest, "<>|·•, \t"); rest == "" || label.MatchString(rest) {
				continue
			}
		}
		switch {
		case card["given"] == nil && !strings.ContainsAny(rest, "0123456789@"):
			given, family := split(rest)
			card["given"] = given
			if family != "" {
				card["family"] = family
			}
		case card["title"] == nil && card["organisation"] == nil && !took && strings.Contains(rest, ","):
			title, organisation, _ := strings.Cut(rest, ",")
			card["title"], card["organisation"] = strings.TrimSpace(title), strings.TrimSpace(organisation)
		case card["organisation"] == nil && len(words) < 2 && !took && !strings.ContainsAny(rest, "0123456789"):
			words = append(words, rest)
		default:
			note = append(note, rest)
		}
	}
	switch {
	case len(words) == 2 && (job.MatchString(words[0]) || !job.MatchString(words[1])):
		card["title"], card["organisation"] = words[0], words[1]
	case len(words) == 2:
		card["organisation"], card["title"] = words[0], words[1]
	case len(words) == 1 && job.MatchString(words[0]):
		card["title"] = words[0]
	case len(words) == 1:
		card["organisation"] = words[0]
	}
	if len(note) > 0 {
		card["note"] = strings.Join(note, "\n")
	}
	if found > 0 && card["given"] != nil && len([]rune(s)) < 800 {
		add("A contact, from the lines of a signature", card)
	}
}
