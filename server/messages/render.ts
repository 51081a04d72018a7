import { DateTime } from "luxon";
import type { MessageKind } from "../../core/messages/decide.ts";
import type { RecipientTexts } from "../../core/messages/recipient.ts";
import { type MessageIncident, messageTexts } from "../../core/messages/texts.ts";
import {
  gaugeText,
  incidentPlace,
  incidentWindow,
  limitsWords,
  watchWords,
  withCalled,
} from "../../core/rules/incident-text.ts";
import type { IncidentView, RuleDocument } from "../../core/rules/rule.ts";
import { presentSpan } from "../../core/units/present.ts";

/** An incident with the rule that it came of. */
export interface TellIncident {
  readonly incident: IncidentView;
  readonly document: RuleDocument | null;
  /** What people call its machine. */
  readonly called?: string;
  /** What was most different then, in a sentence. */
  readonly differed?: string;
}

/** Where links lead and in whose time moments are written. */
export interface TellContext {
  readonly address: string;
  readonly zone: string;
  readonly nowMs: number;
}

/** The body of a webhook; docs/webhook.md describes it to receivers. */
interface WebhookBody {
  readonly format: "nubrel message";
  readonly version: 1;
  readonly id: string;
  readonly kind: MessageKind | "test";
  readonly sentAt: string;
  readonly subject: string;
  readonly text: string;
  readonly incidents: readonly object[];
}

/** A message in all of its forms. */
export interface Rendered {
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly webhook: WebhookBody;
  /** To the incident, or to all of them. */
  readonly link: string;
}

/** Links to an incident, and to its tile and dashboard at the window that its rule says. */
function linksOf(
  { incident, document }: TellIncident,
  { address, nowMs }: Pick<TellContext, "address" | "nowMs">,
): MessageIncident["links"] {
  const { from, to } = incidentWindow(incident, document?.marginSeconds ?? null, nowMs);
  const window = `from=${new Date(from).toISOString()}&to=${new Date(to).toISOString()}`;
  const place = document?.place;
  return {
    incident: `${address}/alerts/incidents/${incident.id}?${window}`,
    dashboard: place ? `${address}/dashboards/${place.dashboard}?${window}` : null,
    tile: place ? `${address}/dashboards/${place.dashboard}/tiles/${encodeURIComponent(place.tile)}?${window}` : null,
  };
}

export function render(
  id: string,
  kind: MessageKind | "test",
  incidents: readonly TellIncident[],
  texts: RecipientTexts,
  context: TellContext,
  hasPicture: boolean,
): Rendered {
  const timeText = (ms: number) => DateTime.fromMillis(ms, { zone: context.zone }).toFormat("ccc yyyy-MM-dd HH:mm");
  const told = incidents.map(
    (one): MessageIncident => ({
      incident: one.incident,
      ...(one.called !== undefined && { called: one.called }),
      advice: one.document?.advice ?? "",
      differed: one.differed ?? "",
      ruleWords: one.document
        ? `${watchWords(one.document.watch, one.incident.unit)}: ${limitsWords(one.document, one.incident.unit)}`
        : "",
      links: linksOf(one, context),
    }),
  );
  const { subject, text } = messageTexts(kind, told, texts, timeText, context.nowMs);
  return {
    subject,
    text,
    html: htmlOf(subject, text, told, timeText, hasPicture),
    link: told.length === 1 && told[0] ? told[0].links.incident : `${context.address}/alerts`,
    webhook: {
      format: "nubrel message",
      version: 1,
      id,
      kind,
      sentAt: new Date(context.nowMs).toISOString(),
      subject,
      text,
      incidents: told.map(({ incident, called, advice, differed, links }) => ({
        id: incident.id,
        rule: { id: incident.ruleId, name: incident.ruleName },
        severity: incident.severity,
        tags: incident.tags,
        ...(called !== undefined && { called }),
        of: incident.compare,
        watch: incident.watch,
        value: incident.value,
        furthest: incident.furthest,
        clearedValue: incident.clearedValue,
        ended: incident.ended,
        limit: incident.limit,
        unit: incident.unit,
        raisedAt: new Date(incident.raisedAtMs).toISOString(),
        clearedAt: incident.clearedAtMs === null ? null : new Date(incident.clearedAtMs).toISOString(),
        acknowledgedBy: incident.acknowledgedBy,
        advice,
        differed,
        links,
      })),
    },
  };
}

const escaped = (text: string) =>
  text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;");

/**
 * Plain enough for every reader of mail: no styles but inline ones, one picture, links written out in the text beside
 * it.
 */
function htmlOf(
  subject: string,
  text: string,
  told: readonly MessageIncident[],
  timeText: (ms: number) => string,
  hasPicture: boolean,
): string {
  const rows = told.map(({ incident, called, advice, differed, ruleWords, links }) => {
    const facts: readonly (readonly [string, string])[] = [
      ["what", `${incident.ruleName}, ${incident.severity}`],
      [
        "where",
        incidentPlace(
          withCalled(incident.tags, (machine) => called ?? machine),
          incident.compare,
        ),
      ],
      ["value", gaugeText(incident.watch, incident.value, incident.unit)],
      ["limit", ruleWords || gaugeText(incident.watch, incident.limit, incident.unit)],
      ["since", timeText(incident.raisedAtMs)],
      ...(incident.clearedAtMs === null
        ? []
        : [
            [
              incident.ended === "gone" ? "ended" : "cleared",
              `${timeText(incident.clearedAtMs)}, after ${presentSpan(incident.clearedAtMs - incident.raisedAtMs)}${incident.clearedValue === null ? "" : `, at ${gaugeText(incident.watch, incident.clearedValue, incident.unit)}`}`,
            ] as const,
          ]),
      ...(differed === "" ? [] : [["what differed", differed] as const]),
      ...(advice === "" ? [] : [["what to do", advice] as const]),
    ];
    const anchor = (address: string, words: string) =>
      `<a href="${escaped(address)}" style="color:#17695e">${words}</a>`;
    return `<table style="border-collapse:collapse;margin:12px 0">${facts.map(([name, value]) => `<tr><td style="padding:2px 16px 2px 0;color:#56626b;vertical-align:top">${name}</td><td style="padding:2px 0">${escaped(value)}</td></tr>`).join("")}</table><p>${[anchor(links.incident, "the incident"), links.tile && anchor(links.tile, "its tile"), links.dashboard && anchor(links.dashboard, "the dashboard")].filter(Boolean).join(" &nbsp; ")}</p>`;
  });
  return `<!doctype html><html><body style="background:#f7f4ed;color:#1d2a33;font-family:sans-serif;font-size:15px;padding:16px"><h1 style="font-size:18px;margin:0 0 8px">${escaped(subject)}</h1><p style="white-space:pre-line;margin:0 0 8px">${escaped(text)}</p>${hasPicture ? '<img src="cid:chart" alt="chart of the incident" width="640" height="220" style="max-width:100%;height:auto">' : ""}${rows.join('<hr style="border:0;border-top:1px solid #d9d3c5">')}</body></html>`;
}
