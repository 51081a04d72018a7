import type { SlowKind } from "../slowness/slow-kinds.ts";
import type { SlowSpell } from "../slowness/slow-spells.ts";
import { type Nothing, route } from "./route.ts";

/** What took longer than it may. */
export interface SlownessView {
  readonly limits: readonly { readonly kind: SlowKind; readonly words: string; readonly limitMs: number }[];
  /** From when on is told. */
  readonly fromMs: number;
  /** The newest first. */
  readonly spells: readonly SlowSpell[];
  /** Whether there are more than are told here. */
  readonly isCut: boolean;
}

export const getSlowness = route("GET", "/slowness")<Nothing, SlownessView>();
