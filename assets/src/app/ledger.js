// Rows of the ledger: one moves through them by keys, and chooses several to act on them at once.

const shownRows = () => [...document.querySelectorAll("tr.code")].filter((r) => r.offsetParent !== null);
const boxOf = (row) => row?.querySelector("input[name=id]");
let last = null; // the row that was chosen last, from which a range begins

export function rowKey(e) {
  const rows = shownRows();
  const at = rows.indexOf(e.target);
  const go = (i) => {
    e.preventDefault();
    const to = rows[Math.max(0, Math.min(rows.length - 1, i))];
    if (e.shiftKey) { choose(rows[at], true); choose(to, true); }
    to.focus();
  };
  if (e.key === "ArrowDown") go(at + 1);
  else if (e.key === "ArrowUp") go(at - 1);
  else if (e.key === "Home") go(0);
  else if (e.key === "End") go(rows.length - 1);
  else if (e.key === "x") { e.preventDefault(); choose(e.target, !boxOf(e.target)?.checked); }
  else if (e.key === "Enter") { e.preventDefault(); location.href = e.target.dataset.href; }
  else if (e.key === " ") { e.preventDefault(); window.htmx.ajax("GET", e.target.dataset.href + "/peek", { target: "#peek", swap: "innerHTML" }).then(() => { const d = document.getElementById("peek"); d.returnTo = e.target.id; if (!d.open) d.showModal(); d.focus(); }); }
}

// A campaign is folded as a whole, whatever parts its rows came in.
const folded = new Set();
const foldAll = () => {
  for (const body of document.querySelectorAll("tbody[data-campaign]")) {
    const is = folded.has(body.dataset.campaign);
    body.classList.toggle("folded", is);
    body.querySelector("[data-fold]")?.setAttribute("aria-expanded", String(!is));
  }
};
document.addEventListener("htmx:load", () => { if (folded.size) foldAll(); });

// firstRow takes the arrows before any row has the focus.
export function firstRow(e) {
  if (e.key !== "ArrowDown" && e.key !== "ArrowUp" || document.activeElement && document.activeElement !== document.body) return;
  const rows = shownRows();
  if (!rows.length) return;
  e.preventDefault();
  rows[e.key === "ArrowDown" ? 0 : rows.length - 1].focus();
}

function choose(row, on) {
  const box = boxOf(row);
  if (!box) return;
  box.checked = on;
  last = row;
  count();
}
function count() {
  const n = document.querySelectorAll("tr.code input[name=id]:checked").length, words = document.getElementById("many-count");
  if (words) words.textContent = n === 1 ? "1 code" : n + " codes";
  document.getElementById("ledger")?.classList.toggle("choosing", n > 0);
}

document.addEventListener("click", (e) => {
  const box = e.target.closest("tr.code input[name=id]");
  if (box) {
    const rows = shownRows(), row = box.closest("tr");
    if (e.shiftKey && last && rows.includes(last)) {
      const [a, b] = [rows.indexOf(last), rows.indexOf(row)].sort((x, y) => x - y);
      for (const r of rows.slice(a, b + 1)) boxOf(r).checked = box.checked;
    }
    last = row;
    count();
    return;
  }
  const fold = e.target.closest("[data-fold]");
  if (fold) {
    const { campaign } = fold.closest("tbody").dataset;
    if (!folded.delete(campaign)) folded.add(campaign);
    foldAll();
  }
  if (e.target.closest("[data-none]")) { for (const b of document.querySelectorAll("tr.code input[name=id]:checked")) b.checked = false; count(); return; }
  const row = e.target.closest("tr.code");
  if (row && !e.target.closest("a, button, .choose-cell") && !String(window.getSelection())) location.href = row.dataset.href;
});
document.addEventListener("submit", (e) => {
  if (e.target.id !== "many-files" && e.target.id !== "many-leads") return;
  e.target.querySelectorAll("input").forEach((i) => i.remove());
  for (const b of document.querySelectorAll("tr.code input[name=id]:checked")) e.target.append(Object.assign(document.createElement("input"), { type: "hidden", name: "id", value: b.value }));
}, true);
document.addEventListener("htmx:afterSwap", (e) => { if (e.detail.target?.id === "ledger") { last = null; count(); document.querySelector(".acted #undo")?.focus(); } });
document.addEventListener("close", (e) => { if (e.target.id === "peek" && e.target.returnTo) { const r = document.getElementById(e.target.returnTo); if (r) r.focus(); } }, true);
