package content

import (
	"regexp"
	"strings"

	"sodrik/internal/core/schema"
)

// ibanField declares an IBAN.
func ibanField[T any](at func(*T) any) schema.Field {
	return schema.Field{Key: "iban", Type: schema.Line, At: schema.In(at), Required: true, Called: "IBAN", Label: "IBAN",
		Example: "CH85 9999 9000 0123 4567 8",
		Note: func(value string, _ func(string) string) string {
			iban, message := IBAN(value)
			switch {
			case message != "" || len(iban) < 2:
				return ""
			case QRIBAN(iban) && strings.HasPrefix(iban, "CH"):
				return RegionName(iban[:2]) + ", check digits right. A QR-IBAN."
			}
			return RegionName(iban[:2]) + ", check digits right."
		}}
}

// ibanLengths are the lengths of the IBAN by country (IBAN registry of ISO 13616).
var ibanLengths = func() map[string]int {
	out := map[string]int{}
	for _, f := range strings.Fields("AD24 AE23 AL28 AT20 AZ28 BA20 BE16 BG22 BH22 BI27 BR29 BY28 CH21 CR22 CY28 CZ24 DE22 DJ27 DK18 DO28 EE20 EG29 ES24 FI18 FK18 FO18 FR27 GB22 GE22 GI23 GL18 GR27 GT28 HR21 HU28 IE22 IL23 IQ23 IS26 IT27 JO30 KW30 KZ20 LB28 LC32 LI21 LT20 LU20 LV21 LY25 MC27 MD24 ME22 MK19 MN20 MR27 MT31 MU30 NI28 NL18 NO15 OM23 PK24 PL28 PS29 PT25 QA29 RO24 RS22 RU33 SA24 SC31 SD18 SE24 SI19 SK24 SM27 SO23 ST25 SV28 TL23 TN24 TR26 UA29 VA22 VG24 XK20 YE30") {
		out[f[:2]] = int(f[2]-'0')*10 + int(f[3]-'0')
	}
	return out
}()

// eea are the countries of the European Economic Area; sepa those that take part besides (EPC409-09).
const (
	eea  = " AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IS IT LI LT LU LV MT NL NO PL PT RO SE SI SK "
	sepa = eea + "AD AL CH GB GI MC MD ME MK RS SM VA "
)

var ibanForm = regexp.MustCompile(`^[A-Z]{2}\d{2}[A-Z0-9]+$`)

// IBAN reads an international bank account number as people write it, without blanks and in capitals. message is "" where it
// is sound (ISO 13616: form, length of the country, remainder of ISO 7064, MOD 97-10).
func IBAN(text string) (iban, message string) {
	s := strings.ToUpper(strings.Join(strings.FieldsFunc(text, func(r rune) bool {
		return r == ' ' || r == '\u00a0' || r == '-' || r == '\t'
	}), ""))
	switch {
	case s == "":
		return "", "is empty; type the IBAN, such as CH85 9999 9000 0123 4567 8"
	case !ibanForm.MatchString(s):
		return "", "is " + quoted(text) +
			", which does not begin with the two letters of a country and two digits, or holds a sign"
	}
	want, known := ibanLengths[s[:2]]
	switch {
	case !known:
		return "", "begins with " + s[:2] + ", which is no country with IBANs"
	case len(s) != want:
		return "", "has " + itoa(len(s)) + " characters; an IBAN of " + RegionName(s[:2]) + " has " + itoa(want)
	case mod97(s[4:]+s[:4]) != 1:
		return "", "has a digit wrong: its check digits do not fit. Compare it with the bank's paper"
	}
	return s, ""
}

// mod97 is the remainder of ISO 7064, MOD 97-10, of digits and letters, A as 10 to Z as 35; −1 for another sign.
func mod97(s string) int {
	r := 0
	for _, c := range s {
		switch {
		case c >= '0' && c <= '9':
			r = (r*10 + int(c-'0')) % 97
		case c >= 'A' && c <= 'Z':
			r = (r*100 + int(c-'A') + 10) % 97
		default:
			return -1
		}
	}
	return r
}

// Fours sets an IBAN or reference in groups of four, as people compare them.
func Fours(s string) string {
	var b strings.Builder
	for i, r := range s {
		if i > 0 && i%4 == 0 {
			b.WriteByte(' ')
		}
		b.WriteRune(r)
	}
	return b.String()
}

var bicForm = regexp.MustCompile(`^[A-Z0-9]{4}[A-Z]{2}[A-Z0-9]{2}([A-Z0-9]{3})?$`)

// bicOf reads a business identifier code (ISO 9362).
func bicOf(text string) (bic, message string) {
	s := strings.ToUpper(strings.Join(strings.Fields(text), ""))
	if !bicForm.MatchString(s) {
		return "", "is " + quoted(text) +
			", which is no BIC; it has 8 or 11 letters and digits, the country at the fifth place, such as MARBCH22XXX"
	}
	return s, ""
}

// rfReference reads a creditor reference (ISO 11649): RF, two check digits, up to 21 letters and digits.
func rfReference(text string) (ref, message string) {
	s := strings.ToUpper(strings.Join(strings.Fields(text), ""))
	switch {
	case len(s) < 5 || len(s) > 25 || !strings.HasPrefix(s, "RF"):
		return "", "is " + quoted(text) +
			", which is no creditor reference; it is RF, two check digits and up to 21 letters and digits"
	case mod97(s[4:]+s[:4]) != 1:
		return "", "has a digit wrong: its check digits do not fit. Compare it with the invoice"
	}
	return s, ""
}
