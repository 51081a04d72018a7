import { describe, expect, test } from "vitest";
import { tagsOfValues, tagValuesOf, withPart } from "./limits.ts";

describe("limits", () => {
  test("a part is chosen, chosen anew, and taken away; the others stay", () => {
    const one = withPart({ dashboards: [1] }, "machines", ["lamp"]);
    expect(one).toEqual({ dashboards: [1], machines: ["lamp"] });
    expect(withPart(one, "machines", ["mast"])).toEqual({ dashboards: [1], machines: ["mast"] });
    expect(withPart(one, "machines", [])).toEqual({ dashboards: [1] });
  });
  test("values are told one by one, and put together by tag again", () => {
    const tags = [
      { tag: "site", is: ["quay", "mast"] },
      { tag: "__proto__", is: ["a=b, c"] },
    ];
    expect(tagValuesOf({ tags })).toHaveLength(3);
    expect(tagsOfValues(tagValuesOf({ tags }))).toEqual(tags);
    expect(tagsOfValues([])).toEqual([]);
  });
});
