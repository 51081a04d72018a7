import { createCanvas, loadImage } from "@napi-rs/canvas";
import { expect, test } from "vitest";
import type { Line, ReadingAnswer } from "../../core/reading/document.ts";
import type { IncidentView, RuleDocument } from "../../core/rules/rule.ts";
import { incidentPicture } from "./incident-picture.ts";

// Colours are those of the page by day (core/drawing/palette.ts); places follow from the plot: x 66 to 624, y 14 to 192.

const minuteMs = 60_000;
const nowMs = Date.UTC(2026, 10, 29, 8, 0);
const fromMs = nowMs - 60 * minuteMs;
const line = (machine: string, values: readonly (number | null)[]): Line => {
  const known = values.filter((value) => value !== null);
  return {
    of: "a",
    tags: { machine },
    unit: "1",
    values,
    last: null,
    min: Math.min(...known),
    mean: null,
    max: Math.max(...known),
  };
};
const busy = line(
  "vault",
  Array.from({ length: 60 }, (_, i) => (i >= 20 && i < 30 ? null : 0.5 + 0.4 * Math.sin(i / 6))),
);
const other = line(
  "hive",
  Array.from({ length: 60 }, () => 0.2),
);
const incident = { severity: "urgent", unit: "1", raisedAtMs: fromMs + 40 * minuteMs, clearedAtMs: null };
const document = { watch: { kind: "value" }, urgent: { high: 0.8 } };

async function pixelsOf(zone = "Europe/Berlin") {
  const answer: ReadingAnswer = {
    from: fromMs,
    stepMs: minuteMs,
    count: 60,
    tier: "raw",
    lines: [busy, other],
    notes: [],
  };
  const png = incidentPicture(incident as IncidentView, document as unknown as RuleDocument, answer, answer.lines, {
    nowMs,
    zone,
  });
  const image = await loadImage(png);
  const canvas = createCanvas(image.width, image.height);
  const pen = canvas.getContext("2d");
  pen.drawImage(image, 0, 0);
  const { data } = pen.getImageData(0, 0, image.width, image.height);
  /** How many dots of a region (in px of the picture) are of a colour, each part within 12. */
  const dots = (colour: string, [x0, y0, x1, y1]: readonly [number, number, number, number]) => {
    const wanted = [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16));
    let found = 0;
    for (let y = y0 * 2; y < y1 * 2; y++)
      for (let x = x0 * 2; x < x1 * 2; x++) {
        const at = (y * image.width + x) * 4;
        if (wanted.every((part, i) => Math.abs((data[at + i] as number) - part) <= 12)) found++;
      }
    return found;
  };
  return { size: [image.width, image.height], dots, png };
}

const [ownLine, urgent, quiet] = ["#1b7b6e", "#b3301b", "#56626b"];

test("a mail's picture shows the line of the incident, its limit and when it was raised", async () => {
  const { size, dots } = await pixelsOf();
  expect(size).toEqual([1280, 440]);
  const perMinute = 558 / 60;
  const at = (minute: number) => Math.round(66 + minute * perMinute);
  // The line goes where there are values, and not across the gap between minutes 20 and 30.
  expect(dots(ownLine as string, [at(1), 14, at(19), 192])).toBeGreaterThan(300);
  expect(dots(ownLine as string, [at(21), 14, at(29), 192])).toBe(0);
  // The rule at the moment it was raised goes from top to bottom; nothing of that colour stands before but the limit.
  expect(dots(urgent as string, [at(40) - 1, 14, at(40) + 2, 192])).toBeGreaterThan(300);
  expect(dots(urgent as string, [at(1), 60, at(38), 192])).toBe(0);
});

test("moments below are round ones of the zone's clock: another zone of whole hours has other words at the same places", async () => {
  const [berlin, india] = [await pixelsOf(), await pixelsOf("Asia/Kolkata")];
  const below: readonly [number, number, number, number] = [60, 198, 640, 218];
  expect(berlin.dots(quiet as string, below)).toBeGreaterThan(100);
  // Kolkata is half an hour off: its round moments stand elsewhere too.
  expect(Buffer.compare(berlin.png, india.png)).not.toBe(0);
});
