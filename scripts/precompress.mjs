import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import { brotliCompress, constants, gzip } from "node:zlib";

const texts = /\.(js|css|svg|html|json)$/;
/** Less than this fits into one packet in any case. */
const leastBytes = 1024;

/** Lays a brotli and a gzip beside every text of a folder and those below it: packed once, as small as can be. */
export async function precompress(folder) {
  const files = readdirSync(folder, { recursive: true }).filter((name) => texts.test(name));
  await Promise.all(
    files.map(async (name) => {
      const path = join(folder, name);
      const text = readFileSync(path);
      if (text.length < leastBytes) return;
      const [small, gz] = await Promise.all([
        promisify(brotliCompress)(text, {
          params: {
            [constants.BROTLI_PARAM_MODE]: constants.BROTLI_MODE_TEXT,
            [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY,
            [constants.BROTLI_PARAM_SIZE_HINT]: text.length,
          },
        }),
        promisify(gzip)(text, { level: constants.Z_BEST_COMPRESSION }),
      ]);
      writeFileSync(`${path}.br`, small);
      writeFileSync(`${path}.gz`, gz);
    }),
  );
}
