// Parts of an answer, and where they belong on the page.
import { mapsIn } from "./map.js";
import { announce } from "./notice.js";
import { singly } from "./fields.js";
import { isPressed, whenLetGo } from "./pressed.js";
import { afterFill, holdAgain } from "./sheet.js";
import { unsaved, waiting } from "./state.js";

// What of the answers so far the page still shows, by slot: the server leaves it out of the next. Whatever else changes a slot, it is not known
// any more; nor is one in which somebody has typed. A slot that is not there yet comes as it then is, and needs nothing before.
const shown = new Map();
const keep = (slot, part) => { if (part.dataset.digest) shown.set(slot.id, { slot, digest: part.dataset.digest, shape: part.dataset.shape }); else shown.delete(slot.id); };
const forget = (changes) => {
  for (const c of changes) for (let at = c.target; at; at = at.parentElement) if (shown.get(at.id)?.shape === undefined) shown.delete(at.id);
};
const watcher = new MutationObserver(forget);
watcher.observe(document.documentElement, { subtree: true, childList: true, characterData: true, attributes: true });
export const have = () => {
  finish(); // what it tells must be what stands there when the answer comes
  forget(watcher.takeRecords());
  let out = "";
  for (const [id, s] of shown) if (document.getElementById(id) === s.slot && (!s.slot || (s.shape === undefined ? !departs(s.slot) : s.slot.dataset.shape === s.shape))) out += s.digest;
  return out;
};

// reshape draws a form again where it has other fields than before. Whoever types in it goes on typing, and what was
// unfolded stays so.
function reshape(slot, part) {
  if (part.dataset.shape === slot.dataset.shape) return;
  const active = document.activeElement;
  const at = slot.contains(active) && active.id ? { id: active.id, value: active.value, from: active.selectionStart } : null;
  const picked = slot.contains(active) && active.dataset.set !== undefined ? `[data-for="${active.dataset.for}"][data-set="${active.dataset.set}"]` : "";
  const unfolded = [...slot.querySelectorAll("details[open] > summary .mono")].map((s) => s.id);
  slot.replaceChildren(...part.childNodes);
  slot.dataset.shape = part.dataset.shape;
  if (unfolded.length > 1) singly(slot);
  for (const id of unfolded) { const d = document.getElementById(id)?.closest("details"); if (d) d.open = true; }
  window.htmx.process(slot);
  mapsIn(slot);
  if (picked) slot.querySelector(picked)?.focus();
  const again = at && document.getElementById(at.id);
  if (!again) return;
  if (again.closest("details")) again.closest("details").open = true;
  if (again.matches("input:not([type=checkbox]), textarea")) { again.value = at.value; again.focus(); if (at.from !== null) again.setSelectionRange(at.from, at.from); }
  else again.focus();
}

// departs tells whether a field holds something else than the page once said, as after typing: its markup then tells nothing of what it shows.
const departs = (slot) => [...slot.querySelectorAll("[hx-patch]")].some((f) => f.matches("select") ? [...f.options].some((o) => o.selected !== o.defaultSelected) : f.matches("[type=checkbox], [type=radio]") ? f.checked !== f.defaultChecked : f.value !== f.defaultValue);

let proofTimer = 0;

// What is looked at while typing is filled at once: the picture, the field and what is wrong with it, the lines of the ticket, and that the verdict is an
// older one. The rest follows when that has been painted, or before anything else is told, filled or done.
const looked = /^(picture|age|line-|[ehw]-)/;
const atOnce = (part) => part.dataset.shape !== undefined || looked.test(part.dataset.slot);
let rest = null;
function finish() {
  const fill = rest;
  rest = null;
  fill?.();
}
for (const act of ["keydown", "pointerdown"]) document.addEventListener(act, finish, true); // which may be on what the rest brings
document.addEventListener("click", (e) => { // what assists people clicks without a key or a pointer
  if (!rest) return;
  finish();
  if (e.target.isConnected) return;
  e.preventDefault();
  e.stopImmediatePropagation();
  const id = e.target.closest("[id]")?.id;
  if (id) document.getElementById(id)?.click(); // that which has taken its place
}, true);

