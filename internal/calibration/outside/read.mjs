// Reads PGM files with a reader that the command line names, jsqr or qr: for every line of names on standard input, a JSON array, one line with what each
// says, or null.
import { readFileSync } from "node:fs";
import { createInterface } from "node:readline";
import jsQR from "jsqr";
import decodeQR from "qr/decode.js";

const readers = {
  jsqr: (data, width, height) => Buffer.from(jsQR(data, width, height, { inversionAttempts: "dontInvert" }).binaryData).toString(),
  qr: (data, width, height) => decodeQR({ data, width, height }),
};
const reader = readers[process.argv[2]];

function read(name) {
  const file = readFileSync(name);
  const [head, width, height] = /^P5\n(\d+) (\d+)\n255\n/.exec(file.subarray(0, 32).toString("latin1"));
  const rgba = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let i = 0; i < width * height; i++) rgba.fill(file[head.length + i], 4 * i, 4 * i + 3);
  try {
    return reader(rgba, Number(width), Number(height));
  } catch {
    return null; // nothing was found, or it ran beyond the edge
  }
}

for await (const line of createInterface({ input: process.stdin })) console.log(JSON.stringify(JSON.parse(line).map(read)));
