package content

import (
	"crypto/sha256"
	"math/big"
	"net/url"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// Bitcoin is a payment to a Bitcoin address by a bitcoin: URI (BIP 21), the checksum of the address verified.
type Bitcoin struct{ Address, Amount, Label, Message string }

var bitcoinFields = schema.Part{
	Fields: []schema.Field{
		{Key: "address", Type: schema.Line, At: schema.In(func(b *Bitcoin) any { return &b.Address }), Required: true,
			Called: "address", Label: "Address",
			Schema: `{"type": "string", "minLength": 26}`},
		amountField("Bitcoin", func(b *Bitcoin) any { return &b.Amount }),
		{Key: "label", Type: schema.Line, At: schema.In(func(b *Bitcoin) any { return &b.Label }), Most: 140, Search: true,
			Label: "Payee", Example: "who is paid"},
		{Key: "message", Type: schema.Line, At: schema.In(func(b *Bitcoin) any { return &b.Message }), Most: 140,
			Called: "message", Label: "Message", Folded: "Message"},
	},
	New:   func() any { return &Bitcoin{} },
	About: "BIP 21; the checksum of the address is verified.",
}

var bitcoinKind = Kind{Key: "bitcoin", Long: "message", Name: "Bitcoin", Outcome: "Someone pays us in bitcoin", Group: Payment,
	Calls: []string{"Scan to pay"}, Fields: &bitcoinFields,
	Takes:   []Taker{{"bitcoin:", takeBitcoin}},
	Stays:   "a wallet reads the code itself",
	Example: `{"kind": "bitcoin", "address": "1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2", "amount": "0.001"}`}

func (b *Bitcoin) check(o *fields.Object) {
	if o.Sound("address") {
		if message := bitcoinAddress(b.Address); message != "" {
			o.Problem("address", "bitcoin.address", "%s", message)
		}
	}
	if b.Amount = checkAmount(o, "amount", b.Amount, 8, 8); b.Amount != "" {
		if whole, _, _ := strings.Cut(b.Amount, "."); len(whole) == 8 && whole > "20999999" {
			o.Problem("amount", "amount.large", "is more than all bitcoins there can be")
		}
	}
	checkLines(o, "bitcoin.text", bitcoinFields, map[string]string{"label": b.Label, "message": b.Message})
}

// bitcoinAddress says what is wrong with an address of the main network, "" where it is sound: Base58Check for versions 0 and
// 5, Bech32 for witness version 0 (BIP 173), Bech32m for the later ones (BIP 350).
func bitcoinAddress(s string) string {
	lower := strings.ToLower(s)
	switch {
	case s == "":
		return "is empty; paste the address of the wallet"
	case strings.HasPrefix(lower, "bc1"):
		if s != lower && s != strings.ToUpper(s) {
			return "mixes capitals and small letters, which such an address never does"
		}
		return segwit(lower)
	case strings.HasPrefix(lower, "tb1"), strings.HasPrefix(lower, "bcrt1"), len(s) > 25 &&
		strings.ContainsRune("mn2", rune(s[0])):
		return "is one of a test network; money sent to it is worth nothing"
	}
	raw, ok := base58(s)
	switch {
	case !ok:
		return "holds a sign that an address has not; there are no 0, O, I and l"
	case len(raw) != 25 || raw[0] != 0 && raw[0] != 5:
		return "has not the length or the beginning of an address; compare it with the wallet"
	}
	sum := sha256.Sum256(raw[:21])
	if sum = sha256.Sum256(sum[:]); string(sum[:4]) != string(raw[21:]) {
		return "has a letter wrong: its checksum does not fit. Money sent to it would be lost"
	}
	return ""
}

func base58(s string) ([]byte, bool) {
	const letters = "123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz"
	n := new(big.Int)
	for i := range len(s) {
		d := strings.IndexByte(letters, s[i])
		if d < 0 || len(s) > 64 {
			return nil, false
		}
		n.Add(n.Mul(n, big.NewInt(58)), big.NewInt(int64(d)))
	}
	zeros := len(s) - len(strings.TrimLeft(s, "1"))
	return append(make([]byte, zeros), n.Bytes()...), true
}

const bech32Letters = "qpzry9x8gf2tvdw0s3jn54khce6mua7l"

// segwit checks a lower-case address that begins with bc1.
func segwit(s string) string {
	data := make([]int, 0, len(s))
	for _, c := range s[3:] {
		d := strings.IndexRune(bech32Letters, c)
		if d < 0 {
			return "holds a sign that an address has not; there are no 1, b, i and o behind bc1"
		}
		data = append(data, d)
	}
	if len(s) > 90 || len(data) < 8 {
		return "has not the length of an address; compare it with the wallet"
	}
	check := []int{3, 3, 0, 2, 3} // bc, expanded
	check = append(check, data...)
	version := data[0]
	want := 1
	if version > 0 {
		want = 0x2bc830a3
	}
	if polymod(check) != want {
		return "has a letter wrong: its checksum does not fit. Money sent to it would be lost"
	}
	bits := (len(data) - 7) * 5
	program := bits / 8
	if version > 16 || bits%8 > 4 || program < 2 || program > 40 || version == 0 && program != 20 && program != 32 {
		return "has not the length of an address; compare it with the wallet"
	}
	return ""
}

// polymod is the checksum of Bech32 (BIP 173).
func polymod(values []int) int {
	generator := [5]int{0x3b6a57b2, 0x26508e6d, 0x1ea119fa, 0x3d4233dd, 0x2a1462b3}
	sum := 1
	for _, v := range values {
		top := sum >> 25
		sum = (sum&0x1ffffff)<<5 ^ v
		for i, g := range generator {
			if top>>i&1 == 1 {
				sum ^= g
			}
		}
	}
	return sum
}

func (b *Bitcoin) Kind() string { return "bitcoin" }

// Payload is the URI; a Bech32 address is written as it is given, since in capitals it takes fewer bits.
func (b *Bitcoin) Payload() string {
	out, sep := "bitcoin:"+b.Address, "?"
	if b.Address != "" && b.Address == strings.ToUpper(b.Address) && strings.HasPrefix(b.Address, "BC1") {
		out = "BITCOIN:" + b.Address
	}
	add := func(key, s string) {
		if s != "" {
			out += sep + key + "=" + percent.Encode(s, percent.Unreserved)
			sep = "&"
		}
	}
	add("amount", b.Amount)
	add("label", b.Label)
	add("message", b.Message)
	return out
}

func (b *Bitcoin) due() string {
	if b.Amount == "" {
		return "an amount to be typed"
	}
	return b.Amount + " BTC"
}

func (b *Bitcoin) name() string {
	if b.Label != "" {
		return b.Label
	}
	return brief(b.Address, 18)
}

// Summary names amount and receiver.
func (b *Bitcoin) Summary() Summary { return Summary{"Pays", b.due() + " to " + b.name()} }

// Phone opens a wallet.
func (b *Bitcoin) Phone() Offer {
	return payOffer("Fills in a payment, not signed yet, to", b.name(), b.due(), b.Address, b.Message)
}

// Savings: capitals, which a Bech32 address allows (BIP 173), and the words.
func (b *Bitcoin) Savings() (out []Saving) {
	if upper := strings.ToUpper(b.Address); strings.HasPrefix(upper, "BC1") && upper != b.Address {
		then := *b
		then.Address = upper
		out = append(out, Saving{"The address in capitals", "/content/address", set("/address", upper), &then})
	}
	for _, p := range []struct {
		key   string
		field func(*Bitcoin) *string
	}{{"message", func(b *Bitcoin) *string { return &b.Message }}, {"label", func(b *Bitcoin) *string { return &b.Label }}} {
		if *p.field(b) != "" {
			then := *b
			*p.field(&then) = ""
			out = append(out, Saving{"Leave out the " + p.key, "/content/" + p.key, drop("/" + p.key), &then})
		}
	}
	return out
}

func takeBitcoin(payload string) (map[string]any, bool) {
	address, query, _ := strings.Cut(payload[len("bitcoin:"):], "?")
	q, err := url.ParseQuery(query)
	if err != nil {
		return nil, false
	}
	for key := range q {
		if strings.HasPrefix(key, "req-") {
			return nil, false // something that has to be understood (BIP 21)
		}
	}
	out := map[string]any{"kind": "bitcoin", "address": address}
	put(out, "amount", q.Get("amount"))
	put(out, "label", q.Get("label"))
	put(out, "message", q.Get("message"))
	return out, address != ""
}
