// What must happen in the browser at once. Everything that is true comes from the server.
"use strict";

const say = (text) => { document.getElementById("notice").textContent = text; };
let quiet = 0;
const sayBriefly = (text) => { say(text); clearTimeout(quiet); quiet = setTimeout(() => say(""), 4000); };

// Each tab numbers its edits, so that the server knows a retry from a new edit.
const store = window.sessionStorage;
if (!store.getItem("tab")) store.setItem("tab", Math.random().toString(36).slice(2, 12));
const nextSeq = () => { const n = Number(store.getItem("seq") || 0) + 1; store.setItem("seq", n); return n; };

let unsaved = new Set();  // fields whose last edit the server has not taken yet
let waiting = new Set();  // fields that have changed and were not sent yet
document.addEventListener("input", (e) => { if (e.target.matches("[hx-patch]")) waiting.add(e.target); }, true);
const desk0 = document.getElementById("desk-state");
let newest = desk0 ? Number(desk0.dataset.rev) : -1; // newest revision shown

// What of the answers so far the page still shows, by slot: the server leaves it out of the next. Whatever else changes a slot, it is not known
// any more; nor is one in which somebody has typed.
const shown = new Map();
const keep = (slot, part) => { if (part.dataset.digest) shown.set(slot.id, { slot, digest: part.dataset.digest, shape: part.dataset.shape }); else shown.delete(slot.id); };
const forget = (changes) => {
  for (const c of changes) for (let at = c.target; at; at = at.parentElement) if (shown.get(at.id)?.shape === undefined) shown.delete(at.id);
};
const watcher = new MutationObserver(forget);
watcher.observe(document.documentElement, { subtree: true, childList: true, characterData: true, attributes: true });
const have = () => {
  forget(watcher.takeRecords());
  let out = "";
  for (const [id, s] of shown) if (document.getElementById(id) === s.slot && (s.shape === undefined ? !departs(s.slot) : s.slot.dataset.shape === s.shape)) out += s.digest;
  return out;
};

const flying = new Set(); // elements whose change is on its way
document.addEventListener("htmx:beforeRequest", (e) => { if (e.detail.requestConfig.verb !== "get") flying.add(e.detail.elt); });
document.addEventListener("htmx:afterRequest", (e) => flying.delete(e.detail.elt));
document.addEventListener("htmx:configRequest", (e) => {
  const d = e.detail;
  if (d.verb === "get") return;
  // Of two changes on their way at once, the answer to one may change what the other has told.
  if ([...flying].every((elt) => elt === d.elt)) d.headers["Sodrik-Have"] = have();
  // A request that is sent again keeps its number, so that what it asks for is done once.
  if (!d.elt.sodrikAgain) d.elt.sodrikSeq = nextSeq();
  d.elt.sodrikAgain = false;
  d.parameters["tab"] = store.getItem("tab");
  d.parameters["seq"] = d.elt.sodrikSeq;
  if (newest >= 0 && !d.parameters["base"]) d.parameters["base"] = String(newest);
  if (d.verb === "patch") {
    unsaved.add(d.elt);
    waiting.delete(d.elt);
  }
  const state = document.getElementById("desk-state");
  if (state && d.parameters["place"] === undefined) d.parameters["place"] = state.dataset.place; // a form that has places of its own means those
});
document.addEventListener("htmx:beforeSwap", (e) => {
  const rev = e.detail.xhr.getResponseHeader("Sodrik-Revision");
  if (rev !== null) {
    if (Number(rev) < newest) { e.detail.shouldSwap = false; return; }
    newest = Number(rev);
  }
  if (e.detail.xhr.getResponseHeader("Sodrik-Slots")) {
    e.detail.shouldSwap = false;
    fillSlots(e.detail.xhr.responseText, e.detail.requestConfig?.elt);
  }
});

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
const mapsIn = (root) => { for (const m of root.querySelectorAll("[data-map]")) window.sodrikMap?.(m); };

