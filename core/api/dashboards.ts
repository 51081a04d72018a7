import type { Dashboard } from "../dashboards/dashboard.ts";
import { type Nothing, route } from "./route.ts";

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

export const listDashboards = route("GET", "/dashboards")<Nothing, readonly DashboardListed[]>();
export const makeDashboard = route("POST", "/dashboards", 201)<{ readonly document: Dashboard }, DashboardView>();
export const getDashboard = route("GET", "/dashboards/:id")<Nothing, DashboardView>();
/** Refused where another version than `revision` is the newest. */
export const saveDashboard = route("PUT", "/dashboards/:id")<
  { readonly document: Dashboard; readonly revision: number },
  DashboardView
>();
export const removeDashboard = route("DELETE", "/dashboards/:id", 204)();
export const putDashboardBack = route("POST", "/dashboards/:id/back", 204)();
export const listVersions = route("GET", "/dashboards/:id/versions")<Nothing, readonly DashboardRevision[]>();
export const starDashboard = route("PUT", "/dashboards/:id/star", 204)<{ readonly starred: boolean }>();
