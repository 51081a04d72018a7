import { expect, test } from "vitest";
import type { MachineEvent } from "../events/machine-event.ts";
import type { IncidentView } from "../rules/rule.ts";
import type { BriefingLine } from "./briefing.ts";
import { thisWeek } from "./this-week.ts";

const now = Date.UTC(2026, 10, 27, 12);
const hour = 3_600_000;
const day = 24 * hour;
let id = 0;
const incident = (
  ruleName: string,
  machine: string,
  daysAgo: number,
  hours: number | null,
  more: Partial<IncidentView> = {},
) =>
  ({
    id: ++id,
    ruleName,
    severity: "notice",
    tags: machine === "" ? {} : { machine },
    raisedAtMs: now - daysAgo * day,
    clearedAtMs: hours === null ? null : now - daysAgo * day + hours * hour,
    ...more,
  }) as IncidentView;
const work = (kind: string, daysAgo: number, from: number, to: number): MachineEvent => ({
  id: ++id,
  kind,
  machine: "vault",
  text: kind,
  tags: {},
  fromMs: now - daysAgo * day + from * hour,
  toMs: now - daysAgo * day + to * hour,
});
const said = ({ pieces }: BriefingLine) => pieces.map((piece) => ("text" in piece ? piece.text : "…")).join("");
const told = (incidents: readonly IncidentView[], events: readonly MachineEvent[] = []) =>
  thisWeek({ nowMs: now, incidents, events });

test("what was raised and is over is told by rule and machine, the gravest first, with how often and how long", () => {
  const lines = told([
    incident("disks busy", "vault", 2, 1),
    incident("disks busy", "vault", 3, 2),
    incident("disks busy", "hive", 4, 1),
    incident("runs on battery", "ups", 5, 0.4, { severity: "urgent" }),
    incident("pool is full", "vault", 1, null),
  ]);
  expect(lines.map(said)).toEqual([
    "runs on battery, ups: raised for 24 min, from ….",
    "disks busy, vault: raised twice, at longest for 2 h, from ….",
    "disks busy, hive: raised for 1 h, from ….",
  ]);
  expect(lines.map(({ part, severity }) => [part, severity])).toEqual([
    ["week", "urgent"],
    ["week", "notice"],
    ["week", "notice"],
  ]);
  // It leads to the longest of them, in a window around it.
  expect(lines[1]?.path).toMatch(/^\/alerts\/incidents\/\d+$/);
  expect(lines[1]?.window).toEqual({ fromMs: now - 3 * day - hour, toMs: now - 3 * day + 3 * hour });
});

test("works that overlapped on earlier days are told once, those of the last day are not told again", () => {
  const events = [
    ...[work("copy", 3, 0, 2), work("scan", 3, 1, 3)],
    ...[work("copy", 2, 0, 2), work("scan", 2, 1, 3)],
    ...[work("copy", 0.5, 0, 2), work("scan", 0.5, 1, 3)],
  ];
  expect(told([], events).map(said)).toEqual(["Copy and scan on vault overlapped twice, last on …."]);
  expect(told([], events.slice(4))).toEqual([]);
});

test("a calm week has nothing to tell, and a wild one no more than four sentences", () => {
  expect(told([])).toEqual([]);
  expect(told(Array.from({ length: 50 }, (_, i) => incident(`rule ${i}`, "vault", 1, 1)))).toHaveLength(4);
});

test("ten thousand works that follow each other, and as many at once, are gone through in one pass", () => {
  const after = Array.from({ length: 10_000 }, (_, i) => work(i % 2 ? "copy" : "scan", 6, i / 100, i / 100 + 0.009));
  expect(told([], after)).toEqual([]);
  const atOnce = Array.from({ length: 10_000 }, (_, i) => work(`job ${i}`, 6, 0, 1));
  expect(told([], atOnce)).toHaveLength(4);
});
