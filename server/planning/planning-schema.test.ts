import { describe, expect, test } from "vitest";
import { energySchema, planningSettingsSchema, tariffsSchema } from "./planning-schema.ts";

const tariff = { name: "rack", currency: "EUR", zone: "Europe/Berlin", from: "2026-01-01", price: 0.25 };
const faultOf = (
  schema: { validate(value: unknown): { error?: { details: { path: (string | number)[] }[] } | undefined } },
  value: unknown,
) => schema.validate(value).error?.details[0]?.path.join(".");

describe("tariffs", () => {
  test("a whole one is taken as it is", () => {
    const whole = {
      ...tariff,
      hours: [{ days: ["mon", "sun"], from: "22:00", to: "06:00", price: 0.2 }],
      seasons: [{ from: "10-01", to: "03-31", price: 0.3, hours: [{ from: "00:00", to: "24:00", price: 0.1 }] }],
      standing: { amount: 100, per: "year" },
      steps: [{ aboveKwh: 100, add: -0.02 }],
      sources: ["hive"],
      gramsPerKwh: 380,
      budgetPerMonth: 50,
    };
    expect(tariffsSchema.validate([whole])).toEqual({ value: [whole] });
  });
  test.each([
    [{ name: "" }, "0.name"],
    [{ price: 1e7 }, "0.price"],
    [{ from: "2026-13-01" }, "0.from"],
    [{ from: "1 January" }, "0.from"],
    [{ currency: "euro" }, "0.currency"],
    [{ zone: "Berlin" }, "0.zone"],
    [{ hours: [{ from: "22:00", to: "6:00", price: 1 }] }, "0.hours.0.to"],
    [{ hours: [{ from: "22:00", to: "06:00" }] }, "0.hours.0.price"],
    [{ hours: [{ days: ["monday"], from: "22:00", to: "06:00", price: 1 }] }, "0.hours.0.days.0"],
    [{ seasons: [{ from: "02-30", to: "3-1" }] }, "0.seasons.0.to"],
    [{ standing: { amount: 1, per: "week" } }, "0.standing.per"],
    [{ standing: -1 }, "0.standing"],
    [
      {
        steps: [
          { aboveKwh: 5, add: 1 },
          { aboveKwh: 5, add: 2 },
        ],
      },
      "0.steps.1",
    ],
    [{ budgetPerMonth: 0 }, "0.budgetPerMonth"],
    [{ colour: "green" }, "0.colour"],
  ])("%j is refused at %s", (wrong, path) => expect(faultOf(tariffsSchema, [{ ...tariff, ...wrong }])).toBe(path));
  test("one of the same name may follow on another day", () => {
    expect(faultOf(tariffsSchema, [tariff, { ...tariff, from: "2027-01-01" }])).toBeUndefined();
    expect(faultOf(tariffsSchema, [tariff, tariff])).toBe("1");
  });
});

describe("what is asked of energy", () => {
  const asked = { window: { from: 0, to: 86_400_000 }, per: "machine" };
  test.each(["machine", "outlet", "guest", "together", "tag:site", "tag:a_b.c-1"])("per %s", (per) =>
    expect(faultOf(energySchema, { ...asked, per })).toBeUndefined(),
  );
  test.each([
    [{ per: "tag:" }, "per"],
    [{ per: "tag:1" }, "per"],
    [{ per: "rack" }, "per"],
    [{ per: undefined }, "per"],
    [{ window: { from: 0, to: 6 * 366 * 86_400_000 } }, "window"],
    [{ zone: "Nowhere" }, "zone"],
    [{ fill: "yes, please" }, "fill"],
  ])("%j is refused at %s", (wrong, path) => expect(faultOf(energySchema, { ...asked, ...wrong })).toBe(path));
});

describe("what a person says of machines", () => {
  test("nothing said is nothing kept", () =>
    expect(planningSettingsSchema.validate({}).value).toEqual({
      guesses: {},
      feeders: [],
      speeds: {},
      fills: [],
      meters: [],
      diskOperations: {},
    }));
  test.each([
    [{ guesses: { desk: { idleWatts: 50, fullWatts: 40 } } }, "guesses.desk.fullWatts"],
    [{ guesses: { desk: { idleWatts: -1, fullWatts: 40 } } }, "guesses.desk.idleWatts"],
    [{ speeds: { hive: 0 } }, "speeds.hive"],
    [{ fills: [{ name: "queue", counter: "mail.queue" }] }, "fills.0.limit"],
    [{ feeders: [""] }, "feeders.0"],
  ])("%j is refused at %s", (wrong, path) => expect(faultOf(planningSettingsSchema, wrong)).toBe(path));
});
