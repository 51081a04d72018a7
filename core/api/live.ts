import type { IncidentView } from "../rules/rule.ts";

/** What the live stream says. */
export type LiveEvent =
  | { readonly kind: "samples"; readonly atMs: number }
  /** Something was noted, or taken away. */
  | { readonly kind: "event" }
  /** Something about alerting has changed: a rule was made, an incident was acknowledged, a quiet time began. */
  | { readonly kind: "alerting" }
  /** A run of a recording has begun or ended, or its report is complete. */
  | { readonly kind: "recording" }
  /** `isQuiet`: nobody is to be told of it now. */
  | {
      readonly kind: "raised" | "worsened" | "eased" | "cleared";
      readonly incident: IncidentView;
      readonly isQuiet: boolean;
    };

/** Every kind that the stream may say. */
export const liveKinds = [
  "samples",
  "event",
  "alerting",
  "recording",
  "raised",
  "worsened",
  "eased",
  "cleared",
] as const satisfies readonly LiveEvent["kind"][];

/** Where the stream is below /api. */
export const livePath = "/live";
