import { presentSpan } from "../units/present.ts";
import { gaugeText, incidentPlace, withCalled } from "../rules/incident-text.ts";
import type { IncidentView } from "../rules/rule.ts";
import type { MessageKind } from "./decide.ts";
import type { RecipientTexts } from "./recipient.ts";

/** An incident with what a message tells of it. */
export interface MessageIncident {
  readonly incident: IncidentView;
  /** What people call its machine; absent where they call it nothing else. */
  readonly called?: string;
  /** What to do, of its rule. */
  readonly advice: string;
  /** What was most different then, in a sentence; empty where nothing was. */
  readonly differed: string;
  /** What it watches and its limits, in words. */
  readonly ruleWords: string;
  readonly links: { readonly incident: string; readonly dashboard: string | null; readonly tile: string | null };
}

export interface MessageTexts {
  readonly subject: string;
  readonly text: string;
}

const kindWords: Readonly<Record<MessageKind | "test", string>> = {
  raised: "raised",
  worsened: "is urgent now",
  repeated: "is still raised",
  escalated: "nobody has acknowledged",
  cleared: "cleared",
  test: "test",
};

/** The names that a text of one's own may hold, each in braces, with what stands for it. */
export const placeholders: Readonly<Record<string, string>> = {
  what: "what has happened: raised, cleared …",
  rule: "the rule's name",
  where: "the machine and what of it",
  machine: "the machine",
  severity: "notice or urgent",
  value: "the value at that moment",
  furthest: "the value furthest beyond the limit",
  limit: "the limit",
  since: "when it was raised",
  lasted: "for how long",
  advice: "what to do, as the rule says",
  differed: "what was most different then, in a sentence",
  cleared: "when it cleared",
  clearedValue: "the value at which it cleared",
  ended: "when and why it ended, in a sentence",
  link: "the incident's page",
  links: "its page, its tile and its dashboard",
  dashboard: "its dashboard at that window",
  tile: "its tile at that window",
  count: "how many incidents",
};

const defaultSubject = "{severity} {what}: {rule}, {where}";
const defaultBody =
  "{rule}\n{where}: {value}, the limit is {limit}\n{what} since {since}{lastedText}\n{differed}\n{advice}\n{links}";
/** What has ended tells when, and at which value, before what it was. */
const defaultEnd =
  "{rule}\n{where}: {ended}\nraised {since} at {value}, the limit is {limit}; it lasted {lasted}, the furthest was {furthest}\n{links}";

/**
 * Subject and text of a message, of the usual texts or of a recipient's own. Of several incidents the subject speaks of
 * the first and
 * counts the others, and the text has one part for each. A name in braces that is none stays as it is.
 */
export function messageTexts(
  kind: MessageKind | "test",
  incidents: readonly MessageIncident[],
  texts: RecipientTexts,
  timeText: (ms: number) => string,
  nowMs: number,
): MessageTexts {
  const [first] = incidents;
  if (!first) return { subject: "Nubrel: nothing", text: "" };
  const filled = (text: string, one: MessageIncident) =>
    text.replaceAll(
      /\{(\w+)\}/g,
      (whole, name: string) => fieldsOf(kind, one, incidents.length, timeText, nowMs)[name] ?? whole,
    );
  const more = incidents.length > 1 ? ` and ${incidents.length - 1} more` : "";
  const subject = filled(texts.subject.trim() || defaultSubject, first)
    .replaceAll(/\s+/g, " ")
    .trim();
  const parts = incidents.map((one) =>
    filled(texts.body.trim() || (kind === "cleared" ? defaultEnd : defaultBody), one)
      .split("\n")
      .map((line) => line.trimEnd())
      .filter((line, i, all) => line !== "" || all[i - 1] !== "")
      .join("\n")
      .trim(),
  );
  return {
    subject: `${subject}${texts.subject.trim() === "" || !texts.subject.includes("{count}") ? more : ""}`,
    text: parts.join("\n\n"),
  };
}

/** When an incident ended, and at which value or why. */
function endedWords(
  { clearedAtMs, clearedValue, ended, closedBy, compare }: IncidentView,
  text: (value: number | null) => string,
  timeText: (ms: number) => string,
): string {
  if (clearedAtMs === null) return "";
  const at = timeText(clearedAtMs);
  if (closedBy !== null) return `closed by ${closedBy} at ${at}`;
  if (ended === "gone") return `ended at ${at}, as nobody tells of it any more`;
  if (ended === "rule") return `over at ${at}, as its rule was changed, switched off or removed`;
  if (compare === "silent") return `heard again at ${at}`;
  return clearedValue === null ? `cleared at ${at}` : `cleared at ${at} with ${text(clearedValue)}`;
}

function fieldsOf(
  kind: MessageKind | "test",
  { incident, called, advice, differed, links }: MessageIncident,
  count: number,
  timeText: (ms: number) => string,
  nowMs: number,
): Readonly<Record<string, string>> {
  const tags = withCalled(incident.tags, (machine) => called ?? machine);
  const lasted = presentSpan((incident.clearedAtMs ?? nowMs) - incident.raisedAtMs);
  const silent = incident.compare === "silent" || incident.compare === "failed";
  const text = (value: number | null) =>
    silent && incident.compare === "silent"
      ? presentSpan((value ?? 0) * 1000)
      : gaugeText(incident.watch, value, incident.unit);
  return {
    what: kindWords[kind],
    rule: incident.ruleName,
    where: incidentPlace(tags, incident.compare),
    machine: tags["machine"] ?? "",
    severity: incident.severity,
    value: text(incident.value),
    furthest: text(incident.furthest),
    limit: text(incident.limit),
    since: timeText(incident.raisedAtMs),
    lasted,
    lastedText: incident.clearedAtMs === null ? "" : `, for ${lasted}`,
    cleared: incident.clearedAtMs === null ? "" : timeText(incident.clearedAtMs),
    clearedValue: incident.clearedAtMs === null ? "" : text(incident.clearedValue),
    ended: endedWords(incident, text, timeText),
    links: [
      links.incident,
      links.tile && `its tile: ${links.tile}`,
      links.dashboard && `its dashboard: ${links.dashboard}`,
    ]
      .filter(Boolean)
      .join("\n"),
    dashboard: links.dashboard ?? links.incident,
    advice,
    differed: differed && `What differed: ${differed}`,
    link: links.incident,
    tile: links.tile ?? links.incident,
    count: String(count),
  };
}
