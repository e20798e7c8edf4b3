// What is being typed into a batch, and what is unfolded, stays when it comes anew around it, be it that other rows were
// checked meanwhile or that the answer to the field before it arrived.
let typed = null, unfolded = null;
const dirty = (field) => field?.id && field.matches("#batch input.in, #batch input.batch-cell") && field.value !== field.defaultValue;
document.addEventListener("htmx:beforeSwap", (e) => {
  const field = document.activeElement;
  typed = null;
  const batch = e.detail.target?.closest?.("#batch");
  unfolded = batch && new Map([...batch.querySelectorAll("details[id]")].map((d) => [d.id, d.open]));
  if (!e.detail.shouldSwap || !dirty(field) || !e.detail.target?.contains(field)) return;
  if (e.detail.requestConfig?.elt === field && e.detail.requestConfig.formData?.get(field.name) === field.value) return; // that is the answer to it
  typed = { id: field.id, value: field.value, from: field.selectionStart, to: field.selectionEnd };
});
document.addEventListener("htmx:afterSwap", () => {
  for (const [id, open] of unfolded ?? []) { // what is wrong within unfolds by itself
    const d = document.getElementById(id);
    if (d) d.open = open || d.open && Boolean(d.querySelector(".error:not(:empty)"));
  }
  unfolded = null;
  const field = typed && document.getElementById(typed.id);
  if (!field) return;
  field.value = typed.value;
  field.focus();
  field.setSelectionRange(typed.from, typed.to);
  field.dataset.kept = "";
  typed = null;
});
// A browser tells of a change only where it saw the whole of it.
document.addEventListener("change", (e) => { if ("kept" in e.target.dataset) delete e.target.dataset.kept; });
document.addEventListener("focusout", (e) => {
  if (!("kept" in e.target.dataset)) return;
  delete e.target.dataset.kept;
  if (e.target.value !== e.target.defaultValue) e.target.dispatchEvent(new Event("change", { bubbles: true }));
});
// A file that was taken stands among those handed over once its download has begun.
document.addEventListener("click", (e) => {
  if (e.target.closest?.(".batch-runs a[download]")) setTimeout(() => window.htmx.trigger(document.body, "batch-taken"), 900);
});
