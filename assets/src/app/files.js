// Files that are handed over.

// A file that was handed over makes an issued version; the chip is asked for once the download has begun.
export function refreshState() {
  const state = document.getElementById("desk-state");
  if (state) window.htmx.ajax("GET", state.dataset.state, { target: "#issued", swap: "outerHTML" })?.catch(() => {});
}
document.addEventListener("submit", (e) => { if (e.target.matches("[data-ships]")) setTimeout(refreshState, 900); });
document.addEventListener("htmx:afterRequest", (e) => { if (e.detail.successful && e.detail.elt.matches("[data-issues]")) refreshState(); });

// Which files go together is ticked once, and holds for the zip, the mail and everything.
document.addEventListener("change", (e) => {
  if (!e.target.matches("input[form=together]")) return;
  const keys = [...document.querySelectorAll("input[form=together]:checked")].map((i) => i.value);
  for (const span of document.querySelectorAll("[data-chosen]")) {
    span.replaceChildren(...keys.map((k) => Object.assign(document.createElement("input"), { type: "hidden", name: "format", value: k })));
  }
});
