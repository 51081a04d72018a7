import { type Nothing, route } from "./route.ts";

/** How alerting itself does. */
export interface AlertingView {
  /** The quiet time that hides everything now. */
  readonly allQuiet: {
    readonly id: number;
    readonly title: string;
    readonly by: string;
    readonly why: string;
    readonly untilMs: number;
  } | null;
  readonly failingRecipients: readonly {
    readonly id: number;
    readonly name: string;
    readonly sinceMs: number;
    readonly failure: string;
  }[];
  readonly failingRules: number;
  /** How late the last minute's checks were at the most, ms. */
  readonly lagMs: number;
  readonly checkedLines: number;
  readonly heartbeat: {
    readonly url: string;
    readonly lastAtMs: number | null;
    readonly failure: string | null;
  } | null;
  /** By which links in messages begin. */
  readonly address: string;
}

export interface AlertingSettings {
  /** By which links in messages begin; empty: by which the server listens. */
  readonly address: string;
  /** Called every minute, so that something outside notices when it is not; empty: none. */
  readonly heartbeatUrl: string;
}

export const getAlerting = route("GET", "/alerting")<Nothing, AlertingView>();
export const changeAlerting = route("PUT", "/alerting")<Partial<AlertingSettings>, AlertingView>();
