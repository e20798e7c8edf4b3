package compose

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/slip"
)

const bill = `{"name":"Invoice","content":{"kind":"swiss","iban":"CH6131999000012345678","creditor":{"name":"Marrowby Samen AG","street":"Seestrasse","house":"7","postcode":"8000","city":"Zürich","country":"CH"},
	"amount":"1949.75","currency":"CHF","debtor":{"name":"Gärtnerei Amsel","postcode":"9400","city":"Rorschach","country":"CH"},"reference":"210000000003139471430009017","message":"Tulips"}}`

// TestSlips: the payment part in every language, as a page of 210 × 105 mm from which outside readers read the bill.
func TestSlips(t *testing.T) {
	m := parse(t, bill)
	dir := t.TempDir()
	run := func(name string, args ...string) string {
		out, err := exec.Command(name, args...).Output()
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		return string(out)
	}
	for _, language := range slip.Languages {
		endings := []string{"pdf", "svg"}
		if language != "de" {
			endings = endings[:1]
		}
		for _, ending := range endings {
			b, problems := m.File(Format{PaymentPart, ending, language}, nil, export.Meta{Title: "Invoice"})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			file, picture := filepath.Join(dir, language+"."+ending), filepath.Join(dir, language+"."+ending+".png")
			if err := os.WriteFile(file, b, 0o600); err != nil {
				t.Fatal(err)
			}
			if ending == "pdf" {
				if info := run("pdfinfo", file); !strings.Contains(info, "595.276 x 297.638 pts") {
					t.Errorf("%s: %s", language, info)
				}
				run("qpdf", "--check", file)
				run("pdftoppm", "-r", "200", "-png", "-singlefile", file, strings.TrimSuffix(picture, ".png"))
			} else {
				run("rsvg-convert", "--width", "1654", "-o", picture, file)
			}
			if got := strings.TrimSuffix(run("zbarimg", "--quiet", "--raw", "--nodbus", "-Sdisable", "-Sqrcode.enable",
				"-Sbinary", picture), "\n"); got != m.Payload {
				t.Errorf("%s %s: zbar reads %q", language, ending, got)
			}
			if got := run("ZXingReader", "-format", "QRCode", "-bytes", picture); got != m.Payload {
				t.Errorf("%s %s: zxing-cpp reads %q", language, ending, got)
			}
		}
	}
	if _, problems := parse(t, gate).File(MustFormat("slip-de.pdf"), nil, export.Meta{}); len(problems) != 1 {
		t.Errorf("a link has no slip: %v", problems)
	}
	if _, problems := m.File(Format{PaymentPart, "pdf", "rm"}, nil, export.Meta{}); len(problems) != 1 {
		t.Errorf("there is no Romansh slip: %v", problems)
	}
}

// TestPrescribed: level and version are the standard's, and the cross leaves the middle alignment pattern alone.
func TestPrescribed(t *testing.T) {
	m := parse(t, bill)
	if m.Symbol.Level.String() != "M" || m.Symbol.Version != clearOfCross {
		t.Errorf("the bill has level %v, version %d", m.Symbol.Level, m.Symbol.Version)
	}
	pay := `{"content":{"kind":"sepa","name":"Marrowby","iban":"DE37999999990123456789"}`
	if m := parse(t, pay+`}`); m.Symbol.Level.String() != "M" || m.Symbol.Segments[0].Mode.String() == "eci" {
		t.Errorf("%v %v", m.Symbol.Level, m.Symbol.Segments)
	}
	for text, field := range map[string]string{pay + `,"symbol":{"level":"H"}}`: "/symbol/level",
		pay + `,"symbol":{"min_version":14}}`: "/symbol/min_version"} {
		t.Run(text, func(t *testing.T) {
			if _, problems := Parse([]byte(text), nil); len(problems) != 1 || problems[0].Field != field {
				t.Errorf("%s: %v", text, problems)
			}
		})
	}
	long := strings.Replace(bill, `"Tulips"`, `"`+strings.Repeat("x", 140)+`","procedures":["eBill/`+strings.Repeat("ä",
		94)+`","x/`+strings.Repeat("ä", 94)+`"]`, 1)
	if m := parse(t, long); m.Symbol.Version > 25 {
		t.Errorf("version %d", m.Symbol.Version)
	}
}
