// Pictures and texts onto the clipboard.
import { refreshState } from "./files.js";
import { sayBriefly } from "./notice.js";

// fetchFile posts a form's fields and gives the file, for the clipboard.
async function fetchFile(url, fields) {
  const r = await fetch(url, { method: "POST", body: new URLSearchParams(fields) });
  if (!r.ok) throw new Error(await r.text());
  return r.blob();
}
const asDataURL = (blob) => new Promise((done) => { const f = new FileReader(); f.onload = () => done(f.result); f.readAsDataURL(blob); });

// copyPicture puts the PNG on the clipboard, and beside it HTML with its width, as browsers drop the size
// that stands in the PNG itself.
async function copyPicture(url, fields, width, alt) {
  try {
    const png = fetchFile(url, fields);
    const html = png.then(async (b) => {
      const img = document.createElement("img");
      img.src = await asDataURL(b); img.alt = alt;
      if (width) img.setAttribute("width", (width * 96 / 25.4).toFixed(2)); // in 96ths of an inch: putting a style on the clipboard offends the policy of the page
      return new Blob([img.outerHTML], { type: "text/html" });
    });
    png.catch(() => {}); html.catch(() => {}); // a clipboard that refuses at once waits for neither
    await navigator.clipboard.write([new ClipboardItem({ "image/png": png, "text/html": html })]);
    sayBriefly("Copied. Paste it where it belongs.");
  } catch {
    sayBriefly("This browser did not let the picture onto the clipboard. Download PNG gives the same file.");
  }
}

document.addEventListener("click", async (e) => {
  const copy = e.target.closest("[data-copy]");
  if (copy) {
    const fields = copy.dataset.text ? { text: copy.dataset.text, reading: copy.dataset.reading || "" } : { format: "png", place: copy.dataset.place, copy: "1" };
    copyPicture(copy.dataset.copy, fields, copy.dataset.width, copy.dataset.alt || "QR code").then(refreshState);
  }
  const copies = e.target.closest("[data-copies]");
  if (copies) {
    const text = document.getElementById(copies.dataset.copies);
    try { await navigator.clipboard.writeText(text.value); sayBriefly("Copied. Paste it where it belongs."); }
    catch { text.focus(); text.select(); sayBriefly("This browser did not let the text onto the clipboard. It is selected: copy it with Ctrl C."); }
  }
});
