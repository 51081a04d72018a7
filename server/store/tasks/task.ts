import type { SentencePlan } from "../../../core/reading/plan.ts";
import type { LineValues } from "../../../core/reading/line-values.ts";
import type { Arena } from "../../../core/series/arena.ts";
import type { Column } from "../../../core/series/batch.ts";
import type { Connection } from "../../db/pool.ts";
import { workKind } from "../../work/work-kind.ts";
import { type HeadSnapshot, transfersOf } from "../head-snapshot.ts";
import type { Damage } from "../damage.ts";
import type { RollupTier } from "./rollup-tier.ts";
import type { KnownTimes } from "./chunk-rows.ts";

/** Makes a slot's chunks of what the head holds, and removes the journal's segments that held it. */
export interface CompactTask {
  readonly slot: number;
  readonly ids: Int32Array;
  readonly snapshot: HeadSnapshot;
  readonly segments: readonly number[];
}

/** Works out the rollups of a period that is due. */
export interface RollUpTask {
  readonly tier: RollupTier;
  readonly period: number;
}

/** Reads what a reading's sentences need and brings it into lines. */
export interface ReduceTask {
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
  readonly ids: Int32Array;
  readonly fromMs: number;
  readonly toMs: number;
  readonly headFromMs: number;
  readonly snapshot: HeadSnapshot;
}

/** Answers which series came so seldom in the slot that they are looked for beyond it. */
export const compactKind = workKind<CompactTask, Int32Array>("compact", ({ snapshot }) => transfersOf(snapshot));
export const rollUpKind = workKind<RollUpTask, undefined>("roll-up");
export const reduceKind = workKind<ReduceTask, readonly (readonly LineValues[])[]>(
  "reduce",
  ({ sentences }) => sentences.flatMap(({ snapshot }) => transfersOf(snapshot)),
  true,
);
export const columnsKind = workKind<ColumnsTask, readonly Column[]>(
  "columns",
  ({ snapshot }) => transfersOf(snapshot),
  true,
);

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
