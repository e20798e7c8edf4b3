package e2e

import "testing"

// TestZonesCome: the time zones that complete a field come when it is gone to, on a desk and where a new code is made.
func TestZonesCome(t *testing.T) {
	t.Parallel()
	a := open(t)
	for _, path := range []string{a.demoCode(t, "Bulb fair, date"), a.demoCode(t, "On at the fair today")} {
		t.Run(path, func(t *testing.T) {
			p := a.page(t, path)
			if n := p.MustEval(`() => document.getElementById("zones").childElementCount`).Int(); n != 0 {
				t.Errorf("%d zones before anybody asked", n)
			}
			p.MustEval(`() => document.querySelector("[list=zones]").dispatchEvent(new FocusEvent("focusin", {bubbles: true}))`)
			until(t, p, "the zones", `() => { const all = [...document.querySelectorAll("#zones option")].map((o) => o.value);
				return all.length > 300 && all[0] === "UTC" && all.includes("Europe/London"); }`)
		})
	}
}
