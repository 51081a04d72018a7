import { describe, expect, test } from "vitest";
import type { Rule } from "../../core/rules/rule.ts";
import { HeldLine } from "./held-line.ts";

const rule: Rule = {
  id: 1,
  on: true,
  name: "pool",
  reading: { sentences: { a: { counter: "x" } } },
  watch: { kind: "value", of: "last", overSeconds: 0 },
  compare: "above",
  notice: { high: 10 },
  urgent: { high: 20 },
  everySeconds: 0,
  mustLastSeconds: 0,
  staysRaisedSeconds: 0,
  noData: "hold",
  marginSeconds: null,
  place: null,
  advice: "",
};
const line = () => new HeldLine("a", { machine: "vault" });
const at = (held: HeldLine, value: number | null, second: number) => held.step(rule, value, second * 1000);

describe("a line of a rule between checks", () => {
  test("a step that changes nothing says nothing, and moves how far it was checked and its value", () => {
    const held = line();
    at(held, 3, 1);
    expect(at(held, 4, 2)).toBeUndefined();
    expect([held.value, held.checkedMs, held.incidentId]).toEqual([4, 2000, null]);
  });

  test("raised, worse and over are told once each; the furthest value is of the incident alone", () => {
    const held = line();
    expect(at(held, 3, 1)?.effect).toBeUndefined();
    expect(at(held, 12, 2)?.effect).toMatchObject({ kind: "raise", severity: "notice", value: 12 });
    expect(at(held, 15, 3)?.effect).toBeUndefined();
    expect(held.furthest).toBe(15);
    expect(at(held, 11, 4)?.effect).toBeUndefined();
    expect(held.furthest).toBe(15);
    expect(at(held, 25, 5)?.effect).toMatchObject({ kind: "worsen", severity: "urgent" });
    expect(at(held, 2, 6)?.effect).toMatchObject({ kind: "clear" });
    expect(held.furthest).toBeNull();
  });

  test("no figure is no value; the line is missed since the first time, until it is answered again", () => {
    const held = line();
    at(held, 12, 1);
    at(held, null, 2);
    expect([held.value, held.furthest]).toEqual([null, 12]);
    expect([held.miss(3000), held.miss(9000)]).toEqual([3000, 3000]);
    held.answer("By");
    expect(held.unit).toBe("By");
    expect(held.miss(12_000)).toBe(12_000);
  });

  test("stored and read again it goes on where it stood, and is not raised twice", () => {
    const held = line();
    at(held, 12, 1);
    held.keep(7);
    const again = HeldLine.stored({
      ruleId: 1,
      line: held.key,
      tags: held.tags,
      state: held.state,
      incidentId: held.incidentId,
    });
    expect([again.incidentId, again.checkedMs]).toEqual([7, 1000]);
    expect(at(again, 13, 2)?.effect).toBeUndefined();
  });

  test("after the clock was set back nothing was checked, or began, in the future", () => {
    const held = line();
    at(held, 12, 100);
    held.rebase(40_000);
    expect(held.checkedMs).toBe(40_000);
    expect(held.state.notice?.sinceMs).toBe(40_000);
  });
});
