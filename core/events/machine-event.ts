import type { Tags } from "../counters/counter.ts";

/** Something that happened to a machine, or a part of it; times in ms, `toMs` is `fromMs` for a moment. */
export interface MachineEvent {
  readonly id: number;
  readonly fromMs: number;
  readonly toMs: number;
  readonly kind: string;
  readonly machine: string;
  readonly text: string;
  readonly tags: Tags;
}