// departs tells whether a field holds something else than the page once said, as after typing: its markup then tells nothing of what it shows.
const departs = (slot) => [...slot.querySelectorAll("[hx-patch]")].some((f) => f.matches("select") ? [...f.options].some((o) => o.selected !== o.defaultSelected) : f.matches("[type=checkbox], [type=radio]") ? f.checked !== f.defaultChecked : f.value !== f.defaultValue);
let proofTimer = 0;
// fillSlots puts an answer's parts where they belong: only those that differ, and never into the field somebody is typing
// in. One pass over the page, where swapping each part on its own took four times as long.
// answered is the field whose edit this is the answer to; others that are on their way keep what they hold.
function fillSlots(text, answered) {
  const root = new DOMParser().parseFromString(text, "text/html").body.firstElementChild;
  const filled = [];
  for (const part of root.querySelectorAll(":scope > [data-slot]")) {
    const slot = document.getElementById(part.dataset.slot);
    if (!slot) continue;
    if (part.dataset.shape !== undefined) { reshape(slot, part); keep(slot, part); continue; }
    if (slot.innerHTML === part.innerHTML && !departs(slot)) { filled.push([slot, part]); continue; }
    const active = document.activeElement;
    const within = slot.contains(active);
    if (within && slot.dataset.field !== undefined && active.matches("input:not([type=color]), textarea, select")) continue;
    if (slot.dataset.field !== undefined && [...unsaved, ...waiting].some((f) => (f !== answered || waiting.has(f)) && slot.contains(f))) continue;
    const unfolded = [...slot.querySelectorAll("details")].map((d) => d.open);
    filled.push([slot, part]);
    slot.replaceChildren(...part.childNodes);
    slot.querySelectorAll("details").forEach((d, i) => { if (unfolded[i]) d.open = true; });
    if (within && active.dataset.part) slot.querySelector(`[data-part="${active.dataset.part}"]`)?.focus();
    if (within && active.dataset.set !== undefined) slot.querySelector(`[data-set="${active.dataset.set}"]`)?.focus(); // a swatch keeps the focus
    if (slot.querySelector("[hx-post], [hx-patch], [hx-get]")) window.htmx.process(slot);
  }
  afterFill();
  forget(watcher.takeRecords());
  for (const [slot, part] of filled) keep(slot, part);
  const remarks = document.getElementById("remarks");
  if (!remarks || !root.dataset.proof) return;
  remarks.classList.add("older");
  clearTimeout(proofTimer);
  for (const id of ["beyond", "ask-proof"]) { // what is being proved is no longer what is drawn
    const asking = document.getElementById(id);
    if (asking) window.htmx.trigger(asking, "htmx:abort");
  }
  proofTimer = setTimeout(() => window.htmx.ajax("GET", root.dataset.proof, { source: "#ask-proof", target: "#remarks", swap: "outerHTML" }).catch(() => {}), 150); // an aborted one rejects
}
// What becomes of a request: it succeeds, it is refused, it fails, or a newer one of the same field takes its place, which is none of the others: the
// newer one brings the answer.
const notice = () => document.getElementById("notice");
function settled(elt) {
  unsaved.delete(elt);
  elt.sodrikTries = 0;
  if (unsaved.size === 0 && notice().dataset.saving) { delete notice().dataset.saving; sayBriefly("Saved."); }
}
const askedBy = (e) => e.detail.requestConfig?.elt || e.detail.elt; // the event's own element is another where the answer has put that away
document.addEventListener("htmx:afterRequest", (e) => { if (e.detail.successful) settled(askedBy(e)); });
document.addEventListener("htmx:responseError", (e) => {
  const elt = askedBy(e), { xhr } = e.detail;
  if (waits(elt)) return;
  if (xhr.status >= 500) { failed(e); return; }
  settled(elt);
  if (xhr.status !== 422) sayBriefly(xhr.responseText.slice(0, 300) || "That did not work.");
  if (xhr.status === 409) catchUp();
});
document.addEventListener("htmx:sendError", failed);
document.addEventListener("htmx:timeout", failed);

// waits asks again for a verdict among many, which others were before.
function waits(elt) {
  if (!elt.matches("[data-retries]") || (elt.sodrikTries = (elt.sodrikTries || 0) + 1) >= 10) return false;
  setTimeout(() => { if (document.body.contains(elt)) window.htmx.trigger(elt, "again"); }, 1000);
  return true;
}
function failed(e) {
  const elt = askedBy(e), { requestConfig } = e.detail;
  if (e.type !== "htmx:responseError" && waits(elt)) return;
  if (!requestConfig || requestConfig.verb === "get") return;
  if (requestConfig.verb === "patch") retry(elt, "again", "Not saved yet: the server or its database does not answer. What you typed stays in the field and is sent again by itself.");
  else if (elt.matches("[data-resends]") && (elt.sodrikTries || 0) < 8) retry(elt, "submit", "Not done yet: the server or its database does not answer. It is asked again by itself.");
  else sayBriefly("The server did not answer. Look whether it was done before you try again.");
}

// retry sends a field's present text again, or asks for the same change, later and later, until the server has it.
function retry(elt, event, words) {
  elt.sodrikTries = (elt.sodrikTries || 0) + 1;
  if (event === "submit") unsaved.add(elt);
  notice().dataset.saving = "1";
  say(words);
  setTimeout(() => {
    if (!document.body.contains(elt)) { settled(elt); return; } // the desk has moved on
    elt.sodrikAgain = event === "submit";
    window.htmx.trigger(elt, event);
  }, Math.min(5000, 400 * 2 ** Math.min(4, elt.sodrikTries)));
}
// A plain form of the desk says the same as the others: which tab, the how manieth change, what it had seen. Sent twice, it is one change.
document.addEventListener("submit", (e) => {
  const form = e.target;
  if (!desk0 || form.method !== "post" || form.hasAttribute("hx-post") || !new URL(form.action).pathname.startsWith("/codes/") || form.elements.seq) return;
  for (const [name, value] of [["tab", store.getItem("tab")], ["seq", nextSeq()], ["base", newest]]) {
    form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
  }
}, true);
window.addEventListener("pageshow", (e) => { if (e.persisted) document.querySelectorAll("form > input[name=seq]").forEach((i) => i.remove()); });
// What is asked before it is done.
document.addEventListener("htmx:afterSwap", (e) => { if (e.detail.target?.id === "ask-turn" && !e.detail.target.open) e.detail.target.showModal(); });
window.addEventListener("beforeunload", (e) => { if (unsaved.size && document.getElementById("notice").dataset.saving) e.preventDefault(); });

