// What this tab knows of its edits.

// Each tab numbers its edits, so that the server knows a retry from a new edit.
export const store = window.sessionStorage;
if (!store.getItem("tab")) store.setItem("tab", Math.random().toString(36).slice(2, 12));
export const lastSeq = () => Number(store.getItem("seq") || 0);
export const nextSeq = () => { const n = Number(store.getItem("seq") || 0) + 1; store.setItem("seq", n); return n; };

// Fields tells on the page how many there are, so that whoever watches it knows when all is saved.
class Fields extends Set {
  clear() { super.clear(); told(); }
  add(field) { super.add(field); told(); return this; }
  delete(field) { const had = super.delete(field); told(); return had; }
}
export const unsaved = new Fields(); // whose last edit the server has not taken yet
export const waiting = new Fields(); // that have changed and were not sent yet
const told = () => { document.documentElement.dataset.unsaved = unsaved.size + waiting.size; };
document.addEventListener("input", (e) => { if (e.target.matches("[hx-patch]")) waiting.add(e.target); }, true);

const state = document.getElementById("desk-state");
export const isDesk = Boolean(state);
let newest = -1; // on pages without a desk
// seen.newest is the newest revision that is shown; the desk says so itself.
export const seen = {
  get newest() { return state ? Number(state.dataset.rev) : newest; },
  set newest(rev) { if (state) state.dataset.rev = rev; else newest = rev; },
};
