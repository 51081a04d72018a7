import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

const root = join(import.meta.dirname, "..");
const rooms = ["bench", "bin", "collector", "core", "e2e", "packaging", "scripts", "server", "standins", "web"];
const files = rooms.flatMap((room) =>
  readdirSync(join(root, room), { recursive: true, encoding: "utf8" }).map((name) => `${room}/${name}`),
);
const documents = ["README.md", "CONTRIBUTING.md"].concat(
  readdirSync(join(root, "docs"), { recursive: true, encoding: "utf8" }).flatMap((name) =>
    name.endsWith(".md") ? [`docs/${name}`] : [],
  ),
);

test.each(documents)("every file that %s names is there", (document) => {
  const text = readFileSync(join(root, document), "utf8");
  // `x.test.ts` stands for any test.
  const named = [...text.matchAll(/`([\w./-]+\.(?:ts|tsx|mjs|sh))`/g)]
    .map(([, path]) => path as string)
    .filter((path) => !/(^|\/)x\./.test(path));
  const missing = named.filter((path) => !files.some((file) => file === path || file.endsWith(`/${path}`)));
  expect(missing).toEqual([]);
});

test("links between documents lead somewhere", () => {
  const missing = documents.flatMap((document) =>
    [...readFileSync(join(root, document), "utf8").matchAll(/\]\((?!https?:|#)([^)#\s]+)(?:#[\w-]+)?\)/g)].flatMap(
      ([, link]) => {
        const place = join(root, document, "..", link as string);
        try {
          readFileSync(place);
          return [];
        } catch (error) {
          return (error as { code?: string }).code === "EISDIR" ? [] : [`${document}: ${link}`];
        }
      },
    ),
  );
  expect(missing).toEqual([]);
});
