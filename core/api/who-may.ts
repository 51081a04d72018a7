import type { Method } from "./route.ts";

/** Everybody who can ask, each by how they are known. */
export const callers = [
  "nobody",
  "owner",
  "keeper",
  "viewer",
  // a viewer who is held to some machines or dashboards
  "held viewer",
  // tokens by their scope
  "write",
  "read",
  "manage",
  "calendar",
  "feed",
  // a page that was opened by a link to one dashboard
  "link",
] as const;
export type Caller = (typeof callers)[number];

const people = ["owner", "keeper", "viewer", "held viewer"] as const satisfies readonly Caller[];

/** Kinds of routes by who may ask them. */
const callersOf = {
  anybody: callers,
  /** Each person for themselves; no token is one. */
  "for oneself": people,
  /** What a person is not held to is left out of the answer. */
  look: [...people, "read", "manage"],
  /** What stands on a dashboard needs it. */
  show: [...people, "read", "manage", "link"],
  "by link": ["link"],
  /** Nothing can be left out of it for those who are held to some. */
  "look at all": ["owner", "keeper", "viewer", "read", "manage"],
  /** It may hold secrets, or what nobody chose to gather. */
  "see inside": ["owner", "keeper", "manage"],
  keep: ["owner", "keeper", "manage"],
  /** What sources send and fetch by themselves, with a token of their own; each handler looks at it. */
  "send alone": ["write"],
  /** A calendar's token stands in its address. */
  "follow quiet times": ["calendar"],
  /** So does a feed's. */
  "follow incidents": ["feed"],
  /** With what the start command gave to `bin/nubrel`, which nobody else has. */
  command: [],
  /** Another server of the same database, with the pass of the one that leads. */
  "stand beside": [],
  /** Also with a source's own token, for what is its own. */
  send: ["owner", "keeper", "manage", "write"],
  run: ["owner", "manage"],
  /** It opens a way in for those who have no account; no token makes another. */
  share: ["owner", "keeper"],
  guard: ["owner"],
} as const satisfies Readonly<Record<string, readonly Caller[]>>;
export type Access = keyof typeof callersOf;

/** A route as the table names it. */
type RouteName = `${Method} /${string}`;

