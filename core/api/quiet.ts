import type { QuietTime } from "../quiet/quiet-time.ts";

/** A quiet time with when it holds next, or holds now. */
export interface QuietView extends QuietTime {
  readonly now: { readonly fromMs: number; readonly toMs: number } | null;
  readonly next: { readonly fromMs: number; readonly toMs: number } | null;
  /** Open incidents that it hides. */
  readonly hides: number;
}
