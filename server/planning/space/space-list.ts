import type { CostsView, TierCosts } from "../../../core/api/costs.ts";
import type { SpaceView } from "../../../core/api/space.ts";
import type { PlanningSettings } from "../../../core/api/energy.ts";
import { unknownWhy } from "../../../core/planning/space-words.ts";
import { spaceOf } from "../../../core/capacity/space.ts";
import type { Line } from "../../../core/reading/document.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";
import { chartOf, ownTags, type WhatFills, whatFills } from "./what-fills.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
/** So far back is looked: the forecast of four weeks ago has eight weeks of its own. */
const pastDays = 84;
const stripDays = 56;

/** Everything that fills, what will be full first on top, then the fullest. */
export async function spaceList(
  store: Store,
  settings: PlanningSettings,
  costs: CostsView,
  ownMachine: string,
): Promise<readonly SpaceView[]> {
  const nowMs = store.nowMs();
  const unitOf = (counter: string) => store.series.ofCounter(counter)[0]?.unit ?? "1";
  const found: SpaceView[] = [];
  for (const one of whatFills(settings, unitOf)) found.push(...(await viewsOf(store, one, nowMs)));
  return [...found, ...costs.tiers.flatMap((tier) => tierView(tier, ownMachine))].sort(byWhen);
}

const byWhen = (a: SpaceView, b: SpaceView): number =>
  (a.fullLikelyMs ?? Number.POSITIVE_INFINITY) - (b.fullLikelyMs ?? Number.POSITIVE_INFINITY) ||
  b.used / b.size - a.used / a.size ||
  `${a.machine} ${a.what}`.localeCompare(`${b.machine} ${b.what}`);

async function viewsOf(store: Store, one: WhatFills, nowMs: number): Promise<readonly SpaceView[]> {
  if (store.series.ofCounter(one.used.counter).length === 0) return [];
  const window = { from: nowMs - pastDays * dayMs, to: nowMs };
  const { lines, from } = await answerReading(store, {
    window,
    step: hourMs / 1000,
    sentences: { used: one.used, ...(typeof one.size !== "number" && { size: one.size }) },
  });
  const sizes = new Map(lines.filter(({ of }) => of === "size").map((line) => [keyOf(one, line), line]));
  return lines
    .filter(({ of }) => of === "used")
    .flatMap((line) => {
      const limit = typeof one.size === "number" ? one.size : sizes.get(keyOf(one, line));
      return limit === undefined ? [] : viewOf(one, line, limit, { from, nowMs });
    });
}

function viewOf(
  one: WhatFills,
  { tags, values }: Line,
  limit: Line | number,
  { from, nowMs }: { readonly from: number; readonly nowMs: number },
): readonly SpaceView[] {
  const sizes = typeof limit === "number" ? undefined : limit.values;
  const size = typeof limit === "number" ? limit : (sizes?.findLast((v) => v !== null) ?? 0);
  if (!(size > 0)) return [];
  // A size that was changed changes what is full: shares are of the size now.
  const shares = Float64Array.from(values, (v) => (v === null ? Number.NaN : v / size));
  const space = spaceOf(shares, hourMs);
  if (!space) return [];
  const newest = values.findLastIndex((v) => v !== null);
  // What has not been heard of for days is no longer there.
  if (values.length - newest > 72) return [];
  const at = (ms: number | undefined) =>
    ms === undefined ? null : Math.min(8.64e15, from + (newest + 1) * hourMs + ms);
  const { full, error, share, perDay, weekChange } = space;
  return [
    {
      what: one.nameOf(tags),
      machine: tags["machine"] ?? "",
      kind: one.kind,
      used: share * size,
      size,
      unit: one.unit,
      perDay: perDay * size,
      weekChange: weekChange === null ? null : weekChange * size,
      fullFromMs: share >= 1 ? nowMs : at(full?.earliestMs),
      fullToMs: share >= 1 ? nowMs : at(full?.latestMs),
      fullLikelyMs: share >= 1 ? nowMs : at(full?.likelyMs),
      why: full || share >= 1 ? null : space.kind === "steady" ? "it does not fill" : unknownWhy,
      error,
      strip: stripOf(shares),
      reading: chartOf(one, tags),
    },
  ];
}

/** A value a day: the last of it. */
function stripOf(shares: Float64Array): readonly (number | null)[] {
  return Array.from({ length: stripDays }, (_, d) => {
    const end = shares.length - (stripDays - 1 - d) * 24;
    const known = shares.subarray(Math.max(0, end - 24), Math.max(0, end)).findLast((v) => !Number.isNaN(v));
    return known === undefined ? null : Math.round(known * 1e4) / 1e4;
  });
}

/** A tier grows until it holds all the days that it is kept, and stays so. */
function tierView({ tier, keptDays, sizeBytes, bytesPerDay }: TierCosts, machine: string): readonly SpaceView[] {
  if (bytesPerDay === null || sizeBytes === 0) return [];
  const size = Math.max(sizeBytes, bytesPerDay * keptDays);
  const names = { raw: "samples", "5m": "buckets of 5 min", "1h": "buckets of an hour" };
  return [
    {
      what: `Nubrel's ${names[tier]}, ${keptDays} days`,
      machine,
      kind: "tier",
      used: sizeBytes,
      size,
      unit: "By",
      perDay: sizeBytes >= size ? 0 : bytesPerDay,
      weekChange: null,
      fullFromMs: null,
      fullToMs: null,
      fullLikelyMs: null,
      why: "what is older than its days is removed: it stays at this size",
      error: { days7: null, days14: null, days28: null },
      strip: [],
      reading: null,
    },
  ];
}

const keyOf = (one: WhatFills, { tags }: Line): string => JSON.stringify(ownTags(one, tags));
