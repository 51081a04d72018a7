import type { FitAnswer, FitBody, FitGuestView, FitHostView, Peak } from "../../../core/api/fit.ts";
import type { FitFound, FitProblem } from "../../../core/fit/fit-problem.ts";
import { quantile } from "../../../core/series/quantile.ts";
import { figures } from "../../../core/units/present.ts";
import { type LoadedGuest, type Loads, resources } from "./read-loads.ts";

/** Curves are shown by so many moments at most. */
const mostShown = 400;
/** What was given is much where it is more than twice what would do. */
const muchMore = 2;

/** How it was asked, checked: shares of 0 to 1. */
export interface FitHow {
  readonly percentile: number;
  readonly headroom: number;
}

/** A share as a share, or as percent. */
export const asShare = (given: number): number => (given > 1 ? given / 100 : given);

export function problemOf(
  loads: Loads,
  { keep = [], apart = [] }: FitBody,
  { percentile, headroom }: FitHow,
): FitProblem {
  const hosts = loads.hosts.map(({ name, capacity, base }) => ({ name, capacity, base, stays: false }));
  const hostNumber = new Map(hosts.map(({ name }, h) => [name, h]));
  const placed = loads.guests;
  const numbersOf = (named: string) =>
    placed.flatMap(({ name, host }, g) => (name === named || name === `${host} ${named}` ? [g] : []));
  const only = new Map<number, readonly number[]>();
  for (const one of keep)
    for (const g of numbersOf(typeof one === "string" ? one : one.guest)) {
      const own = hostNumber.get(placed[g]?.host ?? "");
      const on =
        typeof one === "string"
          ? own === undefined
            ? []
            : [own]
          : one.on.flatMap((name) => hostNumber.get(name) ?? []);
      only.set(g, on);
    }
  return {
    hosts,
    guests: placed.map(({ name, host, load }, g) => {
      const bound = only.get(g);
      return { name, host: hostNumber.get(host) ?? -1, load, ...(bound && { only: bound }) };
    }),
    apart: apart.flatMap((names) => pairsOf([...new Set(names.flatMap(numbersOf))])),
    above: 1 - percentile,
    headroom,
  };
}

function pairsOf(numbers: readonly number[]): readonly (readonly [number, number])[] {
  return numbers.flatMap((a, i) => numbers.slice(i + 1).map((b) => [a, b] as const));
}

type HostFound = Omit<FitHostView, "speed" | "canMeasure">;
type FoundAnswer = Omit<FitAnswer, "saves" | "hosts"> & { readonly hosts: readonly HostFound[] };

/** What was found, in words and curves; what is saved is worked out elsewhere. */
export function answerOf(loads: Loads, problem: FitProblem, found: FitFound, how: FitHow): FoundAnswer {
  const { hosts, guests } = problem;
  const hostOf = found.best?.hostOf ?? guests.map(({ host }) => host);
  const on = new Set(hostOf);
  const nameOf = (h: number) => hosts[h]?.name ?? "nowhere";
  const moved = guests.flatMap(({ name, host }, g) =>
    host === hostOf[g]
      ? []
      : [{ guest: name, from: loads.guests[g]?.host ?? nameOf(host), to: nameOf(hostOf[g] as number) }],
  );
  const moves = moved.sort((a, b) => a.guest.localeCompare(b.guest));
  const carried = new Set(loads.guests.map(({ host }) => host));
  const onNames = new Set([...on].map(nameOf));
  const canBeOff = found.best ? [...carried].filter((name) => !onNames.has(name)).sort() : [];
  const views = hosts.map((_, h) => hostView(loads, problem, hostOf, h, how));
  const fits = found.best !== undefined;
  return {
    fits,
    proven: found.proven,
    bound: found.bound,
    hosts: views,
    guests: guests.map((_, g) => guestView(loads.guests[g] as LoadedGuest, how)),
    moves,
    canBeOff,
    fromMs: loads.fromMs,
    stepMs: loads.stepMs * every(loads),
    words: wordsOf({ fits, found, views, moves, canBeOff, how, guests: guests.length }),
    notes: loads.notes,
  };
}

