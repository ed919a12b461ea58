// Writes FILE.br beside each FILE: smaller than the server would make it in no time, and made once. A large file takes
// a quarter of a minute to squeeze well: that is done where there is no FILE.br yet. Whoever changes a rule and builds
// again waits a third of a second and has a file that is a tenth larger; "make clean build" squeezes well again.
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";

const large = 1 << 20;

for (const file of process.argv.slice(2)) {
  const data = readFileSync(file);
  const quality = data.length < large || !existsSync(`${file}.br`) ? 11 : 5;
  writeFileSync(
    `${file}.br`,
    brotliCompressSync(data, {
      params: {
        [constants.BROTLI_PARAM_QUALITY]: quality,
        [constants.BROTLI_PARAM_LGWIN]: 24,
        [constants.BROTLI_PARAM_NPOSTFIX]: 2, // what repeats in a module stands at multiples of four
        [constants.BROTLI_PARAM_SIZE_HINT]: data.length,
      },
    }),
  );
}
