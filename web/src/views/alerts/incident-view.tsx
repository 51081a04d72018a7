import { useCalled } from "../../api/use-called.ts";
import { useMay } from "../../shared/people/use-may.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useParams } from "react-router";
import {
  acknowledgeIncident,
  closeIncident,
  type IncidentDetail,
  noteOnIncident,
  snoozeIncident,
} from "../../../../core/api/incidents.ts";
import type { IncidentEntryKind } from "../../../../core/rules/incident-entry.ts";
import {
  incidentPlace,
  incidentText,
  limitsWords,
  watchWords,
  withCalled,
} from "../../../../core/rules/incident-text.ts";
import type { IncidentView as Incident } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { incidentQuery } from "../../api/queries.ts";
import { lineNames } from "../../charts/line-names.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { DifferedSentences } from "../../shared/differences/differed-sentences.tsx";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { dayWithName, exactClockTime, momentText } from "../../time/moments.ts";
import type { Span } from "../../time/time-window.ts";
import { useTime } from "../../time/time-provider.tsx";
import { useReading } from "../../sentence/use-reading.ts";
import { AlertsHeading } from "./alerts-heading.tsx";
import { HiddenBy } from "./hidden-by.tsx";
import { figureOf, handled, IncidentRows } from "./incident-rows.tsx";
import { MessageRows } from "./message-rows.tsx";
import { limitsOf, useRuleMarks } from "../../shared/rules/rule-marks.ts";

const points = 600;
const snoozes = [
  ["15 min", 900_000],
  ["1 h", 3_600_000],
  ["4 h", 14_400_000],
  ["1 day", 86_400_000],
  ["7 days", 604_800_000],
] as const;
const entryWords: Readonly<Record<IncidentEntryKind, string>> = {
  raised: "raised",
  worsened: "became urgent",
  eased: "became a notice again",
  cleared: "cleared",
  acknowledged: "acknowledged it",
  unacknowledged: "took the acknowledgement back",
  snoozed: "snoozed it",
  note: "noted",
  closed: "closed it",
  told: "",
};

/** Its span, from a quarter of an hour before it was raised on, for an hour at most. */
function spanOfDifferences({ raisedAtMs, clearedAtMs }: Incident, nowMs: number): Span {
  const to = Math.min(clearedAtMs ?? nowMs, raisedAtMs + 2_700_000);
  return { fromMs: raisedAtMs - 900_000, toMs: Math.max(to, raisedAtMs + 60_000) };
}

/** One incident: its chart with limit and marks, what else changed then, who was told and who did what. */
export function IncidentView(): ReactNode {
  const id = Number(useParams()["id"]);
  const detail = useQuery(incidentQuery(id));
  if (detail.error)
    return (
      <p role="alert" className="py-6 text-urgent">
        {detail.error.message}{" "}
        <SectionLink to="/alerts" className="word-link">
          All incidents
        </SectionLink>
      </p>
    );
  if (!detail.data) return <p className="py-6 text-quiet">reading …</p>;
  return <Page detail={detail.data} />;
}

