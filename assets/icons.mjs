// Writes the icon set as one file of lines: name, words to find it by, drawing. Attributes that all icons share are left to the
// reader (stroke 2 wide, round caps and joins, no fill, in a square of 24).
import { readFileSync, writeFileSync } from "node:fs";
const root = "node_modules/lucide-static/";
const tags = JSON.parse(readFileSync(root + "tags.json", "utf8"));
const lines = [];
for (const name of Object.keys(tags).sort()) {
  const svg = readFileSync(root + "icons/" + name + ".svg", "utf8");
  const inner = svg.slice(svg.indexOf(">", svg.indexOf("<svg")) + 1, svg.lastIndexOf("</svg>"));
  lines.push([name, tags[name].map((t) => t.replace(/[\t\n,]/g, " ")).join(","), inner.replace(/\s+/g, " ").replace(/> </g, "><").replace(/ ?\/>/g, "/>").trim()].join("\t"));
}
writeFileSync(process.argv[2] + "/icons.txt", lines.join("\n") + "\n");
writeFileSync(process.argv[2] + "/license.txt", "Icons, from Lucide\n" + readFileSync(root + "LICENSE", "utf8"));
