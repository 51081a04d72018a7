import { DateTime } from "luxon";
import type { Logger } from "pino";
import type { RecordingDocument } from "../core/recordings/recording.ts";
import { plannedAt } from "../core/recordings/schedule.ts";
import { readyMadeRules } from "../core/rules/ready-made-rules.ts";
import type { RuleDocument } from "../core/rules/rule.ts";
import { keepEndedRun } from "../server/recordings/keep-ended-run.ts";
import { insertRecording, type RecordingRow } from "../server/recordings/recording-rows.ts";
import { insertEndedRun } from "../server/recordings/run-rows.ts";
import { writePlanningSettings, writeTariffs } from "../server/planning/planning-rows.ts";
import { insertPastIncidents } from "../server/rules/incident-rows.ts";
import { Rehearser } from "../server/rules/rehearser.ts";
import { insertRule } from "../server/rules/rule-rows.ts";
import type { RunningServer } from "../server/running-server.ts";
import { pastSeconds } from "./demo-past.ts";
import { worldPlans, worldTariffs } from "./demo-plans.ts";

const dayMs = 86_400_000;
const by = "Ines";
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const pastDays = 8;

/** What of the month the station is told of: the power cut, the copy and the scan that fight for the disks, the leak, the full pool. */
const readyMade = ["on-battery", "disk-busy", "pool"] as const;
const leak: RuleDocument = {
  ...(readyMadeRules.find(({ id }) => id === "memory") as (typeof readyMadeRules)[number]).document,
  name: "chat leaks memory",
  reading: {
    sentences: {
      a: {
        counter: "container.memory.usage",
        where: [{ tag: "container", is: ["chat"] }],
        lines: { per: ["machine", "container"] },
        combine: "sum",
      },
    },
  },
  watch: { kind: "value", of: "mean", overSeconds: 300 },
  notice: { high: 1.45e9, clearHigh: 1e9 },
  urgent: null,
  mustLastSeconds: 600,
  advice: "Restart chat on stream; it gives its memory back. The maker knows of it.",
};

const of = (...machines: string[]) => [{ tag: "machine", is: machines }];
const weekdays = [1, 2, 3, 4, 5];
/** Every morning's close look, and every night's. */
const recordings: readonly RecordingDocument[] = [
  {
    name: "Morning show",
    everySeconds: 300,
    keepDays: 365,
    schedule: { weekdays, from: "06:30", to: "09:30", zone },
    sentences: {
      processor: {
        counter: "system.cpu.time",
        where: [...of("playout", "stream"), { tag: "mode", not: ["idle", "iowait"] }],
        lines: { per: ["machine"] },
        combine: "sum",
      },
      network: {
        counter: "system.network.io",
        where: [...of("playout", "stream"), { tag: "direction", is: ["transmit"] }],
        lines: { per: ["machine"] },
        combine: "sum",
      },
      memory: {
        counter: "system.memory.usage",
        where: [...of("playout", "stream"), { tag: "state", is: ["used"] }],
        lines: { per: ["machine"] },
        combine: "sum",
      },
    },
  },
  {
    name: "Night jobs on vault",
    everySeconds: 300,
    keepDays: 365,
    schedule: { weekdays, from: "01:45", to: "04:15", zone },
    sentences: {
      disks: {
        counter: "system.disk.io_time",
        where: of("vault"),
        lines: { per: ["machine"] },
        combine: "max",
      },
      traffic: {
        counter: "system.disk.io",
        where: of("vault"),
        lines: { per: ["direction"] },
        combine: "sum",
      },
      network: {
        counter: "system.network.io",
        where: [...of("vault"), { tag: "direction", is: ["receive"] }],
        lines: { per: ["machine"] },
        combine: "sum",
      },
    },
  },
];

type Parts = Pick<RunningServer, "store" | "database" | "names" | "pool" | "recordings" | "checkRules">;

/**
 * Gives the sample world its rules, with the incidents that they would have told of in the month that has been written,
 * and two recordings with the runs of several mornings and nights.
 */
export async function makeHistory(parts: Parts, log: Logger, nowMs = Date.now()): Promise<void> {
  await makeIncidents(parts, nowMs);
  for (const document of recordings) {
    const row = await insertRecording(parts.database, document, by);
    if (row) await makeRuns(parts, row, nowMs);
  }
  await parts.recordings.reread();
  await writeTariffs(parts.database, worldTariffs);
  await writePlanningSettings(parts.database, worldPlans);
  log.info("the sample world has its incidents, recordings and plans");
}

async function makeIncidents({ database, store, names, pool, checkRules }: Parts, nowMs: number): Promise<void> {
  const rehearser = new Rehearser(store, names, pool);
  const wanted = [
    ...readyMadeRules.filter(({ id }) => (readyMade as readonly string[]).includes(id)),
    { id: null, document: leak },
  ];
  for (const { id, document } of wanted) {
    const from = nowMs - pastSeconds * 1000;
    const past = await rehearser.rehearse(document, from, nowMs, zone, () => {});
    const rule = await insertRule(database, document, null, by, id);
    await insertPastIncidents(database, rule, past);
  }
  checkRules();
}

/** The runs that its schedule would have begun in the last days. */
async function makeRuns(parts: Parts, { id, document }: RecordingRow, nowMs: number): Promise<void> {
  const { schedule } = document;
  if (!schedule) return;
  for (let days = pastDays; days >= 0; days--) {
    const within = DateTime.fromMillis(nowMs - days * dayMs, { zone })
      .startOf("day")
      .plus({ hours: Number(schedule.from.slice(0, 2)) + 1 });
    const planned = plannedAt(schedule, within.toMillis());
    if (!planned || planned.toMs > nowMs) continue;
    const row = await insertEndedRun(parts.database, {
      recordingId: id,
      document,
      origin: "schedule",
      startedAtMs: planned.fromMs,
      endedAtMs: planned.toMs,
      endedBecause: "schedule",
      parts: [planned],
      notes: [],
      events: [],
    });
    await keepEndedRun(parts, row);
  }
}
