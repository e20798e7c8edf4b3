// Rows of the ledger.

export function rowKey(e) {
  const rows = [...document.querySelectorAll("tr.code")].filter((r) => r.offsetParent !== null);
  const at = rows.indexOf(e.target);
  const go = (i) => { e.preventDefault(); rows[Math.max(0, Math.min(rows.length - 1, i))].focus(); };
  if (e.key === "ArrowDown") go(at + 1);
  else if (e.key === "ArrowUp") go(at - 1);
  else if (e.key === "Home") go(0);
  else if (e.key === "End") go(rows.length - 1);
  else if (e.key === "Enter") { e.preventDefault(); location.href = e.target.dataset.href; }
  else if (e.key === " ") { e.preventDefault(); window.htmx.ajax("GET", e.target.dataset.href + "/peek", { target: "#peek", swap: "innerHTML" }).then(() => { const d = document.getElementById("peek"); d.returnTo = e.target.id; if (!d.open) d.showModal(); d.focus(); }); }
}

document.addEventListener("click", (e) => {
  const row = e.target.closest("tr.code");
  if (row && !e.target.closest("a, button") && !String(window.getSelection())) location.href = row.dataset.href;
});
document.addEventListener("close", (e) => { if (e.target.id === "peek" && e.target.returnTo) { const r = document.getElementById(e.target.returnTo); if (r) r.focus(); } }, true);