// fillSlots puts an answer's parts where they belong. answered is the field whose edit this is the answer to; others that are on their way keep what they
// hold.
export function fillSlots(text, answered) {
  finish();
  const root = new DOMParser().parseFromString(text, "text/html").body.firstElementChild;
  const parts = [...root.querySelectorAll(":scope > [data-slot]")];
  fill(parts.filter(atOnce), answered);
  holdAgain();
  proveAgain(root.dataset.proof);
  rest = () => { fill(parts.filter((p) => !atOnce(p)), answered); afterFill(); };
  requestAnimationFrame(() => setTimeout(finish));
  setTimeout(finish, 60); // a tab in the background is not painted
}

// fill changes only those slots that differ, and never what somebody is typing in. One pass over the page, where swapping each part on its own took four
// times as long.
function fill(parts, answered) {
  const filled = [];
  for (const part of parts) {
    const slot = document.getElementById(part.dataset.slot);
    if (!slot) { if (part.dataset.digest) shown.set(part.dataset.slot, { slot: null, digest: part.dataset.digest }); continue; }
    if (isPressed(slot)) { whenLetGo(() => fill([part], answered)); shown.delete(slot.id); continue; }
    if (part.dataset.shape !== undefined) { reshape(slot, part); keep(slot, part); continue; }
    if (slot.innerHTML === part.innerHTML && !departs(slot)) { filled.push([slot, part]); continue; }
    const active = document.activeElement;
    const within = slot.contains(active);
    if (within && slot.dataset.field !== undefined && active.matches("input:not([type=color]), textarea, select")) {
      const chooser = slot.querySelector("input[type=color]"), now = part.querySelector("input[type=color]");
      if (chooser && now) chooser.value = now.value; // which follows what is typed beside it
      continue;
    }
    if (slot.dataset.field !== undefined && [...unsaved, ...waiting].some((f) => (f !== answered || waiting.has(f)) && slot.contains(f))) continue;
    const unfolded = [...slot.querySelectorAll("details")].map((d) => d.open);
    filled.push([slot, part]);
    slot.replaceChildren(...part.childNodes);
    if (slot.matches(".error") && slot.textContent.trim()) announce(slot.textContent.trim());
    slot.querySelectorAll("details").forEach((d, i) => { if (unfolded[i]) d.open = true; });
    if (within && active.dataset.part) slot.querySelector(`[data-part="${active.dataset.part}"]`)?.focus();
    // What was pressed and cannot be any more leaves the focus to what stands beside it.
    if (within && active.id) (slot.querySelector(`#${CSS.escape(active.id)}:not(:disabled)`) ?? slot.querySelector("button:not(:disabled)"))?.focus();
    if (within && active.dataset.set !== undefined) slot.querySelector(`[data-set="${active.dataset.set}"]`)?.focus(); // a swatch keeps the focus
    if (slot.querySelector("[hx-post], [hx-patch], [hx-get]")) window.htmx.process(slot);
  }
  forget(watcher.takeRecords());
  for (const [slot, part] of filled) keep(slot, part);
}

// proveAgain marks the verdict as one of an older picture, and asks for the new one.
function proveAgain(address) {
  const remarks = document.getElementById("remarks");
  if (!remarks || !address) return;
  remarks.classList.add("older");
  clearTimeout(proofTimer);
  for (const id of ["beyond", "ask-proof"]) { // what is being proved is no longer what is drawn
    const asking = document.getElementById(id);
    if (asking) window.htmx.trigger(asking, "htmx:abort");
  }
  proofTimer = setTimeout(() => window.htmx.ajax("GET", address, { source: "#ask-proof", target: "#remarks", swap: "outerHTML" }).catch(() => {}), 150); // an aborted one rejects
}
