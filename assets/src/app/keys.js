// Keys that act anywhere. Single letters act only outside fields, and can be switched off for this browser.
import { inField } from "./fields.js";
import { firstRow, rowKey } from "./ledger.js";

const letters = () => window.localStorage.getItem("letters") !== "off";
document.addEventListener("change", (e) => { if (e.target.id === "letters") window.localStorage.setItem("letters", e.target.checked ? "on" : "off"); });

document.addEventListener("keydown", (e) => {
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
  if (/^[a-z]$/.test(e.key) && !letters()) return;
  if (e.key === "/") { e.preventDefault(); const f = document.getElementById("find-text"); f.focus(); f.select(); }
  else if (e.key === "?") { e.preventDefault(); document.getElementById("keys").showModal(); }
  else if (e.key === "f" && document.querySelector(".finding .btn")) { e.preventDefault(); document.querySelector(".finding .btn").click(); }
  else if (e.key === "s" && document.querySelector("[data-step]")) { e.preventDefault(); document.querySelector("[data-step]").click(); }
  else if (e.key === "u" && document.getElementById("undo") && !document.getElementById("undo").disabled) { e.preventDefault(); document.getElementById("undo").click(); }
  else if (e.target.matches("tr.code")) rowKey(e);
  else firstRow(e);
});
