import { answerReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";

/** The newest mean that each device works out itself, W, by machine. */
export async function ownMeans(
  store: Store,
  { from, to }: { readonly from: number; readonly to: number },
  signal?: AbortSignal,
): Promise<ReadonlyMap<string, number>> {
  if (store.series.ofCounter("hw.power.own_mean").length === 0) return new Map();
  const { lines } = await answerReading(
    store,
    {
      window: { from, to },
      points: 100,
      sentences: { a: { counter: "hw.power.own_mean", lines: { per: ["machine"] }, combine: "max" } },
    },
    signal,
  );
  return new Map(lines.flatMap(({ tags, mean }) => (mean === null ? [] : [[tags["machine"] ?? "", mean] as const])));
}
