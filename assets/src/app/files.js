// Files that are handed over.
import { say, sayBriefly } from "./notice.js";

// A file that was handed over makes an issued version; the chip is asked for once the download has begun.
export function refreshState() {
  const state = document.getElementById("desk-state");
  if (state) window.htmx.ajax("GET", state.dataset.state, { target: "#issued", swap: "outerHTML" })?.catch(() => {});
}
// Browsers tell a page nothing of its downloads: the answer leaves a cookie with the mark of the form and the name of the file.
const arrived = (mark) => document.cookie.split("; ").map((c) => c.split(`arrival=${mark}.`)).find((c) => c[0] === "" && c.length > 1)?.[1];
document.addEventListener("submit", (e) => {
  if (!e.target.matches("[data-ships]") || !e.target.action.endsWith("/ship")) return;
  const form = e.target, mark = Math.random().toString(36).slice(2, 14), begun = Date.now();
  form.querySelector("[name=arrival]")?.remove();
  form.append(Object.assign(document.createElement("input"), { type: "hidden", name: "arrival", value: mark }));
  const making = setTimeout(() => say("The file is being made."), 1500);
  const look = setInterval(() => {
    const name = arrived(mark);
    if (!name && Date.now() - begun < 120e3) return;
    clearInterval(look);
    clearTimeout(making);
    sayBriefly(name ? `${decodeURIComponent(name)} is in your downloads.` : "");
    if (name) refreshState();
  }, 200);
});
// A form that its own answer replaces is not there any more when that has come: its request knows what it was.
document.addEventListener("htmx:beforeRequest", (e) => { if (e.detail.elt.matches("[data-issues]")) e.detail.xhr.addEventListener("load", () => { if (e.detail.xhr.status < 300) refreshState(); }); });

// What is said of the print stays as it is being typed, until there is another version to say it of.
document.addEventListener("htmx:oobBeforeSwap", (e) => {
  const now = e.detail.fragment.firstElementChild ?? e.detail.fragment;
  if (e.detail.target.id === "in-print" && now.dataset?.n === e.detail.target.dataset.n) e.detail.shouldSwap = false;
});

// Which files go together is ticked once, and holds for the zip, the mail and everything.
document.addEventListener("change", (e) => {
  if (!e.target.matches("input[form=together]")) return;
  for (const same of document.querySelectorAll(`input[form=together][value="${e.target.value}"]`)) same.checked = e.target.checked; // for whomever it is
  const keys = [...new Set([...document.querySelectorAll("input[form=together]:checked")].map((i) => i.value))];
  for (const span of document.querySelectorAll("[data-chosen]")) {
    span.replaceChildren(...keys.map((k) => Object.assign(document.createElement("input"), { type: "hidden", name: "format", value: k })));
  }
});

// What cannot be made cannot be handed over.
export const mayHand = () => {
  const stale = Boolean(document.querySelector("#picture .stale"));
  for (const b of document.querySelectorAll("[data-takes]")) b.disabled = stale;
};
