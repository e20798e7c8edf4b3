// Builds GS1 Digital Link URIs with an outside library, from a JSON list on standard input, and says whether it takes ours.
const { DigitalLink } = require("../assets/node_modules/digital-link.js");
let text = "";
process.stdin.on("data", (b) => text += b).on("end", () => {
  console.log(JSON.stringify(JSON.parse(text).map(({ domain, key, qualifiers, attributes, ours }) => {
    const dl = DigitalLink({ domain: "https://" + domain, identifier: key, keyQualifiers: qualifiers, sortKeyQualifiers: true, attributes });
    return { theirs: dl.toWebUriString(), valid: DigitalLink(ours).isValid() };
  })));
});
