// @vitest-environment jsdom
import { expect, test } from "vitest";
import { ways } from "./connect-view.tsx";
import { wayFacts } from "./way-facts.ts";

test("every way to connect says what will be seen and what it needs, and nothing is said of a way that is none", () => {
  expect(Object.keys(wayFacts).sort()).toEqual(ways.map(({ id }) => id).sort());
  for (const { sees, needs } of Object.values(wayFacts)) {
    expect(sees.length).toBeGreaterThan(0);
    expect(needs).not.toBe("");
  }
});
