import { describe, expect, test } from "vitest";
import { catalogue } from "../../../../core/counters/catalogue.ts";
import { parseFigure } from "../../../../core/reading/figure.ts";
import { ledgerColumns, ofEveryMachine } from "../../views/fleet/ledger-columns.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { bands } from "./bands.ts";
import { partBands } from "./part-bands.ts";

const readings: readonly (readonly [string, OpenReading])[] = [
  ...[...bands, ...partBands("guest", "web"), ...partBands("container", "chat")].flatMap((band) => [
    ...(band.top ? [[`${band.id} top`, band.top.reading("playout")] as const] : []),
    [`${band.id} figure`, band.figure.reading("playout")] as const,
    ...band.views.map((view) => [`${band.id} ${view.id}`, view.reading("playout")] as const),
  ]),
  ...ledgerColumns.flatMap((column) =>
    ofEveryMachine(column).map((reading, i) => [`fleet ${column.id} ${i}`, reading] as const),
  ),
];

describe.each(readings)("%s", (_name, reading) => {
  test("reads counters that are gathered, with arithmetic that can be worked out", () => {
    const names = Object.keys(reading.sentences);
    // names that Windows' own logs give
    for (const { counter } of Object.values(reading.sentences))
      expect(catalogue.has(counter) || counter.startsWith("windows."), counter).toBe(true);
    if (reading.figure !== undefined) expect(parseFigure(reading.figure, names)).toBeDefined();
  });
});

test("a machine's reading is of that machine only, a ledger's of all", () => {
  for (const band of bands)
    for (const { where } of Object.values(band.figure.reading("a").sentences))
      expect(where).toContainEqual({ tag: "machine", is: ["a"] });
  for (const column of ledgerColumns)
    for (const { where } of ofEveryMachine(column).flatMap(({ sentences }) => Object.values(sentences)))
      expect(where?.some(({ tag }) => tag === "machine")).toBe(false);
});

test("a part's reading is of that part of that machine", () => {
  for (const kind of ["guest", "container"] as const) {
    for (const band of partBands(kind, "web"))
      for (const { reading } of [band.figure, ...band.views])
        for (const { where } of Object.values(reading("hive").sentences))
          expect(where).toEqual([
            { tag: "machine", is: ["hive"] },
            { tag: kind, is: ["web"] },
          ]);
  }
});

test("a band's figure says its unit in its reading, so that a rule made of it can show its limit", () => {
  for (const { id, figure } of [...bands, ...partBands("guest", "web"), ...partBands("container", "chat")])
    expect(figure.reading("a").unit ?? "1", id).toBe(figure.unit);
});
