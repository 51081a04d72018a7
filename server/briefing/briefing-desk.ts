import { listRules } from "../rules/rule-rows.ts";
import { narrowed } from "../../core/reading/narrowed.ts";
import type { MachineView } from "../../core/api/machines.ts";
import { usualStepMs } from "../../core/baseline/usual-range.ts";
import { type BriefingFacts, type BriefingLine, briefing, type RuleReadings } from "../../core/briefing/briefing.ts";
import { thisWeek, type WeekFacts } from "../../core/briefing/this-week.ts";
import { fillOf } from "../../core/capacity/fill.ts";
import type { Line, ReadingDocument } from "../../core/reading/document.ts";
import {
  diskWait,
  filesystemUsed,
  memoryUsed,
  networkBits,
  poolUsed,
  processorBusy,
} from "../../core/reading/common-readings.ts";
import type { Database } from "../db/pool.ts";
import { listEvents } from "../events/event-rows.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import { readUsualLines } from "../rules/read-gauges.ts";
import type { Store } from "../store/store.ts";

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
const weekMs = 7 * dayMs;
const mostOfWeek = 500;
/** How long what is read of the past is believed: at least so long, and so many times as long as reading it took. */
const pastHoldsMs = 60_000;
const pastHoldsTimes = 30;
type Open = Omit<ReadingDocument, "window">;

/** How long a past shows whether something is cleaned up every month. */
const fillPastMs = 90 * dayMs;
/**
 * Beyond so many deviations from the usual, and by such a factor, it is worth a sentence. Common practice, no source.
 */
const mostDeviations = 4;
const leastFactor = 1.8;

/** What fills: the share that is used in percent, by machine and name. */
const volumes: readonly { readonly band: string; readonly reading: Open; readonly what: (line: Line) => string }[] = [
  {
    band: "filesystems",
    reading: filesystemUsed(),
    what: ({ tags }) => `the filesystem ${tags["mountpoint"] ?? tags["device"] ?? ""}`,
  },
  { band: "pools", reading: poolUsed(), what: ({ tags }) => `the pool ${tags["pool"] ?? ""}` },
];

/**
 * What is compared with its usual, and below which amount nobody cares, in the reading's unit. Common practice, no
 * source.
 */
const watched: readonly {
  readonly band: string;
  readonly words: string;
  readonly floor: number;
  readonly reading: Open;
}[] = [
  { band: "disks", words: "disk wait", floor: 5, reading: diskWait() },
  { band: "processor", words: "processor use", floor: 20, reading: processorBusy() },
  { band: "network", words: "network traffic", floor: 1e6, reading: networkBits() },
  { band: "memory", words: "memory use", floor: 30, reading: memoryUsed() },
];

interface Past {
  readonly atMs: number;
  readonly fills: BriefingFacts["fills"];
  readonly unusual: BriefingFacts["unusual"];
  readonly steadiness: NonNullable<BriefingFacts["steadiness"]>;
  readonly week: Pick<WeekFacts, "incidents" | "events">;
  readonly readings: RuleReadings;
}

/** At what machines stood lowest of late. */
type Steadiness = (machines: readonly string[], nowMs: number) => Promise<Past["steadiness"]>;

/**
 * Puts the briefing together: what is raised and silent as it is now, trends and comparisons as they were some minutes
 * ago.
 */
export class BriefingDesk {
  readonly #store: Store;
  readonly #database: Database;
  readonly #machines: () => readonly MachineView[];
  readonly #steadiness: Steadiness;
  readonly #backups: () => BriefingFacts["backups"];
  #past: Promise<Past> | undefined;
  #pastAtMs = 0;
  #pastHoldsMs = pastHoldsMs;

  constructor(
    store: Store,
    database: Database,
    machines: () => readonly MachineView[],
    steadiness: Steadiness = async () => [],
    backups: () => BriefingFacts["backups"] = () => null,
  ) {
    this.#backups = backups;
    this.#steadiness = steadiness;
    this.#store = store;
    this.#database = database;
    this.#machines = machines;
  }

