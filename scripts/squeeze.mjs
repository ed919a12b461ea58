// Writes FILE.br beside each FILE: smaller than the server would make it in no time, and made once. What takes long to
// squeeze harder, and gains little by it, is squeezed less.
import { readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";

for (const file of process.argv.slice(2)) {
  const data = readFileSync(file);
  writeFileSync(
    `${file}.br`,
    brotliCompressSync(data, {
      params: {
        [constants.BROTLI_PARAM_QUALITY]: data.length > 1 << 20 ? 10 : 11,
        [constants.BROTLI_PARAM_LGWIN]: 24,
        [constants.BROTLI_PARAM_SIZE_HINT]: data.length,
      },
    }),
  );
}
