// The bench for strangers: a verdict that is being looked for, or stands there, is not that of what is typed now.
const changed = (e) => {
  if (!e.target.closest("#bench")) return;
  const proof = document.getElementById("bench-proof");
  window.htmx.trigger(proof, "htmx:abort");
  proof.classList.add("older");
};
document.addEventListener("input", changed);
document.addEventListener("change", changed);
document.addEventListener("htmx:afterSwap", (e) => { if (e.target.id === "bench-proof") e.target.classList.remove("older"); });

// Enter in a field presses the first button of the form. What is typed is drawn already, so that nothing is to be done.
document.addEventListener("submit", (e) => { if (e.submitter?.hasAttribute("data-draws")) e.preventDefault(); });
