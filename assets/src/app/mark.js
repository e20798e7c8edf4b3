// The mark, moved and sized on the sheet. The picture that lies over the sheet for dragging out and for a right click is looked through.
import { setField } from "./fields.js";
import { hold, holds, tell } from "./sheet.js";

let drag = null, dragged = false; // dragged: the click that ends a drag is still to come
export const partAt = (e) => e.target.closest?.("#picture") && document.elementsFromPoint(e.clientX, e.clientY).find((x) => x.dataset.part && (x.dataset.part !== "mark-size" || holds("mark")) && (!/^backdrop/.test(x.dataset.part) || holds("backdrop")));
// toModules takes a point of the window to modules of the symbol.
export function toModules(e) {
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
export const percent = (f) => String(Math.round(f * 1e5) / 1e3);
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
export const mayEdit = () => !document.querySelector("#f-look-mark-source")?.matches(":disabled");
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
  if (img) { img.style.cursor = !part ? "" : /^(mark|backdrop)$/.test(part.dataset.part) ? "move" : /-size$/.test(part.dataset.part) ? "nwse-resize" : "pointer"; img.draggable = !part || !/^(mark|backdrop)/.test(part.dataset.part); }
});
document.addEventListener("pointerup", () => {
  if (drag) { drag = null; dragged = true; tell("mark"); document.querySelector("#parts [data-part=mark]")?.focus({ preventScroll: true }); }
});
document.addEventListener("click", (e) => {
  if (dragged) { dragged = false; return; }
  const part = partAt(e);
  if (part && !/^(mark|backdrop)/.test(part.dataset.part)) tell(part.dataset.part);
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
