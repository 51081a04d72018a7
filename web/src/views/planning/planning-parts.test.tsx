// @vitest-environment jsdom
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeAll, describe, expect, test, vi } from "vitest";
import type { EnergyLine, EnergyView } from "../../../../core/api/energy.ts";
import type { SpaceView } from "../../../../core/api/space.ts";
import type { Tariff } from "../../../../core/tariffs/tariff.ts";
import { MonthGauge } from "../../shared/planning/month-gauge.tsx";
import { EnergyTable } from "./energy/energy-table.tsx";
import { StepColumns } from "./energy/step-columns.tsx";
import { TariffForm } from "./energy/tariff-form.tsx";
import { FillStrip } from "./space/fill-strip.tsx";
import { WhatIfPart } from "./space/what-if-part.tsx";

beforeAll(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
});
afterEach(cleanup);

const day = 86_400_000;
const type = async (label: string, text: string) => {
  const field = screen.getByLabelText(label);
  await userEvent.clear(field);
  await userEvent.type(field, text);
};

describe("a tariff as a sentence", () => {
  const edited = (tariff?: Tariff) => {
    const save = vi.fn<(tariff: Tariff) => void>();
    render(<TariffForm tariff={tariff} problem={undefined} isSaving={false} onSave={save} onLeave={() => {}} />);
    return {
      saved: async () => {
        await userEvent.click(screen.getByRole("button", { name: "Save it" }));
        return save.mock.calls.at(-1)?.[0];
      },
    };
  };
  const plain: Tariff = { name: "rack", currency: "EUR", zone: "Europe/Berlin", from: "2026-01-01", price: 0.25 };
  test("a price is enough; a comma is as good as a point", async () => {
    const { saved } = edited(plain);
    await type("price a kWh", "0,31");
    expect(await saved()).toEqual({ ...plain, price: 0.31 });
  });
  test("hours with days, a season with hours of its own, and away again", async () => {
    const { saved } = edited(plain);
    await userEvent.click(screen.getByRole("button", { name: "Other hours cost something else" }));
    await type("on which days", "Sat sun");
    await userEvent.click(screen.getByRole("button", { name: "Part of the year costs something else" }));
    expect(await saved()).toEqual({
      ...plain,
      hours: [{ days: ["sat", "sun"], from: "22:00", to: "06:00", price: 0.2 }],
      seasons: [{ from: "10-01", to: "03-31" }],
    });
    for (const without of screen.getAllByRole("button", { name: "without it" })) await userEvent.click(without);
    expect(await saved()).toEqual(plain);
  });
  test("standing charge, volume, budget, grams, machines; emptied they are not said", async () => {
    const { saved } = edited(plain);
    await type("standing charge", "9.5");
    await userEvent.selectOptions(screen.getByLabelText("standing charge for how long"), "year");
    await type("kWh a month", "200");
    await type("more a kWh", "0.05");
    await type("budget a month", "60");
    await type("grams of carbon dioxide a kWh", "380");
    await type("machines of this tariff", "hive, vault");
    expect(await saved()).toEqual({
      ...plain,
      standing: { amount: 9.5, per: "year" },
      steps: [{ aboveKwh: 200, add: 0.05 }],
      budgetPerMonth: 60,
      gramsPerKwh: 380,
      sources: ["hive", "vault"],
    });
    for (const label of [
      "standing charge",
      "kWh a month",
      "budget a month",
      "grams of carbon dioxide a kWh",
      "machines of this tariff",
    ])
      await userEvent.clear(screen.getByLabelText(label));
    expect(await saved()).toEqual(plain);
  });
  test("without a name it cannot be saved, and what is wrong is told", async () => {
    render(
      <TariffForm
        tariff={plain}
        problem={'"0.zone" must be a time zone'}
        isSaving={false}
        onSave={() => {}}
        onLeave={() => {}}
      />,
    );
    expect(screen.getByRole("alert").textContent).toContain("time zone");
    await userEvent.clear(screen.getByLabelText("name of the tariff"));
    expect((screen.getByRole("button", { name: "Save it" }) as HTMLButtonElement).disabled).toBe(true);
  });
});

const line = (more: Partial<EnergyLine>): EnergyLine => ({
  of: "hive",
  wattHours: 3576,
  meanWatts: 149,
  cost: 0.393,
  currency: "EUR",
  share: 1,
  missingShare: 0,
  estimated: false,
  isPart: false,
  feedsOthers: false,
  filledWattHours: 0,
  method: "its power, added up over time",
  formula: "3.58 kWh × 0.11 EUR/kWh = EUR 0.393",
  grams: 1358.9,
  compared: { method: "its own counter of energy", wattHours: 3500, against: 3576 },
  ownMeanWatts: 150,
  ...more,
});

describe("energy in a table", () => {
  test("each row opens how it was measured, compared and priced", async () => {
    render(<EnergyTable lines={[line({})]} />);
    expect(screen.queryByText("its power, added up over time")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "hive" }));
    for (const words of ["its power, added up over time", "3.58 kWh × 0.11 EUR/kWh = EUR 0.393", "1.36 kg"])
      expect(screen.getByText(words)).toBeTruthy();
    expect(screen.getByText(/its own counter of energy: 3\.5 kWh beside 3\.58 kWh/)).toBeTruthy();
    expect(screen.getByText(/150 W as the device works it out, 149 W as we do/)).toBeTruthy();
  });
  test("estimates, parts and supplies are marked; what is not known is a dash", () => {
    render(
      <EnergyTable
        lines={[
          line({ of: "desk", estimated: true, share: null, cost: null, currency: null }),
          line({ of: "playout", isPart: true, missingShare: 0.25 }),
          line({ of: "ups", feedsOthers: true, share: null, meanWatts: null }),
        ]}
      />,
    );
    const row = (name: string) => screen.getByRole("button", { name }).closest("tr") as HTMLElement;
    expect(within(row("desk")).getByText("estimated")).toBeTruthy();
    expect(within(row("desk")).getAllByText("–").length).toBeGreaterThanOrEqual(2);
    expect(within(row("playout")).getByText("processor alone")).toBeTruthy();
    expect(within(row("playout")).getByText("25 %")).toBeTruthy();
    expect(within(row("ups")).getByText("feeds others, not added")).toBeTruthy();
  });
  test("where nothing measures it says what would", () => {
    render(<EnergyTable lines={[]} />);
    expect(screen.getByText(/Nothing here measures power or energy/)).toBeTruthy();
  });
});

