// The picture behind the modules, moved, sized and weakened on the sheet while its part of the look is open.
import { setField } from "./fields.js";
import { partAt, percent, toModules } from "./mark.js";
import { hold } from "./sheet.js";

const field = (key) => document.getElementById("f-look-backdrop-" + key);
const within = (f, least, most) => Math.min(most, Math.max(least, f));
// now is what lies in the middle, in shares of the picture, and how much of it a module covers.
function now() {
  const at = document.getElementById("behind")?.dataset;
  return at && !field("place")?.matches(":disabled") ? { x: Number(at.x), y: Number(at.y), dx: Number(at.dx), dy: Number(at.dy), scale: Number(field("scale").value) } : null;
}
function put(key, text) { if (field(key).value !== text) setField(field(key), text); }
// A picture that goes right has in the middle what was left of it.
const move = (at, right, down) => put("place", percent(within(at.x - right * at.dx, 0, 1)) + ", " + percent(within(at.y - down * at.dy, 0, 1)));
const size = (to) => put("scale", String(within(Math.round(to * 20) / 20, Number(field("scale").min), Number(field("scale").max))));
const strengthen = (by) => put("strength", String(within(Math.round((Number(field("strength").value) + by) * 100) / 100, 0, 1)));

let drag = null;
document.addEventListener("pointerdown", (e) => {
  const part = e.button === 0 && partAt(e), at = part && /^backdrop/.test(part.dataset.part) && now();
  if (!at) return;
  e.preventDefault();
  drag = { part: part.dataset.part, from: toModules(e), at };
});
document.addEventListener("dragstart", (e) => { if (drag) e.preventDefault(); });
document.addEventListener("pointermove", (e) => {
  if (!drag) return;
  const to = toModules(e), { from, at, part } = drag;
  if (part === "backdrop") move(at, to.x - from.x, to.y - from.y);
  else { const far = (p) => Math.max(p.x, p.y) - p.size / 2; size(at.scale * far(to) / far(from)); }
});
document.addEventListener("pointerup", () => {
  if (!drag) return;
  drag = null;
  document.querySelector("#behind [data-part=backdrop]")?.focus({ preventScroll: true });
});
document.addEventListener("keydown", (e) => {
  const at = e.target.dataset?.part === "backdrop" && !e.ctrlKey && !e.metaKey && now();
  if (!at) return;
  const step = e.altKey ? 0.2 : 1;
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
  const act = by ? () => move(at, ...by) : { "+": () => size(at.scale + 0.1), "=": () => size(at.scale + 0.1), "-": () => size(at.scale - 0.1), PageUp: () => strengthen(0.05), PageDown: () => strengthen(-0.05) }[e.key];
  if (!act) return;
  e.preventDefault();
  hold("backdrop");
  act();
});
