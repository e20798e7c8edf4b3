// What opens and closes.

document.addEventListener("click", (e) => {
  const opens = e.target.closest("[data-opens]");
  if (opens) document.getElementById(opens.dataset.opens).showModal();
  const dialog = e.target.closest("[data-close]");
  if (dialog) dialog.closest("dialog").close();
  if (e.target.closest("[data-prints]")) window.print();
  if (e.target.closest("[data-fill]")) document.querySelector("[data-fills]").requestFullscreen?.().catch(() => {});
});

// What is asked before it is done.
document.addEventListener("htmx:afterSwap", (e) => { if (e.detail.target?.id === "ask-turn" && !e.detail.target.open) e.detail.target.showModal(); });

// What lies over the sheet closes by Escape, and when something else is pressed.
document.addEventListener("keydown", (e) => {
  const open = e.key === "Escape" && document.querySelector(".gauge[open]");
  if (!open) return;
  open.open = false;
  open.querySelector("summary").focus();
});
for (const act of ["pointerdown", "click"]) document.addEventListener(act, (e) => { for (const g of document.querySelectorAll(".gauge[open]")) if (!g.contains(e.target)) g.open = false; });

// One gauge open at a time.
document.addEventListener("toggle", (e) => {
  if (e.target.matches(".gauge") && e.target.open) document.querySelectorAll(".gauge[open]").forEach((g) => { if (g !== e.target) g.open = false; });
}, true);
