// Passkeys: the browser asks the authenticator, the server says for what.
import { say } from "./notice.js";

document.addEventListener("click", async (e) => {
  const b = e.target.closest("[data-passkey]");
  if (!b) return;
  if (!window.PublicKeyCredential || !PublicKeyCredential.parseRequestOptionsFromJSON) { say("This browser cannot use passkeys here."); return; }
  const [ask, give] = b.dataset.passkey === "new" ? ["/account/passkey/new", "/account/passkey/add"] : ["/passkey/ask", "/passkey/use"];
  try {
    const confirm = document.getElementById("passkey-confirm");
    const r = await fetch(ask, { method: "POST", body: new URLSearchParams(b.dataset.passkey === "new" && confirm ? { confirm: confirm.value } : {}) });
    if (!r.ok) throw new Error(await r.text());
    const { publicKey } = await r.json();
    const credential = b.dataset.passkey === "new"
      ? await navigator.credentials.create({ publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(publicKey) })
      : await navigator.credentials.get({ publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(publicKey) });
    const done = await fetch(give, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(credential.toJSON()) });
    if (!done.ok) throw new Error(await done.text());
    if (b.dataset.next) location.href = b.dataset.next; else location.reload();
  } catch (err) {
    say(err.name === "NotAllowedError" ? "No passkey was given." : err.message);
  }
});
