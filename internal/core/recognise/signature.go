package recognise

import (
	"slices"
	"strings"
	"unicode"

	"sodrik/internal/core/content"
)

var (
	inLineMail   = later(`[^\s@<>:]+@[^\s@<>]+\.[\p{L}]{2,}`)
	inLineLink   = later(`(?i)(?:https?://[^\s<>]+|\bwww\.[^\s<>]+\.[a-z]{2,}[^\s<>]*)`)
	inLineNumber = later(`\+?[0-9(][0-9().\-/ \x{00a0}]{5,22}[0-9]`)
	label        = later(
		`(?i)^\s*(mob(ile)?|mobil|móvil|cell?|m|tel(ephone|efon|éfono|efono|efoon)?|tél|phone|t|p|office|work|direct|d|fax|f|` +
			`e-?mail|e|web(site)?|w|url)\s*[.:]?\s*$`)
)

// parting is how a letter ends above a signature.
var parting = later(
	`(?i)^((with )?(kind(est)?|best|warm(est)?|many|all the|yours|thanks|thank you|cheers|regards|mit freundlichen|viele|freundliche|beste|` +
		`liebe|cordialement|bien à|meilleures|saludos|un saludo|cordiali|distinti|met vriendelijke|groeten|hartelijke)\b[^0-9@]{0,30}|\p{L}+ saluti)$`)

// job is in the name of what somebody does, rather than of whom they do it for.
var job = later(
	`(?i)(\b(manager|director|head|chief|officer|lead|owner|founder|partner|sales|buyer|grower|gardener|assistant|editor|designer|engineer|` +
		`consultant|secretary|rep|representative|ceo|cto|cfo|einkauf|vertrieb|leiter(in)?|responsable|directeur|directrice|directora?|ventas|` +
		`compras|responsabile|vendite|acquisti|inkoop|verkoop|hoofd)\b|leiter(in)?\b|leider\b)`)

// house is in the name of a company.
var house = later(`\b(GmbH|AG|KG|Ltd|Limited|LLC|Inc|plc|S\.?A\.?|S\.?A\.?R\.?L\.?|S\.?L\.?|S\.?r\.?l\.?|B\.?V\.?)$`)

var (
	street = later(`^(\d{1,4}[a-z]?,? \p{L}[\p{L} .'-]+|\p{L}[\p{L} .'-]+ \d{1,4} ?[a-z]?)$`)
	born   = later(`(?i)^(?:birthday|born|geburtstag|geboren|née? le|anniversaire|nacimiento|cumpleaños|nat[oa] il|compleanno|` +
		`geboren op|verjaardag) ?:? `)
	profile = later(`(?i)^(?:https?://)?(?:www\.)?([\p{L}\d-]+)\.[\p{L}\d.-]+/(?:(?:in|u|user|company|profile|people)/|@)\S+$`)
)

// particles stand in the middle of names in small letters.
var particles = strings.Fields("de del della di da la le van von der den ten ter zu und y e af ap bin al")

// nameLike says whether a line reads like somebody's name: two to five words with large first letters, and no mark that names
// do not have.
func nameLike(line string) bool {
	words := strings.Fields(line)
	if len(words) < 2 || len(words) > 5 || strings.ContainsFunc(line, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsMark(r) && !strings.ContainsRune(" .'’-", r)
	}) {
		return false
	}
	for i, w := range words {
		if !unicode.IsUpper([]rune(w)[0]) && (i == 0 || i == len(words)-1 || !slices.Contains(particles, strings.ToLower(w))) {
			return false
		}
	}
	return true
}

// card gathers a contact from lines.
type card struct {
	values map[string]any
	region string
	found  int      // addresses and numbers
	words  []string // lines between name and numbers: what somebody does, and for whom
	note   []string
	last   string // the line before, of which nothing was taken
}

func (c *card) add(key string, item any) {
	list, _ := c.values[key].([]any)
	c.values[key] = append(list, item)
}

// signature takes lines such as stand under a letter for a contact: a name first, and a number or an address of any sort
// below. What has no field goes into the note, so that nothing is lost.
func signature(s, region string, add func(string, map[string]any)) {
	c := &card{values: map[string]any{"kind": "contact"}, region: region}
	withRegion(c.values, region)
	for line := range strings.SplitSeq(blanks(s), "\n") {
		if line == "" || strings.Trim(line, "-–—_=* ") == "" || c.values["given"] == nil && parting().MatchString(line) {
			continue
		}
		c.take(line)
	}
	c.work()
	if len(c.note) > 0 {
		c.values["note"] = strings.Join(c.note, "\n")
	}
	family, _ := c.values["family"].(string)
	given, _ := c.values["given"].(string)
	name := strings.TrimSpace(given + " " + family)
	reached := c.values["phones"] != nil || c.values["emails"] != nil
	if c.found == 0 || given == "" || len([]rune(s)) >= 800 || !reached || !nameLike(name) && !c.named(given, family) {
		return
	}
	add("A contact, from the lines of a signature", c.values)
}

// named says whether a mail address bears the name that stands above it in one word or in small letters.
func (c *card) named(given, family string) bool {
	emails, _ := c.values["emails"].([]any)
	for _, e := range emails {
		address := strings.ToLower(e.(map[string]any)["address"].(string))
		if first, _, _ := strings.Cut(strings.ToLower(given), " "); len(first) > 2 && strings.HasPrefix(address, first) {
			return true
		}
	}
	phones, _ := c.values["phones"].([]any)
	return family == "" && len(phones) > 0 && !strings.ContainsFunc(given,
		func(r rune) bool { return !unicode.IsLetter(r) }) && unicode.IsUpper([]rune(given)[0])
}

