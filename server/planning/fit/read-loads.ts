import type { SuppliedHost } from "../../../core/api/fit.ts";
import { processors } from "../../../core/reading/common-readings.ts";
import type { Condition, Line, Sentence } from "../../../core/reading/document.ts";
import { answerReading } from "../../reading/answer-reading.ts";
import type { Store } from "../../store/store.ts";

/** Resources that placements are worked out for, in this order everywhere. */
export const resources = [
  { resource: "processor", unit: "{cpu}" },
  { resource: "memory", unit: "By" },
  { resource: "network", unit: "bit/s" },
  { resource: "disk operations", unit: "{operation}/s" },
] as const;

const stepSeconds = 300;
const longStepSeconds = 3600;
/** Above so many moments the hours do: a guest's curve is worked out by the five minutes of a month and a half. */
const mostMoments = 13_000;

export interface LoadedGuest {
  readonly name: string;
  readonly host: string;
  readonly load: readonly Float64Array[];
  /** What it was given of each; NaN where that is not known. */
  readonly given: readonly number[];
  /** A second, at each moment; undefined where nothing tells. */
  readonly diskOperations: Float64Array | undefined;
}

export interface LoadedHost {
  readonly name: string;
  readonly capacity: readonly number[];
  /** What it needs beside its guests. */
  readonly base: readonly Float64Array[];
}

export interface Loads {
  readonly fromMs: number;
  readonly stepMs: number;
  readonly guests: readonly LoadedGuest[];
  readonly hosts: readonly LoadedHost[];
  readonly notes: readonly string[];
}

/** What a person says of hosts. */
export interface HostSettings {
  /** How fast its processors are beside others'. */
  readonly speedOf: (machine: string) => number;
  /** Operations of its disks a second at most; infinite where nothing is said. */
  readonly diskOperationsOf: (machine: string) => number;
}

type LineMap = ReadonlyMap<string, Float64Array>;

/** What guests and containers used at each moment of a window, and what their hosts have and need beside them. */
export async function readLoads(
  store: Store,
  window: { readonly from: number; readonly to: number },
  wanted: readonly (string | SuppliedHost)[] | undefined,
  { speedOf, diskOperationsOf }: HostSettings,
  signal?: AbortSignal,
): Promise<Loads> {
  const step = (window.to - window.from) / (stepSeconds * 1000) > mostMoments ? longStepSeconds : stepSeconds;
  const read = new LoadReader(store, window, step, signal);
  const guests = [...(await read.guests("guest")), ...(await read.guests("container"))];
  const carrying = [...new Set(guests.map(({ host }) => host))].sort((a, b) => a.localeCompare(b));
  const supplied = (wanted ?? []).filter((one): one is SuppliedHost => typeof one !== "string");
  const names = wanted ? [...new Set(wanted.filter((one): one is string => typeof one === "string"))] : carrying;
  const hosts = await read.hosts(names, guests);
  const moments = read.moments;
  const bare = supplied.map(
    ({ machine, processors: count, memory, speed = 1, diskOperations = Number.POSITIVE_INFINITY }): LoadedHost => ({
      name: machine,
      capacity: [count * speed, memory, Number.POSITIVE_INFINITY, diskOperations],
      base: resources.map(() => new Float64Array(moments)),
    }),
  );
  const lacking = hosts
    .filter(({ capacity }) => !(capacity[0] as number) || Number.isNaN(capacity[1]))
    .map(({ name }) => name);
  return {
    fromMs: read.fromMs,
    stepMs: step * 1000,
    // Processor time is counted in that of a processor of speed 1.
    guests: guests.map((one) => scaledBy(one, speedOf(one.host))),
    hosts: [
      ...hosts
        .filter(({ name }) => !lacking.includes(name))
        .map(({ name, capacity, base }) => ({
          name,
          capacity: [(capacity[0] as number) * speedOf(name), ...capacity.slice(1), diskOperationsOf(name)],
          base: [times(base[0] as Float64Array, speedOf(name)), ...base.slice(1)],
        })),
      ...bare,
    ],
    notes:
      lacking.length > 0
        ? [`${lacking.join(", ")}: nothing tells how many processors or how much memory there is.`]
        : [],
  };
}

const times = (values: Float64Array, factor: number): Float64Array =>
  factor === 1 ? values : values.map((v) => v * factor);

const scaledBy = (guest: LoadedGuest, speed: number): LoadedGuest => ({
  ...guest,
  load: [times(guest.load[0] as Float64Array, speed), ...guest.load.slice(1)],
});

class LoadReader {
  readonly #store: Store;
  readonly #window: { readonly from: number; readonly to: number };
  readonly #step: number;
  readonly #signal: AbortSignal | undefined;
  fromMs = 0;
  moments = 0;

  constructor(
    store: Store,
    window: { readonly from: number; readonly to: number },
    step: number,
    signal?: AbortSignal,
  ) {
    this.#store = store;
    this.#window = window;
    this.#step = step;
    this.#signal = signal;
  }

