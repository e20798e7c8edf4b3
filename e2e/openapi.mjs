// Calls every operation of the API with a client that an outside library makes of the OpenAPI document alone, and prints what each
// answered: {"operation": status, …}. It is given the address of the server and a token.
import openapi from "../assets/node_modules/openapi-client-axios/index.js";
const { OpenAPIClientAxios } = openapi;
const [base, token] = process.argv.slice(2);
const document = await (await fetch(base + "/api/v1/openapi.json")).json();
const api = new OpenAPIClientAxios({ definition: document, withServer: { url: base },
  axiosConfigDefaults: { headers: { Authorization: "Bearer " + token }, validateStatus: () => true } });
const client = await api.init();
const did = {};
async function call(id, params, data, config) {
  const r = await client[id](params, data, config);
  did[id] = r.status;
  if (r.status >= 400) throw new Error(id + ": " + r.status + " " + JSON.stringify(r.data).slice(0, 400));
  return r;
}
const as = (type) => ({ headers: { "Content-Type": type, Authorization: "Bearer " + token } });
const binary = { responseType: "arraybuffer" };
const job = { name: "By a client", content: { kind: "url", url: "https://marrowby.example/client" },
  placements: [{ name: "gate", medium: "poster-a2" }] };

await call("encode", null, job);
await call("prove", null, job);
const png = await call("draw", { format: "png" }, job, binary);
const read = await call("read", null, Buffer.from(png.data), as("image/png"));
if (!JSON.stringify(read.data).includes("https://marrowby.example/client")) throw new Error("what is drawn reads as " + JSON.stringify(read.data));
await call("uploadAsset", { name: "dot.svg" }, '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9H0z"/></svg>', as("image/svg+xml"));

const made = (await call("makeCode", null, { job })).data;
const id = made.id;
await call("listCodes", { q: "client", limit: 5 });
await call("getCode", { id });
await call("changeCode", { id }, [{ op: "replace", path: "/name", value: "By a client of ours" }]);
const version = (await call("issueVersion", { id })).data;
await call("getVersion", { id, n: version.n });
await call("getFile", { id, n: version.n, format: "svg" });

await call("turnDynamic", { id });
await call("getLead", { id });
await call("changeLead", { id }, { to: { kind: "url", url: "https://marrowby.example/later" } });
await call("issueVersion", { id }); // it goes live when it is first handed over
await call("changeLead", { id }, { to: { kind: "url", url: "https://marrowby.example/latest" } });
const live = (await call("makeLive", { id })).data;
if (live.live.n !== 2) throw new Error("live is " + JSON.stringify(live.live));
await call("leadBack", { id, n: 1 });
await call("whoIsLed", { id, where: "Ludlow", languages: "cy,en" });
await call("listLinks");
await call("listScans", { zone: "Europe/London" });
await call("listEvents", { limit: 10 });
await call("leadToFile", { id, name: "notes.pdf" }, Buffer.from("%PDF-1.7\n"), as("application/pdf"));
await call("turnStatic", { id });

const batch = (await call("makeBatch", { name: "By a client" }, "SKU;Link\nMB-1;https://marrowby.example/1\nMB-2;https://marrowby.example/2\n",
  as("text/csv"))).data;
await call("listBatches");
await call("changeBatch", { id: batch.id }, { "/set/name": "{SKU}" });
await call("updateBatchRows", { id: batch.id }, "SKU;Link\nMB-1;https://marrowby.example/1\nMB-3;https://marrowby.example/3\n", as("text/csv"));
let stands;
for (let n = 0; n < 300; n++) { // a batch is made by and by
  stands = (await call("getBatch", { id: batch.id })).data;
  if (stands.stale === 0) break;
  await new Promise((done) => setTimeout(done, 200));
}
await call("listBatchRows", { id: batch.id, limit: 10 });
const files = (await call("makeBatchFiles", { id: batch.id, as: "table" })).data;
for (let n = 0; n < 300; n++) {
  const f = (await call("getBatchFiles", { id: batch.id, run: files.id })).data;
  if (f.state === "done") break;
  await new Promise((done) => setTimeout(done, 200));
}
const table = await call("getBatchFile", { id: batch.id, run: files.id }, null, binary);
if (!Buffer.from(table.data).toString().includes("https://marrowby.example/3")) throw new Error("the table is " + table.data);
console.log(JSON.stringify(did));