// take reads one line.
func (c *card) take(line string) {
	if m := born().FindString(line); m != "" && c.values["birthday"] == nil {
		if day, _, _, ok := dayIn(line[len(m):], c.region); ok {
			c.values["birthday"] = day.Format("2006-01-02")
			return
		}
	}
	if c.place(line) {
		return
	}
	rest, took := c.reach(line)
	if took {
		c.found++
		if rest = strings.Trim(rest, "<>|·•,/ \t"); rest == "" || label().MatchString(rest) {
			c.last = ""
			return
		}
	}
	switch {
	case c.values["given"] == nil && !strings.ContainsAny(rest, "0123456789@"):
		given, family := split(rest)
		c.values["given"] = given
		if family != "" {
			c.values["family"] = family
		}
	case c.values["title"] == nil && c.values["organisation"] == nil && !took && strings.Contains(rest, ",") &&
		!strings.ContainsAny(rest, "0123456789"):
		title, organisation, _ := strings.Cut(rest, ",")
		c.values["title"], c.values["organisation"] = strings.TrimSpace(title), strings.TrimSpace(organisation)
	case c.values["organisation"] == nil && len(c.words) < 2 && !took && !strings.ContainsAny(rest, "0123456789"):
		c.words = append(c.words, rest)
	default:
		c.note = append(c.note, rest)
		c.last = rest
		return
	}
	c.last = ""
}

// place reads the line of a postal address that has the town, and with it the line of the street above it.
func (c *card) place(line string) bool {
	if c.values["address"] != nil {
		return false
	}
	before, lineOf := "", line
	if i := strings.LastIndex(line, ", "); i > 0 && street().MatchString(line[:i]) { // both on one line
		before, lineOf = line[:i], line[i+2:]
	}
	postcode, city, ok := content.Town(lineOf)
	if !ok {
		return false
	}
	address := map[string]any{"postcode": postcode, "city": city}
	if before == "" && street().MatchString(c.last) {
		before, c.note = c.last, c.note[:len(c.note)-1]
	}
	if before != "" {
		address["street"] = before
	}
	c.values["address"], c.last = address, ""
	return true
}

// reach takes addresses and numbers out of a line.
func (c *card) reach(line string) (rest string, took bool) {
	rest = line
	for m := inLineMail().FindString(rest); m != ""; m = inLineMail().FindString(rest) {
		c.add("emails", map[string]any{"address": m})
		rest, took = strings.Replace(rest, m, "", 1), true
	}
	if m := inLineLink().FindString(rest); m != "" {
		c.link(m)
		rest, took = strings.Replace(rest, m, "", 1), true
	} else if bareAddress.MatchString(rest) {
		c.link(rest)
		return "", true
	}
	for range 3 {
		at := inLineNumber().FindStringIndex(rest)
		if at == nil {
			break
		}
		m := rest[at[0]:at[1]]
		if !dials(m, c.region) {
			break
		}
		item := map[string]any{"number": m}
		before := rest[:at[0]]
		if i := strings.LastIndexAny(before, "|,;/·•"); i >= 0 {
			before = before[i+1:]
		}
		if kind := numberKind(before); kind != "" {
			item["type"] = kind
		}
		c.add("phones", item)
		if label().MatchString(before) {
			rest = rest[:at[0]-len(before)] + rest[at[1]:]
		} else {
			rest = rest[:at[0]] + rest[at[1]:]
		}
		took = true
	}
	return rest, took
}

// numberKind is what stands before a number says of it.
func numberKind(before string) string {
	before = strings.TrimSpace(strings.ToLower(before))
	switch {
	case strings.Contains(before, "fax"), before == "f", strings.HasPrefix(before, "f.") || strings.HasPrefix(before, "f:"):
		return "fax"
	case strings.Contains(before, "mob"), strings.Contains(before, "cel"), strings.Contains(before, "móvil"),
		strings.HasPrefix(before, "m"):
		return "mobile"
	case strings.Contains(before, "office"), strings.Contains(before, "work"):
		return "work"
	}
	return ""
}

// link keeps an address, as a profile where it is somebody's page of a service.
func (c *card) link(address string) {
	if m := profile().FindStringSubmatch(address); m != nil {
		if !strings.Contains(address, "://") {
			address = "https://" + address
		}
		service := []rune(m[1])
		c.add("socials", map[string]any{"service": strings.ToUpper(string(service[:1])) + string(service[1:]), "url": address})
		return
	}
	c.add("urls", address)
}

// work tells which of two lines below the name is what somebody does, and which for whom.
func (c *card) work() {
	w := c.words
	switch {
	case len(w) == 2 && house().MatchString(w[0]) && !house().MatchString(w[1]):
		c.values["organisation"], c.values["title"] = w[0], w[1]
	case len(w) == 2 && (job().MatchString(w[0]) || !job().MatchString(w[1])):
		c.values["title"], c.values["organisation"] = w[0], w[1]
	case len(w) == 2:
		c.values["organisation"], c.values["title"] = w[0], w[1]
	case len(w) == 1 && job().MatchString(w[0]) && !house().MatchString(w[0]):
		c.values["title"] = w[0]
	case len(w) == 1:
		c.values["organisation"] = w[0]
	}
}
