// Fields that are filled by something beside them.
import { forgetTry } from "./trying.js";

export const inField = (t) => t.matches("input, textarea, select, [contenteditable]");

export function setField(input, value) {
  forgetTry();
  input.value = value;
  input.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("click", (e) => {
  const swatch = e.target.closest("[data-set]");
  if (swatch) setField(document.getElementById(swatch.dataset.for), swatch.dataset.set);
  const shows = e.target.closest("[data-shows]");
  if (shows) {
    const input = document.getElementById(shows.dataset.shows);
    const shown = input.type === "password";
    input.type = shown ? "text" : "password";
    shows.textContent = shown ? "Hide" : "Show";
    shows.setAttribute("aria-pressed", String(shown));
  }
});

// singly lets the groups of a form stand open beside one another; by their name one closes the other.
export const singly = (form) => { for (const d of form.querySelectorAll("details.more")) d.removeAttribute("name"); };
document.addEventListener("click", (e) => {
  const all = e.target.closest("[data-unfolds]");
  if (!all) return;
  const groups = all.parentElement;
  singly(groups);
  const first = groups.querySelector("details.more:not([open])");
  for (const d of groups.querySelectorAll("details.more")) d.open = true;
  all.remove();
  first?.querySelector("input, textarea, select")?.focus();
});

document.addEventListener("input", (e) => { if (e.target.matches(".slide input")) e.target.nextElementSibling.textContent = e.target.value + e.target.nextElementSibling.dataset.unit; });
document.addEventListener("input", (e) => { // the colour chooser writes into the text field beside it
  if (e.target.matches("input[type=color]")) setField(document.getElementById(e.target.dataset.for), e.target.value);
});

// The browser's own picker of a date writes into the text field beside it, and opens where that stands.
const iso = /^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2})?/;
document.addEventListener("focusin", (e) => { if (e.target.matches(".picker")) { const [at] = iso.exec(document.getElementById(e.target.dataset.picksFor).value) ?? [""]; e.target.value = e.target.type === "date" ? at.slice(0, 10) : at.length === 10 ? at + "T10:00" : at; } });
document.addEventListener("change", (e) => { if (e.target.matches(".picker") && e.target.value) setField(document.getElementById(e.target.dataset.picksFor), e.target.value); });

// A list that completes a field comes when the field is first gone to: one of time zones is longer than many a form.
document.addEventListener("focusin", async (e) => {
  const list = e.target.list;
  if (!list?.dataset.lines || list.childElementCount) return;
  try {
    const lines = (await (await fetch(list.dataset.lines)).text()).split("\n").filter(Boolean);
    list.replaceChildren(...lines.map((value) => Object.assign(document.createElement("option"), { value })));
  } catch { /* then the field is typed without it */ }
});

// A colour from the screen, where the browser lets one take it.
if ("EyeDropper" in window) document.documentElement.classList.add("drops");
document.addEventListener("click", async (e) => {
  const b = e.target.closest("[data-drops]");
  if (!b) return;
  try { setField(document.getElementById(b.dataset.drops), (await new window.EyeDropper().open()).sRGBHex); } catch { /* left without one */ }
});

// What was pasted to lead elsewhere stands in a form then; the field is free again once it is left, unless something is wrong with it.
document.addEventListener("focusout", (e) => {
  const t = e.target;
  if (t.id === "f-lead-to" && document.querySelector("#lead-form .row ~ .row") && !document.getElementById("e-f-lead-to").textContent) t.value = "";
});
