import { describe, expect, test } from "vitest";
import type { MonthFigures, MonthView } from "../api/month.ts";
import { figureRows, monthMail } from "./month-html.ts";
import { monthWords } from "./month-words.ts";

const hour = 3_600_000;
const now = Date.UTC(2026, 11, 1);
const figures = (more: Partial<MonthFigures> = {}): MonthFigures => ({
  incidents: 0,
  urgent: 0,
  raisedMs: 0,
  wattHours: null,
  known: 0,
  cost: null,
  currency: null,
  steadiness: null,
  silentMs: 0,
  ...more,
});
const month = (more: Partial<MonthView> = {}): MonthView => ({
  month: "2026-11",
  zone: "UTC",
  fromMs: Date.UTC(2026, 10, 1),
  toMs: now,
  isOver: true,
  figures: figures(),
  before: figures(),
  words: [],
  incidents: [],
  steadiness: [],
  energy: [],
  fills: [],
  grew: [],
  silent: [],
  ...more,
});

describe("a month in sentences", () => {
  test("nothing happened", () => expect(monthWords(month(), now)).toEqual(["No incident was raised."]));
  test("incidents, the longest first, with the month before", () => {
    const words = monthWords(
      month({
        figures: figures({ incidents: 1, urgent: 1, raisedMs: 26 * hour }),
        before: figures({ incidents: 4 }),
        incidents: [
          { id: 3, machine: "vault", rule: "pool nearly full", severity: "urgent", raisedAtMs: 0, lengthMs: 26 * hour },
        ],
      }),
      now,
    );
    expect(words).toEqual([
      "1 incident was raised, 1 of them urgent, for 1 d 2 h in all; the month before had 4.",
      "The longest was pool nearly full on vault: 1 d 2 h.",
    ]);
  });
  const energy = [{ of: "hive", wattHours: 80_000, cost: 20, estimated: false }];
  const measured = (wattHours: number, known = 1) =>
    figures({ wattHours, known, cost: wattHours / 4000, currency: "EUR" });
  test.each([
    [110_000, 100_000, 1, 1, ", 10 % more than the month before"],
    [90_000, 100_000, 1, 1, ", 10 % less than the month before"],
    [100_000, 100_400, 1, 1, ", as much as the month before"],
    // A month of which a third is known says nothing beside a whole one.
    [100_000, 30_000, 1, 0.3, ""],
    [30_000, 100_000, 0.3, 1, ""],
  ])("energy of %d Wh beside %d", (wattHours, before, known, knownBefore, words) => {
    const [, told] = monthWords(
      month({ figures: measured(wattHours, known), before: measured(before, knownBefore), energy }),
      now,
    );
    expect(told).toBe(
      `${wattHours / 1000} kWh were measured, EUR ${(wattHours / 4000).toFixed(2)}${words}; hive used most.`,
    );
  });
  test("a month that goes on is not compared with a whole one, and says what fills", () => {
    const words = monthWords(
      month({
        isOver: false,
        figures: measured(50_000),
        before: measured(100_000),
        fills: [
          {
            what: "pool archive",
            machine: "vault",
            share: 0.9,
            fullFromMs: now + 9 * 24 * hour,
            fullToMs: now + 12 * 24 * hour,
          },
        ],
      }),
      now,
    );
    expect(words.join(" ")).not.toContain("month before");
    expect(words).toContain("vault's pool archive is full in 9 to 12 days.");
  });
  test("the least steady, what grew and who was silent", () =>
    expect(
      monthWords(
        month({
          steadiness: [
            { machine: "hive", mean: 100, lowest: 100, lowestDay: null },
            { machine: "mast", mean: 91.24, lowest: 60, lowestDay: "2026-11-14" },
          ],
          grew: [{ what: "pool archive", machine: "vault", by: 2 ** 40, unit: "By", share: 0.3 }],
          silent: [{ machine: "mast", silentMs: 3 * hour, times: 2 }],
        }),
        now,
      ).slice(1),
    ).toEqual([
      "Least steady was mast, 91.2 in the mean, lowest on 2026-11-14.",
      "What grew most: vault's pool archive, by 1 TiB.",
      "mast was silent for 3 h.",
    ]));
});

describe("a month as a mail", () => {
  const view = month({
    words: ["2 incidents were raised."],
    figures: figures({ incidents: 2, wattHours: 3576, known: 1, cost: 0.393, currency: "EUR", steadiness: 99.5 }),
    incidents: [
      { id: 3, machine: "<b>vault</b>", rule: 'disk "a" & b', severity: "urgent", raisedAtMs: 0, lengthMs: hour },
    ],
    energy: [{ of: "hive", wattHours: 3576, cost: 0.393, estimated: true }],
  });
  const { subject, text, html } = monthMail(view, "https://watch.example");
  test("has its month in the subject, its sentences and tables in the text, and a link", () => {
    expect(subject).toBe("2026-11: the month on one page");
    expect(text).toContain("2 incidents were raised.");
    expect(text).toContain('  <b>vault</b>  disk "a" & b  urgent  1 h');
    expect(text).toContain("  hive  3.58 kWh  EUR 0.393  estimated");
    expect(text).toContain("https://watch.example/planning/month?month=2026-11");
    expect(text).not.toContain("Silent\n");
  });
  test("names that look like HTML stay text, and nothing is loaded from elsewhere", () => {
    expect(html).toContain("&lt;b&gt;vault&lt;/b&gt;");
    expect(html).toContain("disk &quot;a&quot; &amp; b");
    expect(html).not.toMatch(/<(script|img|link|iframe)|<b>/);
    expect(html.match(/href="[^"]*"/g)).toEqual(['href="https://watch.example/planning/month?month=2026-11"']);
  });
  test("figures stand beside those of the month before, what is not known as a dash", () =>
    expect(figureRows(view.figures, view.before)).toEqual([
      ["incidents", "2", "0"],
      ["urgent", "0", "0"],
      ["raised for", "0 s", "0 s"],
      ["energy", "3.58 kWh", "–"],
      ["cost", "EUR 0.393", "–"],
      ["steadiness", "99.5", "–"],
      ["silent for", "0 s", "0 s"],
    ]));
});
