import type { Disturbance } from "../../core/steadiness/steadiness.ts";
import { quietAt } from "../../core/quiet/quiet-time.ts";
import type { Database } from "../db/pool.ts";
import { listEventsOfKind } from "../events/event-rows.ts";
import { listQuietTimes } from "../quiet/quiet-rows.ts";
import { answerReading } from "../reading/answer-reading.ts";
import { listIncidents } from "../rules/incident-rows.ts";
import type { Store } from "../store/store.ts";

const mostIncidents = 5000;
const dayMs = 86_400_000;

/**
 * What disturbed machines in a window: incidents, silences, restarts that nobody planned, times without mains, and drives that cannot be relied on. What
 * fell into a quiet time was planned, and is none.
 */
export async function disturbancesIn(
  store: Store,
  database: Database,
  machines: readonly string[],
  { from, to }: { readonly from: number; readonly to: number },
  nowMs: number,
): Promise<readonly Disturbance[]> {
  const [incidents, events, quiet, restarts, drives] = await Promise.all([
    listIncidents(database, from, to, mostIncidents),
    listEventsOfKind(database, "power loss", from, to),
    listQuietTimes(database, from),
    restartsIn(store, { from, to }),
    unwellDrivesIn(store, { from, to }),
  ]);
  const told = incidents.flatMap(
    ({ id, ruleName, severity, compare, tags, raisedAtMs, clearedAtMs, quietId }): Disturbance[] =>
      quietId !== null || !tags["machine"] || compare === "failed"
        ? []
        : [
            {
              machine: tags["machine"],
              cause: compare === "silent" ? "silence" : severity,
              id,
              words: ruleName,
              fromMs: raisedAtMs,
              toMs: clearedAtMs ?? nowMs,
            },
          ],
  );
  const cuts = events.map(({ id, machine, text, fromMs, toMs }): Disturbance => {
    return { machine, cause: "power loss", id, words: text, fromMs, toMs };
  });
  const all = [...told, ...cuts, ...restarts, ...drives];
  const known = new Set(machines);
  return all.filter(({ machine, fromMs }) => known.has(machine) && quietAt(quiet, { machine }, fromMs) === undefined);
}

/** While drives were unwell, by their own verdict or that of what reads them. */
async function unwellDrivesIn(
  store: Store,
  { from, to }: { readonly from: number; readonly to: number },
): Promise<readonly Disturbance[]> {
  const { lines, stepMs, ...answer } = await answerReading(store, {
    window: { from, to },
    step: 3600,
    sentences: {
      a: { counter: "drive.healthy", lines: { per: ["machine", "device"] }, combine: "min", of_every: "min" },
    },
  });
  return lines.flatMap(({ tags, values }) => {
    const found: Disturbance[] = [];
    let open: number | undefined;
    const close = (toMs: number) => {
      if (open === undefined) return;
      const [machine, words] = [tags["machine"] ?? "", `the drive ${tags["device"] ?? ""} is unwell`];
      found.push({ machine, cause: "drive", id: 0, words, fromMs: open, toMs });
      open = undefined;
    };
    values.forEach((value, i) => {
      const atMs = Math.max(from, answer.from + i * stepMs);
      if (value !== null && value < 1) open ??= atMs;
      else if (value !== null) close(atMs);
    });
    close(Math.min(to, answer.from + values.length * stepMs));
    return found;
  });
}

/** When machines started anew, by the time since their start, which fell. */
async function restartsIn(
  store: Store,
  { from, to }: { readonly from: number; readonly to: number },
): Promise<readonly Disturbance[]> {
  const stepSeconds = to - from > 40 * dayMs ? 3600 : 900;
  const {
    lines,
    stepMs,
    from: firstMs,
  } = await answerReading(store, {
    window: { from, to },
    step: stepSeconds,
    sentences: { a: { counter: "system.uptime", lines: { per: ["machine"] }, of_every: "min" } },
  });
  return lines.flatMap((line) => {
    const found: Disturbance[] = [];
    let before: number | undefined;
    line.values.forEach((value, i) => {
      if (value === null) return;
      if (before !== undefined && value < before) {
        const atMs = Math.max(from, firstMs + i * stepMs - value * 1000);
        const machine = line.tags["machine"] ?? "";
        found.push({ machine, cause: "restart", id: 0, words: "started anew", fromMs: atMs, toMs: atMs });
      }
      before = value;
    });
    return found;
  });
}
