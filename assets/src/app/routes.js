// Routes are moved by the arrow keys on their number, and by dragging; the server says in which order they then stand.
import { sayBriefly } from "./notice.js";

const view = () => document.getElementById("desk-routes");

// What changed elsewhere shows here once the view was looked at; a form that is open keeps what is typed in it.
document.body.addEventListener("routes", () => {
  if (view()?.querySelector(".routes") || view()?.classList.contains("htmx-request")) window.htmx.trigger(view(), "refresh");
});
document.body.addEventListener("routes-done", (e) => {
  const words = e.detail?.value;
  setTimeout(() => { // once the answer that brings this has filled its slots, which it does from the form
    if (typeof words === "string" && words) sayBriefly(words);
    view()?.querySelector(".route-form")?.remove();
    document.body.dispatchEvent(new Event("routes"));
  });
});

// A form with something in it that is not kept stays until somebody says what is to become of it.
const unkept = (f) => f && (f.hasAttribute("data-unsaved") || [...f.elements].some((e) => (e.type === "checkbox" ? e.checked !== e.defaultChecked : e.matches("input.in, textarea, select") && e.value !== e.defaultValue)));
document.addEventListener("htmx:beforeRequest", (e) => {
  const by = e.detail.elt, form = view()?.querySelector(".route-form");
  if (by.id === "desk-routes" || e.detail.target?.id !== "desk-routes" || by.closest(".route-form") || !unkept(form)) return;
  e.preventDefault();
  const says = form.querySelector("#e-route-whole");
  says.textContent = "Keep this route first, or leave it.";
  says.scrollIntoView({ block: "nearest" });
});

// Whoever clicks while the list is on its way has clicked on what goes with it; what takes its place is meant.
let asks = null;
document.addEventListener("click", (e) => { asks = e.target.closest?.("#desk-routes :is(button, summary)[hx-get]") ?? asks; }, true);
document.addEventListener("htmx:beforeRequest", (e) => { if (e.detail.elt === asks) asks = null; });
document.addEventListener("htmx:afterSwap", (e) => {
  if (e.target.id !== "desk-routes" || !asks || asks.isConnected) return;
  const to = asks.getAttribute("hx-get");
  asks = null;
  setTimeout(() => view().querySelector(`[hx-get="${CSS.escape(to)}"]`)?.click());
});

let follows = ""; // the route whose number is in focus again once the view is drawn
function move(row, to) {
  if (to < 0 || to >= document.querySelectorAll(".route-row[data-route]").length) return;
  follows = row.dataset.route;
  const code = document.getElementById("desk-state").dataset.code;
  window.htmx.ajax("POST", `/codes/${code}/routes/move`, { source: row, swap: "none", values: { route: row.dataset.route, n: to } });
}
document.addEventListener("htmx:afterSwap", (e) => {
  if (e.target.id !== "desk-routes" || !follows) return;
  e.target.querySelector(`[data-route="${CSS.escape(follows)}"] .route-n`)?.focus();
  follows = "";
});
document.addEventListener("keydown", (e) => {
  const row = e.target.closest?.(".route-n")?.closest(".route-row[data-route]");
  if (!row || e.ctrlKey || e.metaKey || e.altKey) return;
  const step = { ArrowUp: -1, ArrowDown: 1 }[e.key];
  if (!step) return;
  e.preventDefault();
  move(row, Number(row.dataset.n) - 1 + step);
});

let lifted = null;
const rowOf = (e) => e.target.closest?.(".route-row[data-route]");
document.addEventListener("dragstart", (e) => {
  if (!(lifted = rowOf(e))) return;
  e.dataTransfer.effectAllowed = "move";
  e.dataTransfer.setData("text/plain", lifted.dataset.route);
});
document.addEventListener("dragover", (e) => {
  const row = lifted && rowOf(e);
  for (const other of document.querySelectorAll(".route-row.over")) other.classList.remove("over");
  if (!row) return;
  e.preventDefault();
  if (row !== lifted) row.classList.add("over");
});
document.addEventListener("drop", (e) => {
  const row = lifted && rowOf(e);
  if (!row) return;
  e.preventDefault();
  if (row !== lifted) move(lifted, Number(row.dataset.n) - 1);
});
document.addEventListener("dragend", () => {
  lifted = null;
  for (const other of document.querySelectorAll(".route-row.over")) other.classList.remove("over");
});

// A phone asks as whoever was made up.
document.addEventListener("click", (e) => {
  const b = e.target.closest?.("[data-phone]");
  if (b) window.location.href = b.dataset.phone + "?as=asked&" + new URLSearchParams(new FormData(b.closest("form")));
});