describe("energy by the day", () => {
  const edges = [0, 1, 2, 3].map((d) => Date.UTC(2026, 10, 1 + d));
  const step = (wattHours: number | null) => ({ wattHours, cost: wattHours === null ? null : wattHours / 4000 });
  const energy = {
    lines: [
      line({ steps: [step(1000), step(null), step(3000)] }),
      line({ of: "vault", steps: [step(500), step(null), step(500)] }),
      line({ of: "ups", share: null, steps: [step(9000), step(9000), step(9000)] }),
    ],
    edges,
    currency: "EUR",
  } as unknown as EnergyView;
  test("what is added stands in a column; arrows tell each, and one that is not known says so", async () => {
    render(<StepColumns energy={energy} step="day" />);
    expect(screen.getByText("at most 3.5 kWh")).toBeTruthy();
    const columns = screen.getByRole("slider");
    columns.focus();
    await userEvent.keyboard("{ArrowLeft}");
    expect(screen.getByText(/: not known$/)).toBeTruthy();
    await userEvent.keyboard("{ArrowLeft}");
    expect(screen.getByText(/: 1\.5 kWh, EUR 0\.375$/)).toBeTruthy();
    await userEvent.keyboard("{Escape}");
    expect(screen.getByText("at most 3.5 kWh")).toBeTruthy();
  });
});

test("of nothing there are no columns", () => {
  const energy = { lines: [], edges: [0, day], currency: null } as unknown as EnergyView;
  const { container } = render(<StepColumns energy={energy} step="day" />);
  expect(container.childElementCount).toBe(0);
});

test("the month's rule tells its cost, what it will be and the budget, and how that was made", () => {
  render(
    <MonthGauge
      month={{
        tariff: "rack",
        currency: "EUR",
        fromMs: Date.UTC(2026, 10, 1, 12),
        toMs: Date.UTC(2026, 11, 1),
        soFar: { wattHours: 1, cost: 9 },
        expected: { wattHours: 2, cost: 24 },
        budget: 20,
        formula: "measured and usual",
      }}
    />,
  );
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
    "EUR 9.00 so far, EUR 24.00 expected, budget EUR 20.00",
  );
  expect(screen.getByText("2026-11")).toBeTruthy();
  expect(screen.getByText("measured and usual")).toBeTruthy();
});

describe("what if", () => {
  const now = Date.UTC(2026, 10, 24);
  const one: SpaceView = {
    what: "pool archive",
    machine: "vault",
    kind: "pool",
    used: 60e9,
    size: 100e9,
    unit: "By",
    perDay: 2e9,
    weekChange: null,
    fullFromMs: now + 18 * day,
    fullToMs: now + 22 * day,
    fullLikelyMs: now + 20 * day,
    why: null,
    error: { days7: null, days14: null, days28: null },
    strip: [],
    reading: null,
  };
  const shown = (more: Partial<SpaceView> = {}) =>
    render(
      <MemoryRouter>
        <WhatIfPart one={{ ...one, ...more }} nowMs={now} />
      </MemoryRouter>,
    );
  const then = () => document.querySelector("[data-then]")?.textContent ?? "";
  test("faster, added, moved, larger: each moves the day (arithmetic)", async () => {
    shown();
    expect(then()).toBe("");
    await type("how many times as fast", "2");
    expect(then()).toMatch(/in 9 to 11 days/);
    await userEvent.clear(screen.getByLabelText("how many times as fast"));
    await type("moved away", "40");
    expect(then()).toMatch(/in 36 to 44 days/);
    await userEvent.clear(screen.getByLabelText("moved away"));
    await type("size", "200");
    expect(then()).toMatch(/in 63 to 77 days/);
    await type("added once", "150");
    expect(then()).toMatch(/full now/);
  });
  test("its chart is a link, with its window", () => {
    shown({ reading: { sentences: { used: { counter: "mail.queue" } } } });
    const address = screen.getByRole("link", { name: "its chart over eight weeks" }).getAttribute("href") ?? "";
    const search = new URLSearchParams(address.slice(address.indexOf("?")));
    expect(JSON.parse(search.get("reading") ?? "")).toEqual({ sentences: { used: { counter: "mail.queue" } } });
    expect(Date.parse(search.get("to") ?? "") - Date.parse(search.get("from") ?? "")).toBe(56 * day);
  });
  test("what does not fill would not, and a tier is asked nothing", async () => {
    shown({ perDay: -1, fullFromMs: null, fullToMs: null });
    await type("how many times as fast", "9");
    expect(then()).toBe("It would not fill.");
    cleanup();
    shown({ kind: "tier" });
    expect(screen.queryByLabelText("size")).toBeNull();
  });
});

test("a strip draws the days that are known alone, and says how full it is now", () => {
  render(<FillStrip strip={[null, 0.5, null, 0.95]} share={0.95} />);
  expect(screen.getByRole("img").querySelectorAll("rect")).toHaveLength(2);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("95 % full now");
});
