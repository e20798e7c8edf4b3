package recognise

import (
	"regexp"
	"strings"

	"sodrik/internal/core/content"
)

// spoken are the ways in which people write down what something is, in the languages of the house's markets: English, German,
// French, Spanish, Italian, Dutch. Each gives what it took a text for and the fields, or nothing; the first that does stands.
var spoken = []func(text, region string) (took string, values map[string]any){
	network, transfer, message, call, letter, page, gtin, spot, date,
}

// say adds the reading of the first of them that knows the text.
func say(s, region string, add func(string, map[string]any)) bool {
	for _, know := range spoken {
		if took, values := know(s, region); values != nil {
			add(took, values)
			return true
		}
	}
	return false
}

// oneOf matches any of some words, of which longer ones come first.
func oneOf(words ...string) string { return "(?:" + strings.Join(words, "|") + ")" }

var (
	networkWords = oneOf(`(?:wi-?fi|wlan)[- ]?(?:network|netzwerk|netwerk|name|red)`, `network name`, `nom du r[ée]seau`,
		`nombre de (?:la )?red`, `nome (?:della )?rete`, `red wi-?fi`, `rete wi-?fi`, `r[ée]seau wi-?fi`, `netwerknaam`,
		`netzwerkname`, `wi-?fi`, `wlan`, `ssid`, `network`, `netzwerk`, `r[ée]seau`, `netwerk`, `rete`, `red`)
	keyWords = oneOf(`mot de passe`, `(?:wi-?fi|wlan)[- ]?(?:password|passwort|schlüssel|key)`, `passphrase`, `password`,
		`passwort`, `kennwort`, `wachtwoord`, `contraseña`, `schlüssel`, `clave`, `chiave`, `clé`, `code`, `pass`, `pwd?`, `key`)
	whose  = `(?:(?:our|the|unser|das|notre|le|nuestra|la|nostra|ons|het) )?`
	is     = `(?: ?[:=] ?| (?:is|heißt|lautet|ist|est|es|è) )`
	parted = `(?: ?[\n,;/|] ?| [-–—] | (?:and|und|et|y|e|en) )`

	networkAndKey = later(`(?is)^` + whose + `(` + networkWords + `)` + is + `([^\n]+?)` + parted + whose + `(` + keyWords + `)` +
		is + `([^\n]+?)\s*$`)
	networkAlone = later(`(?i)^` + networkWords + ` ?[:=] ?([^\n]+?)(?: ?\(` + oneOf(`no password`, `open`, `offen`,
		`ohne passwort`, `sans mot de passe`, `libre`, `abierta`, `sin contraseña`, `aperta`, `senza password`,
		`zonder wachtwoord`) + `\))$`)
)

// network reads a name and a password that say what they are.
func network(s, _ string) (string, map[string]any) {
	m := networkAndKey().FindStringSubmatch(blanks(s))
	if m != nil && !(strings.EqualFold(m[1], "red") && strings.EqualFold(m[3], "code")) { // English: a colour and its number
		return "Wi-Fi access", map[string]any{"kind": "wifi", "security": "wpa", "ssid": strings.TrimSpace(m[2]),
			"password": m[4]}
	}
	if m := networkAlone().FindStringSubmatch(s); m != nil {
		return "Wi-Fi access", map[string]any{"kind": "wifi", "security": "open", "ssid": m[1]}
	}
	return "", nil
}

// blanks are one each, and none stand at the ends of lines.
func blanks(s string) string {
	lines := strings.Split(s, "\n")
	for i, line := range lines {
		lines[i] = strings.Join(strings.Fields(line), " ")
	}
	return strings.TrimSpace(strings.Join(lines, "\n"))
}

const dialled = `(\+?[0-9(][0-9().\-/ \x{00a0}]{5,22}[0-9])`

