// A control that is pressed stays what it is until it is let go: where the ground of a press is drawn anew meanwhile, the browser knows of no click.
let pressed = null, late = [];
document.addEventListener("pointerdown", (e) => { letGo(); pressed = e.target.matches?.("input, select, textarea") ? null : e.target.closest?.("button, a, summary, label") ?? null; }, true);
for (const act of ["pointerup", "pointercancel", "dragend"]) document.addEventListener(act, () => setTimeout(letGo), true); // the click comes first
document.addEventListener("pointermove", (e) => { if (pressed && e.buttons === 0) letGo(); }, true); // let go outside of the window
function letGo() {
  pressed = null;
  const come = late;
  late = [];
  for (const then of come) then();
}
export const isPressed = (part) => pressed?.isConnected && (part.contains(pressed) || pressed.contains(part));
export const whenLetGo = (then) => late.push(then);

// swapOf is how the answer to an element is put in, as it says itself or those around it.
function swapOf(elt) {
  for (let at = elt; at; at = at.parentElement) {
    if (at !== elt && /(^| )(hx-swap|\*)( |$)/.test(at.getAttribute("hx-disinherit") ?? "")) break;
    if (at.hasAttribute("hx-swap")) return at.getAttribute("hx-swap");
  }
  return "innerHTML";
}

// An answer that would swap what is pressed waits likewise, and is then taken as if it had just come.
window.addEventListener("htmx:beforeSwap", (e) => {
  const { target, elt, xhr } = e.detail;
  if (!e.detail.shouldSwap || !target?.contains || !isPressed(target) || xhr.getResponseHeader("Sodrik-Slots")) return;
  e.preventDefault();
  e.stopImmediatePropagation();
  const style = (e.detail.swapOverride ?? swapOf(elt)).split(" ")[0];
  whenLetGo(() => {
    if (!target.isConnected) return;
    const detail = { ...e.detail, shouldSwap: true };
    const again = new CustomEvent("htmx:beforeSwap", { bubbles: true, cancelable: true, detail });
    if (target.dispatchEvent(again) && detail.shouldSwap) // where nothing is swapped there, parts may stand elsewhere
      window.htmx.swap(target, detail.serverResponse, { swapStyle: style, swapDelay: 0, settleDelay: 20 }, { eventInfo: detail, contextElement: elt });
  });
}, true);
