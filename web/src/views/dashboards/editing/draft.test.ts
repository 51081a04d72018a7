import { expect, test } from "vitest";
import { emptyDashboard } from "../../../../../core/dashboards/dashboard.ts";
import { changedDraft, draftOf, redone, undone } from "./draft.ts";

const [a, b, c] = ["a", "b", "c"].map(emptyDashboard) as [
  ReturnType<typeof emptyDashboard>,
  ReturnType<typeof emptyDashboard>,
  ReturnType<typeof emptyDashboard>,
];

test("changes are undone and done again in order; a new change forgets what was undone; ends are ends", () => {
  const begun = draftOf({ document: a, revision: 4 });
  const two = changedDraft(changedDraft(begun, b), c);
  expect([two.document.title, undone(two).document.title, undone(undone(two)).document.title]).toEqual(["c", "b", "a"]);
  expect(undone(begun)).toBe(begun);
  expect(redone(undone(two))).toEqual(two);
  expect(redone(two)).toBe(two);
  const other = changedDraft(undone(two), a);
  expect(redone(other)).toBe(other);
  expect(other.revision).toBe(4);
  expect(changedDraft(two, two.document)).toBe(two);
});