  /** Guests or containers that used any processor time in the window. */
  async guests(kind: "guest" | "container"): Promise<readonly LoadedGuest[]> {
    const per = { lines: { per: ["machine", kind] }, combine: "sum" } as const;
    const time = await this.#lines({ counter: `${kind}.cpu.time`, ...per, as: "rate" }, kind);
    if (time.size === 0) return [];
    const [memory, resident, limit, count, network, operations] = await Promise.all([
      this.#lines({ counter: `${kind}.memory.usage`, ...per }, kind),
      this.#lines({ counter: `${kind}.memory.resident`, ...per }, kind),
      this.#lines({ counter: `${kind}.memory.limit`, ...per }, kind),
      this.#lines({ counter: `${kind}.cpu.count`, ...per }, kind),
      this.#lines({ counter: `${kind}.network.io`, ...per, as: "rate" }, kind),
      this.#lines({ counter: `${kind}.disk.operations`, ...per, as: "rate" }, kind),
    ]);
    const none = new Float64Array(this.moments);
    return [...time].map(([key, cpu]): LoadedGuest => {
      const [host, name] = JSON.parse(key) as [string, string];
      const used = memory.get(key) ?? resident.get(key) ?? limit.get(key) ?? none;
      const given = [lastOf(count.get(key)), lastOf(limit.get(key)), Number.NaN, Number.NaN];
      const disk = operations.get(key);
      const load = [
        known(cpu),
        known(used),
        known(network.get(key) ?? none).map((v) => v * 8),
        disk ? known(disk) : none,
      ];
      return { name: `${host} ${name}`, host, load, given, diskOperations: disk && known(disk) };
    });
  }

  /** What machines have, and need beside these guests. */
  async hosts(names: readonly string[], guests: readonly LoadedGuest[]): Promise<readonly LoadedHost[]> {
    const where: Condition[] = [{ tag: "machine", is: [...names] }];
    const per = { lines: { per: ["machine"] }, combine: "sum" } as const;
    const [busy, count, used, size, link, operations] = await Promise.all([
      this.#lines({
        counter: "system.cpu.time",
        where: [...where, { tag: "mode", not: ["idle", "iowait"] }],
        ...per,
        as: "rate",
      }),
      this.#lines({ ...processors(where), as: "rate" }),
      this.#lines({
        counter: "system.memory.usage",
        where: [...where, { tag: "state", is: ["used", "shared", "slab_unreclaimable"] }],
        ...per,
      }),
      this.#lines({ counter: "system.memory.limit", where, ...per }),
      this.#lines({ counter: "hw.network.bandwidth.limit", where, ...per }),
      this.#lines({ counter: "system.disk.operations", where, ...per, as: "rate" }),
    ]);
    return names.map((name): LoadedHost => {
      const key = JSON.stringify([name]);
      const own = guests.filter(({ host }) => host === name);
      const beside = (all: Float64Array | undefined, r: number) => {
        const rest = all ? known(all) : new Float64Array(this.moments);
        for (const { load } of own)
          for (let t = 0; t < rest.length; t++)
            rest[t] = (rest[t] as number) - ((load[r] as Float64Array)[t] as number);
        return rest.map((v) => Math.max(0, v));
      };
      const bits = lastOf(link.get(key)) * 8;
      return {
        name,
        capacity: [
          Math.round(mostOf(count.get(key))),
          lastOf(size.get(key)),
          bits > 0 ? bits : Number.POSITIVE_INFINITY,
        ],
        base: [
          beside(busy.get(key), 0),
          beside(used.get(key), 1),
          new Float64Array(this.moments),
          beside(operations.get(key), 3),
        ],
      };
    });
  }

  /** A sentence's lines at each moment, by their machine and guest. */
  async #lines(sentence: Sentence, kind?: "guest" | "container"): Promise<LineMap> {
    if (this.moments > 0 && this.#store.series.ofCounter(sentence.counter).length === 0) return new Map();
    const { lines, from, count } = await answerReading(
      this.#store,
      { window: this.#window, step: this.#step, sentences: { a: sentence } },
      this.#signal,
    );
    this.fromMs = from;
    this.moments = count;
    return new Map(lines.map((line) => [keyOf(line, kind), Float64Array.from(line.values, (v) => v ?? Number.NaN)]));
  }
}

const keyOf = ({ tags }: Line, kind: string | undefined): string =>
  JSON.stringify(kind ? [tags["machine"] ?? "", tags[kind] ?? ""] : [tags["machine"] ?? ""]);

/** Where nothing is known, nothing was used. */
const known = (values: Float64Array): Float64Array => values.map((v) => (Number.isNaN(v) ? 0 : Math.max(0, v)));

const lastOf = (values: Float64Array | undefined): number => values?.findLast((v) => !Number.isNaN(v)) ?? Number.NaN;

function mostOf(values: Float64Array | undefined): number {
  let most = 0;
  for (const v of values ?? []) if (v > most) most = v;
  return most;
}
