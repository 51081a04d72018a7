import type { PlanningSettings } from "../core/api/energy.ts";
import type { Tariff } from "../core/tariffs/tariff.ts";

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const nights = (price: number) => [{ from: "22:00", to: "06:00", price }];

/** What the station pays: dearer in winter, cheaper by night. */
export const worldTariffs: readonly Tariff[] = [
  {
    name: "station",
    currency: "EUR",
    zone,
    from: "2026-01-01",
    price: 0.29,
    hours: nights(0.21),
    seasons: [{ from: "11-01", to: "03-31", price: 0.33, hours: nights(0.23) }],
    standing: { amount: 8.5, per: "month" },
    gramsPerKwh: 380,
    budgetPerMonth: 60,
  },
];

/** What is known of the machines that have no meter. */
export const worldPlans: PlanningSettings = {
  guesses: {
    stream: { idleWatts: 38, fullWatts: 95 },
    vault: { idleWatts: 58, fullWatts: 96 },
  },
  feeders: [],
  speeds: {},
  diskOperations: {},
  fills: [],
  meters: [],
};
