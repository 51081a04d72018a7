import type { EnergyView, MonthOutlook } from "../api/energy.ts";
import { kilowattHours, money } from "../tariffs/cost-words.ts";
import { figures } from "../units/present.ts";

const dayMs = 86_400_000;

/** What a person wants to know of energy first, in sentences. */
export function energyWords(
  { lines, months }: Pick<EnergyView, "lines" | "months">,
  windowMs: number,
): readonly string[] {
  const added = lines.filter(({ share }) => share !== null);
  const [most] = [...added].sort((a, b) => b.wattHours - a.wattHours);
  const all = added.reduce((sum, one) => sum + one.wattHours, 0);
  return [
    ...months.map(monthWords),
    ...(most && added.length > 1 && all > 0
      ? [
          `${most.of} uses most: ${kilowattHours((most.wattHours / windowMs) * dayMs)} a day, ${figures((most.wattHours / all) * 100)} % of what is measured.`,
        ]
      : []),
  ];
}

function monthWords({ tariff, currency, soFar, expected, budget }: MonthOutlook): string {
  const begin = `${tariff}: this month cost ${money(soFar.cost, currency)} so far and will cost about ${money(expected.cost, currency)}`;
  if (budget === null) return `${begin}.`;
  return expected.cost > budget
    ? `${begin}, ${money(expected.cost - budget, currency)} more than its budget of ${money(budget, currency)}.`
    : `${begin}, within its budget of ${money(budget, currency)}.`;
}
