import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  type ChangedSpell,
  eventOfSpell,
  longestSpellMs,
  mostSpellsOfKind,
  type SlowMoment,
  slowSpellOf,
  SlowSpells,
  spellEndsMs,
} from "./slow-spells.ts";

const reading = (key: string, endedMs: number, tookMs: number): SlowMoment => ({
  kind: "reading",
  key,
  what: `${key} over ${tookMs} ms`,
  endedMs,
  tookMs,
});
const told = (spells: SlowSpells) => spells.changed().map(({ spell }) => spell);

describe("slow moments", () => {
  test("of the same thing are one spell, from the first one's start to the last one's end, with the slowest", () => {
    const spells = new SlowSpells();
    for (const [endedMs, tookMs] of [
      [100_000, 2000],
      [160_000, 5000],
      [220_000, 1500],
    ] as const)
      spells.note(reading("cpu", endedMs, tookMs));
    expect(told(spells)).toEqual([
      { kind: "reading", fromMs: 98_000, toMs: 220_000, times: 3, mostMs: 5000, what: "cpu over 5000 ms" },
    ]);
  });
  test("begin another spell after a pause, and once one has gone on for an hour", () => {
    const spells = new SlowSpells();
    const marks = new Set<object>();
    const keep = () => {
      for (const changed of spells.changed()) {
        marks.add(changed.mark);
        spells.kept(changed);
      }
    };
    spells.note(reading("cpu", 0, 1000));
    keep();
    spells.note(reading("cpu", spellEndsMs, 1000));
    keep();
    expect(marks.size).toBe(1);
    spells.note(reading("cpu", 2 * spellEndsMs + 1, 1000));
    keep();
    expect(marks.size).toBe(2);
    const from = 3 * spellEndsMs;
    for (let atMs = from; atMs < from + 2 * longestSpellMs; atMs += 300_000) {
      spells.note(reading("memory", atMs, 1000));
      keep();
    }
    expect(marks.size).toBe(4);
  });
  test("that could not be kept are told again, and what was kept is not until it goes on", () => {
    const spells = new SlowSpells();
    spells.note(reading("cpu", 1000, 1000));
    const [first] = spells.changed();
    spells.note(reading("cpu", 5000, 3000)); // while the first was being written
    spells.kept(first as ChangedSpell);
    expect(told(spells)).toMatchObject([{ times: 2, mostMs: 3000 }]);
    const [second] = spells.changed();
    expect(second?.mark).toBe(first?.mark);
    spells.kept(second as ChangedSpell);
    expect(told(spells)).toEqual([]);
    // nothing of a database that is away for hours is lost
    spells.note(reading("memory", 6000, 1000));
    spells.note(reading("disk", 6000 + 10 * spellEndsMs, 1000));
    expect(told(spells).map(({ what }) => what.split(" ")[0])).toEqual(["memory", "disk"]);
  });
  test("stay few, whatever is slow: no moment is lost, and no more than a few spells are open", () => {
    const keys = fc.array(fc.nat({ max: 40 }), { minLength: 1, maxLength: 200 });
    fc.assert(
      fc.property(keys, (list) => {
        const spells = new SlowSpells();
        list.forEach((key, i) => {
          spells.note(reading(`counter ${key}`, i * 1000, 1000 + key));
        });
        const all = told(spells);
        expect(all.length).toBeLessThanOrEqual(mostSpellsOfKind + 1);
        expect(all.reduce((sum, { times }) => sum + times, 0)).toBe(list.length);
        expect(Math.max(...all.map(({ mostMs }) => mostMs))).toBe(1000 + Math.max(...list));
      }),
    );
  });
});

test("a spell's event says what it was, and is read back as it was", () => {
  const spell = { kind: "flush", fromMs: 1000, toMs: 4200, times: 14, mostMs: 3200, what: "12,000 samples" } as const;
  const event = eventOfSpell(spell, "kestrel");
  expect(event).toMatchObject({
    kind: "nubrel.slow",
    machine: "kestrel",
    text: "Commits of samples took up to 3.2 s, 14 times: 12,000 samples.",
  });
  expect(slowSpellOf({ ...event, id: 1 })).toEqual(spell);
  expect(eventOfSpell({ ...spell, times: 1 }, "kestrel").text).toBe("A commit of samples took 3.2 s: 12,000 samples.");
  expect(slowSpellOf({ ...event, id: 1, kind: "note" })).toBeUndefined();
  expect(slowSpellOf({ ...event, id: 1, tags: { of: "toString", what: "x" } })).toBeUndefined();
});
