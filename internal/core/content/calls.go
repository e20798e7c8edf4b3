package content

// calls are words that say what a code does, by its kind; the first fits most. They are ours.
var calls = map[string][]string{
	"url": {"Scan to read on", "See it grow", "Scan for more"}, "wifi": {"Join our Wi-Fi", "Scan to get online"}, "contact": {"Save my number", "Keep in touch"},
	"phone": {"Scan to call us", "Ring us"}, "sms": {"Text us", "Send us a line"}, "email": {"Write to us", "Order by e-mail"}, "event": {"Put it in your calendar", "Save the date"},
	"place": {"Find the way", "Scan for the map"}, "sepa": {"Scan to pay", "Pay this invoice"}, "emv": {"Scan to pay"}, "upi": {"Scan to pay"}, "payto": {"Scan to pay"}, "bitcoin": {"Scan to pay"},
	"gs1link": {"Where it was grown", "Its story"}, "text": {"Read me"},
}

// Calls are words to stand beside a code of a kind.
func Calls(kind string) []string { return calls[kind] }