// fetchFile posts a form's fields and gives the file, for the clipboard.
async function fetchFile(url, fields) {
  const r = await fetch(url, { method: "POST", body: new URLSearchParams(fields) });
  if (!r.ok) throw new Error(await r.text());
  return r.blob();
}
const asDataURL = (blob) => new Promise((done) => { const f = new FileReader(); f.onload = () => done(f.result); f.readAsDataURL(blob); });

// copyPicture puts the PNG on the clipboard, and beside it HTML with its width, as browsers drop the size
// that stands in the PNG itself.
async function copyPicture(url, fields, width, alt) {
  try {
    const png = fetchFile(url, fields);
    const html = png.then(async (b) => {
      const img = document.createElement("img");
      img.src = await asDataURL(b); img.alt = alt;
      if (width) img.setAttribute("width", (width * 96 / 25.4).toFixed(2)); // in 96ths of an inch: putting a style on the clipboard offends the policy of the page
      return new Blob([img.outerHTML], { type: "text/html" });
    });
    png.catch(() => {}); html.catch(() => {}); // a clipboard that refuses at once waits for neither
    await navigator.clipboard.write([new ClipboardItem({ "image/png": png, "text/html": html })]);
    sayBriefly("Copied. Paste it where it belongs.");
  } catch (err) {
    sayBriefly("This browser did not let the picture onto the clipboard. Download PNG gives the same file.");
  }
}
document.addEventListener("click", (e) => {
  const copy = e.target.closest("[data-copy]");
  if (copy) {
    const fields = copy.dataset.text ? { text: copy.dataset.text, reading: copy.dataset.reading || "" } : { format: "png", place: copy.dataset.place, copy: "1" };
    copyPicture(copy.dataset.copy, fields, copy.dataset.width, copy.dataset.alt || "QR code").then(refreshState);
  }
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
  const opens = e.target.closest("[data-opens]");
  if (opens) document.getElementById(opens.dataset.opens).showModal();
  const dialog = e.target.closest("[data-close]");
  if (dialog) dialog.closest("dialog").close();
});
document.addEventListener("input", (e) => { if (e.target.matches(".slide input")) e.target.nextElementSibling.textContent = e.target.value + e.target.nextElementSibling.dataset.unit; });
document.addEventListener("input", (e) => { // the colour chooser writes into the text field beside it
  if (e.target.matches("input[type=color]")) setField(document.getElementById(e.target.dataset.for), e.target.value);
});
function setField(input, value) {
  forgetTry();
  input.value = value;
  input.dispatchEvent(new Event("input", { bubbles: true }));
}

// A file that was handed over makes an issued version; the chip is asked for once the download has begun.
function refreshState() {
  const state = document.getElementById("desk-state");
  if (state) window.htmx.ajax("GET", state.dataset.state, { target: "#issued", swap: "outerHTML" })?.catch(() => {});
}
document.addEventListener("submit", (e) => { if (e.target.matches("[data-ships]")) setTimeout(refreshState, 900); });
document.addEventListener("htmx:afterRequest", (e) => { if (e.detail.successful && e.detail.elt.matches("[data-issues]")) refreshState(); });

// Coming back to a tab, it catches up with what other tabs have changed.
document.addEventListener("visibilitychange", catchUp);
window.addEventListener("focus", catchUp);
async function catchUp() {
  const state = document.getElementById("desk-state");
  if (!state || document.visibilityState !== "visible" || unsaved.size) return;
  try {
    const r = await fetch(state.dataset.changes + "&since=" + newest, { headers: { "HX-Request": "true" } });
    const rev = Number(r.headers.get("Sodrik-Revision"));
    if (r.status !== 200 || rev <= newest || unsaved.size) return;
    newest = rev;
    fillSlots(await r.text());
  } catch { /* the next edit says so */ }
}

