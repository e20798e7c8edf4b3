package content

import (
	"slices"
	"strings"

	"sodrik/internal/core/content/line"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/schema"
)

// Wifi is the access to a wireless network. The payload is WIFI: with fields ended by semicolons, as phones read it, and
// \ ; , : " escaped by a backslash. WPA3 is written T:WPA with R:1, which tells phones that know it (WPA3 Specification 3.0,
// clause 7) to use nothing older; others read WPA. A name that could be taken for hexadecimal is not put in quotation marks:
// phones take it for the name it is, and some take the marks for part of it.
type Wifi struct {
	SSID, Security, Password string
	Hidden                   bool
	EAP                      EAP // for Security "eap"
}

// EAP says how a person signs in to an enterprise network (IEEE 802.1X).
type EAP struct{ Method, Identity, Anonymous, Phase2 string }

// Securities are the values of "security". EAPMethods and Phase2Methods are those that phones know.
var (
	Securities = schema.Words("wpa", "WPA or WPA2", "wpa3", "WPA3 alone", "wep", "WEP", "open", "nothing, it is open", "eap",
		"a sign-in, enterprise")
	EAPMethods    = schema.Choices("PEAP", "TTLS", "TLS", "PWD")
	Phase2Methods = schema.Choices("MSCHAPV2", "GTC", "PAP")
)

func enterprise(get func(string) string) bool { return get("security") == "eap" }

var eapFields = schema.Part{
	Fields: []schema.Field{
		{Key: "method", At: schema.In(func(e *EAP) any { return &e.Method }), Choices: EAPMethods, Called: "sign-in",
			Label: "Method"},
		{Key: "phase2", At: schema.In(func(e *EAP) any { return &e.Phase2 }),
			Choices: append(schema.Words("", "not said"), Phase2Methods...), Called: "sign-in", Label: "Inner method"},
		{Key: "identity", At: schema.In(func(e *EAP) any { return &e.Identity }), Called: "sign-in", Label: "User"},
		{Key: "anonymous", At: schema.In(func(e *EAP) any { return &e.Anonymous }), Called: "sign-in", Label: "Shown as",
			Hint: "An outer name that says nothing, such as anonymous."},
	},
	New:   func() any { return &EAP{} },
	Rules: `"required": ["method"]`,
}

var wifiFields = schema.Part{
	Fields: []schema.Field{
		{
			Key:      "ssid",
			Heads:    "network, network name, wifi, wlan",
			At:       schema.In(func(w *Wifi) any { return &w.SSID }),
			Required: true,
			Keep:     true,
			Most:     maxSSID,
			Search:   true,
			Called:   "network",
			Label:    "Network",
			Hint:     "As phones list it, capitals and blanks alike.",
			About:    "At most 32 bytes of UTF-8.",
		},
		{
			Key:      "security",
			Heads:    "encryption",
			At:       schema.In(func(w *Wifi) any { return &w.Security }),
			Required: true,
			Keep:     true,
			Code:     "wifi.security",
			Choices:  Securities,
			Called:   "security",
			Label:    "Secured by",
			Along:    secured,
		},
		{Key: "eap", Type: schema.Object, At: schema.In(func(w *Wifi) any { return &w.EAP }), Part: &eapFields, When: enterprise},
		{
			Key:    "password",
			Heads:  "passphrase, key, pass",
			At:     schema.In(func(w *Wifi) any { return &w.Password }),
			Secret: true,
			Most:   128,
			Called: "password",
			Label:  "Password",
			Hint:   "Anyone who scans it can read the password. Use your guest network.",
			When:   func(get func(string) string) bool { return get("security") != "open" },
			About: "wpa: 8 to 63 printable ASCII characters, or 64 hexadecimal digits; wpa3: 8 to 63; wep: 5 or 13 " +
				"characters, or 10 or 26 digits.",
		},
		{Key: "hidden", Type: schema.Flag, At: schema.In(func(w *Wifi) any { return &w.Hidden }), Called: "setting",
			Label: "Hidden network"},
	},
	New: func() any { return &Wifi{} },
	Rules: `"allOf": [
		{"if": {"properties": {"security": {"const": "eap"}}}, "then": {"required": ["eap"]}, "else": {"not": {"required": ["eap"]}}},
		{"if": {"properties": {"security": {"enum": ["wpa", "wpa3"]}}},
			"then": {"required": ["password"], "properties": {"password": {"minLength": 8, "maxLength": 64}}}},
		{"if": {"properties": {"security": {"const": "open"}}}, "then": {"properties": {"password": {"maxLength": 0}}}}]`,
}

var wifiKind = Kind{Key: "wifi", Long: "ssid", Name: "Wi-Fi", Outcome: "Someone joins our Wi-Fi",
	Calls: []string{"Join our Wi-Fi", "Scan to get online"}, Fields: &wifiFields,
	Takes:   []Taker{{"wifi:", takeWifi}},
	Stays:   "a phone joins the network before it is online",
	Example: `{"kind": "wifi", "ssid": "Marrowby Guests", "security": "wpa", "password": "sow thin water"}`}

