import { processorBusy } from "../../../core/reading/common-readings.ts";
import type { Condition, Lines, ReadingDocument, Sentence } from "../../../core/reading/document.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";
import { fineMs } from "./edges.ts";

const quarterSeconds = 900;
const hourSeconds = 3600;

interface Span {
  readonly from: number;
  readonly to: number;
}

/** How busy the processors of machines were in each stretch, 0 to 1, by machine; NaN where that is not known. */
export async function busyShares(
  store: Store,
  machines: readonly string[],
  edgesMs: Float64Array,
  signal?: AbortSignal,
): Promise<ReadonlyMap<string, Float64Array>> {
  const where: Condition[] = [{ tag: "machine", is: [...machines] }];
  const found = await readOver(store, processorBusy(where), edgesMs, signal);
  return new Map([...found].map(([, { tags, values }]) => [tags["machine"] ?? "", values.map((v) => v / 100)]));
}

/** A guest or container of a host, and its processor seconds in each stretch. */
export interface GuestSeconds {
  readonly host: string;
  readonly guest: string;
  readonly seconds: Float64Array;
}

/** Processor seconds of guests and containers, and of their hosts, in each stretch. */
export async function processorSeconds(
  store: Store,
  hosts: readonly string[],
  edgesMs: Float64Array,
  signal?: AbortSignal,
): Promise<{ readonly guests: readonly GuestSeconds[]; readonly busy: ReadonlyMap<string, Float64Array> }> {
  const host: Condition = { tag: "machine", is: [...hosts] };
  const rates = async (counter: string, lines: Lines, where: readonly Condition[] = []) => {
    const sentence: Sentence = { counter, where: [host, ...where], lines, combine: "sum", as: "rate" };
    return await readOver(store, { sentences: { a: sentence } }, edgesMs, signal);
  };
  const seconds = (values: Float64Array) =>
    values.map((v, k) => (v * ((edgesMs[k + 1] as number) - (edgesMs[k] as number))) / 1000);
  const guests: GuestSeconds[] = [];
  for (const [counter, tag] of [
    ["guest.cpu.time", "guest"],
    ["container.cpu.time", "container"],
  ] as const)
    for (const { tags, values } of (await rates(counter, { per: ["machine", tag] })).values())
      guests.push({ host: tags["machine"] ?? "", guest: tags[tag] ?? "", seconds: seconds(values) });
  const busy = await rates("system.cpu.time", { per: ["machine"] }, [{ tag: "mode", not: ["idle", "iowait"] }]);
  return {
    guests,
    busy: new Map([...busy.values()].map(({ tags, values }) => [tags["machine"] ?? "", seconds(values)])),
  };
}

/** Reads by the quarter of an hour or the hour, and has of each stretch the value of the step that it lies in. */
async function readOver(
  store: Store,
  document: Omit<ReadingDocument, "window">,
  edgesMs: Float64Array,
  signal?: AbortSignal,
): Promise<ReadonlyMap<string, { readonly tags: Readonly<Record<string, string>>; readonly values: Float64Array }>> {
  const window: Span = { from: edgesMs[0] as number, to: edgesMs.at(-1) as number };
  const step = window.to - window.from <= fineMs ? quarterSeconds : hourSeconds;
  const { lines, from, stepMs } = await answerReading(store, { ...document, window, step }, signal);
  return new Map(
    lines.map(({ tags, values }) => [
      JSON.stringify(tags),
      {
        tags,
        values: Float64Array.from(
          { length: edgesMs.length - 1 },
          (_, k) => values[Math.floor(((edgesMs[k] as number) - from) / stepMs)] ?? Number.NaN,
        ),
      },
    ]),
  );
}
