import type { MachineView } from "../../core/api/views.ts";
import { unusualAmong } from "../../core/baseline/usual.ts";
import { type BriefingFacts, type BriefingLine, briefing } from "../../core/briefing/briefing.ts";
import { fillOf } from "../../core/capacity/fill.ts";
import type { Line, ReadingDocument, Sentence } from "../../core/reading/document.ts";
import type { Database } from "../db/pool.ts";
import { listEvents } from "../events/events.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { Store } from "../store/store.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
const fiveMinutesMs = 300_000;
/** How long what is read of the past is believed. */
const pastHoldsMs = 60_000;
const weeks = ["7d", "14d", "21d", "28d"];

type Open = Omit<ReadingDocument, "window">;
const per = (...tags: readonly string[]): Pick<Sentence, "lines" | "combine"> => ({ lines: { per: tags }, combine: "sum" });
const state = (value: string) => [{ tag: "state", is: [value] }];

/** What fills: the share that is used, by machine and name. */
const volumes: readonly { readonly band: string; readonly reading: Open; readonly what: (line: Line) => string }[] = [
  {
    band: "filesystems",
    reading: { sentences: { free: { counter: "system.filesystem.usage", where: state("free"), ...per("machine", "device", "mountpoint") }, size: { counter: "system.filesystem.limit", ...per("machine", "device", "mountpoint") } }, figure: "1 - free / size", unit: "1" },
    what: ({ tags }) => `the filesystem ${tags["mountpoint"] ?? tags["device"] ?? ""}`,
  },
  {
    band: "pools",
    reading: { sentences: { used: { counter: "storage.pool.usage", where: state("used"), ...per("machine", "pool") }, size: { counter: "storage.pool.limit", ...per("machine", "pool") } }, figure: "used / size", unit: "1" },
    what: ({ tags }) => `the pool ${tags["pool"] ?? ""}`,
  },
];

/** What is compared with its usual, and below which amount nobody cares. Common practice, no source. */
const watched: readonly { readonly band: string; readonly words: string; readonly floor: number; readonly reading: Open }[] = [
  { band: "disks", words: "disk wait", floor: 0.005, reading: { sentences: { waited: { counter: "system.disk.operation_time", ...per("machine") }, operations: { counter: "system.disk.operations", ...per("machine") } }, figure: "waited / operations", unit: "s" } },
  { band: "processor", words: "processor use", floor: 0.2, reading: { sentences: { busy: { counter: "system.cpu.time", where: [{ tag: "mode", not: ["idle", "iowait"] }], ...per("machine") }, processors: { counter: "system.cpu.logical.count", lines: { per: ["machine"] }, combine: "max", of_every: "last" } }, figure: "busy / processors", unit: "1" } },
  { band: "network", words: "network traffic", floor: 125_000, reading: { sentences: { bytes: { counter: "system.network.io", ...per("machine") } } } },
  { band: "memory", words: "memory use", floor: 0.3, reading: { sentences: { used: { counter: "system.memory.usage", where: state("used"), ...per("machine") }, size: { counter: "system.memory.limit", ...per("machine") } }, figure: "used / size", unit: "1" } },
];

interface Past {
  readonly atMs: number;
  readonly fills: BriefingFacts["fills"];
  readonly unusual: BriefingFacts["unusual"];
}

/** Puts the briefing together: what is raised and silent as it is now, trends and comparisons as they were some minutes ago. */
export class BriefingDesk {
  readonly #store: Store;
  readonly #database: Database;
  readonly #machines: () => readonly MachineView[];
  #past: Promise<Past> | undefined;
  #pastAtMs = 0;

  constructor(store: Store, database: Database, machines: () => readonly MachineView[]) {
    this.#store = store;
    this.#database = database;
    this.#machines = machines;
  }

  async lines(nowMs: number): Promise<readonly BriefingLine[]> {
    if (!this.#past || nowMs - this.#pastAtMs > pastHoldsMs) {
      this.#pastAtMs = nowMs;
      this.#past = this.#read(nowMs);
      this.#past.catch(() => {
        this.#pastAtMs = 0;
      });
    }
    const [{ fills, unusual }, incidents, events] = await Promise.all([this.#past, listIncidents(this.#database, nowMs - 1, nowMs, 100), listEvents(this.#database, nowMs - dayMs, nowMs)]);
    const machines = this.#machines();
    const known = new Set(machines.map(({ name }) => name));
    const present = <T extends { readonly machine: string }>(all: readonly T[]) => all.filter(({ machine }) => known.has(machine));
    return briefing({ nowMs, machines, incidents: incidents.filter(({ clearedAtMs }) => clearedAtMs === null), fills: present(fills), unusual: present(unusual), events });
  }

  async #read(nowMs: number): Promise<Past> {
    const fills: BriefingFacts["fills"][number][] = [];
    for (const { band, reading, what } of volumes) {
      const to = Math.ceil(nowMs / hourMs) * hourMs;
      const { lines, stepMs } = await answerReading(this.#store, { ...reading, step: 3600, window: { from: to - 14 * dayMs, to } });
      for (const line of lines) {
        const fill = fillOf(line.values, stepMs);
        if (fill) fills.push({ ...fill, machine: line.tags["machine"] ?? "", what: what(line), band });
      }
    }
    const unusual: BriefingFacts["unusual"][number][] = [];
    for (const { band, words, floor, reading } of watched) {
      const to = Math.floor(nowMs / fiveMinutesMs) * fiveMinutesMs;
      const read = async (earlier: string | undefined) => {
        const sentences = Object.fromEntries(Object.entries(reading.sentences).map(([name, sentence]) => [name, { ...sentence, ...(earlier && { earlier }) }]));
        const { lines } = await answerReading(this.#store, { ...reading, sentences, step: 300, window: { from: to - hourMs, to } });
        return new Map(lines.map(({ tags, mean }) => [tags["machine"] ?? "", mean]));
      };
      const present = await read(undefined);
      const before = await Promise.all(weeks.map(read));
      for (const [machine, mean] of present) {
        const found = mean === null ? undefined : unusualAmong(mean, before.flatMap((week) => week.get(machine) ?? []), floor);
        if (found) unusual.push({ ...found, machine, words, band });
      }
    }
    return { atMs: nowMs, fills, unusual };
  }
}
