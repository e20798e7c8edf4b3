// Package slip draws the payment part with receipt of a Swiss QR-bill: 210 × 105 mm, all text as outlines (Swiss
// Implementation Guidelines QR-bill, version 2.3, clause 3, and the style guide).
package slip

import (
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// Size of the slip in millimetres, and of its parts.
const (
	Width, Height = 210.0, 105.0
	receipt       = 62.0 // width of the receipt; the payment part takes the rest
	margin        = 5.0
	symbolTop     = 17.0
	symbolSide    = 46.0
)

// Languages are those of Switzerland's bills, by their two letters.
var Languages = []string{"de", "fr", "it", "en"}

// Names of the languages, in English.
var Names = map[string]string{"de": "German", "fr": "French", "it": "Italian", "en": "English"}

// words are the headings (guidelines, annex on multilingual headings).
type words struct{ part, account, reference, more, by, byBlank, currency, amount, receipt, acceptance, procedures string }

var headings = map[string]words{
	"de": {"Zahlteil", "Konto / Zahlbar an", "Referenz", "Zusätzliche Informationen", "Zahlbar durch",
		"Zahlbar durch (Name/Adresse)", "Währung", "Betrag", "Empfangsschein", "Annahmestelle", "Alternative Verfahren"},
	"fr": {"Section paiement", "Compte / Payable à", "Référence", "Informations supplémentaires", "Payable par",
		"Payable par (nom/adresse)", "Monnaie", "Montant", "Récépissé", "Point de dépôt", "Procédures alternatives"},
	"it": {"Sezione pagamento", "Conto / Pagabile a", "Riferimento", "Informazioni supplementari", "Pagabile da",
		"Pagabile da (nome/indirizzo)", "Valuta", "Importo", "Ricevuta", "Punto di accettazione", "Procedure alternative"},
	"en": {"Payment part", "Account / Payable to", "Reference", "Additional information", "Payable by",
		"Payable by (name/address)", "Currency", "Amount", "Receipt", "Acceptance point", "Alternative procedures"},
}

type sheet struct {
	scene *scene.Scene
	w     words
}

func (s *sheet) ink(name string, p scene.Path) {
	if len(p.Ops) > 0 {
		s.scene.Items = append(s.scene.Items, scene.Item{Name: name, Path: p, At: scene.Unit, Fill: ink.Black})
	}
}

func (s *sheet) text(f *glyph.Face, text string, points, x, y float64) {
	_, p := f.Outline(text, points, x, y)
	s.ink("text", p)
}

// Draw draws the slip of a bill in a language, with the symbol, drawn without quiet zone in millimetres of its own width.
func Draw(b *content.Swiss, language string, symbol *scene.Scene) *scene.Scene {
	s := &sheet{&scene.Scene{Width: Width, Height: Height}, headings[language]}
	s.scene.Items = append(s.scene.Items, scene.Item{Name: "paper", Path: scene.Rectangle(0, 0, Width, Height), At: scene.Unit,
		Fill: ink.White})
	s.cuts()
	s.text(glyph.Bold, s.w.receipt, 11, margin, margin+11*glyph.Point)
	s.information(b, column{x: margin, y: 12, width: 52, set: small, blank: [2]float64{52, 20}})
	s.amount(b, sum{x: margin, y: 68, apart: 12, set: small, blank: [4]float64{27, 68, 30, 10}})
	w := glyph.Bold.Width(s.w.acceptance, 6)
	s.text(glyph.Bold, s.w.acceptance, 6, receipt-margin-w, 82+6*glyph.Point)

	left := receipt + margin
	s.text(glyph.Bold, s.w.part, 11, left, margin+11*glyph.Point)
	scale := symbolSide / symbol.Width
	for _, i := range symbol.Items {
		i.At = i.At.Then(scene.At(scale, left, symbolTop))
		s.scene.Items = append(s.scene.Items, i)
	}
	s.amount(b, sum{x: left, y: 68, apart: 15, set: large, blank: [4]float64{left + 11, 72, 40, 15}})
	s.information(b, column{x: 118, y: margin, width: 87, set: large, blank: [2]float64{65, 25}, all: true})
	y := 90.0
	for _, p := range b.Procedures {
		name, rest, _ := strings.Cut(p, "/")
		label := name + ": "
		s.text(glyph.Bold, label, 7, left, y+7*glyph.Point)
		at := left + glyph.Bold.Width(label+" ", 7)
		for _, l := range glyph.Regular.Wrap(rest, 7, Width-margin-at)[:1] {
			s.text(glyph.Regular, l, 7, at, y+7*glyph.Point)
		}
		y += 8 * glyph.Point
	}
	return s.scene
}

// cuts are the lines along which the slip and the receipt are cut off, with scissors on them.
func (s *sheet) cuts() {
	const thin, dash, gap = 0.75 * glyph.Point, 1.0, 1.0
	var p scene.Path
	for x := 0.0; x < Width; x += dash + gap {
		p.Rectangle(x, 0, dash, thin)
	}
	for y := 0.0; y < Height; y += dash + gap {
		p.Rectangle(receipt-thin/2, y, thin, dash)
	}
	s.ink("cuts", p)
	s.scissors(receipt, 8)
}

// scissors open downwards on the line at x: two rings and two crossing blades, on a ground that interrupts the line.
func (s *sheet) scissors(x, y float64) {
	s.scene.Items = append(s.scene.Items, scene.Item{Name: "ground", Path: scene.Rectangle(x-1.4, y-2.6, 2.8, 5.2),
		At: scene.Unit, Fill: ink.White})
	var p scene.Path
	ring := func(cx, cy, r, way float64) { // way −1 runs backwards, for a hole
		k := r * 0.5523
		p.MoveTo(cx+r, cy)
		p.CubicTo(cx+r, cy+way*k, cx+k, cy+way*r, cx, cy+way*r)
		p.CubicTo(cx-k, cy+way*r, cx-r, cy+way*k, cx-r, cy)
		p.CubicTo(cx-r, cy-way*k, cx-k, cy-way*r, cx, cy-way*r)
		p.CubicTo(cx+k, cy-way*r, cx+r, cy-way*k, cx+r, cy)
		p.Close()
	}
	for _, side := range []float64{-1, 1} {
		ring(x+side*0.75, y+1.7, 0.62, 1)
		ring(x+side*0.75, y+1.7, 0.36, -1)
		p.MoveTo(x+side*0.45, y+1.25) // the blade crosses to the other side
		p.LineTo(x+side*0.75, y+1.1)
		p.LineTo(x-side*0.35, y-2.3)
		p.LineTo(x-side*0.55, y-2.1)
		p.Close()
	}
	s.ink("scissors", p)
}

// sizes are those of headings, of values, and from line to line, in points.
type sizes struct{ head, size, lead float64 }

// The receipt is set small, the payment part large (guidelines, 3.4).
var small, large = sizes{6, 8, 9}, sizes{8, 10, 11}

// column is where information stands, from the top.
type column struct {
	x, y, width float64
	set         sizes
	blank       [2]float64 // width and height of the box for a payer
	all         bool       // with what the payer is told
}

// information is the column of who is paid, what for, and who pays.
func (s *sheet) information(b *content.Swiss, c column) {
	x, y := c.x, c.y
	line := c.set.lead * glyph.Point
	heading := func(text string) {
		y += line
		s.text(glyph.Bold, text, c.set.head, x, y-(c.set.lead-c.set.head)*glyph.Point/2)
	}
	value := func(text string) {
		for _, l := range glyph.Regular.Wrap(text, c.set.size, c.width) {
			y += line
			s.text(glyph.Regular, l, c.set.size, x, y-(c.set.lead-c.set.size)*glyph.Point/2)
		}
	}
	party := func(p content.Party) {
		value(p.Name)
		if street := strings.TrimSpace(p.Street + " " + p.House); street != "" {
			value(street)
		}
		town := p.Postcode + " " + p.City
		if p.Country != "CH" && p.Country != "LI" {
			town = p.Country + "-" + town
		}
		value(town)
	}
	heading(s.w.account)
	value(content.Fours(b.IBAN))
	party(b.Creditor)
	if b.Reference != "" {
		y += line
		heading(s.w.reference)
		value(content.ReferenceText(b.Reference))
	}
	if c.all && b.Message+b.Billing != "" {
		y += line
		heading(s.w.more)
		for _, t := range []string{b.Message, b.Billing} {
			if t != "" {
				value(t)
			}
		}
	}
	y += line
	if b.Debtor != (content.Party{}) {
		heading(s.w.by)
		party(b.Debtor)
		return
	}
	heading(s.w.byBlank)
	s.box(x, y+1, c.blank[0], c.blank[1])
}

// sum is where currency and amount stand.
type sum struct {
	x, y, apart float64
	set         sizes
	blank       [4]float64 // left, top, width and height of the box for an amount
}

// amount is currency and amount side by side, or an empty box to be written in.
func (s *sheet) amount(b *content.Swiss, c sum) {
	line := c.set.lead * glyph.Point
	for i, t := range [][2]string{{s.w.currency, b.Currency}, {s.w.amount, content.Grouped(b.Amount, " ")}} {
		at := c.x + float64(i)*c.apart
		s.text(glyph.Bold, t[0], c.set.head, at, c.y+c.set.head*glyph.Point)
		if t[1] != "" {
			s.text(glyph.Regular, t[1], c.set.size, at, c.y+line+c.set.size*glyph.Point)
		}
	}
	if b.Amount == "" {
		s.box(c.blank[0], c.blank[1], c.blank[2], c.blank[3])
	}
}

// box marks the corners of a field to be filled in by hand: lines of 0.75 points, 3 mm long.
func (s *sheet) box(x, y, w, h float64) {
	const thick, long = 0.75 * glyph.Point, 3.0
	var p scene.Path
	for _, right := range []bool{false, true} {
		for _, bottom := range []bool{false, true} {
			hx, vx, hy, vy := x, x, y, y
			if right {
				hx, vx = x+w-long, x+w-thick
			}
			if bottom {
				hy, vy = y+h-thick, y+h-long
			}
			p.Rectangle(hx, hy, long, thick)
			p.Rectangle(vx, vy, thick, long)
		}
	}
	s.ink("box", p)
}
