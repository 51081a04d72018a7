import { expect, test } from "vitest";
import { emptyDashboard } from "./dashboard.ts";
import { toldApart } from "./told-apart.ts";

test.each([
  ["On air", [], "On air"],
  ["On air", ["On air"], "On air 2"],
  ["On air", ["On air", "On air 2"], "On air 3"],
  ["On air 2", ["On air 2"], "On air 3"],
  ["On air 2", ["On air"], "On air 2"],
])("%j beside %j is %j", (title, titles, expected) => {
  expect(toldApart(emptyDashboard(title), titles).title).toBe(expected);
});
