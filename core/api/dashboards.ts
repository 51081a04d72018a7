import type { Dashboard } from "../dashboards/dashboard.ts";

/** A dashboard as the list shows it. */
export interface DashboardListed {
  readonly id: number;
  readonly title: string;
  readonly description: string;
  readonly tags: readonly string[];
  readonly tiles: number;
  readonly revision: number;
  readonly changedAtMs: number;
  readonly changedBy: string;
  /** By the one who asks. */
  readonly starred: boolean;
}

export interface DashboardView {
  readonly id: number;
  readonly document: Dashboard;
  /** Grows by one with each save; what is saved must name the one it was made from. */
  readonly revision: number;
  readonly changedAtMs: number;
  readonly changedBy: string;
}

export type DashboardRevision = Omit<DashboardView, "id">;