// secured is what changes along with the security: an open network has no password, and only an enterprise network a sign-in.
func secured(draft any, _, typed string) (ops patch.Patch) {
	if typed == "open" {
		ops = append(ops, patch.Without(draft, "/content/password")...)
	}
	if typed != "eap" {
		return append(ops, patch.Without(draft, "/content/eap")...)
	}
	if _, ok := patch.Get(draft, "/content/eap/method"); !ok {
		ops = append(ops, set("/eap", map[string]any{"method": "PEAP", "phase2": "MSCHAPV2"})...)
	}
	return ops
}

// maxSSID is the greatest length of a network's name in bytes (IEEE 802.11-2020, clause 9.4.2.2).
const maxSSID = 32

func (w *Wifi) check(o *fields.Object) {
	w.ssid(o)
	signIn := o.Object("eap")
	if w.Security != "eap" && w.Security != "" && slices.ContainsFunc(signIn.Keys(), func(key string) bool {
		v, _ := signIn.Any(key)
		return v != ""
	}) {
		o.Problem("eap", "wifi.eap", "is only for a network with security eap; this one has %s", w.Security)
	}
	if w.Security == "eap" && w.EAP.Method == "" && signIn.Sound("method") {
		o.Problem("eap", "wifi.method", "has no method; phones need to know it, mostly PEAP")
	}
	if w.Security != "eap" {
		w.EAP = EAP{}
	}
	w.password(o)
}

func (w *Wifi) ssid(o *fields.Object) {
	switch n := len(w.SSID); {
	case !o.Sound("ssid"):
	case n == 0:
		o.Problem("ssid", "wifi.ssid", "is empty; type the network's name as phones list it")
	case n > maxSSID:
		o.Problem("ssid", "wifi.ssid",
			"is %d bytes long; a network's name has at most 32 (an accented letter takes 2, an emoji 4)", n)
	case hasControl(w.SSID, ""):
		o.Problem("ssid", "wifi.ssid", "holds a line break or another control character, which phones cannot match")
	}
}

// password holds the lengths of IEEE 802.11: WPA 8 to 63 printable ASCII characters or 64 hexadecimal digits, WEP 5 or 13
// characters or twice as many digits.
func (w *Wifi) password(o *fields.Object) {
	n := len(w.Password)
	ascii := !strings.ContainsFunc(w.Password, func(r rune) bool { return r < ' ' || r > '~' })
	hex := strings.Trim(w.Password, "0123456789abcdefABCDEF") == ""
	switch {
	case !o.Sound("password"):
	case w.Security == "open" && n > 0:
		o.Problem("password", "wifi.password",
			"is set, and the network is open; leave it out or choose how the network is secured")
	case w.Security == "wpa" && (n < 8 || n > 63) && !(n == 64 && hex):
		o.Problem("password", "wifi.password",
			"has %d characters: phones will not join. WPA passwords have 8 to 63 characters", n)
	case w.Security == "wpa3" && (n < 8 || n > 63):
		o.Problem("password", "wifi.password",
			"has %d characters: phones will not join. WPA3 passwords have 8 to 63 characters", n)
	case (w.Security == "wpa" || w.Security == "wpa3") && !ascii:
		o.Problem(
			"password",
			"wifi.password",
			"holds a character beyond printable ASCII: phones will not join. Letters without accents, digits and signs can be used",
		)
	case w.Security == "wep" && n != 5 && n != 13 && !(hex && (n == 10 || n == 26)):
		o.Problem("password", "wifi.password",
			"has %d characters: phones will not join. WEP keys have 5 or 13 characters, or 10 or 26 hexadecimal digits", n)
	case hasControl(w.Password, ""):
		o.Problem("password", "wifi.password", "holds a line break or another control character: phones will not join")
	case n > 128:
		o.Problem("password", "wifi.password", "is longer than 128 bytes")
	}
}

func (w *Wifi) Kind() string { return "wifi" }

