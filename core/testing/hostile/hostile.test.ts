import { describe, expect, test } from "vitest";
import { seeded } from "../random.ts";
import { changed } from "./changed.ts";
import { everyReader, type Reader } from "./every-reader.ts";
import { hostileTexts } from "./hostile-texts.ts";

const sizes = [16_384, 65_536, 262_144] as const;
/**
 * Four times the text may take so many times as long, and more only where it is all over in a moment. Linear is 4; what
 * grows with the square is 16.
 */
const mostGrowth = 9;
const momentMs = 80;

/** Runs a reader; what it throws must be among what it declares. */
function run({ name, read, declared }: Reader, bytes: Uint8Array): void {
  try {
    read(bytes);
  } catch (error) {
    if (declared.some((one) => error instanceof one)) return;
    throw new Error(
      `${name}: ${String(error)} at ${JSON.stringify(new TextDecoder().decode(bytes.subarray(0, 400)))}`,
      { cause: error },
    );
  }
}

function tookMs(reader: Reader, bytes: Uint8Array): number {
  const began = performance.now();
  run(reader, bytes);
  return performance.now() - began;
}

describe("hostile text of 16, 64 and 256 KB: no reader takes more than linear time, and none throws what it does not declare", () => {
  const utf8 = new TextEncoder();
  for (const reader of everyReader) {
    test(reader.name, () => {
      for (const [shape, make] of Object.entries(hostileTexts)) {
        const [small, middle, large] = sizes.map((size) => utf8.encode(make(size))) as [
          Uint8Array,
          Uint8Array,
          Uint8Array,
        ];
        run(reader, small);
        const least = (bytes: Uint8Array) => Math.min(tookMs(reader, bytes), tookMs(reader, bytes));
        // What else the machine does makes one measurement longer; what grows with the square stays so in each.
        const growths: string[] = [];
        let growth = Number.POSITIVE_INFINITY;
        for (let tries = 0; growth >= mostGrowth && tries < 4; tries++) {
          const before = least(middle);
          if (before > 20_000) expect.fail(`${shape}: ${before} ms for 64 KB`);
          const after = least(large);
          growth = after > momentMs ? after / before : 0;
          growths.push(`${before.toFixed(1)} ms for 64 KB, ${after.toFixed(1)} ms for 256 KB`);
        }
        expect(growth, `${shape}: ${growths.join("; ")}`).toBeLessThan(mostGrowth);
      }
    });
  }
});

describe("texts that are understood, changed a little: only declared errors", () => {
  const all = Number(process.env["NUBREL_SOAK_INPUTS"] ?? 20_000);
  const seed = Number(process.env["NUBREL_SOAK_SEED"] ?? 1);
  const each = Math.ceil(all / everyReader.length);
  for (const [place, reader] of everyReader.entries()) {
    test(`${reader.name} (seed ${seed}, ${each} of them)`, () => {
      const random = seeded(seed * 1000 + place);
      for (let i = 0; i < each; i++) run(reader, changed(reader.seeds[i % reader.seeds.length] as Uint8Array, random));
    }, 3_600_000);
  }
});
