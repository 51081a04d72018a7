import type { Tags } from "../../../core/counters/counter.ts";
import type { Rehearsal, RehearsedRule } from "../../../core/rules/rehearse.ts";
import type { SentencePlan } from "../../../core/reading/plan.ts";
import type { LineValues } from "../../../core/reading/line-values.ts";
import type { Arena } from "../../../core/series/arena.ts";
import type { Connection } from "../../db/pool.ts";
import type { HeadSnapshot } from "../head-snapshot.ts";
import type { ReadBody, ReadBodyTask } from "../../intake/read-body.ts";
import type { Damage } from "../quarantine.ts";
import type { KnownTimes } from "./chunk-rows.ts";

/** Heavy work of the store, with all that it needs, so that a worker thread can do it. */
export type StoreTask = CompactTask | RollUpTask | ReduceTask | ColumnsTask | RehearseTask | ReadBodyTask;

/** Makes a slot's chunks of what the head holds, and removes the journal's segments that held it. */
export interface CompactTask {
  readonly kind: "compact";
  readonly slot: number;
  readonly ids: Int32Array;
  readonly snapshot: HeadSnapshot;
  readonly segments: readonly number[];
}

export type RollupTier = "5m" | "1h";

/** Works out the rollups of a period that is due. */
export interface RollUpTask {
  readonly kind: "roll-up";
  readonly tier: RollupTier;
  readonly period: number;
}

/** Reads what a reading's sentences need and brings it into lines. */
export interface ReduceTask {
  readonly kind: "reduce";
  readonly sentences: readonly SentenceTask[];
  /** What the head holds whole begins here; what is older is in chunks. */
  readonly headFromMs: number;
  readonly fiveMinutesUntilMs: number;
  readonly hoursUntilMs: number;
  /** Samples are kept from here on. */
  readonly rawFromMs: number;
}

export interface SentenceTask {
  readonly plan: SentencePlan;
  readonly ids: Int32Array;
  readonly snapshot: HeadSnapshot;
}

/** Reads samples as they are. */
export interface ColumnsTask {
  readonly kind: "columns";
  readonly ids: Int32Array;
  readonly fromMs: number;
  readonly toMs: number;
  readonly headFromMs: number;
  readonly snapshot: HeadSnapshot;
}

/** Runs figures of the past through a rule. They stand in shared memory, so that a limit can be moved without their being sent again. */
export interface RehearseTask {
  readonly kind: "rehearse";
  readonly rule: RehearsedRule;
  readonly lines: readonly { readonly tags: Tags; readonly gauges: SharedArrayBuffer; readonly count: number }[];
  /** The moment of the first figures, ms. */
  readonly firstMs: number;
  readonly stepMs: number;
  readonly from: number;
  readonly to: number;
  /** IANA, by whose clock the hours of the week are counted. */
  readonly zone: string;
}

export type TaskResult<T extends StoreTask> = T extends RehearseTask
  ? Rehearsal
  : T extends ReadBodyTask
  ? ReadBody
  : T extends ReduceTask
  ? readonly (readonly LineValues[])[]
  : T extends ColumnsTask
    ? readonly { readonly timeMs: Float64Array; readonly value: Float64Array }[]
    : undefined;

/** What tasks have at hand; it lives as long as the thread or the store that does them. */
export interface TaskContext {
  /** Gives the connection, opened when it is first needed. */
  readonly connect: () => Promise<Connection>;
  readonly knownTimes: KnownTimes;
  /** Rows that could not be read: they are set aside when the task is done. */
  readonly damages: Damage[];
  /** Memory for one task at a time; without it every array is new. */
  readonly arena?: Arena;
}

/** Who asked has gone. */
export class CancelledError extends Error {
  override name = "CancelledError";
  constructor() {
    super("nobody waits for this any more");
  }
}
