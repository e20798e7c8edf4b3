// Reads PGM files named on the command line with jsQR and writes what each says, or null, as a line of JSON.
import { readFileSync } from "node:fs";
import jsQR from "jsqr";

for (const name of process.argv.slice(2)) {
  const file = readFileSync(name);
  const [head, width, height] = /^P5\n(\d+) (\d+)\n255\n/.exec(file.subarray(0, 32).toString("latin1"));
  const rgba = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let i = 0; i < width * height; i++) rgba.fill(file[head.length + i], 4 * i, 4 * i + 3);
  let found = null;
  try {
    found = jsQR(rgba, Number(width), Number(height), { inversionAttempts: "dontInvert" });
  } catch {} // it runs beyond the edge of some pictures
  console.log(JSON.stringify(found ? Buffer.from(found.binaryData).toString() : null));
}
