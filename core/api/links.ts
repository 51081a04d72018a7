import type { Dashboard } from "../dashboards/dashboard.ts";
import type { LinkWindow } from "../dashboards/link-window.ts";
import { type Nothing, route } from "./route.ts";

export interface LinkView {
  readonly id: number;
  readonly name: string;
  /** The dashboard's number, and which version of it is shown. */
  readonly dashboard: number;
  readonly version: number;
  /** The id of the one tile that is shown; null for all. */
  readonly tile: string | null;
  /** ISO 8601; null for a wall's, which ends when it is revoked. */
  readonly until: string | null;
  readonly window: LinkWindow;
  /** Pages of these origins may hold it in a frame. */
  readonly origins: readonly string[];
  readonly by: string;
  readonly createdAtMs: number;
  readonly revokedAtMs: number | null;
  /** How often it was opened, and when last. */
  readonly opened: number;
  readonly lastOpenedAtMs: number | null;
}

export interface LinkBody {
  readonly dashboard: number;
  readonly tile?: string;
  /** ISO 8601; null without an end. */
  readonly until: string | null;
  readonly window: LinkWindow;
  readonly name?: string;
  readonly origins?: readonly string[];
}

/** The secret, after /s/, is in the answer that makes the link, and nowhere else. */
export type NewLink = LinkView & { readonly url: string };

/** What somebody sees who has a link. */
export interface Shared {
  readonly name: string;
  readonly document: Dashboard;
  readonly window: LinkWindow;
  readonly until: string | null;
  /** The colour that each of its machines has everywhere. */
  readonly colours: Readonly<Record<string, number>>;
}

export const listLinks = route("GET", "/links")<Nothing, readonly LinkView[]>();
export const makeLink = route("POST", "/links", 201)<LinkBody, NewLink>();
/** Has a link show the dashboard as it is now. */
export const renewLink = route("POST", "/links/:id/renew")<Nothing, LinkView>();
export const revokeLink = route("DELETE", "/links/:id", 204)();
/** Asked with a link: what it opens. `again` looks whether it is still open, and counts for no opening. */
export const getShared = route("GET", "/shared")<Nothing, Shared, { readonly again?: boolean }>();

/** The header in which a page names the secret of the link that it was opened by. */
export const linkHeader = "Nubrel-Link";
