import type { RulePlace } from "../../../../core/rules/rule.ts";
import { type OpenReading, readingFromSearch } from "../../sentence/reading-address.ts";

/** The address of a new rule about a reading, of a tile where there is one. */
export function newRuleAddress(
  { points: _, extremes: __, usual: ___, ...reading }: OpenReading,
  place?: RulePlace,
  name?: string,
): string {
  const search = new URLSearchParams({
    reading: JSON.stringify(reading),
    ...(place && { dashboard: String(place.dashboard), tile: place.tile }),
    ...(name && { name }),
  });
  return `/alerts/rules/new?${search.toString()}`;
}

/** What an address says of a new rule. */
export function newRuleFrom(search: URLSearchParams): {
  readonly reading: OpenReading | undefined;
  readonly place: RulePlace | null;
  readonly name: string;
} {
  const dashboard = Number(search.get("dashboard"));
  const tile = search.get("tile");
  return {
    reading: readingFromSearch(search),
    place: Number.isInteger(dashboard) && dashboard > 0 && tile ? { dashboard, tile } : null,
    name: search.get("name") ?? "",
  };
}
