import { expect, test } from "vitest";
import { narrowed } from "./narrowed.ts";

const vault = { tag: "machine", is: ["vault"] };
const archive = { tag: "pool", is: ["archive"] };

test("every sentence is asked where the tags that make its lines have their values, beside what it says itself", () => {
  const perPool = { lines: { per: ["machine", "pool"] }, combine: "sum" } as const;
  const used = { counter: "u", where: [{ tag: "state", is: ["used"] }], ...perPool };
  const size = { counter: "s", ...perPool };
  const reading = { sentences: { used, size }, figure: "used / size * 100", unit: "%" };
  // The state that a line of "used" has is none of the size's.
  expect(narrowed(reading, { machine: "vault", pool: "archive", state: "used" })).toEqual({
    ...reading,
    sentences: {
      used: { ...used, where: [{ tag: "state", is: ["used"] }, vault, archive] },
      size: { ...size, where: [vault, archive] },
    },
  });
});

test("a line for each series is the one with all its tags; of what is taken together, nothing is left out", () => {
  const each = { counter: "c" };
  const together = { counter: "t", lines: "together", combine: "sum" } as const;
  expect(narrowed({ sentences: { each, together } }, { machine: "vault", pool: "archive" }).sentences).toEqual({
    each: { ...each, where: [vault, archive] },
    together,
  });
});