/** Who may ask each route of the API. What does not stand here is not served. */
const table: Readonly<Record<Access, readonly RouteName[]>> = {
  anybody: [
    "GET /problems",
    "GET /problems/:type",
    "GET /setup",
    "POST /setup",
    "POST /session",
    "POST /session/passkey/begin",
    "POST /session/passkey",
    "POST /session/proxy",
    "POST /session/issuer/begin",
    "GET /session/issuer/back",
    "DELETE /session",
    "GET /health",
    "GET /demo",
    "GET /invitations/:code",
    "POST /invitations/:code/accept",
    "GET /house-authority.crt",
    // the interface's own pages
    "GET /",
    "GET /*path",
    "GET /s/:secret",
  ],
  "for oneself": [
    "GET /me",
    "GET /me/sessions",
    "DELETE /me/sessions",
    "DELETE /me/sessions/:id",
    "PUT /me/password",
    "DELETE /me/password",
    "GET /me/ways",
    "GET /me/passkeys",
    "POST /me/passkeys",
    "POST /me/passkeys/begin",
    "DELETE /me/passkeys/:id",
    "POST /me/proof",
    "POST /me/proof/passkey/begin",
    "POST /me/proof/passkey",
    "POST /me/issuer/begin",
    "DELETE /me/issuer",
    "POST /me/proof/issuer/begin",
    "GET /me/codes",
    "POST /me/codes",
    "POST /me/codes/begin",
    "DELETE /me/codes",
    "GET /me/changes",
    "POST /me/changes/:id/known",
    "GET /me/places",
    "POST /me/places/:id/known",
    "DELETE /me/places/:id",
    "GET /me/tokens",
    "POST /me/tokens",
    "DELETE /me/tokens/:id",
    "PUT /dashboards/:id/star",
  ],
  look: [
    "GET /metrics",
    "GET /machines",
    "GET /machines/:name",
    "GET /counters/:name",
    "GET /counters/:name/series",
    "GET /series/:id/samples",
    "GET /dashboards",
    "GET /dashboards/:id",
    "GET /dashboards/:id/versions",
    "GET /events",
    "GET /incidents",
    "GET /incidents/:id",
    "GET /steadiness",
  ],
  show: ["GET /counters", "GET /tags", "POST /readings", "POST /readings/several", "GET /live"],
  "by link": ["GET /shared"],
  "look at all": [
    "GET /openapi.json",
    "GET /alerting",
    "GET /briefing",
    "GET /costs",
    "GET /retention",
    "GET /slowness",
    "GET /density",
    "POST /differences",
    "POST /differences/watched",
    "GET /tariffs",
    "POST /planning/energy",
    "GET /planning/settings",
    "POST /planning/fit",
    "GET /planning/month",
    "GET /planning/month/sending",
    "GET /planning/space",
    "GET /planning/watching",
    "GET /quiet-times",
    "GET /recordings",
    "GET /recordings/:id",
    "POST /recordings/forecast",
    "GET /recordings/:id/runs",
    "GET /recordings/:id/runs/:run",
    "GET /recordings/:id/runs/:run/file",
    "GET /runs",
    "GET /rules",
    "POST /rules/rehearse",
    "GET /sources",
    "GET /sources/:id",
    "GET /sources/:id/spells",
    "GET /sources/:id/windows-counters",
    "GET /intake-limits",
    "GET /transport",
  ],
  "see inside": ["GET /sources/:id/raw", "GET /condition", "GET /recipients", "GET /messages", "GET /forwards"],
  keep: [
    "PUT /alerting",
    "POST /dashboards",
    "PUT /dashboards/:id",
    "DELETE /dashboards/:id",
    "POST /dashboards/:id/back",
    "PUT /tariffs",
    "PUT /planning/settings",
    "POST /planning/speed",
    "DELETE /events/:id",
    "POST /incidents/:id/acknowledge",
    "POST /incidents/:id/snooze",
    "POST /incidents/:id/notes",
    "POST /incidents/:id/close",
    "PUT /machines/:name",
    "DELETE /machines/:name",
    "POST /machines/:name/bring-back",
    "PUT /planning/month/sending",
    "POST /planning/month/send",
    "POST /quiet-times",
    "DELETE /quiet-times/:id",
    "POST /recordings",
    "PUT /recordings/:id",
    "DELETE /recordings/:id",
    "POST /recordings/:id/bring-back",
    "POST /recordings/:id/runs/:run/stop",
    "POST /recordings/:id/runs/:run/notes",
    "DELETE /recordings/:id/runs/:run",
    "POST /recordings/files",
    "POST /rules",
    "POST /rules/ready-made",
    "PUT /rules/:id",
    "PATCH /rules/:id",
    "DELETE /rules/:id",
    "POST /sources",
    "POST /sources/try",
    "POST /sources/walk",
    "PUT /sources/:id",
    "PUT /sources/:id/pause",
    "DELETE /sources/:id/pause",
    "DELETE /sources/:id",
    "POST /sources/:id/bring-back",
    "POST /sources/:id/preview",
    "POST /sources/:id/table",
    "PUT /sources/:id/windows-counters",
    "POST /planning/watching/:id/leave",
    // those of sources alone; an owner all
    "GET /tokens",
    "POST /tokens",
    "DELETE /tokens/:id",
  ],
  "send alone": [
    "POST /push/openmetrics",
    "POST /push/csv",
    "POST /relay/work",
    "POST /relay/records",
    "POST /v1/metrics",
    "GET /collector/:system",
    "GET /windows-counters",
    "PUT /windows-counters",
  ],
  "follow quiet times": ["GET /quiet-times.ics"],
  "follow incidents": ["GET /incidents.atom", "GET /incidents.ics"],
  command: ["POST /import", "POST /profile"],
  "stand beside": ["POST /beside/accounts", "POST /beside/records"],
  send: ["POST /events", "POST /recordings/:id/runs"],
  run: [
    "PUT /condition/clock",
    "PUT /retention",
    "PUT /intake-limits",
    "POST /forwards",
    "PUT /forwards/:id",
    "DELETE /forwards/:id",
    "POST /recipients",
    "POST /recipients/try",
    "POST /recipients/preview",
    "GET /push-key",
    "PUT /recipients/:id",
    "DELETE /recipients/:id",
  ],
  share: ["GET /links", "POST /links", "POST /links/:id/renew", "DELETE /links/:id"],
  guard: [
    "GET /door-news",
    "PUT /door-news",
    "GET /issuer",
    "PUT /issuer",
    "DELETE /issuer",
    "GET /people",
    "POST /people",
    "PATCH /people/:id",
    "DELETE /people/:id",
    "GET /people/invitations",
    "POST /people/invitations",
    "DELETE /people/invitations/:id",
    "GET /audit",
    "GET /audit/file",
  ],
};

