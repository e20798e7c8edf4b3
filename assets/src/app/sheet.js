// What is taken hold of on the sheet: the modules, an eye, the mark.
import { lookThrough } from "./camera.js";
import { mayHand } from "./files.js";
import { announce } from "./notice.js";

let held = "";
export const holds = (part) => held === part;
export const tell = (part) => { hold(part); window.dispatchEvent(new CustomEvent("part", { detail: part })); };
export function hold(part) {
  held = part;
  document.querySelectorAll("#parts .part").forEach((p) => p.classList.toggle("held", p.dataset.part === part));
  for (const one of ["mark", "backdrop"]) document.querySelector(".sheet")?.classList.toggle("holds-" + one, part === one);
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

export const holdAgain = () => { if (held) hold(held); };
export function afterFill() {
  lookThrough();
  mayHand();
  holdAgain();
  press();
}
// press shows which drawing or upload is the mark.
function press() {
  const source = document.getElementById("f-look-mark-source");
  if (source) document.querySelectorAll("#icons [data-set], #uploads [data-set]").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.set === source.value)));
}
document.addEventListener("htmx:afterSettle", (e) => { if (e.target.id === "icons") press(); });
document.addEventListener("DOMContentLoaded", afterFill);

// The PNG over the sheet, to be dragged out or saved by a right click, is fetched when the pointer comes to it: drawing it
// with every keystroke took longer than the picture itself.
document.addEventListener("pointerover", (e) => {
  const img = e.target.closest(".sheet") && document.querySelector(".bare");
  if (img && !img.src) img.src = img.dataset.src;
});

// The small code at the top of a phone shows the part of the sheet on which the code lies, wherever that is.
const glance = () => {
  const symbol = document.getElementById("symbol");
  if (symbol) document.querySelector(".glance svg").setAttribute("viewBox", ["x", "y", "width", "height"].map((side) => symbol.getAttribute(side)).join(" "));
};
document.addEventListener("DOMContentLoaded", () => {
  const picture = document.querySelector(".glance") && document.getElementById("picture");
  if (!picture) return;
  new MutationObserver(glance).observe(picture, { childList: true });
  glance();
});

// Another verdict than the one before is told, once.
let verdict = "";
document.addEventListener("htmx:oobAfterSwap", () => {
  const now = [...document.querySelectorAll("#glance-verdict > :is(b, .g)")].map((e) => e.textContent.trim()).join(" ");
  if (now && now !== verdict) announce(now);
  verdict = now || verdict;
});