var messageLike = later(`(?i)^` + oneOf(`text`, `send(?:en sie|e)?(?: (?:an |eine )?sms(?: mit)?)?`,
	`schick(?:en sie|e)?`, `envoye[zr]`, `envoie`, `env[ií]a(?:r|e)?`, `manda`, `invia(?:te|re)?`, `stuur(?: een sms met)?`,
	`sms(?: mit| met)?`) +
	` ["“„«]?([^\n]{1,160}?)["”“»]? ` + oneOf(`to`, `an`, `au`, `à`, `al`, `a`, `naar`) + ` ` + dialled + `(?:[.! ][^\n]*)?$`)

// message reads "Text SOW to 0113 496 0123".
func message(s, region string) (string, map[string]any) {
	m := messageLike().FindStringSubmatch(blanks(s))
	if m == nil || !meant(m[2], region) {
		return "", nil
	}
	values := map[string]any{"kind": "sms", "number": m[2], "body": m[1]}
	withRegion(values, region)
	return "A text message", values
}

// meant says whether what stands where a number belongs is one, be it of another region: then the field says what is missing.
func meant(number, region string) bool {
	return dials(number, region) || strings.HasPrefix(number, "0") || strings.HasPrefix(number, "+")
}

// dials says whether a number can be called from a region.
func dials(number, region string) bool {
	n, wrong := content.ParseNumber(number, region)
	return wrong == "" && !n.Short
}

var callLike = later(`(?i)^(?:[^\n0-9@]{0,24}\b)?` + oneOf(`call`, `ring`, `phone`,
	`tel(?:ephone|efon|éfono|efono|efoon)?`, `tél(?:éphone)?`, `rufen sie(?: uns)?(?: an)?`, `ruf(?: uns)? an`, `appelez`,
	`llámenos`, `llama`, `chiam(?:a|aci|ate)`,
	`bel`) + `\b[^\n0-9@+(]{0,16}` + dialled + `(?: [^\n0-9@]{0,30})?[.!]?$`)

// call reads "Call us on 0113 496 0100".
func call(s, region string) (string, map[string]any) {
	m := callLike().FindStringSubmatch(blanks(s))
	if m == nil || !meant(m[1], region) {
		return "", nil
	}
	values := map[string]any{"kind": "phone", "number": m[1]}
	withRegion(values, region)
	return "A number to call", values
}

// few is how many words besides an address a line may have that is about nothing else.
const few = 5

// about gives what a line of few words is about: what of it matches, where that occurs once.
func about(s string, of *regexp.Regexp) string {
	found := of.FindAllString(s, 2)
	if strings.Contains(s, "\n") || len(found) != 1 {
		return ""
	}
	rest := strings.Replace(s, found[0], "", 1)
	if strings.ContainsAny(rest, "0123456789%!@") || len(strings.Fields(rest)) > few {
		return ""
	}
	return strings.TrimRight(found[0], `.,;:!?"'”»>)]`)
}

// letter reads "Write to orders@marrowby.example".
func letter(s, _ string) (string, map[string]any) {
	if m := about(s, inLineMail()); m != "" && !mailNamed.MatchString(s) {
		return "An e-mail address", map[string]any{"kind": "email", "to": []any{m}}
	}
	return "", nil
}

// page reads "Our catalogue: https://marrowby.example/catalogue", and an address in the marks that mails and chats put around it.
func page(s, _ string) (string, map[string]any) {
	m := about(strings.Trim(s, "<>()\"'“”„«»"), inLineLink())
	if m == "" {
		return "", nil
	}
	return addressed(m)
}

var gtinNamed = later(`(?i)^(?:gtin|ean|upc|jan)(?:-?\d{1,2})?\s*[:#]?\s*([0-9][0-9 -]{6,17}[0-9])$`)

// gtin reads "EAN 9521234500018".
func gtin(s, _ string) (string, map[string]any) {
	m := gtinNamed().FindStringSubmatch(s)
	if m == nil {
		return "", nil
	}
	number, wrong := content.GTIN(m[1])
	if wrong != "" {
		number = m[1] // which the field says
	}
	return "A product's number, GTIN", map[string]any{"kind": "gs1link", "gtin": number}
}