/**
 * What makes or shows secrets, or lets somebody in, asks a person again who they are, unless they showed it lately
 * (OWASP ASVS 4.0, 3.7.1).
 */
const asksProof: ReadonlySet<string> = new Set<RouteName>([
  "POST /tokens",
  "DELETE /tokens/:id",
  "POST /me/tokens",
  "POST /links",
  "POST /me/passkeys",
  "POST /me/passkeys/begin",
  "DELETE /me/passkeys/:id",
  "DELETE /me/password",
  "POST /me/issuer/begin",
  "DELETE /me/issuer",
  "PUT /issuer",
  "DELETE /issuer",
  "PUT /door-news",
  "POST /me/codes",
  "POST /me/codes/begin",
  "DELETE /me/codes",
  "PUT /alerting",
  "POST /forwards",
  "PUT /forwards/:id",
  "POST /recipients",
  "PUT /recipients/:id",
  "DELETE /recipients/:id",
  "POST /people",
  "PATCH /people/:id",
  "DELETE /people/:id",
  "POST /people/invitations",
  "DELETE /people/invitations/:id",
]);
/** So long a person counts as having shown who they are. */
export const provenMs = 600_000;

const accessOf: ReadonlyMap<string, Access> = new Map(
  Object.entries(table).flatMap(([access, routes]) => routes.map((route) => [route, access as Access])),
);

/** Every route that may be asked, by its method and path. */
export const namedRoutes: readonly string[] = [...accessOf.keys()];

/** How a route may be asked. Throws an Error for one that the table does not name. */
export function accessTo({ method, path }: { readonly method: Method; readonly path: string }): Access {
  const access = accessOf.get(`${method} ${path}`);
  if (!access) throw new Error(`${method} ${path} stands in no row of who may ask what (core/api/who-may.ts)`);
  return access;
}

export const mayAsk = (caller: Caller, access: Access): boolean =>
  (callersOf[access] as readonly Caller[]).includes(caller);

/** All who may ask. */
export const whoMay = (access: Access): readonly Caller[] => callersOf[access];

export const needsProof = ({ method, path }: { readonly method: Method; readonly path: string }): boolean =>
  asksProof.has(`${method} ${path}`);

/** What is taken away, or shows what may be secret: written down as every change is. */
const takenAway: ReadonlySet<string> = new Set<RouteName>([
  "GET /sources/:id/raw",
  "GET /recordings/:id/runs/:run/file",
  "GET /audit/file",
]);
/** Of one's own taste alone, or tried without a change. */
const notWitnessed: ReadonlySet<string> = new Set<RouteName>([
  "PUT /dashboards/:id/star",
  "POST /session/issuer/begin",
  "POST /me/issuer/begin",
  "POST /me/proof/issuer/begin",
  "POST /session/passkey/begin",
  "POST /me/passkeys/begin",
  "POST /me/proof/passkey/begin",
  "POST /sources/try",
  "POST /sources/walk",
  "POST /sources/:id/preview",
  "POST /sources/:id/table",
  "POST /recipients/preview",
]);

/** What somebody signs in by is another after it: told on their other pages (OWASP ASVS 4.0, 2.5.5). */
export const changesFactors: ReadonlySet<string> = new Set<RouteName>([
  "PUT /me/password",
  "DELETE /me/password",
  "POST /me/passkeys",
  "DELETE /me/passkeys/:id",
  "POST /me/codes",
  "DELETE /me/codes",
  "DELETE /me/issuer",
  "POST /me/tokens",
]);

/** Whether it is written down who asked a route: every change, every way in, and what is taken away. */
export function isWitnessed(route: { readonly method: Method; readonly path: string }): boolean {
  const name = `${route.method} ${route.path}`;
  if (takenAway.has(name)) return true;
  const access = accessTo(route);
  return (
    route.method !== "GET" &&
    access !== "look" &&
    access !== "show" &&
    access !== "look at all" &&
    !notWitnessed.has(name)
  );
}