// Keys. Single letters act only outside fields, and can be switched off for this browser.
const letters = () => window.localStorage.getItem("letters") !== "off";
document.addEventListener("change", (e) => { if (e.target.id === "letters") window.localStorage.setItem("letters", e.target.checked ? "on" : "off"); });
const inField = (t) => t.matches("input, textarea, select, [contenteditable]");
document.addEventListener("keydown", (e) => {
  if (e.key === "Escape" && e.target.id === "find-text") { e.target.value = ""; e.target.dispatchEvent(new Event("input", { bubbles: true })); e.target.blur(); return; }
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !inField(e.target)) {
    const b = document.getElementById(e.shiftKey ? "redo" : "undo");
    if (b && !b.disabled) { e.preventDefault(); b.click(); }
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey || inField(e.target)) return;
  const open = document.querySelector("dialog[open]");
  if (open) { if (e.key === " " && open.id === "peek" && e.target === open) { e.preventDefault(); open.close(); } return; }
  if (e.target.closest("[role=application]")) return;
  if (e.key === "?") { document.getElementById("letters").checked = letters(); }
  if (/^[a-z]$/.test(e.key) && !letters()) return;
  if (e.key === "/") { e.preventDefault(); const f = document.getElementById("find-text"); f.focus(); f.select(); }
  else if (e.key === "?") { e.preventDefault(); document.getElementById("keys").showModal(); }
  else if (e.key === "f" && document.querySelector(".finding .btn")) { e.preventDefault(); document.querySelector(".finding .btn").click(); }
  else if (e.key === "s" && document.querySelector("[data-step]")) { e.preventDefault(); document.querySelector("[data-step]").click(); }
  else if (e.key === "u" && document.getElementById("undo") && !document.getElementById("undo").disabled) { e.preventDefault(); document.getElementById("undo").click(); }
  else if (e.target.matches("tr.code")) rowKey(e);
});
function rowKey(e) {
  const rows = [...document.querySelectorAll("tr.code")].filter((r) => r.offsetParent !== null);
  const at = rows.indexOf(e.target);
  const go = (i) => { e.preventDefault(); rows[Math.max(0, Math.min(rows.length - 1, i))].focus(); };
  if (e.key === "ArrowDown") go(at + 1);
  else if (e.key === "ArrowUp") go(at - 1);
  else if (e.key === "Home") go(0);
  else if (e.key === "End") go(rows.length - 1);
  else if (e.key === "Enter") { e.preventDefault(); location.href = e.target.dataset.href; }
  else if (e.key === " ") { e.preventDefault(); window.htmx.ajax("GET", e.target.dataset.href + "/peek", { target: "#peek", swap: "innerHTML" }).then(() => { const d = document.getElementById("peek"); d.returnTo = e.target.id; if (!d.open) d.showModal(); d.focus(); }); }
}
document.addEventListener("click", (e) => {
  const row = e.target.closest("tr.code");
  if (row && !e.target.closest("a, button") && !String(window.getSelection())) location.href = row.dataset.href;
});
document.addEventListener("close", (e) => { if (e.target.id === "peek" && e.target.returnTo) { const r = document.getElementById(e.target.returnTo); if (r) r.focus(); } }, true);

