import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

// SQL stands where it is looked for: in files of a subject's rows, in the room of the database, and in the engine of the
// store, whose tables nobody else reads.

const root = join(import.meta.dirname, "..");
const mayAsk = /-rows\.ts$|^server\/(db|store)\/|\/testing\/|\.test\.ts$/;
const asks = /\.query(<[^;]*?>)?\(\s*["'`]/s;

test("only files of rows, the database's room and the store's engine hold SQL", () => {
  const files = readdirSync(join(root, "server"), { recursive: true, encoding: "utf8" })
    .filter((file) => file.endsWith(".ts"))
    .map((file) => `server/${file}`);
  expect(files.length).toBeGreaterThan(200);
  const found = files.filter((file) => !mayAsk.test(file) && asks.test(readFileSync(join(root, file), "utf8")));
  expect(found).toEqual([]);
});