var wifiEscapes = strings.NewReplacer(`\`, `\\`, `;`, `\;`, `,`, `\,`, `:`, `\:`, `"`, `\"`)

// Payload writes the fields in the order in which most programs do.
func (w *Wifi) Payload() string { return w.payload(wifiEscapes.Replace(w.Password)) }

// Shown masks the password.
func (w *Wifi) Shown() string {
	if w.Password == "" {
		return w.Payload()
	}
	return w.payload("••••••")
}

func (w *Wifi) payload(password string) string {
	var b strings.Builder
	put := func(key, value string) {
		if value != "" {
			b.WriteString(key + ":" + value + ";")
		}
	}
	text := func(key, value string) { put(key, wifiEscapes.Replace(value)) }
	b.WriteString("WIFI:")
	put("T", map[string]string{"wpa": "WPA", "wpa3": "WPA", "wep": "WEP", "open": "nopass", "eap": "WPA2-EAP"}[w.Security])
	if w.Security == "wpa3" {
		put("R", "1")
	}
	text("S", w.SSID)
	if w.Security == "eap" {
		text("E", w.EAP.Method)
		text("PH2", w.EAP.Phase2)
		text("A", w.EAP.Anonymous)
		text("I", w.EAP.Identity)
	}
	put("P", password)
	if w.Hidden {
		put("H", "true")
	}
	b.WriteString(";")
	return b.String()
}

// takeWifi reads the form that phones read. Keys may come in any order; unknown ones are left out.
func takeWifi(payload string) (map[string]any, bool) {
	out := map[string]any{"kind": "wifi"}
	eap := map[string]any{}
	kind, disabled := "", ""
	for _, part := range line.Cut(payload[len("wifi:"):], ';') {
		key, raw, _ := strings.Cut(part, ":")
		value := unquoted(raw)
		switch strings.ToUpper(key) {
		case "S":
			out["ssid"] = value
		case "T":
			kind = strings.ToUpper(value)
		case "R":
			disabled = value
		case "P":
			put(out, "password", value)
		case "H":
			if strings.EqualFold(value, "true") || value == "1" {
				out["hidden"] = true
			}
		case "E":
			put(eap, "method", strings.ToUpper(value))
		case "PH2":
			put(eap, "phase2", strings.ToUpper(value))
		case "A":
			put(eap, "anonymous", value)
		case "I":
			put(eap, "identity", value)
		}
	}
	security := "wpa"
	switch {
	case strings.Contains(kind, "EAP"):
		security = "eap"
	case kind == "WEP":
		security = "wep"
	case kind == "SAE", kind == "WPA3", kind == "WPA" && disabled != "" && disabled != "0":
		security = "wpa3"
	case kind == "NOPASS", kind == "" && out["password"] == nil:
		security = "open"
	}
	out["security"] = security
	if len(eap) > 0 {
		out["eap"] = eap
	}
	return out, out["ssid"] != nil
}

// unquoted takes the escapes out, and quotation marks that stand unescaped around the whole.
func unquoted(raw string) string {
	if len(raw) >= 2 && raw[0] == '"' && raw[len(raw)-1] == '"' && raw[len(raw)-2] != '\\' {
		raw = raw[1 : len(raw)-1]
	}
	var b strings.Builder
	for i := 0; i < len(raw); i++ {
		if raw[i] == '\\' && i+1 < len(raw) {
			i++
		}
		b.WriteByte(raw[i])
	}
	return b.String()
}

// Summary names the network.
func (w *Wifi) Summary() Summary { return Summary{"Joins", brief(w.SSID, 48)} }

// Search is the network's name, and what people call such a code.
func (w *Wifi) Search() string { return "wi-fi wifi " + w.SSID }

// Phone asks whether to join.
func (w *Wifi) Phone() Offer {
	o := Offer{Action: "Joins this network", Strong: w.SSID}
	switch w.Security {
	case "open":
		o.Lines = []string{"No password"}
		o.Warn = "Not secured"
	case "wep":
		o.Lines = []string{"Secured by WEP"}
		o.Warn = "Weak security"
	case "eap":
		o.Lines = []string{"Signs in by " + w.EAP.Method}
		if w.EAP.Identity != "" {
			o.Lines = append(o.Lines, "as "+w.EAP.Identity)
		}
	default:
		o.Lines = []string{"With its password, secured by " + strings.ToUpper(w.Security)}
	}
	if w.Hidden {
		o.Lines = append(o.Lines, "Hidden network")
	}
	return o
}

// Cautions are about what joins badly.
func (w *Wifi) Cautions() (out []Caution) {
	if w.Security == "wep" {
		out = append(out, Caution{Code: "wifi.wep",
			Message: "WEP was broken long ago; newer phones refuse such a network or warn of it. Set the router to WPA2 or WPA3."})
	}
	if strings.TrimSpace(w.SSID) != w.SSID {
		trimmed := strings.TrimSpace(w.SSID)
		c := Caution{Code: "wifi.blank",
			Message: "The network's name begins or ends with a blank. If the router's name has none, phones will not find it."}
		if trimmed != "" {
			c.Label, c.Patch = "Take the blank away", set("/ssid", trimmed)
		}
		out = append(out, c)
	}
	if w.Password != "" && w.Security != "eap" {
		out = append(out, Caution{Code: "wifi.password", Note: true,
			Message: "Whoever photographs the code has the password, and keeps it. A network for guests, apart from your own, " +
				"is safer."})
	}
	if w.Security == "eap" && slices.Contains([]string{"PEAP", "TTLS"}, w.EAP.Method) && w.EAP.Identity != "" &&
		w.Password != "" {
		out = append(out, Caution{Code: "wifi.eap",
			Message: "Anyone who scans it signs in under the same name and can read the password."})
	}
	return out
}
