// The live strip of scans: each as it comes. It can be paused; a browser that is hidden asks for nothing.
const most = 4;
let stream = null;
function strip() { return document.getElementById("now"); }
function open() {
  if (stream || !strip() || strip().dataset.paused || document.hidden) return;
  stream = new EventSource("/scans/now");
  stream.addEventListener("scan", (e) => {
    const list = strip().querySelector("ul");
    list.insertAdjacentHTML("afterbegin", e.data);
    while (list.children.length > most) list.lastElementChild.remove();
    strip().querySelector(".now-none")?.remove();
  });
  stream.addEventListener("words", (e) => { strip().querySelector(".now-words").textContent = e.data; });
}
function close() { stream?.close(); stream = null; }
document.addEventListener("visibilitychange", () => (document.hidden ? close() : open()));
document.addEventListener("click", (e) => {
  const button = e.target.closest("#now-pause");
  if (!button) return;
  const paused = !strip().dataset.paused;
  if (paused) strip().dataset.paused = "yes"; else delete strip().dataset.paused;
  button.textContent = paused ? "Go on" : "Pause";
  if (paused) close(); else open();
});
open();
