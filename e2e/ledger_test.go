package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/code"
	"sodrik/internal/standin"
)

// TestLedgerScrolls: a ledger longer than one answer goes on as one scrolls or walks down by keys, with words too, until its
// last code; none is missing and none comes twice.
func TestLedgerScrolls(t *testing.T) {
	t.Parallel()
	a, err := start("ledger")
	if err != nil {
		t.Fatal(err)
	}
	for i := range 150 {
		m := made(t, fmt.Sprintf(`{"name":"Bed %03d","content":{"kind":"url","url":"marrowby.example/bed/%d"}}`, i, i))
		if _, err := a.store.Create(t.Context(), standin.Loader(), m, "Trial beds"); err != nil {
			t.Fatal(err)
		}
	}
	whole, err := a.store.Ledger(t.Context(), standin.Loader(), code.Active, "", nil, 10_000)
	if err != nil {
		t.Fatal(err)
	}
	p := a.page(t, "/codes")
	rows := func() (ids []string) {
		for _, e := range p.MustElements("#ledger tr.code") {
			ids = append(ids, *e.MustAttribute("id"))
		}
		return ids
	}
	all := func(n int) {
		t.Helper()
		until(t, p, fmt.Sprint("all of ", n, " rows"),
			`(n) => { scrollTo(0, document.body.scrollHeight); return document.querySelectorAll("#ledger tr.code").length === n && !document.querySelector(".further"); }`, n)
		seen := map[string]bool{}
		for _, id := range rows() {
			if seen[id] {
				t.Error(id, "stands there twice")
			}
			seen[id] = true
		}
	}
	if n := len(rows()); n != 60 {
		t.Errorf("at first %d rows", n)
	}
	// By keys alone: each step down goes one on, past the end of an answer.
	p.MustElement("#ledger tr.code").MustFocus()
	for range 130 {
		p.Keyboard.MustType(input.ArrowDown)
		until(t, p, "the row below",
			`() => { const r = [...document.querySelectorAll("#ledger tr.code")]; return r.indexOf(document.activeElement) >= 0 && (r.indexOf(document.activeElement) < r.length - 1 || !document.querySelector(".further")); }`)
	}
	if at := p.MustEval(`() => [...document.querySelectorAll("#ledger tr.code")].indexOf(document.activeElement)`).
		Int(); at != 130 {
		t.Errorf("130 steps down lead to row %d", at)
	}
	all(whole.Codes)
	// Words go on in the same way.
	fill(p, "#find-text", "begonia/9")
	hasText(t, p, "#ledger", "No code has")
	fill(p, "#find-text", "bed/1")
	until(t, p, "codes with the word", `() => document.querySelectorAll("#ledger tr.code").length === 60`)
	all(61) // 1, 10 to 19, 100 to 149
	fill(p, "#find-text", "")
	until(t, p, "all again", `() => document.querySelectorAll("#ledger tr.code").length === 60`)
	// The button does what scrolling does, also where nothing scrolls.
	p.MustEval(`() => document.querySelector(".further button").click()`)
	until(t, p, "more by the button",
		`() => document.querySelectorAll("#ledger tr.code").length > 60 && location.pathname === "/codes" && !location.search`)
	// A campaign is folded as a whole, with those of its rows that come later.
	visible := func(what string, want int) {
		t.Helper()
		until(t, p, fmt.Sprint(want, " rows of the beds ", what), `(n) => [...document.querySelectorAll("tbody[data-campaign='Trial beds'] tr.code")].filter((r) =>
			r.checkVisibility()).length === n && document.querySelector("tbody[data-campaign='Trial beds'] [data-fold]").ariaExpanded === String(n > 0)`, want)
	}
	fill(p, "#find-text", "bed/1")
	until(t, p, "the beds", `() => document.querySelectorAll("#ledger tr.code").length === 60`)
	p.MustElement("[data-fold]").MustClick()
	visible("folded", 0)
	all(61)
	visible("once the last has come", 0)
	p.MustElement("[data-fold]").MustClick()
	visible("unfolded", 61)
	// Retired codes are paged alike.
	for i, l := range whole.Lines {
		if i >= 70 {
			break
		}
		if _, err := a.store.SetStates(t.Context(), standin.Loader(), []string{l.ID}, code.Retired); err != nil {
			t.Fatal(err)
		}
	}
	p.MustNavigate(a.url + "/codes?state=retired").MustWaitLoad()
	retired, err := a.store.CountOf(t.Context(), standin.Loader(), code.Retired)
	if err != nil {
		t.Fatal(err)
	}
	all(retired)
}
