import { expect, test } from "vitest";
import { eventShape } from "./event-shapes.ts";

const shapeOf = (...kinds: string[]) => eventShape(kinds.map((kind) => ({ kind })));

test.each([
  ["note", "note"],
  ["power loss", "power"],
  ["died", "ended"],
  ["unhealthy", "ended"],
  ["restarted", "began"],
  ["created", "began"],
  ["archive copy", "told by a script"],
])("%s is drawn as %s", (kind, words) => expect(shapeOf(kind).words).toBe(words));

test("events of one sort that lie on one another keep its shape, unlike ones have their own", () => {
  expect(shapeOf("died", "unhealthy")).toBe(shapeOf("died"));
  expect(shapeOf("died", "note").words).toBe("several");
  expect(new Set(["note", "power loss", "died", "created", "job"].map((kind) => shapeOf(kind).path)).size).toBe(5);
});
