import type { Picker, Picks } from "../../../../core/dashboards/pickers.ts";

/** Tells "all, said so" in an address from nothing said. */
const allWord = "*";
const parameter = (id: string) => `pick.${id}`;

/** The picks that an address speaks of, each picker's own start elsewhere. */
export function picksFrom(search: URLSearchParams, pickers: readonly Picker[]): Picks {
  return Object.fromEntries(
    pickers.map(({ id, start }) => [
      id,
      search.has(parameter(id)) ? search.getAll(parameter(id)).filter((value) => value !== allWord) : (start ?? []),
    ]),
  );
}

/** An address's search part with one more pick; nothing is written where it is the picker's own start. */
export function searchWithPick(
  search: URLSearchParams,
  { id, start }: Picker,
  values: readonly string[],
): URLSearchParams {
  const next = new URLSearchParams(search);
  next.delete(parameter(id));
  if (JSON.stringify(values) === JSON.stringify(start ?? [])) return next;
  for (const value of values.length === 0 ? [allWord] : values) next.append(parameter(id), value);
  return next;
}
