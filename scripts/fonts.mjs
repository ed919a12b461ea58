// Cuts the faces that the interface uses out of its one variable font: text, wide for titles, and narrow for figures,
// light and bold. Each has the signs that most pages need, and the rest of the Latin letters in a second file that is
// fetched where a name has one of them. The stylesheet says which face is for what. Browsers keep these files for good:
// what is cut otherwise needs another number in its name.
import { readFileSync, writeFileSync } from "node:fs";
import subset from "subset-font";

const [from, to] = process.argv.slice(2);
const font = readFileSync(from);
const span = (/** @type {number} */ a, /** @type {number} */ b) =>
  Array.from({ length: b - a + 1 }, (_, i) => String.fromCodePoint(a + i)).join("");
const usual = span(0x20, 0x7e) + "\u00a0°·×²³±½–—‘’“”…•−→←↑↓≤≥✓✕";
const more = span(0xa1, 0x17f) + "‚„†‡‹›€™√∞Ωπ";
const faces = {
  text: { wdth: 100, wght: { min: 400, max: 760 } },
  wide: { wdth: 115, wght: 750 },
  narrow: { wdth: 82, wght: 400 },
  "narrow-bold": { wdth: 82, wght: 650 },
};
// Of what the font can do besides, only this is used; and screens of today need no hints.
const keepFeatures = ["kern", "tnum", "ccmp", "mark", "mkmk", "locl"];

for (const [name, variationAxes] of Object.entries(faces))
  for (const [part, letters] of Object.entries({
    "": usual,
    "-more": [...more].filter((x) => !usual.includes(x)).join(""),
  }))
    writeFileSync(
      `${to}/archivo-3-${name}${part}.woff2`,
      await subset(font, letters, { targetFormat: "woff2", variationAxes, keepFeatures, noHinting: true }),
    );
