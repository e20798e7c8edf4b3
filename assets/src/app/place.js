// On the view in place the code is taken hold of and moved. It is drawn to edges, to the middle, and to empty parts of the artwork, within a few
// pixels; Alt leaves them alone. The server is told where it came to lie once it lies still.
import { setField } from "./fields.js";

const placed = () => document.getElementById("placed");
const maySit = () => { const f = document.getElementById("in-place"); return f && !f.disabled && document.getElementById("move"); };
let carried = null, settle = 0, heldPlace = false;
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
// The grip at its corner sizes it, in whole millimetres, with Alt in tenths.
let sizing = null;
const widthField = () => { const handle = document.getElementById("place-size"); return handle && document.getElementById(handle.dataset.field); };
function setWidth(mm) {
  const field = widthField();
  if (field && mm >= 5) setField(field, `${Math.round(mm * 10) / 10} mm`);
}
document.addEventListener("pointerdown", (e) => {
  const handle = e.button === 0 && e.target.closest?.("#place-size");
  if (!handle || !maySit()) return;
  e.preventDefault();
  e.stopImmediatePropagation();
  const g = placed();
  g.focus({ preventScroll: true });
  sizing = { g, m: g.parentNode.getScreenCTM().inverse(), x: Number(g.dataset.x), y: Number(g.dataset.y), w: Number(g.dataset.w), to: Number(g.dataset.w) };
});
document.addEventListener("pointermove", (e) => {
  if (!sizing) return;
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(sizing.m), step = e.altKey ? 10 : 1;
  sizing.to = Math.max(5, Math.round(Math.max(p.x - sizing.x, p.y - sizing.y) * step) / step);
  const k = sizing.to / sizing.w;
  sizing.g.setAttribute("transform", `translate(${sizing.x * (1 - k)} ${sizing.y * (1 - k)}) scale(${k})`);
  const words = document.querySelector(".in-place-words");
  if (words) words.textContent = `${sizing.to} mm wide.`;
});
document.addEventListener("pointerup", () => { if (sizing) { const { to, w } = sizing; sizing = null; if (to !== w) setWidth(to); } });

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
  if (g && maySit() && (e.key === "+" || e.key === "=" || e.key === "-")) {
    e.preventDefault();
    setWidth(parseFloat(widthField()?.value) + (e.key === "-" ? -step : step));
    return;
  }
  const by = g && maySit() && { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
  if (!by || e.ctrlKey || e.metaKey) return;
  e.preventDefault();
  const { x, y } = spot(g);
  lay(g, x + by[0], y + by[1], true, 0);
  clearTimeout(settle);
  settle = setTimeout(() => { if (document.body.contains(g)) putDown(g); }, 500);
});
// Once it was moved by keys and is drawn anew, it keeps the focus.
document.addEventListener("htmx:beforeSwap", (e) => { if (e.detail.target?.closest?.("#in-place") || e.detail.elt?.closest?.("#in-place")) heldPlace = document.activeElement?.id === "placed"; });
document.addEventListener("htmx:afterSettle", () => { if (heldPlace && placed()) { heldPlace = false; placed().focus({ preventScroll: true }); } });
