// What is pasted, dropped or opened, on any page.
import { inField } from "./fields.js";
import { tell } from "./sheet.js";

// A paste outside any field lands in the find field; a file, from the clipboard, dropped or chosen, is read the same way.
function give(file) {
  const form = document.getElementById("find-file");
  if (!form) return;
  const list = new DataTransfer();
  list.items.add(file);
  form.elements.file.files = list.files;
  form.requestSubmit();
}
document.addEventListener("paste", (e) => {
  const data = e.clipboardData;
  if (data && data.files.length && (!inField(e.target) || e.target.id === "find-text")) { e.preventDefault(); give(data.files[0]); return; }
  const f = document.getElementById("find-text");
  const text = data ? data.getData("text") : "";
  // A field of one line would lose the line ends of a card or a date.
  if (!text || !f || inField(e.target) && !(e.target === f && text.trim().includes("\n"))) return;
  e.preventDefault();
  f.focus();
  f.value = text.trim();
  if (text.trim().includes("\n")) { give(new File([text], "pasted.txt", { type: "text/plain" })); return; }
  f.dispatchEvent(new Event("input", { bubbles: true }));
  if (!f.hasAttribute("hx-post")) f.form.requestSubmit();
});
document.addEventListener("dragover", (e) => { if (e.dataTransfer && e.dataTransfer.types.includes("Files") && document.getElementById("find-file")) e.preventDefault(); });
document.addEventListener("drop", (e) => {
  if (!e.dataTransfer || !e.dataTransfer.files.length || !document.getElementById("find-file")) return;
  e.preventDefault();
  const artwork = document.getElementById("artwork-file");
  if (artwork && !artwork.matches(":disabled") && e.target.closest("#in-place")) { // in place: it becomes what the code lies on
    artwork.files = e.dataTransfer.files;
    artwork.dispatchEvent(new Event("change", { bubbles: true }));
    return;
  }
  const mark = document.getElementById("mark-file");
  if (mark && !mark.matches(":disabled") && e.target.closest(".sheet")) { // onto the sheet: it becomes the mark
    mark.files = e.dataTransfer.files;
    tell("mark");
    mark.dispatchEvent(new Event("change", { bubbles: true }));
    return;
  }
  give(e.dataTransfer.files[0]);
});
// A file that holds no code may become what a code opens. On another page than the ledger the answer has lost the file, and asks again.
function openByCode(form) { form.action = "/codes/file"; form.submit(); }
document.addEventListener("change", (e) => {
  if (!e.target.matches("#find-file input")) return;
  if (e.target.form.dataset.opens) openByCode(e.target.form); else e.target.form.requestSubmit();
});
document.addEventListener("click", (e) => {
  if (!e.target.closest("[data-opens-file]")) return;
  const form = document.getElementById("find-file");
  if (form.elements.file.files.length) openByCode(form); else { form.dataset.opens = "yes"; form.elements.file.click(); }
});
document.addEventListener("click", (e) => { if (e.target.closest("[data-picks]")) document.querySelector("#find-file input").click(); });
document.addEventListener("click", (e) => { if (e.target.closest("[data-finds]")) document.getElementById("find-text").focus(); });
// Enter in the find field takes what stands out: what was recognised, else the first code found.
document.addEventListener("submit", (e) => {
  if (e.target.id !== "find" || !document.getElementById("ledger")) return;
  e.preventDefault();
  const main = document.querySelector("#found [data-enter]");
  if (main) main.click();
  else { const row = document.querySelector("tr.code"); if (row) row.focus(); }
});