  async lines(nowMs: number): Promise<readonly BriefingLine[]> {
    if (!this.#past || nowMs - this.#pastAtMs > this.#pastHoldsMs) {
      this.#pastAtMs = nowMs;
      this.#past = this.#read(nowMs);
      this.#past.catch(() => {
        this.#pastAtMs = 0;
      });
    }
    const [{ fills, unusual, steadiness, week, readings }, incidents, events] = await Promise.all([
      this.#past,
      listIncidents(this.#database, nowMs - 1, nowMs, 100),
      listEvents(this.#database, nowMs - dayMs, nowMs),
    ]);
    const machines = this.#machines();
    const known = new Set(machines.map(({ name }) => name));
    const present = <T extends { readonly machine: string }>(all: readonly T[]) =>
      all.filter(({ machine }) => known.has(machine));
    const today = briefing({
      nowMs,
      machines,
      readings,
      incidents: incidents.filter(({ clearedAtMs }) => clearedAtMs === null),
      fills: present(fills),
      unusual: present(unusual),
      events,
      steadiness: present(steadiness),
      backups: this.#backups() ?? null,
    });
    const isKnown = (machine: string | undefined) => !machine || known.has(machine);
    return [
      ...today,
      ...thisWeek({
        nowMs,
        readings,
        incidents: week.incidents.filter(({ tags }) => isKnown(tags["machine"])),
        events: week.events.filter(({ machine }) => isKnown(machine)),
      }),
    ];
  }

  async #read(nowMs: number): Promise<Past> {
    const began = performance.now();
    const fills: BriefingFacts["fills"][number][] = [];
    for (const { band, reading, what } of volumes) {
      const to = Math.ceil(nowMs / hourMs) * hourMs;
      const { lines, stepMs } = await answerReading(this.#store, {
        ...reading,
        step: 3600,
        window: { from: to - fillPastMs, to },
      });
      for (const line of lines) {
        const fill = fillOf(
          line.values.map((percent) => (percent === null ? null : percent / 100)),
          stepMs,
        );
        if (fill)
          fills.push({
            ...fill,
            machine: line.tags["machine"] ?? "",
            what: what(line),
            band,
            drawn: narrowed(reading, line.tags),
          });
      }
    }
    const unusual: BriefingFacts["unusual"][number][] = [];
    for (const { band, words, floor, reading } of watched) {
      const moment = { fromMs: nowMs, toMs: nowMs, stepMs: usualStepMs };
      for (const [key, line] of await readUsualLines(this.#store, undefined, reading, moment)) {
        const endMs = Math.floor(nowMs / usualStepMs) * usualStepMs;
        const value = line.usual.meanBefore(endMs);
        const found = line.usual.at(endMs);
        if (!found || !(value >= floor) || !(line.usual.deviations(value, endMs) > mostDeviations)) continue;
        const factor = found.mid > 0 ? value / found.mid : Number.POSITIVE_INFINITY;
        if (factor >= leastFactor)
          unusual.push({
            factor,
            machine: line.tags["machine"] ?? key,
            words,
            band,
            drawn: narrowed(reading, line.tags),
          });
      }
    }
    const [weekIncidents, weekEvents, rules] = await Promise.all([
      listIncidents(this.#database, nowMs - weekMs, nowMs, mostOfWeek),
      listEvents(this.#database, nowMs - weekMs, nowMs),
      listRules(this.#database),
    ]);
    this.#pastHoldsMs = Math.max(pastHoldsMs, pastHoldsTimes * (performance.now() - began));
    const steadiness = await this.#steadiness(
      this.#machines().map(({ name }) => name),
      nowMs,
    );
    const readings = new Map(rules.map(({ id, reading }) => [id, reading]));
    return {
      readings,
      atMs: nowMs,
      fills,
      unusual,
      steadiness,
      week: { incidents: weekIncidents, events: weekEvents },
    };
  }
}