// A paste outside any field lands in the find field; a file, from the clipboard, dropped or chosen, is read the same way.
function give(file) {
  const form = document.getElementById("find-file");
  if (!form) return;
  const list = new DataTransfer();
  list.items.add(file);
  form.elements.file.files = list.files;
  form.requestSubmit();
}
document.addEventListener("paste", (e) => {
  const data = e.clipboardData;
  if (data && data.files.length && (!inField(e.target) || e.target.id === "find-text")) { e.preventDefault(); give(data.files[0]); return; }
  const f = document.getElementById("find-text");
  const text = data ? data.getData("text") : "";
  // A field of one line would lose the line ends of a card or a date.
  if (!text || !f || inField(e.target) && !(e.target === f && text.trim().includes("\n"))) return;
  e.preventDefault();
  f.focus();
  f.value = text.trim();
  if (text.trim().includes("\n")) { give(new File([text], "pasted.txt", { type: "text/plain" })); return; }
  f.dispatchEvent(new Event("input", { bubbles: true }));
  if (!f.hasAttribute("hx-post")) f.form.requestSubmit();
});
document.addEventListener("dragover", (e) => { if (e.dataTransfer && e.dataTransfer.types.includes("Files") && document.getElementById("find-file")) e.preventDefault(); });
document.addEventListener("drop", (e) => {
  if (!e.dataTransfer || !e.dataTransfer.files.length || !document.getElementById("find-file")) return;
  e.preventDefault();
  const artwork = document.getElementById("artwork-file");
  if (artwork && !artwork.matches(":disabled") && e.target.closest("#in-place")) { // in place: it becomes what the code lies on
    artwork.files = e.dataTransfer.files;
    artwork.dispatchEvent(new Event("change", { bubbles: true }));
    return;
  }
  const mark = document.getElementById("mark-file");
  if (mark && !mark.matches(":disabled") && e.target.closest(".sheet")) { // onto the sheet: it becomes the mark
    mark.files = e.dataTransfer.files;
    tell("mark");
    mark.dispatchEvent(new Event("change", { bubbles: true }));
    return;
  }
  give(e.dataTransfer.files[0]);
});
document.addEventListener("change", (e) => { if (e.target.matches("#find-file input")) e.target.form.requestSubmit(); });
document.addEventListener("click", (e) => { if (e.target.closest("[data-picks]")) document.querySelector("#find-file input").click(); });
// Enter in the find field takes what stands out: what was recognised, else the first code found.
document.addEventListener("submit", (e) => {
  if (e.target.id !== "find" || !document.getElementById("ledger")) return;
  e.preventDefault();
  const main = document.querySelector("#found [data-enter]");
  if (main) main.click();
  else { const row = document.querySelector("tr.code"); if (row) row.focus(); }
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("rule", () => ({
    px: store.getItem("card-px") || "324", // 85.6 mm at 96 dots an inch
    init() { this.measure(); },
    length() { return this.px + " px"; },
    measure() {
      store.setItem("card-px", this.px);
      const sheet = document.querySelector("[data-millimetres]");
      const perMM = Number(this.px) / 85.6;
      document.querySelector(".bank-card").style.width = this.px + "px";
      const picture = sheet.querySelector("svg");
      picture.style.width = picture.style.height = Number(sheet.dataset.millimetres) * perMM + "px";
    },
  }));
  Alpine.data("desk", () => ({
    stub: "says",
    view: "flat",
    eye: "all",
    shown: false,
    // take opens the form of what was taken hold of on the sheet.
    take(part) {
      const eye = part.startsWith("eye-") ? part.slice(4) : "";
      if (eye) this.eye = eye;
      this.go("wears");
      const fold = document.getElementById("fold-" + (eye ? "eyes" : part === "mark" ? "mark" : "modules"));
      fold.open = true;
      this.$nextTick(() => fold.scrollIntoView({ block: "nearest" }));
    },
    which(eye) { this.eye = eye; hold(eye === "all" ? "" : "eye-" + eye); },
    init() { const kept = store.getItem("stub"); if (this.$root.querySelector("[data-stub='" + kept + "']")) this.stub = kept; this.follow(); },
    follow() { this.view = this.stub === "reads" && document.getElementById("camera-form") ? "camera" : this.stub === "sits" && document.getElementById("place-form") ? "place" : this.stub === "ships" && document.getElementById("desk-state").dataset.pressed ? "plates" : "flat"; store.setItem("stub", this.stub); lookThrough(); },
    go(name) { this.stub = name; this.follow(); },
    see(name) { this.view = name; lookThrough(); },
    seeAsked(e) { if (e.target.dataset?.see) this.see(e.target.dataset.see); },
    toggleRemarks() { this.shown = !this.shown; },
    key(e) {
      if (e.ctrlKey || e.metaKey || e.altKey || inField(e.target) || document.querySelector("dialog[open]")) return;
      if (this.view === "variations" && /^[0-9]$/.test(e.key)) {
        const b = this.$root.querySelector(e.key === "0" ? "#variations [data-again]" : `#variations [data-variation="${e.key}"]`);
        if (b && !b.closest("fieldset").disabled) { e.preventDefault(); b.click(); }
      }
      const all = [...this.$root.querySelectorAll("button[data-stub]")];
      const at = all.findIndex((b) => b.dataset.stub === this.stub);
      const to = e.key === "]" ? all[at + 1] : e.key === "[" ? all[at - 1] : null;
      if (to) { e.preventDefault(); to.click(); to.focus(); }
    },
  }));
  // A campaign is folded as a whole, whatever parts its rows came in.
  const folds = window.Alpine.reactive({});
  window.Alpine.data("group", () => ({
    get folded() { return Boolean(folds[this.$root.dataset.campaign]); },
    toggle() { folds[this.$root.dataset.campaign] = !this.folded; },
  }));
});
// One gauge open at a time.
document.addEventListener("toggle", (e) => {
  if (e.target.matches(".gauge") && e.target.open) document.querySelectorAll(".gauge[open]").forEach((g) => { if (g !== e.target) g.open = false; });
}, true);
// The examples of the API page run from here, with the token typed there.
document.addEventListener("submit", async (e) => {
  const form = e.target;
  if (!form.matches("[data-runs]")) return;
  e.preventDefault();
  let path = form.dataset.path;
  const query = new URLSearchParams();
  form.querySelectorAll("input[data-in]").forEach((i) => {
    if (i.dataset.in === "path") path = path.replace("{" + i.name + "}", encodeURIComponent(i.value));
    else if (i.value) query.set(i.name, i.value);
  });
  const body = form.querySelector("[data-body]"), picture = form.querySelector("[data-picture]");
  const out = form.querySelector("[data-answer]");
  const headers = { Authorization: "Bearer " + document.getElementById("api-token").value.trim() };
  if (body) headers["Content-Type"] = "application/json";
  out.hidden = false;
  out.textContent = "…";
  try {
    const r = await fetch(path + (query.size ? "?" + query : ""), { method: form.dataset.method, headers, body: body ? body.value : picture && picture.files[0] ? picture.files[0] : undefined });
    const kind = r.headers.get("Content-Type") || "";
    let text = /json|svg/.test(kind) ? await r.text() : (await r.blob()).size + " bytes of " + kind;
    if (/json/.test(kind)) text = JSON.stringify(JSON.parse(text), null, 2);
    out.textContent = r.status + " " + r.statusText + "\n" + text;
  } catch (err) { out.textContent = "No answer: " + err.message; }
});
// Passkeys: the browser asks the authenticator, the server says for what.
document.addEventListener("click", async (e) => {
  const b = e.target.closest("[data-passkey]");
  if (!b) return;
  if (!window.PublicKeyCredential || !PublicKeyCredential.parseRequestOptionsFromJSON) { say("This browser cannot use passkeys here."); return; }
  const [ask, give] = b.dataset.passkey === "new" ? ["/account/passkey/new", "/account/passkey/add"] : ["/passkey/ask", "/passkey/use"];
  try {
    const confirm = document.getElementById("passkey-confirm");
    const r = await fetch(ask, { method: "POST", body: new URLSearchParams(b.dataset.passkey === "new" && confirm ? { confirm: confirm.value } : {}) });
    if (!r.ok) throw new Error(await r.text());
    const { publicKey } = await r.json();
    const credential = b.dataset.passkey === "new"
      ? await navigator.credentials.create({ publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(publicKey) })
      : await navigator.credentials.get({ publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(publicKey) });
    const done = await fetch(give, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(credential.toJSON()) });
    if (!done.ok) throw new Error(await done.text());
    if (b.dataset.next) location.href = b.dataset.next; else location.reload();
  } catch (err) {
    say(err.name === "NotAllowedError" ? "No passkey was given." : err.message);
  }
});
// What is taken hold of on the sheet: the modules, an eye, the mark. The picture that lies over the sheet for dragging out and for a right
// click is looked through.
let held = "", drag = null, dragged = false; // dragged: the click that ends a drag is still to come
const tell = (part) => { hold(part); window.dispatchEvent(new CustomEvent("part", { detail: part })); };
function hold(part) {
  held = part;
  document.querySelectorAll("#parts .part").forEach((p) => p.classList.toggle("held", p.dataset.part === part));
  document.querySelector(".sheet")?.classList.toggle("holds-mark", part === "mark");
}
// What a remark is about is lit on the sheet while somebody points at it or is in it.
const about = { eye: "eye", mark: "mark", contrast: "modules", plates: "modules", symbol: "modules", "module-size": "modules", grade: "modules", look: "eye", "quiet-zone": "quiet", scanner: "modules" };
const light = (e) => {
  const finding = e.target.closest?.(".finding");
  const code = finding?.dataset.code ?? "";
  const part = about[code] ?? about[code.split(".")[0]] ?? "";
  for (const lit of document.querySelectorAll("#picture .lit")) lit.classList.remove("lit");
  if (part) for (const p of document.querySelectorAll(`#picture [data-part^="${part}"], #picture [data-about="${part}"]`)) p.classList.add("lit");
};
document.addEventListener("mouseover", light);
document.addEventListener("focusin", light);

