import { readdirSync, readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { everyRoute } from "../core/api/every-route.ts";
import { answersFile, answersText } from "./answer-schemas.mjs";

test("the schemas of answers are those of the types as they are now; `npm run answers` writes them", () => {
  expect(readFileSync(answersFile, "utf8")).toBe(answersText());
});

test("every route that a subject exports is among all of them, and its name and its address are its own", () => {
  const folder = new URL("../core/api/", import.meta.url);
  const exported: string[] = [];
  for (const file of readdirSync(folder))
    if (file.endsWith(".ts") && file !== "route.ts" && file !== "every-route.ts")
      for (const [, name] of readFileSync(new URL(file, folder), "utf8").matchAll(/^export const (\w+) = route\(/gm))
        exported.push(name as string);
  expect([...everyRoute.keys()].sort()).toEqual(exported.sort());
  const addresses = [...everyRoute.values()].map(({ method, path }) => `${method} ${path}`);
  expect(new Set(addresses).size).toBe(addresses.length);
});
