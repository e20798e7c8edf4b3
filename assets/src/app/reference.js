// The examples of the API page run from here, with the token typed there.

document.addEventListener("submit", async (e) => {
  const form = e.target;
  if (!form.matches("[data-runs]")) return;
  e.preventDefault();
  let path = form.dataset.path;
  const query = new URLSearchParams();
  form.querySelectorAll("input[data-in]").forEach((i) => {
    if (i.dataset.in === "path") path = path.replace("{" + i.name + "}", encodeURIComponent(i.value));
    else if (i.value) query.set(i.name, i.value);
  });
  const body = form.querySelector("[data-body]"), picture = form.querySelector("[data-picture]");
  const out = form.querySelector("[data-answer]");
  const headers = { Authorization: "Bearer " + document.getElementById("api-token").value.trim() };
  if (body) headers["Content-Type"] = "application/json";
  out.hidden = false;
  out.textContent = "…";
  try {
    const r = await fetch(path + (query.size ? "?" + query : ""), { method: form.dataset.method, headers, body: body ? body.value : picture && picture.files[0] ? picture.files[0] : undefined });
    const kind = r.headers.get("Content-Type") || "";
    let text = /json|svg/.test(kind) ? await r.text() : (await r.blob()).size + " bytes of " + kind;
    if (/json/.test(kind)) text = JSON.stringify(JSON.parse(text), null, 2);
    out.textContent = r.status + " " + r.statusText + "\n" + text;
  } catch (err) { out.textContent = "No answer: " + err.message; }
});