function Page({ detail }: { detail: IncidentDetail }): ReactNode {
  const { incident, document, entries, messages, beside, events, window } = detail;
  const called = useCalled();
  const { change, span, nowMs } = useTime();
  const isOpen = incident.clearedAtMs === null;
  const looksAtIt = Math.abs(span.fromMs - window.from) < 1000 && Math.abs(span.toMs - window.to) < 60_000;
  const machine = incident.tags["machine"];
  // Of one that is open, up to when its page was opened.
  const [openedAtMs] = useState(Date.now);
  return (
    <>
      <AlertsHeading title={incident.ruleName}>
        {incidentPlace(withCalled(incident.tags, called), incident.compare)}
      </AlertsHeading>
      <div className="grid gap-x-10 gap-y-4 py-4 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div className="min-w-0">
          <p className="flex items-center gap-2 text-[17px]" data-incident-state={isOpen ? "open" : "cleared"}>
            <Signal of={isOpen ? "raised" : "quiet"} severity={incident.severity} />
            {incidentText(incident, isOpen ? "raised" : "cleared")}
            {handled(incident, nowMs) && <span className="text-[14px] text-quiet">{handled(incident, nowMs)}</span>}
          </p>
          {isOpen && <HiddenBy incident={incident} nowMs={nowMs} />}
          {document && (
            <p className="text-[13.5px] text-quiet">
              {watchWords(document.watch, incident.unit)}: {limitsWords(document, incident.unit)}
            </p>
          )}
          {document?.advice && (
            <p className="mt-2 max-w-prose border-l-2 border-act pl-3 whitespace-pre-wrap">{document.advice}</p>
          )}
          <Actions incident={incident} />
          {document && <IncidentChart incident={incident} document={document} events={events} />}
          {!looksAtIt && (
            <p className="mt-1">
              <button
                type="button"
                className="word-link"
                onClick={() => change({ kind: "fixed", fromMs: window.from, toMs: window.to })}
              >
                look at it with its margin
              </button>
            </p>
          )}
          <p className="mt-1 flex flex-wrap gap-5 text-[14px]">
            {machine && (
              <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="word-link">
                the machine {called(machine)}
              </SectionLink>
            )}
            {document?.place && (
              <SectionLink
                to={`/dashboards/${document.place.dashboard}/tiles/${encodeURIComponent(document.place.tile)}`}
                className="word-link"
              >
                its tile
              </SectionLink>
            )}
            {document?.place && (
              <SectionLink to={`/dashboards/${document.place.dashboard}`} className="word-link">
                its dashboard
              </SectionLink>
            )}
            {incident.ruleId > 0 && (
              <SectionLink to={`/alerts/rules/${incident.ruleId}`} className="word-link">
                its rule
              </SectionLink>
            )}
          </p>
          <DifferedSentences {...spanOfDifferences(incident, openedAtMs)} />
        </div>
        <div>
          <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
            <Fact name="raised">
              {dayWithName(incident.raisedAtMs)} <span className="moment">{exactClockTime(incident.raisedAtMs)}</span>
            </Fact>
            <Fact name={isOpen ? "still raised" : incident.ended === "gone" ? "ended" : "cleared"}>
              {isOpen ? (
                `for ${presentSpan(nowMs - incident.raisedAtMs)}`
              ) : (
                <>
                  {dayWithName(incident.clearedAtMs ?? 0)}{" "}
                  <span className="moment">{exactClockTime(incident.clearedAtMs ?? 0)}</span>
                </>
              )}
            </Fact>
            {!isOpen && <Fact name="lasted">{presentSpan((incident.clearedAtMs ?? 0) - incident.raisedAtMs)}</Fact>}
            <Fact name="when raised">
              <span className="figure">{figureOf(incident, incident.value)}</span>
            </Fact>
            {incident.clearedValue !== null && (
              <Fact name="when cleared">
                <span className="figure">{figureOf(incident, incident.clearedValue)}</span>
              </Fact>
            )}
            {incident.ended !== null && (
              <Fact name="ended, as">
                {incident.ended === "gone"
                  ? "nobody tells of it any more"
                  : "its rule was changed, switched off or removed"}
              </Fact>
            )}
            <Fact name="furthest">
              <span className="figure">{figureOf(incident, incident.furthest)}</span>
            </Fact>
          </dl>
          <Entries detail={detail} entries={entries} />
        </div>
      </div>
      {events.length > 0 && (
        <section aria-labelledby="events-then" className="border-t border-hairline py-3">
          <h2 id="events-then" className="font-bold">
            What else happened then
          </h2>
          <ul className="text-[14px]">
            {events.map((event) => (
              <li key={event.id}>
                <span className="moment text-quiet">{momentText(event.fromMs, nowMs)}</span> {event.text}
                {event.machine && <span className="text-quiet"> · {event.machine}</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
      {beside.length > 0 && (
        <section aria-labelledby="beside" className="border-t border-hairline py-3">
          <h2 id="beside" className="font-bold">
            Other incidents then
          </h2>
          <IncidentRows incidents={beside} nowMs={nowMs} />
        </section>
      )}
      <section aria-labelledby="messages-sent" className="border-t border-hairline py-3">
        <h2 id="messages-sent" className="font-bold">
          Messages
        </h2>
        {messages.length === 0 ? (
          <p className="text-quiet">
            Nobody was told of it.{" "}
            <SectionLink to="/alerts/recipients" className="word-link">
              Who is told of what
            </SectionLink>
          </p>
        ) : (
          <MessageRows messages={messages} nowMs={nowMs} />
        )}
      </section>
    </>
  );
}

function Fact({ name, children }: { name: string; children: ReactNode }): ReactNode {
  return (
    <>
      <dt className="text-quiet">{name}</dt>
      <dd>{children}</dd>
    </>
  );
}

function IncidentChart({
  incident,
  document,
  events,
}: {
  incident: Incident;
  document: NonNullable<IncidentDetail["document"]>;
  events: IncidentDetail["events"];
}): ReactNode {
  const called = useCalled();
  const { span } = useTime();
  const answer = useReading({ ...document.reading, extremes: true }, span, points);
  const marks = useRuleMarks([{ id: incident.ruleId }]).filter(({ key }) => key.startsWith(`${incident.id} `));
  const own =
    answer.data?.lines.filter((line) =>
      Object.entries(incident.tags).every(([tag, value]) => line.tags[tag] === value),
    ) ?? [];
  const shown = answer.data && own.length > 0 ? { ...answer.data, lines: own } : answer.data;
  return (
    <div className="mt-3">
      {answer.error && (
        <p role="alert" className="text-[13px] text-urgent">
          {answer.error.message}
        </p>
      )}
      <ChartWithActions
        title={incident.ruleName}
        answer={shown}
        span={span}
        unit={shown?.lines[0]?.unit ?? incident.unit}
        nameOf={lineNames(shown?.lines ?? [], [], called)}
        limits={limitsOf({ ...document, id: incident.ruleId })}
        marks={marks}
        events={events}
        reading={document.reading}
        height={180}
      />
    </div>
  );
}

/** Acknowledge, snooze, close. */
function Actions({ incident }: { incident: Incident }): ReactNode {
  const queries = useQueryClient();
  const { nowMs } = useTime();
  const act = useMutation({
    mutationFn: (what: (id: number) => Promise<unknown>) => what(incident.id),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["incidents"] }),
  });
  const may = useMay();
  if (incident.clearedAtMs !== null || !may(acknowledgeIncident)) return null;
  const snoozed = (incident.snoozedUntilMs ?? 0) > nowMs;
  return (
    <div className="not-in-print mt-2 flex flex-wrap items-center gap-x-5 gap-y-1">
      {incident.acknowledgedBy === null ? (
        <button
          type="button"
          className="act"
          disabled={act.isPending}
          onClick={() => act.mutate((id) => call(acknowledgeIncident, { id }, { acknowledged: true }))}
        >
          Acknowledge
        </button>
      ) : (
        <button
          type="button"
          className="act-plain"
          disabled={act.isPending}
          onClick={() => act.mutate((id) => call(acknowledgeIncident, { id }, { acknowledged: false }))}
        >
          Take the acknowledgement back
        </button>
      )}
      {snoozed ? (
        <button
          type="button"
          className="word-link"
          disabled={act.isPending}
          onClick={() => act.mutate((id) => call(snoozeIncident, { id }, { untilMs: null }))}
        >
          end the snooze
        </button>
      ) : (
        <span className="flex gap-2.5">
          <span className="text-quiet">snooze for</span>
          {snoozes.map(([words, ms]) => (
            <button
              key={ms}
              type="button"
              className="word-link"
              disabled={act.isPending}
              onClick={() => act.mutate((id) => call(snoozeIncident, { id }, { untilMs: Date.now() + ms }))}
              aria-label={`snooze for ${words}`}
            >
              {words}
            </button>
          ))}
        </span>
      )}
      <button
        type="button"
        className="word-link"
        disabled={act.isPending}
        onClick={() => act.mutate((id) => call(closeIncident, { id }))}
      >
        close it
      </button>
      {act.error && (
        <p role="alert" className="w-full text-[13px] text-urgent">
          {act.error.message}
        </p>
      )}
    </div>
  );
}

function Entries({
  detail: { incident },
  entries,
}: {
  detail: IncidentDetail;
  entries: IncidentDetail["entries"];
}): ReactNode {
  const queries = useQueryClient();
  const { nowMs } = useTime();
  const [text, setText] = useState("");
  const may = useMay();
  const note = useMutation({
    mutationFn: () => call(noteOnIncident, { id: incident.id }, { text }),
    onSuccess: async () => {
      setText("");
      await queries.invalidateQueries({ queryKey: ["incidents", "one", incident.id] });
    },
  });
  return (
    <section aria-label="What became of it" className="mt-4 border-t border-hairline pt-2">
      <ol className="text-[14px]" data-entries>
        {entries.map(({ id, atMs, kind, by, text: said }) => (
          <li key={id} className="grid grid-cols-[5rem_minmax(0,1fr)] gap-2 py-0.5">
            <span className="moment text-quiet">{momentText(atMs, nowMs)}</span>
            <span className="whitespace-pre-wrap">
              {[by, entryWords[kind]].filter(Boolean).join(" ")}
              {said &&
                `${by || entryWords[kind] ? ": " : ""}${kind === "snoozed" ? `until ${momentText(Date.parse(said), nowMs)}` : said}`}
            </span>
          </li>
        ))}
      </ol>
      <form
        hidden={!may(noteOnIncident)}
        className="not-in-print mt-2 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          note.mutate();
        }}
      >
        <input
          aria-label="a note"
          placeholder="a note: what was found, who looks at it"
          value={text}
          maxLength={5000}
          required
          onChange={(event) => setText(event.target.value)}
          className="min-w-0 grow"
        />
        <button type="submit" className="act-plain" disabled={note.isPending}>
          Note it
        </button>
      </form>
      {note.error && (
        <p role="alert" className="text-[13px] text-urgent">
          {note.error.message}
        </p>
      )}
    </section>
  );
}
