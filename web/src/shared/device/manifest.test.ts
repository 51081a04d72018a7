import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

const folder = join(import.meta.dirname, "../../../public");
const manifest = JSON.parse(readFileSync(join(folder, "manifest.webmanifest"), "utf8")) as {
  readonly start_url: string;
  readonly scope: string;
  readonly display: string;
  readonly icons: readonly { readonly src: string; readonly sizes: string; readonly type: string }[];
};

test("what makes the pages an application stays below the path that they are served from (Web Application Manifest)", () => {
  expect(manifest).toMatchObject({ start_url: "./", scope: "./", display: "standalone" });
  expect(manifest.icons.map(({ sizes }) => sizes)).toEqual(expect.arrayContaining(["192x192", "512x512"]));
});

test.each(manifest.icons)("$src is the picture that it is said to be", ({ src, sizes, type }) => {
  const bytes = readFileSync(join(folder, src));
  // PNG (W3C), 11.2.1: eight bytes of signature, then the header with width and height.
  expect(bytes.subarray(0, 8).toString("hex")).toBe("89504e470d0a1a0a");
  expect(`${bytes.readUInt32BE(16)}x${bytes.readUInt32BE(20)}`).toBe(sizes);
  expect(type).toBe("image/png");
});