function hostView(loads: Loads, problem: FitProblem, hostOf: readonly number[], h: number, how: FitHow): HostFound {
  const host = problem.hosts[h] as (typeof problem.hosts)[0];
  const own = problem.guests.filter((_, g) => hostOf[g] === h);
  const sums = resources.map((_, r) => {
    const sum = Float64Array.from(host.base[r] as Float64Array);
    for (const { load } of own)
      for (let t = 0; t < sum.length; t++) sum[t] = (sum[t] as number) + ((load[r] as Float64Array)[t] as number);
    return sum;
  });
  return {
    machine: host.name,
    guests: own.map(({ name }) => name),
    peak: sums.map((sum, r) => peakOf(r, sum, host.capacity[r] as number, how)),
    curves: sums.map((sum) => shown(sum, every(loads))),
  };
}

function guestView({ name, host, load, given, diskOperations }: LoadedGuest, how: FitHow): FitGuestView {
  const peak = load.map((values, r) => peakOf(r, values, given[r] as number, how));
  return {
    guest: name,
    host,
    peak,
    would: peak.flatMap(({ resource, unit, most, capacity }) => {
      const needs = most / (1 - how.headroom);
      const whole = resource === "processor" ? Math.max(1, Math.ceil(needs)) : needs;
      return capacity !== null && whole * muchMore <= capacity
        ? [{ resource, unit, given: capacity, needs: whole }]
        : [];
    }),
    diskOperations: diskOperations ? quantileOf(diskOperations, how.percentile) : null,
  };
}

function peakOf(r: number, values: Float64Array, capacity: number, { percentile }: FitHow): Peak {
  const { resource, unit } = resources[r] as (typeof resources)[number];
  let most = 0;
  for (const v of values) if (v > most) most = v;
  return {
    resource,
    unit,
    needed: quantileOf(values, percentile),
    most,
    capacity: Number.isFinite(capacity) ? capacity : null,
  };
}

const quantileOf = (values: Float64Array, p: number): number =>
  values.length === 0 ? 0 : quantile(Float64Array.from(values).sort(), p);

const every = ({ guests, hosts }: Loads): number =>
  Math.ceil((guests[0]?.load[0]?.length ?? hosts[0]?.base[0]?.length ?? 0) / mostShown) || 1;

/** The most of every so many moments. */
function shown(values: Float64Array, by: number): readonly number[] {
  return Array.from({ length: Math.ceil(values.length / by) }, (_, i) => {
    let most = 0;
    for (let t = i * by; t < Math.min(values.length, (i + 1) * by); t++) most = Math.max(most, values[t] as number);
    return Number(most.toPrecision(4));
  });
}

interface Told {
  readonly fits: boolean;
  readonly found: FitFound;
  readonly views: readonly HostFound[];
  readonly moves: FitAnswer["moves"];
  readonly canBeOff: readonly string[];
  readonly how: FitHow;
  readonly guests: number;
}

function wordsOf({ fits, found, views, moves, canBeOff, how, guests }: Told): readonly string[] {
  const kept = `with ${figures(how.headroom * 100)} % of each host kept free, in ${figures(how.percentile * 100)} of 100 moments`;
  if (guests === 0) return ["No guests or containers were gathered in this window."];
  if (!fits)
    return [
      found.proven
        ? `Nothing fits ${kept}: at least ${found.bound} hosts like these would be needed, and there are ${views.length}.`
        : `No placement was found yet ${kept}; at least ${found.bound} hosts are needed.`,
    ];
  const on = found.best?.on ?? 0;
  const sure =
    found.proven || found.bound === on
      ? "and no fewer would do"
      : `and at least ${found.bound} are needed: whether so few do is not known`;
  const off = canBeOff.length > 0 ? `${listed(canBeOff)} can be switched off: ` : "";
  const moved = moves.length === 0 ? `all ${guests} stay where they are` : `${moves.length} of ${guests} move`;
  return [
    `${off}everything fits on ${on} of ${views.length} hosts ${kept}, ${sure}; ${moved}.`,
    ...views
      .filter((view) => view.guests.length > 0)
      .map(
        (view) =>
          `${view.machine} then needs ${view.peak
            .filter(({ capacity }) => capacity)
            .map(shareWords)
            .join(" and ")}.`,
      ),
  ];
}

const shareWords = ({ resource, needed, capacity }: Peak): string =>
  `${figures((needed / (capacity as number)) * 100)} % of its ${resource === "processor" ? "processors" : resource}`;

const listed = (names: readonly string[]): string =>
  names.length < 2 ? names.join("") : `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
