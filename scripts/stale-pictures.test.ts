import { expect, test } from "vitest";
import { stalePictures } from "./stale-pictures.mjs";

const times: Readonly<Record<string, number>> = {
  "docs/screenshots/fleet.png": 100,
  "docs/screenshots/rule.png": 100,
  "docs/screenshots/new.png": 0,
  "web/src/views/fleet": 90,
  "web/src/views/alerts": 110,
  "web/src/frame": 95,
  "web/src/styles.css": 40,
};
const changedAt = (paths: readonly string[]) => Math.max(...paths.map((path) => times[path] ?? 0));
const pictures = [
  { name: "fleet", of: ["web/src/views/fleet"] },
  { name: "rule", of: ["web/src/views/alerts"] },
  { name: "new", of: ["web/src/views/fleet"] },
];

test("a picture is stale when its view, or what stands around every view, changed after it, or it was never taken", () => {
  expect(stalePictures(pictures, changedAt)).toEqual([
    { name: "rule", by: "web/src/views/alerts" },
    { name: "new", by: "web/src/views/fleet" },
  ]);
  const frame = (paths: readonly string[]) => (paths[0] === "web/src/frame" ? 120 : changedAt(paths));
  expect(stalePictures(pictures.slice(0, 1), frame)).toEqual([{ name: "fleet", by: "web/src/frame" }]);
});
