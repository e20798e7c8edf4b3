// The days of a drawing of scans: arrow keys step from bar to bar, Shift takes a span, Enter shows it; a pointer that is drawn across
// takes one too.
const day = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long", timeZone: "UTC" });
const table = (el) => el.closest("[data-from]");
const aDay = 86400000;
// A bar is a day or some; the last one ends with the span, the first may be shorter.
function first(el, i) {
  const t = table(el).dataset;
  return new Date(Math.max(Date.parse(t.from), Date.parse(t.to) - ((count(el) - i) * t.step - 1) * aDay));
}
const last = (el, i) => new Date(Date.parse(table(el).dataset.to) - (count(el) - 1 - i) * table(el).dataset.step * aDay);
const iso = (date) => date.toISOString().slice(0, 10);
function named(el, a, b) {
  const [x, y] = [first(el, a), last(el, b)];
  return +x === +y ? day.format(x) : `${day.format(x)} to ${day.format(y)}`;
}
const list = (text) => (text ? text.split(",").map(Number) : []);
const count = (el) => list(el.dataset.n ?? table(el).querySelector(".steps").dataset.n).length;
function words(el, i, anchor) {
  const n = list(el.dataset.n);
  if (anchor !== i) {
    const [a, b] = [Math.min(anchor, i), Math.max(anchor, i)];
    return `${named(el, a, b)}: ${n.slice(a, b + 1).reduce((x, y) => x + y, 0)} scans. Enter shows these days.`;
  }
  const then = list(el.dataset.then)[i];
  return `${named(el, i, i)}: ${n[i]} ${n[i] === 1 ? "scan" : "scans"}` + (then === undefined ? "" : `; ${table(el).dataset.earlier}: ${then}`);
}
let anchor = null;
function clear() { document.querySelectorAll(".steps-at, .steps-says").forEach((e) => e.remove()); }
function mark(el, from, to, says) {
  clear();
  const n = count(el);
  const [a, b] = [Math.min(from, to), Math.max(from, to)];
  const at = document.createElement("div");
  at.className = "steps-at";
  at.style.left = (100 * a) / n + "%";
  at.style.width = (100 * (b - a + 1)) / n + "%";
  el.append(at);
  if (!says) return;
  const tip = document.createElement("div");
  tip.className = "steps-says";
  tip.setAttribute("aria-hidden", "true");
  tip.textContent = says;
  el.append(tip);
}
function show(el, from, to) {
  const form = document.getElementById("span-form");
  const query = new URLSearchParams(form ? new FormData(form) : location.search);
  const code = document.getElementById("desk-state")?.dataset.code;
  if (!form && code) query.set("code", code);
  query.delete("days");
  query.set("from", iso(first(el, Math.min(from, to))));
  query.set("to", iso(last(el, Math.max(from, to))));
  location.href = "/scans?" + query;
}
document.addEventListener("keydown", (e) => {
  const el = e.target.closest?.(".steps");
  if (!el) return;
  const most = count(el) - 1;
  let i = Number(el.getAttribute("aria-valuenow"));
  if (e.key === "Enter" && anchor !== null && anchor !== i) { show(el, anchor, i); return; }
  const to = { ArrowLeft: i - 1, ArrowDown: i - 1, ArrowRight: i + 1, ArrowUp: i + 1, Home: 0, End: most, PageUp: i - 7, PageDown: i + 7 }[e.key];
  if (to === undefined) return;
  e.preventDefault();
  if (anchor === null || !e.shiftKey) anchor = null;
  if (e.shiftKey && anchor === null) anchor = i;
  i = Math.max(0, Math.min(most, to));
  const says = words(el, i, anchor ?? i);
  el.setAttribute("aria-valuenow", i);
  el.setAttribute("aria-valuetext", says);
  mark(el, anchor ?? i, i, says);
});
document.addEventListener("focusout", (e) => { if (e.target.closest?.(".steps")) { anchor = null; clear(); } });
const over = (e) => e.target.closest?.(".steps, .over-rule");
function at(el, e) {
  const box = el.getBoundingClientRect();
  const n = count(el);
  return Math.max(0, Math.min(n - 1, Math.floor(((e.clientX - box.left) / box.width) * n)));
}
let drawn = null;
document.addEventListener("pointerdown", (e) => {
  const el = over(e);
  if (!el || e.button !== 0 || !table(el)) return;
  drawn = { el, from: at(el, e), x: e.clientX };
});
document.addEventListener("pointermove", (e) => {
  if (drawn) {
    const i = at(drawn.el, e);
    if (Math.abs(e.clientX - drawn.x) > 3) mark(drawn.el, drawn.from, i, drawn.el.dataset.n && words(drawn.el, i, drawn.from));
    return;
  }
  const el = over(e);
  if (el?.dataset.n) { const i = at(el, e); mark(el, i, i, words(el, i, i)); } else if (!document.activeElement?.closest(".steps")) clear();
});
document.addEventListener("pointerup", (e) => {
  if (!drawn) return;
  const { el, from, x } = drawn;
  drawn = null;
  if (Math.abs(e.clientX - x) > 3) show(el, from, at(el, e));
});
document.addEventListener("pointercancel", () => { drawn = null; clear(); });
document.addEventListener("keydown", (e) => { if (e.key === "Escape" && drawn) { drawn = null; clear(); } });
