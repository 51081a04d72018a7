import fc from "fast-check";
import { expect, test } from "vitest";
import { SharedTags } from "./shared-tags.ts";

test("equal tags are one object with what was written, whatever their names and values (property)", () => {
  const tags = fc.dictionary(fc.string({ unit: "binary" }), fc.string({ unit: "binary" }));
  fc.assert(
    fc.property(fc.array(tags, { maxLength: 20 }), (list) => {
      const shared = new SharedTags();
      for (const one of list) {
        const found = shared.tags(JSON.stringify(one));
        expect(JSON.stringify(found)).toBe(JSON.stringify(one));
        expect(shared.tags(JSON.stringify(one))).toBe(found);
      }
    }),
  );
});

test("a name that objects have of themselves is a tag like any other", () => {
  const found = new SharedTags().tags('{"__proto__":"a","constructor":"b","toString":"c"}');
  expect(Object.entries(found)).toEqual([
    ["__proto__", "a"],
    ["constructor", "b"],
    ["toString", "c"],
  ]);
});

test("what is remembered is bounded: more than fit are still given as they are", () => {
  const shared = new SharedTags();
  const first = shared.tags('{"n":"0"}');
  for (let i = 1; i < 30_000; i++) expect(shared.tags(`{"n":"${i}"}`)).toEqual({ n: String(i) });
  expect(shared.tags('{"n":"0"}')).toEqual(first);
  expect(shared.tags('{"n":"0"}')).not.toBe(first);
});
