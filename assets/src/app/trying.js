// A choice is tried on the sheet while the pointer or the focus is on it; leaving it, or Escape, brings back what was there.
import { mayEdit } from "./mark.js";
import { afterFill } from "./sheet.js";

let tried = null, trying = 0, tries = 0;
export function forgetTry() { clearTimeout(trying); tries++; tried = null; }
function endTry() {
  clearTimeout(trying);
  tries++;
  if (!tried) return;
  const { svg, contrast } = tried, figure = document.getElementById("gauge-2"), now = document.querySelector("#picture > svg");
  if (now && now.dataset.tried) { now.replaceWith(svg); figure.textContent = contrast; afterFill(); }
  tried = null;
}
const triable = (t) => { const b = t.closest?.("[data-set]"); return b && /^f-look-/.test(b.dataset.for) && mayEdit() && b.getAttribute("aria-pressed") !== "true" ? b : null; };
function tryOut(b) {
  clearTimeout(trying);
  const n = ++tries;
  trying = setTimeout(async () => {
    const values = JSON.parse(document.getElementById(b.dataset.for).getAttribute("hx-vals"));
    const state = document.getElementById("desk-state");
    const r = await fetch(location.pathname + "/try", { method: "POST", body: new URLSearchParams({ path: values.path, text: b.dataset.set, place: state.dataset.place }) }).catch(() => null);
    if (!r || !r.ok || n !== tries) return;
    const svg = new DOMParser().parseFromString(await r.text(), "text/html").querySelector("svg"), now = document.querySelector("#picture > svg");
    if (!svg || !now || n !== tries) return;
    if (!tried) tried = { svg: now, contrast: document.getElementById("gauge-2").textContent };
    svg.dataset.tried = "1";
    now.replaceWith(svg);
    document.getElementById("gauge-2").textContent = r.headers.get("Sodrik-Contrast");
  }, 110);
}
document.addEventListener("pointerover", (e) => { const b = triable(e.target); if (b) tryOut(b); });
document.addEventListener("pointerout", (e) => { if (e.target.closest?.("[data-set]")) endTry(); });
document.addEventListener("focusin", (e) => { const b = triable(e.target); if (b && b.matches(":focus-visible")) tryOut(b); });
document.addEventListener("focusout", (e) => { if (e.target.dataset?.set !== undefined) endTry(); });
document.addEventListener("keydown", (e) => { if (e.key === "Escape" && e.target.dataset?.set !== undefined) endTry(); });