// lookThrough has the camera look again, where it is in view.
// It waits a moment for the view to be there, not for a frame, which a tab behind others does not draw.
const lookThrough = () => setTimeout(() => { const f = document.getElementById("camera-form"); if (f && f.offsetParent) window.htmx?.trigger(f, "redrawn"); }, 20);
document.addEventListener("reset", (e) => { if (e.target.id === "camera-form") setTimeout(() => { e.target.querySelectorAll("output").forEach((o) => { o.textContent = o.previousElementSibling.value + o.dataset.unit; }); lookThrough(); }); });
function afterFill() {
  lookThrough();
  if (held) hold(held);
  const source = document.getElementById("f-look-mark-source");
  if (source) document.querySelectorAll("#icons [data-set], #uploads [data-set]").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.set === source.value)));
}
document.addEventListener("DOMContentLoaded", afterFill);
const partAt = (e) => e.target.closest?.("#picture") && document.elementsFromPoint(e.clientX, e.clientY).find((x) => x.dataset.part && (x.dataset.part !== "mark-size" || held === "mark"));
// toModules takes a point of the window to modules of the symbol.
function toModules(e) {
  const parts = document.getElementById("parts"), p = new DOMPoint(e.clientX, e.clientY).matrixTransform(parts.getScreenCTM().inverse());
  const { left, top, unit, size } = parts.dataset;
  return { x: (p.x - left) / unit, y: (p.y - top) / unit, size: Number(size) };
}
const markBox = () => {
  const parts = document.getElementById("parts"), m = parts?.querySelector("[data-part=mark]");
  if (!m) return null;
  const { left, top, unit, size } = parts.dataset, n = (k) => Number(m.getAttribute(k)) / unit;
  return { x: n("x") - left / unit, y: n("y") - top / unit, w: n("width"), h: n("height"), size: Number(size) };
};
const percent = (f) => String(Math.round(f * 1e5) / 1e3);
const onGrid = (f) => Math.round(f * 2) / 2; // middles lie on modules or between two of them
function moveMark(x, y, free, size) {
  const at = (f) => percent(Math.min(1, Math.max(0, (free ? f : onGrid(f)) / size)));
  const field = document.getElementById("f-look-mark-place");
  const text = at(x) + ", " + at(y);
  if (field && field.value !== text) setField(field, text);
}
function sizeMark(width) {
  const field = document.getElementById("f-look-mark-width");
  if (!field) return;
  const to = String(Math.min(field.max, Math.max(field.min, Math.round(width * 2) / 2)));
  if (field.value !== to) setField(field, to);
}
const mayEdit = () => !document.querySelector("#f-look-mark-source")?.matches(":disabled");
document.addEventListener("pointerdown", (e) => {
  dragged = false;
  const part = e.button === 0 && partAt(e);
  if (!part || !mayEdit() || !/^mark/.test(part.dataset.part)) return;
  e.preventDefault();
  const from = toModules(e), box = markBox();
  drag = { part: part.dataset.part, from, box, moved: false };
  hold("mark");
});
document.addEventListener("dragstart", (e) => { if (drag) e.preventDefault(); });
document.addEventListener("pointermove", (e) => {
  if (drag) {
    const to = toModules(e), { from, box, part } = drag;
    if (Math.hypot(to.x - from.x, to.y - from.y) > 0.2) drag.moved = true;
    if (!drag.moved) return;
    if (part === "mark") moveMark(box.x + box.w / 2 + to.x - from.x, box.y + box.h / 2 + to.y - from.y, e.altKey, box.size);
    else sizeMark(200 * Math.max((to.x - box.x - box.w / 2), (to.y - box.y - box.h / 2) * box.w / box.h) / box.size);
    return;
  }
  const part = partAt(e), img = document.querySelector(".bare");
  document.querySelectorAll("#parts .under").forEach((p) => { if (p !== part) p.classList.remove("under"); });
  part?.classList.add("under");
  if (img) { img.style.cursor = !part ? "" : part.dataset.part === "mark" ? "move" : part.dataset.part === "mark-size" ? "nwse-resize" : "pointer"; img.draggable = !part || !/^mark/.test(part.dataset.part); }
});
document.addEventListener("pointerup", () => {
  if (drag) { drag = null; dragged = true; tell("mark"); }
});
document.addEventListener("click", (e) => {
  if (dragged) { dragged = false; return; }
  const part = partAt(e);
  if (part && !/^mark/.test(part.dataset.part)) tell(part.dataset.part);
});
document.addEventListener("keydown", (e) => {
  const part = e.target.dataset?.part;
  if (!part || e.ctrlKey || e.metaKey) return;
  if (e.key === "Enter" || e.key === " ") { e.preventDefault(); tell(part); return; }
  const box = part === "mark" && mayEdit() && markBox();
  if (!box) return;
  const [x, y] = document.getElementById("f-look-mark-place").value.split(",").map((v) => parseFloat(v) / 100 * box.size); // which is ahead of the picture
  const step = e.altKey ? 0.1 : 1;
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
  if (by) { e.preventDefault(); hold("mark"); moveMark(x + by[0], y + by[1], true, box.size); }
  else if (e.key === "+" || e.key === "=" || e.key === "-") { e.preventDefault(); hold("mark"); sizeMark(Number(document.getElementById("f-look-mark-width").value) + (e.key === "-" ? -1 : 1)); }
  else if (e.key === "Delete" || e.key === "Backspace") { e.preventDefault(); setField(document.getElementById("f-look-mark-source"), ""); }
});

