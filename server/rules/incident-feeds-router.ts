import { type Request, Router } from "express";
import { incidentWindow } from "../../core/rules/incident-text.ts";
import type { Database } from "../db/pool.ts";
import type { MachineNames } from "../machines/machine-names.ts";
import { assertTokenInAddress } from "../people/token-in-address.ts";
import type { Tokens } from "../people/tokens.ts";
import { siteOf } from "../people/site.ts";
import { atomOf, calendarOf, type FeedWords } from "./incident-feeds.ts";
import { listIncidents } from "./incident-rows.ts";

const daysBack = 90;
const mostListed = 500;
const dayMs = 86_400_000;
/** Of an incident that is open, so long is shown after its beginning. */
const openShownMs = 3_600_000;

interface FeedParts {
  readonly database: Database;
  readonly tokens: Tokens;
  readonly names: MachineNames;
  /** By which people reach Nubrel. */
  readonly address: () => Promise<string>;
}

/** Incidents for a reader of feeds or a calendar. */
export function incidentFeedsRouter({ database, tokens, names, address }: FeedParts): Router {
  const router = Router();
  const listed = async (request: Request) => {
    await assertTokenInAddress(tokens, request, "feed", "feeds");
    const nowMs = Date.now();
    const root = await address();
    const words: FeedWords = {
      machineOf: ({ tags: { machine = "" } }) => names.of(machine).friendlyName || machine,
      pageOf: (incident) => {
        // The same at every question: an entry that is otherwise is told as a new one.
        const { from, to } = incidentWindow(incident, null, incident.raisedAtMs + openShownMs);
        const window = new URLSearchParams({ from: new Date(from).toISOString(), to: new Date(to).toISOString() });
        return `${root}/alerts/incidents/${incident.id}?${window}`;
      },
    };
    return {
      incidents: await listIncidents(database, nowMs - daysBack * dayMs, nowMs + 1, mostListed),
      words,
      root,
      nowMs,
    };
  };
  router.get("/incidents.atom", async (request, response) => {
    const { incidents, words, root } = await listed(request);
    const newest = incidents.toSorted((a, b) => b.raisedAtMs - a.raisedAtMs);
    response.setHeader("Content-Type", "application/atom+xml; charset=utf-8");
    response.send(atomOf(newest, words, root, `${siteOf(request).root}/api/incidents.atom`));
  });
  router.get("/incidents.ics", async (request, response) => {
    const { incidents, words, nowMs } = await listed(request);
    response.setHeader("Content-Type", "text/calendar; charset=utf-8");
    response.send(calendarOf(incidents, words, nowMs));
  });
  return router;
}
