// Edits on their way to the server, and what becomes of them.
import { notice, say, sayBriefly } from "./notice.js";
import { fillSlots, have } from "./slots.js";
import { isDesk, lastSeq, nextSeq, seen, store, unsaved, waiting } from "./state.js";

let behind = 0;
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
  if (seen.newest >= 0 && !d.parameters["base"]) d.parameters["base"] = String(seen.newest);
  if (d.verb === "patch") {
    if (d.elt.sodrikSince) d.parameters["since"] = d.elt.sodrikSince;
    unsaved.add(d.elt);
    waiting.delete(d.elt);
  }
  const state = document.getElementById("desk-state");
  if (state && d.parameters["kind"] === undefined) d.parameters["kind"] = state.dataset.kind; // which stubs the page has
  if (state && d.parameters["place"] === undefined) d.parameters["place"] = state.dataset.place; // a form that has places of its own means those
});
document.addEventListener("htmx:beforeSwap", (e) => {
  const rev = e.detail.xhr.getResponseHeader("Sodrik-Revision");
  if (rev !== null) {
    if (Number(rev) < seen.newest) { e.detail.shouldSwap = false; return; }
    // A picture or a proof of a newer revision shows that there is one; what it says stands on the page only once the page has caught up.
    if (e.detail.xhr.getResponseHeader("Sodrik-Slots")) seen.newest = Number(rev);
    else if (Number(rev) > seen.newest) catchUp();
  }
  if (e.detail.xhr.getResponseHeader("Sodrik-Slots")) {
    e.detail.shouldSwap = false;
    fillSlots(e.detail.xhr.responseText, e.detail.requestConfig?.elt);
  }
});

// All that is typed into a field in one stay is one step of undo: half a value is none.
document.addEventListener("focusin", (e) => {
  if (e.target.matches("textarea[hx-patch], input[hx-patch]:not([type=range], [type=checkbox], [type=hidden], [type=color])")) e.target.sodrikSince = lastSeq() + 1;
});

// While what is typed has not reached the server, nothing of the desk is handed over, copied or taken back: it would be about what stood
// there before. It is done as soon as the server has it. A form that is sent again waits for the others only.
const others = (form) => [...unsaved, ...waiting].filter((elt) => elt !== form && document.body.contains(elt)).length;
const due = new Map(); // what was pressed → what waits for it to be done
function later(elt, act) {
  sayBriefly("Waiting until what you typed is saved.");
  clearInterval(due.get(elt));
  const begun = Date.now(); // what was typed and taken back at once is not sent, and nothing waits for it for ever
  due.set(elt, setInterval(() => {
    if (others(elt) && (unsaved.size || Date.now() - begun < 2000)) return;
    waiting.clear();
    clearInterval(due.get(elt));
    due.delete(elt);
    if (document.body.contains(elt)) act();
  }, 30));
}
const held = (e) => { e.preventDefault(); e.stopImmediatePropagation(); };
document.addEventListener("submit", (e) => {
  const form = e.target, by = e.submitter;
  if (!isDesk || form.method !== "post" || !others(form)) return;
  held(e);
  later(form, () => form.requestSubmit(by && form.contains(by) ? by : null));
}, true);
document.addEventListener("click", (e) => {
  const button = e.target.closest("[data-copy]");
  if (!isDesk || !button || !others(button)) return;
  held(e);
  later(button, () => button.click());
}, true);
new MutationObserver(() => {
  clearTimeout(behind);
  if (document.documentElement.dataset.unsaved === "0") document.documentElement.classList.remove("unsent");
  else behind = setTimeout(() => document.documentElement.classList.add("unsent"), 500);
}).observe(document.documentElement, { attributeFilter: ["data-unsaved"] });

// What becomes of a request: it succeeds, it is refused, it fails, or a newer one of the same field takes its place, which is none of the others: the
// newer one brings the answer.
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
  if (!isDesk || form.method !== "post" || form.hasAttribute("hx-post") || !new URL(form.action).pathname.startsWith("/codes/") || form.elements.seq) return;
  for (const [name, value] of [["tab", store.getItem("tab")], ["seq", nextSeq()], ["base", seen.newest]]) {
    form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
  }
}, true);
window.addEventListener("pageshow", (e) => { if (e.persisted) document.querySelectorAll("form > input[name=seq]").forEach((i) => i.remove()); });

window.addEventListener("beforeunload", (e) => { if (unsaved.size && document.getElementById("notice").dataset.saving) e.preventDefault(); });

// Coming back to a tab, it catches up with what other tabs have changed.
document.addEventListener("visibilitychange", catchUp);
window.addEventListener("focus", catchUp);
async function catchUp() {
  const state = document.getElementById("desk-state");
  if (!state || document.visibilityState !== "visible" || unsaved.size) return;
  try {
    const r = await fetch(state.dataset.changes + "&kind=" + state.dataset.kind + "&since=" + seen.newest, { headers: { "HX-Request": "true" } });
    const elsewhere = r.headers.get("HX-Redirect");
    if (elsewhere && !unsaved.size) { location.assign(elsewhere); return; }
    const rev = Number(r.headers.get("Sodrik-Revision"));
    if (r.status !== 200 || rev <= seen.newest || unsaved.size) return;
    seen.newest = rev;
    fillSlots(await r.text());
  } catch { /* the next edit says so */ }
}

// What somebody types before the page listens is not lost: once it does, the field tells of it. htmx asks whether a value has
// changed since it began to listen, so that the field goes back to what it held and forth again.
document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
  const at = document.activeElement;
  if (!at?.matches("main.desk input, main.desk textarea") || at.value === at.defaultValue) return;
  const typed = at.value, tell = (value) => { at.value = value; at.dispatchEvent(new Event("input", { bubbles: true })); };
  tell(at.defaultValue);
  tell(typed);
}));
