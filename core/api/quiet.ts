import type { QuietTime } from "../quiet/quiet-time.ts";
import { type Nothing, route } from "./route.ts";

/** A quiet time with when it holds next, or holds now. */
export interface QuietView extends QuietTime {
  readonly now: { readonly fromMs: number; readonly toMs: number } | null;
  readonly next: { readonly fromMs: number; readonly toMs: number } | null;
  /** Open incidents that it hides. */
  readonly hides: number;
}

export const listQuietTimes = route("GET", "/quiet-times")<Nothing, readonly QuietView[]>();
export const planQuietTime = route("POST", "/quiet-times", 201)<
  Pick<QuietTime, "title" | "scope" | "fromMs" | "toMs"> & Partial<Pick<QuietTime, "why" | "repeat">>,
  QuietTime
>();
export const endQuietTime = route("DELETE", "/quiet-times/:id", 204)();
