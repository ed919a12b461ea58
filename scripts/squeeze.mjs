// Writes FILE.br beside FILE: smaller than the server would make it in no time, and made once.
import { readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";

const file = process.argv[2];
const data = readFileSync(file);
writeFileSync(
  `${file}.br`,
  brotliCompressSync(data, {
    params: {
      [constants.BROTLI_PARAM_QUALITY]: 6,
      [constants.BROTLI_PARAM_LGWIN]: 24,
      [constants.BROTLI_PARAM_SIZE_HINT]: data.length,
    },
  }),
);
