import { setImmediate } from "node:timers/promises";
import type { CounterView } from "../../core/api/counters.ts";
import type { Tags } from "../../core/counters/counter.ts";
import type { Series } from "../store/series-registry.ts";

/** Of which machines a counter is, and which values its tags have, in order. */
export type CounterTags = Pick<CounterView, "machines" | "tags">;

/** The tags that people gave to machines; `version` is another one once any were changed. */
interface TagsOfMachines {
  readonly version: number;
  of(machine: string): { readonly tags: Tags };
  tagsWith(tags: Tags): Tags;
}

/** What is told of some series; of each tag `most` values. */
export function tagsOfSeries(series: readonly Series[], names: TagsOfMachines, most: number): CounterTags {
  const found = new Found(most);
  for (const { tags } of series) found.add(tags["machine"], names.tagsWith(tags));
  return found.told();
}

/** What is told of a counter, as far as its series have been looked at. */
interface Known {
  readonly series: readonly Series[];
  readonly found: Found;
  counted: number;
  version: number;
  told: CounterTags;
}

const nothing: CounterTags = { machines: [], tags: [] };

/**
 * The same of all series of each counter, for the list of counters: those that are new since it was asked last are
 * looked at, and no others, so that a list of a million series is there at once.
 */
export class TagsOfCounters {
  readonly #names: TagsOfMachines;
  readonly #most: number;
  readonly #known = new Map<string, Known>();

  constructor(names: TagsOfMachines, most: number) {
    this.#names = names;
    this.#most = most;
  }

  /** Looks at all there are before somebody asks, one counter after the other, so that others get their turn. */
  async lookAhead(series: {
    counters(): readonly string[];
    ofCounter(name: string): readonly Series[];
  }): Promise<void> {
    for (const counter of series.counters()) {
      await setImmediate(undefined, { ref: false });
      this.of(counter, series.ofCounter(counter));
    }
  }

  of(counter: string, series: readonly Series[]): CounterTags {
    let known = this.#known.get(counter);
    // a counter of which series were forgotten has another list
    if (known?.series !== series) {
      known = { series, found: new Found(this.#most), counted: 0, version: -1, told: nothing };
      this.#known.set(counter, known);
    }
    if (known.counted === series.length && known.version === this.#names.version) return known.told;
    for (; known.counted < series.length; known.counted++) {
      const { tags } = series[known.counted] as Series;
      known.found.add(tags["machine"], tags);
    }
    known.version = this.#names.version;
    known.told = this.#withMachines(known);
    return known.told;
  }

  /** A machine's tags once each; looked at series by series where the series have some of the same names. */
  #withMachines({ series, found }: Known): CounterTags {
    const ofMachines = [...found.machines].map((machine) => this.#names.of(machine).tags);
    if (ofMachines.some((tags) => Object.keys(tags).some((name) => found.has(name))))
      return tagsOfSeries(series, this.#names, this.#most);
    return found.told(ofMachines);
  }
}

/** Gathers values of tags, of each so many at most. */
class Found {
  readonly machines = new Set<string>();
  readonly #values = new Map<string, Set<string>>();
  readonly #most: number;

  constructor(most: number) {
    this.#most = most;
  }

  has(tag: string): boolean {
    return this.#values.has(tag);
  }

  add(machine: string | undefined, tags: Tags): void {
    this.machines.add(machine ?? "");
    gather(this.#values, tags, this.#most);
  }

  /** In order of the names of tags, `machine` first. */
  told(more: readonly Tags[] = []): CounterTags {
    const values = new Map([...this.#values].map(([tag, some]) => [tag, new Set(some)]));
    for (const tags of more) gather(values, tags, this.#most);
    const ordered = [...values].sort(([a], [b]) => (a === "machine" ? -1 : b === "machine" ? 1 : a.localeCompare(b)));
    return {
      machines: [...this.machines].sort((a, b) => a.localeCompare(b)),
      tags: ordered.map(([tag, some]) => ({ tag, values: [...some].sort(numbered.compare) })),
    };
  }
}

const numbered = new Intl.Collator("en", { numeric: true });

function gather(into: Map<string, Set<string>>, tags: Tags, most: number): void {
  for (const tag of Object.keys(tags)) {
    const values = into.get(tag) ?? new Set();
    into.set(tag, values);
    if (values.size < most) values.add(tags[tag] as string);
  }
}
