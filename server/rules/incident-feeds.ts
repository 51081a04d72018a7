import { createHash } from "node:crypto";
import { Feed } from "feed";
import ical from "ical-generator";
import { incidentText } from "../../core/rules/incident-text.ts";
import type { IncidentView } from "../../core/rules/rule.ts";

/** What a feed says of an incident besides itself. */
export interface FeedWords {
  /** What people call its machine; empty where it is of none. */
  machineOf(incident: IncidentView): string;
  /** Its page. */
  pageOf(incident: IncidentView): string;
}

const titleOf = (incident: IncidentView, { machineOf }: FeedWords): string =>
  [machineOf(incident), incident.ruleName].filter(Boolean).join(": ");

const wordsOf = (incident: IncidentView): string =>
  incidentText(incident, incident.clearedAtMs === null ? "raised" : "cleared");

/** Incidents as an Atom feed (RFC 4287), the newest first; an entry changes when its incident clears. */
export function atomOf(incidents: readonly IncidentView[], words: FeedWords, address: string, self: string): string {
  const changed = (incident: IncidentView) => incident.clearedAtMs ?? incident.raisedAtMs;
  const feed = new Feed({
    id: urnOf("incidents"),
    title: "Nubrel: incidents",
    link: `${address}/alerts`,
    feedLinks: { atom: self },
    copyright: "",
    updated: new Date(Math.max(0, ...incidents.map(changed))),
    generator: "Nubrel",
    author: { name: "Nubrel" },
  });
  for (const incident of incidents)
    feed.addItem({
      id: urnOf(`incident ${incident.id} ${incident.raisedAtMs}`),
      title: titleOf(incident, words),
      link: words.pageOf(incident),
      description: wordsOf(incident),
      published: new Date(incident.raisedAtMs),
      date: new Date(changed(incident)),
      category: [{ name: incident.severity, term: incident.severity }],
    });
  return feed.atom1();
}

/** Incidents as a calendar (RFC 5545): each as long as it lasted, an open one until now. */
export function calendarOf(incidents: readonly IncidentView[], words: FeedWords, nowMs: number): string {
  const calendar = ical({
    name: "Nubrel: incidents",
    prodId: { company: "Nubrel", product: "incidents", language: "EN" },
  });
  for (const incident of incidents) {
    const endMs = incident.clearedAtMs ?? nowMs;
    calendar.createEvent({
      id: `incident-${incident.id}-${incident.raisedAtMs}@nubrel`,
      start: new Date(incident.raisedAtMs),
      end: new Date(Math.max(endMs, incident.raisedAtMs + 1000)), // it must end after it begins
      stamp: new Date(endMs),
      summary: titleOf(incident, words),
      description: wordsOf(incident),
      url: words.pageOf(incident),
      categories: [{ name: incident.severity }],
    });
  }
  return calendar.toString();
}

/** A name that stays the same wherever Nubrel is moved (RFC 4287, 4.2.6.1), as a UUID of its own making (RFC 9562, 5.8). */
function urnOf(what: string): string {
  const hex = createHash("sha256").update(`nubrel ${what}`).digest("hex");
  const variant = ((Number.parseInt(hex.slice(16, 17), 16) & 3) | 8).toString(16);
  return `urn:uuid:${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-${variant}${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}
