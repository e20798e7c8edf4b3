// Which parts of a page are open.
import { lookThrough } from "./camera.js";
import { inField } from "./fields.js";
import { hold } from "./sheet.js";
import { store } from "./state.js";

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
