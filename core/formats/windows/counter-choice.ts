import { type CounterPath, counterPath, pathText } from "./counter-path.ts";
import { englishName } from "./names.ts";

/**
 * A category of counters that a machine has: what it counts, and of which instances (none where there is one thing
 * only).
 */
export interface CounterCategory {
  readonly category: string;
  readonly counters: readonly string[];
  readonly instances: readonly string[];
}

/** Counters that are gathered: of all instances, of some, or of a category without instances. */
export interface PickedCounter {
  readonly category: string;
  readonly counter: string;
  readonly instances: "all" | readonly string[];
}

export interface CounterChoice {
  readonly picks: readonly PickedCounter[];
  /** Other machines whose counters this one asks for, by their names. */
  readonly machines: readonly string[];
}

const mostCategories = 2000;
const mostOfOne = 5000;

/** What a machine has, from the lines of `typeperf -qx`; lines that are no paths say nothing. */
export function readCounterList(text: string): readonly CounterCategory[] {
  const found = new Map<string, { counters: Set<string>; instances: Set<string> }>();
  for (const line of text.split(/\r?\n/)) {
    const path = counterPath(line);
    if (!path) continue;
    let one = found.get(path.category);
    if (!one && found.size < mostCategories)
      found.set(path.category, (one = { counters: new Set(), instances: new Set() }));
    if (!one) continue;
    if (one.counters.size < mostOfOne) one.counters.add(path.counter);
    if (path.instance !== undefined && one.instances.size < mostOfOne) one.instances.add(path.instance);
  }
  return [...found]
    .map(([category, { counters, instances }]) => ({
      category,
      counters: inOrder(counters),
      instances: inOrder(instances),
    }))
    .sort((a, b) => a.category.localeCompare(b.category, "en", { numeric: true }));
}

/** As people count: 2 before 10. */
const inOrder = (names: ReadonlySet<string>): readonly string[] =>
  [...names].sort((a, b) => a.localeCompare(b, "en", { numeric: true }));

/** By English names: what is gathered until somebody chooses. */
const usual: Readonly<Record<string, readonly string[]>> = {
  Processor: ["% Processor Time"],
  System: ["Processor Queue Length", "System Up Time"],
  Memory: ["Available Bytes", "Committed Bytes", "Pages/sec"],
  PhysicalDisk: ["Disk Read Bytes/sec", "Disk Write Bytes/sec", "Current Disk Queue Length"],
  LogicalDisk: ["% Free Space", "Free Megabytes"],
  "Network Interface": ["Bytes Received/sec", "Bytes Sent/sec"],
};

/** What is gathered of a machine until somebody chooses: found among what it has by the names of its language. */
export function defaultChoice(told: readonly CounterCategory[]): CounterChoice {
  return {
    machines: [],
    picks: told.flatMap(({ category, counters }) =>
      counters
        .filter((counter) => usual[englishName(category)]?.includes(englishName(counter)))
        .map((counter) => ({ category, counter, instances: "all" as const })),
    ),
  };
}

/** The list for `typeperf -cf`: one path a line, for this machine and the others that it asks. */
export function counterList({ picks, machines }: CounterChoice, told: readonly CounterCategory[]): string {
  const hasInstances = new Map(told.map(({ category, instances }) => [category, instances.length > 0]));
  const paths = picks.flatMap(({ category, counter, instances }): readonly Omit<CounterPath, "machine">[] => {
    if (hasInstances.get(category) === false) return [{ category, counter, instance: undefined }];
    return (instances === "all" ? ["*"] : instances).map((instance) => ({ category, counter, instance }));
  });
  return [undefined, ...machines]
    .flatMap((machine) => paths.map((path) => `${pathText({ ...path, machine })}\r\n`))
    .join("");
}
