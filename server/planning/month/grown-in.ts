import type { PlanningSettings } from "../../../core/api/energy.ts";
import type { MonthView } from "../../../core/api/month.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";
import { whatFills } from "../space/what-fills.ts";

const dayMs = 86_400_000;
const told = 5;
/** What changed by less than this of itself has not. */
const leastShare = 0.01;

/** What grew or shrank most in a window, of all that fills. */
export async function grownIn(
  store: Store,
  settings: PlanningSettings,
  window: { readonly from: number; readonly to: number },
  signal?: AbortSignal,
): Promise<MonthView["grew"]> {
  const unitOf = (counter: string) => store.series.ofCounter(counter)[0]?.unit ?? "1";
  const found: MonthView["grew"][number][] = [];
  const step = window.to - window.from > 2 * dayMs ? dayMs / 4000 : 3600;
  for (const one of whatFills(settings, unitOf)) {
    if (one.kind === "inodes" || store.series.ofCounter(one.used.counter).length === 0) continue;
    const { lines } = await answerReading(store, { window, step, sentences: { used: one.used } }, signal);
    for (const { tags, values } of lines) {
      const known = values.filter((v) => v !== null);
      const [first, last] = [known[0], known.at(-1)];
      if (first === undefined || last === undefined || Math.abs(last - first) < leastShare * Math.max(first, last))
        continue;
      const by = last - first;
      found.push({
        what: one.nameOf(tags),
        machine: tags["machine"] ?? "",
        by,
        unit: one.unit,
        share: first > 0 ? by / first : 1,
      });
    }
  }
  return found.sort((a, b) => Math.abs(b.by) - Math.abs(a.by)).slice(0, told);
}
