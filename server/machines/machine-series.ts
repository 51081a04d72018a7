import type { Batch } from "../../core/series/batch.ts";
import type { Series } from "../store/series-registry.ts";
import type { Store } from "../store/store.ts";

/** What is known of a machine by its series. */
export interface MachineCounts {
  readonly series: number;
  /** Time of its newest sample in memory, ms; minus infinity where there is none. */
  readonly lastMs: number;
  /** Number of its oldest series: machines are in the order in which they came. */
  readonly first: number;
  /** Names of the counters that report about it. */
  readonly counters: ReadonlySet<string>;
  /** What has run on it since the server was started, or shortly before. */
  readonly guests: ReadonlySet<string>;
  readonly containers: ReadonlySet<string>;
}

interface Counted {
  series: number;
  lastMs: number;
  first: number;
  readonly counters: Set<string>;
  readonly guests: Set<string>;
  readonly containers: Set<string>;
}

/** Of which machine series are, and what they make known to run there: series of which all that is the same share one. */
interface Member {
  readonly machine: Counted;
  readonly guest: string | undefined;
  readonly container: string | undefined;
  /** Whether it has told of its guest and container. */
  hasTold: boolean;
}

/** Counts the series of each machine as they come, and notes when it was last heard: asking for that looks at no series. */
export class MachineSeries {
  readonly #store: Store;
  #machines = new Map<string, Counted>();
  /** By the number of the series; null for one that is counted and of no machine. */
  #members: (Member | null | undefined)[] = [];
  readonly #shared = new Map<Counted, Map<string, Member>>();
  /** How many series of the registry are counted, and of which generation. */
  #counted = 0;
  #generation: number;

  constructor(store: Store) {
    this.#store = store;
    this.#generation = store.series.generation;
    this.#countNew();
    store.onCommit((batch) => this.#hear(batch));
  }

  get machines(): ReadonlyMap<string, MachineCounts> {
    this.#countNew();
    return this.#machines;
  }

  /** Counts the series that are new. */
  #countNew(): void {
    const { series } = this.#store;
    if (this.#generation !== series.generation) this.#countAgain();
    const all = series.all();
    for (; this.#counted < all.length; this.#counted++) this.#count(all[this.#counted] as Series);
  }

  /** Counts those machines anew of which series were forgotten; all of them where it is not known which. */
  #countAgain(): void {
    const { series } = this.#store;
    const removed = series.removedSince(this.#generation);
    this.#generation = series.generation;
    const machines = new Set(removed?.map(({ tags }) => tags["machine"]));
    if (!removed) {
      this.#machines = new Map();
      this.#members = [];
      this.#shared.clear();
      this.#counted = 0;
      return;
    }
    const counted = removed.filter(({ id }) => this.#members[id] !== undefined);
    for (const { id } of removed) this.#members[id] = undefined;
    for (const name of machines) {
      if (name === undefined) continue;
      const machine = this.#machines.get(name);
      if (machine) this.#shared.delete(machine);
      this.#machines.delete(name);
    }
    const all = series.all();
    this.#counted -= counted.length;
    for (let i = 0; i < this.#counted; i++) {
      const one = all[i] as Series;
      if (machines.has(one.tags["machine"])) this.#count(one);
    }
  }

  #count({ id, counter, tags }: Series): void {
    const name = tags["machine"];
    this.#members[id] = null;
    if (name === undefined) return;
    const machine = this.#machines.get(name) ?? newMachine();
    this.#machines.set(name, machine);
    machine.series++;
    machine.first = Math.min(machine.first, id);
    machine.counters.add(counter);
    const member = this.#memberOf(machine, tags["guest"], tags["container"]);
    this.#members[id] = member;
    const lastMs = this.#store.lastTimeMs(id);
    if (lastMs !== undefined) noteHeard(member, lastMs);
  }

  #memberOf(machine: Counted, guest: string | undefined, container: string | undefined): Member {
    let ofMachine = this.#shared.get(machine);
    if (!ofMachine) this.#shared.set(machine, (ofMachine = new Map()));
    const key = guest === undefined && container === undefined ? "" : JSON.stringify([guest, container]);
    let member = ofMachine.get(key);
    if (!member) ofMachine.set(key, (member = { machine, guest, container, hasTold: false }));
    return member;
  }

  #hear({ series, timeMs, length }: Batch): void {
    this.#countNew();
    for (let i = 0; i < length; i++) {
      const member = this.#members[series[i] as number];
      if (member) noteHeard(member, timeMs[i] as number);
    }
  }
}

const newMachine = (): Counted => ({
  series: 0,
  lastMs: Number.NEGATIVE_INFINITY,
  first: Number.POSITIVE_INFINITY,
  counters: new Set(),
  guests: new Set(),
  containers: new Set(),
});

function noteHeard(member: Member, atMs: number): void {
  const { machine, guest, container } = member;
  if (atMs > machine.lastMs) machine.lastMs = atMs;
  if (member.hasTold) return;
  member.hasTold = true;
  if (guest !== undefined) machine.guests.add(guest);
  if (container !== undefined) machine.containers.add(container);
}
