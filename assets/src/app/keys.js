// Keys that act anywhere. Single letters act only outside fields, and can be switched off for this browser.
import { inField } from "./fields.js";
import { firstRow, rowKey } from "./ledger.js";
import { store } from "./state.js";

export const letters = () => window.localStorage.getItem("letters") !== "off";
document.addEventListener("change", (e) => { if (e.target.id === "letters") window.localStorage.setItem("letters", e.target.checked ? "on" : "off"); });

// Whoever came by key goes on by key: a page that follows begins with its work and not with the band above it.
for (const act of ["keydown", "pointerdown"]) document.addEventListener(act, () => store.setItem("by", act), true);
document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
  if (store.getItem("by") !== "keydown" || document.activeElement !== document.body || document.querySelector("[autofocus]")) return;
  const main = document.querySelector("main");
  if (main) main.tabIndex = -1;
  (main?.querySelector(".stub.open .stub-button") ?? main)?.focus({ preventScroll: true });
}));

document.addEventListener("keydown", (e) => {
  const stub = e.key === "Escape" && inField(e.target) && !document.querySelector("dialog[open]") && e.target.closest(".stub");
  if (stub) { stub.querySelector(".stub-button").focus(); return; }
  if (e.key === "Escape" && e.target.id === "find-text") { e.target.value = ""; e.target.dispatchEvent(new Event("input", { bubbles: true })); e.target.blur(); return; }
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !inField(e.target)) {
    const b = document.getElementById(e.shiftKey ? "redo" : "undo");
    if (b && !b.disabled) { e.preventDefault(); b.click(); }
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey || inField(e.target)) return;
  const open = document.querySelector("dialog[open]");
  if (open) { if (e.key === " " && open.id === "peek" && e.target === open) { e.preventDefault(); open.close(); } return; }
  if (e.target.closest("[role=application]")) return;
  if (e.key === "?") { document.getElementById("letters").checked = letters(); }
  if (/^[a-z0-9]$/.test(e.key) && !letters()) return;
  if (e.key === "/") { e.preventDefault(); const f = document.getElementById("find-text"); f.focus(); f.select(); }
  else if (e.key === "?") { e.preventDefault(); document.getElementById("keys").showModal(); }
  else if (e.key === "f" && document.querySelector(".finding .btn")) { e.preventDefault(); document.querySelector(".finding .btn").click(); }
  else if (e.key === "s" && document.querySelector("[data-step]")) { e.preventDefault(); document.querySelector("[data-step]").click(); }
  else if (e.key === "h" && document.getElementById("hand-over")) { e.preventDefault(); document.getElementById("hand-over").click(); }
  else if (e.key === "u" && document.getElementById("undo") && !document.getElementById("undo").disabled) { e.preventDefault(); document.getElementById("undo").click(); }
  else if (e.target.matches("tr.code")) rowKey(e);
  else firstRow(e);
});
