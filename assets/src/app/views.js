// Which parts of a page are open.
import { lookThrough } from "./camera.js";
import { inField } from "./fields.js";
import { letters } from "./keys.js";
import { hold } from "./sheet.js";
import { seen, store } from "./state.js";

// The views that serve each stub, its usual one first.
const serving = { says: ["flat"], leads: ["flat", "routes", "scans"], wears: ["flat", "looks", "variations", "damage"], sits: ["place", "flat"], reads: ["camera", "evidence"], ships: ["files", "plates", "flat"] };
// What of the sheet is taken hold of while a part of the look is open.
const holding = { mark: "mark", behind: "backdrop" };
const possible = (view) => view !== "place" || Boolean(document.getElementById("place-form"));

// What is open is kept for each code, while the tab is.
const state = () => document.getElementById("desk-state");
const key = () => "desk " + state().dataset.code;
const kept = () => JSON.parse(store.getItem(key()) ?? "{}");
const keep = (what) => store.setItem(key(), JSON.stringify({ ...kept(), ...what }));
document.addEventListener("toggle", (e) => {
  if (e.target.matches?.(".desk .stub details") && e.target.open && !e.target.dataset.reopened) e.target.scrollIntoView({ block: "nearest" });
  if (!e.target.matches?.(".desk details.fold[id]")) return;
  delete e.target.dataset.reopened;
  keep({ folds: [...document.querySelectorAll(".desk details.fold[id][open]")].map((d) => d.id) });
}, true);

const unfold = () => {
  for (const id of kept().folds ?? []) {
    const d = document.getElementById(id);
    if (!d || d.open) continue;
    d.dataset.reopened = "yes"; // the page stays where it is
    d.open = true;
  }
};
// The eyes come when they are first opened, and once more where an edit was answered meanwhile.
const eyes = "part-of-eyes";
document.addEventListener("htmx:afterRequest", (e) => {
  const rev = e.target.id === eyes && e.detail.xhr.getResponseHeader("Sodrik-Revision");
  if (rev && Number(rev) < seen.newest) window.htmx.trigger(e.target, "again");
});
document.addEventListener("htmx:afterSwap", (e) => { if (e.target.id === eyes) unfold(); });

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
  window.Alpine.data("desk", () => ({
    stub: "says",
    view: "flat",
    part: "ink",
    whom: "office",
    eye: "all",
    other: "", // the part of the look for which another source is being chosen
    shown: false,
    asked: "", // the view that was asked for, where it is not the usual one of the stub
    init() {
      const root = this.$root, there = (name) => Boolean(root.querySelector("[data-stub='" + name + "']"));
      // People come to a new code for what it says, and come back to one that is live for where it leads.
      const was = kept(), at = state().dataset, first = at.new ? "says" : at.live ? "leads" : store.getItem("stub");
      this.whom = root.querySelector("[data-usual]")?.dataset.whom ?? "office";
      for (const key of ["part", "whom"]) if (was[key]) this[key] = was[key];
      this.stub = there(was.stub) ? was.stub : there(first) ? first : "says";
      this.asked = was.stub === this.stub && this.serves(was.view) ? was.view : "";
      this.view = this.asked || this.usual();
      unfold();
      this.keep();
      this.held();
    },
    // keep remembers what is open, of this code, for the next time that it is opened in this tab.
    keep() {
      keep({ stub: this.stub, view: this.asked, part: this.part, whom: this.whom });
      store.setItem("stub", this.stub);
      lookThrough();
    },
    serves(view) { return serving[this.stub].includes(view) && possible(view); },
    usual() { return serving[this.stub].find(possible) ?? "flat"; },
    go(name) {
      const pressed = this.$root.querySelector(`[data-stub=${name}]`), top = pressed.getBoundingClientRect().top;
      this.stub = name;
      this.other = this.asked = "";
      this.view = this.usual();
      this.keep();
      this.held();
      // Where stubs stand below one another in one page, the one that was pressed stays under the finger while others close above it.
      // The browser would choose an anchor of its own.
      const root = document.documentElement.style;
      root.overflowAnchor = "none";
      this.$nextTick(() => {
        window.scrollBy(0, pressed.getBoundingClientRect().top - top);
        requestAnimationFrame(() => requestAnimationFrame(() => { root.overflowAnchor = ""; }));
      });
    },
    held() { hold(this.stub === "wears" && holding[this.part] || ""); },
    see(name) {
      if (!serving[this.stub].includes(name)) this.stub = Object.keys(serving).find((s) => serving[s].includes(name));
      this.view = this.asked = name;
      this.keep();
    },
    seeAsked(e) { if (e.target.dataset?.see) this.see(e.target.dataset.see); },
    show(part) { this.part = part; this.other = ""; if (part !== "eyes") hold(holding[part] ?? ""); this.keep(); },
    hand(key) { this.whom = key; this.keep(); },
    choose(part) { this.other = this.other === part ? "" : part; },
    chosen(e) { if (e.target.closest("[data-set]")) this.other = ""; },
    // take opens the form of what was taken hold of on the sheet.
    take(part) {
      const eye = part.startsWith("eye-") ? part.slice(4) : "";
      if (eye) this.eye = eye;
      this.part = eye ? "eyes" : { mark: "mark", backdrop: "behind" }[part] ?? "modules";
      this.other = "";
      if (this.stub !== "wears") this.go("wears");
      this.keep();
    },
    which(eye) { this.eye = eye; hold(eye === "all" ? "" : "eye-" + eye); },
    toggleRemarks() { this.shown = !this.shown; },
    key(e) {
      if (e.ctrlKey || e.metaKey || e.altKey || inField(e.target) || document.querySelector("dialog[open]") || !letters()) return;
      if (this.view === "variations" && /^[0-9]$/.test(e.key)) {
        const b = this.$root.querySelector(e.key === "0" ? "#variations [data-again]" : `#variations [data-variation="${e.key}"]`);
        if (b && !b.closest("fieldset").disabled) { e.preventDefault(); b.click(); }
        return;
      }
      const all = [...this.$root.querySelectorAll("button[data-stub]")];
      const nth = /^[1-9]$/.test(e.key) && all[Number(e.key) - 1];
      if (nth) {
        e.preventDefault();
        nth.click();
        const first = () => [...nth.closest(".stub").querySelectorAll("input:not([type=hidden]), select, textarea")].find((f) => !f.disabled && f.checkVisibility());
        this.$nextTick(() => (first() ?? nth).focus());
      }
      const at = all.findIndex((b) => b.dataset.stub === this.stub);
      const to = e.key === "]" ? all[at + 1] : e.key === "[" ? all[at - 1] : null;
      if (to) { e.preventDefault(); to.click(); to.focus(); }
    },
  }));
});