var (
	spotNamed    = later(`^\p{L}[\p{L} ]{1,24}: ?(\S[^\n]*)$`)
	decimalComma = later(`(\d),(\d{3,})`)
	// German has O for the east, French and Spanish for the west.
	east = later(`(\d)\s?O\b`)
)

// spot reads coordinates behind a word, and with decimal commas.
func spot(s, region string) (string, map[string]any) {
	if m := spotNamed().FindStringSubmatch(s); m != nil {
		s = m[1]
	}
	lat, lon, ok := content.ParsePosition(s)
	if !ok && decimalComma().MatchString(s) {
		s = decimalComma().ReplaceAllString(s, "$1.$2")
		if region == "DE" || region == "AT" || region == "CH" {
			s = east().ReplaceAllString(s, "$1 E")
		}
		lat, lon, ok = content.ParsePosition(s)
	}
	if !ok || hasPrefix(strings.ToLower(s), webSchemes...) {
		return "", nil
	}
	return "Coordinates", map[string]any{"kind": "place", "lat": lat, "lon": lon}
}

// transferLabels are what stands before the parts of a transfer.
var transferLabels = map[string]func() *regexp.Regexp{
	"iban": labelled(`iban`, `account`, `konto`, `compte`, `cuenta`, `conto`, `rekening`),
	"name": labelled(`payee`, `beneficiary`, `to`, `account name`, `empfänger`, `kontoinhaber`, `bénéficiaire`, `titulaire`,
		`beneficiario`, `titular`, `intestatario`, `t\.?n\.?v\.?`, `begunstigde`),
	"amount": labelled(`amount`, `betrag`, `montant`, `importe`, `importo`, `bedrag`),
	"text": labelled(`reference`, `ref`, `message`, `verwendungszweck`, `zweck`, `motif`, `communication`, `référence`,
		`concepto`, `causale`, `omschrijving`, `kenmerk`),
	"bic": labelled(`bic`, `swift`, `swift/bic`, `bic/swift`),
}

func labelled(words ...string) func() *regexp.Regexp {
	return later(`(?i)^` + oneOf(words...) + ` ?[:. ] ?(.+)$`)
}

// transfer reads an account with its label, and the payee, the amount and the text in lines of their own.
func transfer(s, _ string) (string, map[string]any) {
	values := map[string]any{}
	for line := range strings.SplitSeq(blanks(s), "\n") {
		for _, key := range []string{"iban", "name", "amount", "text", "bic"} {
			if m := transferLabels[key]().FindStringSubmatch(line); m != nil && values[key] == nil {
				values[key] = m[1]
				break
			}
		}
	}
	text, _ := values["iban"].(string)
	if !ibanLike.MatchString(strings.ToUpper(text)) {
		return "", nil
	}
	iban, wrong := content.IBAN(text)
	if wrong != "" {
		iban = text
	}
	values["iban"] = iban
	if amount, ok := values["amount"].(string); ok {
		if values["amount"] = plainAmount(amount); values["amount"] == "" {
			delete(values, "amount")
		}
	}
	if country := strings.ToUpper(iban[:2]); (country == "CH" || country == "LI") && values["text"] == nil &&
		values["name"] == nil {
		return "An account, for a Swiss QR-bill", map[string]any{"kind": "swiss", "iban": iban, "currency": "CHF"}
	}
	values["kind"] = "sepa"
	return "An account, for a transfer in euros", values
}

var amountLike = later(`\d[\d., ']*`)

// plainAmount is 1249.50 of "EUR 1.249,50": what parts the last two digits is the decimal point, other marks part thousands.
func plainAmount(s string) string {
	m := strings.TrimRight(strings.NewReplacer(" ", "", "'", "").Replace(amountLike().FindString(s)), ".,")
	cents := ""
	if i := strings.LastIndexAny(m, ".,"); i >= 0 && len(m)-i-1 <= 2 {
		m, cents = m[:i], "."+m[i+1:]
	}
	return strings.NewReplacer(".", "", ",", "").Replace(m) + cents
}