// A choice is tried on the sheet while the pointer or the focus is on it; leaving it, or Escape, brings back what was there.
let tried = null, trying = 0, tries = 0;
function forgetTry() { clearTimeout(trying); tries++; tried = null; }
function endTry() {
  clearTimeout(trying);
  tries++;
  if (!tried) return;
  const { svg, contrast } = tried, now = document.querySelector("#picture > svg");
  if (now && now.dataset.tried) { now.replaceWith(svg); document.getElementById("contrast").textContent = contrast; afterFill(); }
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
    if (!tried) tried = { svg: now, contrast: document.getElementById("contrast").textContent };
    svg.dataset.tried = "1";
    now.replaceWith(svg);
    document.getElementById("contrast").textContent = r.headers.get("Sodrik-Contrast");
  }, 110);
}
document.addEventListener("pointerover", (e) => { const b = triable(e.target); if (b) tryOut(b); });
document.addEventListener("pointerout", (e) => { if (e.target.closest?.("[data-set]")) endTry(); });
document.addEventListener("focusin", (e) => { const b = triable(e.target); if (b && b.matches(":focus-visible")) tryOut(b); });
document.addEventListener("focusout", (e) => { if (e.target.dataset?.set !== undefined) endTry(); });
document.addEventListener("keydown", (e) => { if (e.key === "Escape" && e.target.dataset?.set !== undefined) endTry(); });

// A colour from the screen, where the browser lets one take it.
if ("EyeDropper" in window) document.documentElement.classList.add("drops");
document.addEventListener("click", async (e) => {
  const b = e.target.closest("[data-drops]");
  if (!b) return;
  try { setField(document.getElementById(b.dataset.drops), (await new window.EyeDropper().open()).sRGBHex); } catch { /* left without one */ }
});
// The PNG over the sheet, to be dragged out or saved by a right click, is fetched when the pointer comes to it: drawing it
// with every keystroke took longer than the picture itself.
document.addEventListener("pointerover", (e) => {
  const img = e.target.closest(".sheet") && document.querySelector(".bare");
  if (img && !img.src) img.src = img.dataset.src;
});

