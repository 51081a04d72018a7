import type { MachineView } from "../../core/api/machines.ts";
import type { SourceState } from "../../core/sources/source.ts";
import type { Sources } from "../sources/sources.ts";
import type { Store } from "../store/store.ts";
import type { MachineNames } from "./machine-names.ts";
import { type MachineCounts, MachineSeries } from "./machine-series.ts";

/** What stands for the interval of a machine whose source has gone. */
const ungatheredIntervalMs = 60_000;

/** The best of a machine's sources says how the machine stands. */
const order: readonly SourceState[] = ["reporting", "late", "waiting", "silent", "paused"];

const nothing: MachineCounts = {
  series: 0,
  lastMs: Number.NEGATIVE_INFINITY,
  first: Number.POSITIVE_INFINITY,
  counters: new Set(),
  guests: new Set(),
  containers: new Set(),
};

/** Every machine that has reported or has a source. */
export class MachineList {
  readonly #series: MachineSeries;
  readonly #sources: Sources;
  readonly #names: MachineNames;

  constructor(store: Store, sources: Sources, names: MachineNames) {
    this.#series = new MachineSeries(store);
    this.#sources = sources;
    this.#names = names;
  }

  /** Names of the counters that report about a machine. */
  countersOf(machine: string): readonly string[] {
    return [...(this.#series.machines.get(machine)?.counters ?? [])];
  }

  views(nowMs: number): readonly MachineView[] {
    const found = new Map(this.#sources.all().map(({ source }) => [source.machine, nothing]));
    for (const [name, counts] of this.#series.machines) found.set(name, counts);
    const byAge = [...found].sort(([, a], [, b]) => a.first - b.first).map(([name]) => name);
    const views = this.#sources.views(nowMs);
    return [...found]
      .filter(
        ([name, { lastMs }]) =>
          (this.#names.removedAtMs(name) ?? Number.NEGATIVE_INFINITY) < lastMs ||
          !this.#names.isRemoved(name) ||
          views.some(({ machine }) => machine === name),
      )
      .map(([name, { series, lastMs, guests, containers }]): MachineView => {
        const own = views
          .filter(({ machine }) => machine === name)
          .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
        return {
          name,
          state: own[0]?.state ?? "not gathered",
          lastSampleAtMs: Number.isFinite(lastMs) ? lastMs : null,
          intervalSeconds:
            Math.min(
              ...own.map(({ intervalMs }) => intervalMs),
              own.length === 0 ? ungatheredIntervalMs : Number.POSITIVE_INFINITY,
            ) / 1000,
          series,
          colour: byAge.indexOf(name),
          guests: sortedNames(guests),
          containers: sortedNames(containers),
          ...this.#names.of(name),
          sources: own.map(({ id, name: called, kind, state, trust, failure, pause }) => ({
            id,
            name: called,
            kind,
            state,
            pause,
            unchecked: trust.kind === "unchecked",
            failure: failure?.words ?? null,
          })),
        };
      })
      .sort((a, b) => a.name.localeCompare(b.name));
  }
}

const sortedNames = (names: ReadonlySet<string>): readonly string[] =>
  [...names].sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
