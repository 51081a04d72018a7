import { figures } from "../units/present.ts";
import type { Cost } from "./cost.ts";

/** At most so many prices are written out one by one. */
const mostPrices = 4;

/** Money with its currency (ISO 4217), as English has it; what is less than one has the cents' tenths as well. */
export function money(amount: number, currency: string): string {
  const isSmall = amount !== 0 && Math.abs(amount) < 1;
  const format = new Intl.NumberFormat("en", { style: "currency", currency, currencyDisplay: "code" });
  const { maximumFractionDigits: digits = 2 } = format.resolvedOptions();
  return isSmall && digits > 0
    ? new Intl.NumberFormat("en", {
        style: "currency",
        currency,
        currencyDisplay: "code",
        minimumFractionDigits: digits,
        maximumFractionDigits: digits + 1,
      })
        .format(amount)
        .replaceAll("\u00a0", " ")
    : format.format(amount).replaceAll("\u00a0", " ");
}

/** Energy in kWh, with four figures. */
export const kilowattHours = (wattHours: number): string => `${figures(wattHours / 1000)} kWh`;

/** How a cost was worked out, with its numbers filled in. */
export function costWords({ amount, volume, standing, prices, unpriced }: Cost, currency: string): string {
  const shown = prices.filter(({ wattHours }) => wattHours > 0);
  const told = shown
    .slice(0, mostPrices)
    .map(({ price, wattHours }) => `${kilowattHours(wattHours)} × ${price} ${currency}/kWh`);
  const more = shown.length > mostPrices ? [`${shown.length - mostPrices} more prices`] : [];
  const parts = [
    told.length === 0 ? `${kilowattHours(0)}` : [...told, ...more].join(" + "),
    ...(volume === 0 ? [] : [`${money(volume, currency)} by volume`]),
    ...(standing === 0 ? [] : [`${money(standing, currency)} standing charge`]),
  ];
  const without = unpriced > 0.5 ? `; ${kilowattHours(unpriced)} lie before the tariff's first day` : "";
  return `${parts.join(" + ")} = ${money(amount, currency)}${without}`;
}