// On the view in place the code is taken hold of and moved. It is drawn to edges, to the middle, and to empty parts of the artwork, within a few
// pixels; Alt leaves them alone. The server is told where it came to lie once it lies still.
const placed = () => document.getElementById("placed");
const maySit = () => { const f = document.getElementById("in-place"); return f && !f.disabled && document.getElementById("move"); };
let carried = null, settle = 0;
// spot is where the code lies now: as drawn, or as it was moved since.
const spot = (g) => ({ x: Number(g.dataset.nowX ?? g.dataset.x), y: Number(g.dataset.nowY ?? g.dataset.y) });
function lay(g, x, y, free, reach) {
  const snaps = JSON.parse(g.dataset.snaps);
  const nearest = (v, list) => list.reduce((best, s) => Math.abs(s - v) <= reach && (best === null || Math.abs(s - v) < Math.abs(best - v)) ? s : best, null) ?? v;
  const hit = { x: false, y: false };
  if (!free) {
    const sx = nearest(x, snaps.x), sy = nearest(y, snaps.y);
    hit.x = sx !== x || snaps.x.includes(x); hit.y = sy !== y || snaps.y.includes(y);
    x = sx; y = sy;
  }
  x = Math.round(x * 100) / 100; y = Math.round(y * 100) / 100;
  g.dataset.nowX = x; g.dataset.nowY = y;
  g.setAttribute("transform", `translate(${x - g.dataset.x} ${y - g.dataset.y})`);
  const words = document.querySelector(".in-place-words");
  if (words) words.textContent = `${x} mm from the left, ${y} mm from the top.`;
  const guides = document.getElementById("guides"), w = Number(g.dataset.w), h = Number(g.dataset.h);
  guides.replaceChildren();
  const line = (d) => { const p = document.createElementNS("http://www.w3.org/2000/svg", "path"); p.setAttribute("d", d); guides.append(p); };
  if (hit.x) line(`M${x} -9999V9999M${x + w} -9999V9999`);
  if (hit.y) line(`M-9999 ${y}H9999M-9999 ${y + h}H9999`);
}
function putDown(g) {
  const { x, y } = spot(g), form = document.getElementById("move");
  document.getElementById("guides")?.replaceChildren();
  if (!form || x === Number(g.dataset.x) && y === Number(g.dataset.y)) return;
  form.elements.x.value = x; form.elements.y.value = y;
  form.requestSubmit();
}
document.addEventListener("pointerdown", (e) => {
  const g = e.button === 0 && e.target.closest?.("#placed");
  if (!g || !maySit()) return;
  e.preventDefault();
  g.focus({ preventScroll: true });
  const m = g.parentNode.getScreenCTM().inverse(), p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m);
  carried = { g, m, from: p, at: spot(g), moved: false };
});
document.addEventListener("pointermove", (e) => {
  if (!carried) return;
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(carried.m), scale = Math.abs(carried.m.a);
  const dx = p.x - carried.from.x, dy = p.y - carried.from.y;
  if (Math.hypot(dx, dy) < 3 * scale && !carried.moved) return;
  carried.moved = true;
  lay(carried.g, carried.at.x + dx, carried.at.y + dy, e.altKey, 6 * scale);
});
document.addEventListener("pointerup", () => { if (carried) { const { g, moved } = carried; carried = null; if (moved) putDown(g); } });
document.addEventListener("keydown", (e) => {
  const g = e.target.closest?.("#placed"), step = e.altKey ? 0.1 : 1;
  const by = g && maySit() && { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
  if (!by || e.ctrlKey || e.metaKey) return;
  e.preventDefault();
  const { x, y } = spot(g);
  lay(g, x + by[0], y + by[1], true, 0);
  clearTimeout(settle);
  settle = setTimeout(() => { if (document.body.contains(g)) putDown(g); }, 500);
});
// Once it was moved by keys and is drawn anew, it keeps the focus.
document.addEventListener("htmx:beforeSwap", (e) => { if (e.detail.target?.closest?.("#in-place") || e.detail.elt?.closest?.("#in-place")) window.sodrikHeldPlace = document.activeElement?.id === "placed"; });
document.addEventListener("htmx:afterSettle", () => { if (window.sodrikHeldPlace && placed()) { window.sodrikHeldPlace = false; placed().focus({ preventScroll: true }); } });

// Which files go together is ticked once, and holds for the zip, the mail and everything.
document.addEventListener("change", (e) => {
  if (!e.target.matches("input[form=together]")) return;
  const keys = [...document.querySelectorAll("input[form=together]:checked")].map((i) => i.value);
  for (const span of document.querySelectorAll("[data-chosen]")) {
    span.replaceChildren(...keys.map((k) => Object.assign(document.createElement("input"), { type: "hidden", name: "format", value: k })));
  }
});
document.addEventListener("click", async (e) => {
  const copies = e.target.closest("[data-copies]");
  if (copies) {
    const text = document.getElementById(copies.dataset.copies);
    try { await navigator.clipboard.writeText(text.value); sayBriefly("Copied. Paste it where it belongs."); }
    catch { text.focus(); text.select(); sayBriefly("This browser did not let the text onto the clipboard. It is selected: copy it with Ctrl C."); }
  }
  if (e.target.closest("[data-prints]")) window.print();
  if (e.target.closest("[data-fill]")) document.querySelector("[data-fills]").requestFullscreen?.().catch(() => {});
});
