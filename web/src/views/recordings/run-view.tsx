import { apiAddress } from "../../api/base-path.ts";
import { Called } from "../../shared/machines/called.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { useParams } from "react-router";
import { noteRun, removeRun, type RunView as Run, stopRun } from "../../../../core/api/recordings.ts";
import { addressOf } from "../../../../core/api/route.ts";
import { getRunFile } from "../../../../core/api/recordings.ts";
import { endings, namedSentences } from "../../../../core/recordings/recording.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { countersQuery, runQuery, runsQuery } from "../../api/queries.ts";
import { dayWithName, exactClockTime } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useGo } from "../../time/use-go.ts";
import { useDayOnPaper } from "../../ui/theme.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { NumbersTable } from "./numbers-table.tsx";
import { RunChart } from "./run-chart.tsx";
import { runLineNames } from "./run-names.ts";

/** The report of a run: all its lines, in charts and in figures, and what happened in it. */
export function RunView(): ReactNode {
  const params = useParams();
  const [id, run] = [Number(params["id"]), Number(params["run"])];
  const report = useQuery(runQuery(id, run));
  if (report.isPending) return <p className="py-6 text-quiet">reading …</p>;
  if (!report.data)
    return (
      <section aria-label="Run">
        <p role="alert" className="py-6 text-urgent">
          {report.error.message}{" "}
          <button type="button" className="word-link" onClick={() => void report.refetch()}>
            Try again
          </button>{" "}
          <SectionLink to="/recordings" className="word-link">
            all recordings
          </SectionLink>
        </p>
      </section>
    );
  return <Report key={run} run={report.data} />;
}

function Report({ run }: { run: Run }): ReactNode {
  const { recordingId, name, startedAtMs, endedAtMs, everySeconds, document, reading, lines, notes } = run;
  const counters = useQuery(countersQuery).data;
  useDayOnPaper();
  const span = useMemo(
    () => ({ fromMs: reading.from, toMs: reading.from + reading.count * reading.stepMs }),
    [reading],
  );
  const names = useMemo(
    () => runLineNames(reading.lines, namedSentences(document.sentences), counters ?? []),
    [reading, document, counters],
  );
  return (
    <section aria-label={`Run of ${name}`} data-run={run.id}>
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <ViewTitle words={name} />
        <p className="text-quiet">
          {dayWithName(startedAtMs)} <span className="moment">{exactClockTime(startedAtMs)}</span>
          {endedAtMs === null ? ", on now" : `, ${presentSpan(endedAtMs - startedAtMs)}`}, every{" "}
          {presentSpan(everySeconds * 1000)}
        </p>
        <span className="not-in-print ml-auto flex flex-wrap items-baseline gap-x-5">
          <Neighbours run={run} />
          <SectionLink to={`/recordings/${recordingId}`} className="word-link">
            all runs
          </SectionLink>
        </span>
      </div>
      <p className="py-2">
        {run.endedBecause === null ? (
          <StopLine run={run} />
        ) : (
          <>
            It ended as {endings[run.endedBecause]}, with{" "}
            <span className="figure">{run.samples.toLocaleString("en")}</span> samples in{" "}
            <Quantity value={run.bytes} unit="By" />.
          </>
        )}
      </p>
      {[...new Set(notes)].map((note) => (
        <p key={note} className="text-[14px] text-notice">
          {note}
        </p>
      ))}
      {reading.lines.length === 0 ? (
        <p className="py-6 text-quiet">
          {endedAtMs === null
            ? "Nothing has come yet; it begins with the next whole interval."
            : "Nothing was gathered in it."}
        </p>
      ) : (
        <>
          <RunChart title={name} reading={reading} span={span} nameOf={names} events={run.events} />
          <div className="mt-4 border-t border-ink pt-2">
            <NumbersTable title={name} lines={lines} nameOf={names} />
          </div>
        </>
      )}
      <Within run={run} />
      <Further run={run} />
    </section>
  );
}

function StopLine({ run: { id, recordingId, samples } }: { run: Run }): ReactNode {
  const queries = useQueryClient();
  const stop = useMutation({
    mutationFn: () => call(stopRun, { id: recordingId, run: id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["recordings"] }),
  });
  return (
    <>
      It is on, and has <span className="figure">{samples.toLocaleString("en")}</span> samples.{" "}
      <button type="button" className="word-link not-in-print" disabled={stop.isPending} onClick={() => stop.mutate()}>
        end it
      </button>
    </>
  );
}

/** The runs before and after, and this one beside the one before. */
function Neighbours({ run: { id, recordingId } }: { run: Run }): ReactNode {
  const runs = useQuery(runsQuery(recordingId)).data ?? [];
  const at = runs.findIndex((one) => one.id === id);
  const before = at < 0 ? undefined : runs[at + 1];
  const after = at < 0 ? undefined : runs[at - 1];
  return (
    <>
      {before && (
        <SectionLink to={`/recordings/${recordingId}/runs/${before.id}`} className="word-link">
          the run before
        </SectionLink>
      )}
      {after && (
        <SectionLink to={`/recordings/${recordingId}/runs/${after.id}`} className="word-link">
          the run after
        </SectionLink>
      )}
      {before && (
        <SectionLink to={`/recordings/${recordingId}/beside?runs=${before.id},${id}`} className="word-link">
          beside the run before
        </SectionLink>
      )}
    </>
  );
}

/** What happened in it, and what used most of the processor. */
function Within({ run: { events, incidents, processes } }: { run: Run }): ReactNode {
  if (events.length + incidents.length + processes.length === 0) return null;
  return (
    <div className="mt-4 grid gap-x-10 gap-y-3 border-t border-ink pt-2 lg:grid-cols-2">
      {(events.length > 0 || incidents.length > 0) && (
        <section aria-label="What happened in it">
          <h2 className="font-bold">What happened in it</h2>
          <ul className="text-[14px]">
            {incidents.map(({ id, ruleName, tags, raisedAtMs }) => (
              <li key={`incident ${id}`} className="flex gap-3">
                <span className="moment text-quiet">{exactClockTime(raisedAtMs)}</span>
                <SectionLink to={`/alerts/incidents/${id}`} className="word-link">
                  {ruleName}
                  {tags["machine"] && ` (${tags["machine"]})`}
                </SectionLink>
              </li>
            ))}
            {events.slice(0, 40).map(({ id, fromMs, machine, text, kind }) => (
              <li key={`event ${id}`} className="flex gap-3">
                <span className="moment text-quiet">{exactClockTime(fromMs)}</span>
                <span>
                  {text || kind}
                  {machine && ` (${machine})`}
                </span>
              </li>
            ))}
            {events.length > 40 && <li className="text-quiet">and {events.length - 40} more events</li>}
          </ul>
        </section>
      )}
      {processes.length > 0 && (
        <section aria-label="Processes that used most">
          <h2 className="font-bold">Processes by processor time</h2>
          <ul className="text-[14px]">
            {processes.map(({ machine, process, seconds }) => (
              <li key={`${machine} ${process}`} className="flex gap-3">
                <span className="w-20 text-right">
                  <Quantity value={seconds} unit="s" />
                </span>
                <span>
                  {process}{" "}
                  <span className="text-quiet">
                    <Called machine={machine} />
                  </span>
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

const formats = [
  ["nubrel", "as one file that another Nubrel opens"],
  ["csv", "as CSV"],
  ["openmetrics", "as OpenMetrics"],
] as const;

/** A note about it, its files, paper, and its end. */
function Further({ run: { id, recordingId, endedAtMs } }: { run: Run }): ReactNode {
  const queries = useQueryClient();
  const go = useGo();
  const [text, setText] = useState("");
  const [asksRemoval, setAsksRemoval] = useState(false);
  const note = useMutation({
    mutationFn: () => call(noteRun, { id: recordingId, run: id }, { text }),
    onSuccess: () => {
      setText("");
      return queries.invalidateQueries({ queryKey: ["recordings", recordingId, "runs", id] });
    },
  });
  const remove = useMutation({
    mutationFn: () => call(removeRun, { id: recordingId, run: id }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["recordings"] });
      go(`/recordings/${recordingId}`);
    },
  });
  return (
    <div className="not-in-print mt-4 flex flex-wrap items-baseline gap-x-6 gap-y-2 border-t border-hairline pt-3 text-[14px]">
      <form
        className="flex items-baseline gap-2"
        aria-label="A note about this run"
        onSubmit={(event) => {
          event.preventDefault();
          note.mutate();
        }}
      >
        <input
          aria-label="note"
          name="text"
          value={text}
          maxLength={1000}
          placeholder="after the new drives"
          onChange={(event) => setText(event.target.value)}
          className="w-64"
        />
        <button type="submit" className="word-link" disabled={text.trim() === "" || note.isPending}>
          note it
        </button>
      </form>
      <span>
        Save it{" "}
        {formats.map(([format, words], i) => (
          <span key={format}>
            {i > 0 && ", "}
            <a
              className="word-link"
              href={apiAddress(addressOf(getRunFile.path, { id: recordingId, run: id }, { format }))}
              download
            >
              {words}
            </a>
          </span>
        ))}
      </span>
      <button type="button" className="word-link" onClick={() => window.print()}>
        print it
      </button>
      {endedAtMs !== null &&
        (asksRemoval ? (
          <span>
            For good?{" "}
            <button type="button" className="word-link text-urgent" onClick={() => remove.mutate()}>
              remove it
            </button>{" "}
            <button type="button" className="word-link" onClick={() => setAsksRemoval(false)}>
              keep it
            </button>
          </span>
        ) : (
          <button type="button" className="word-link" onClick={() => setAsksRemoval(true)}>
            remove this run
          </button>
        ))}
      {(note.error ?? remove.error) && (
        <p role="alert" className="w-full text-urgent">
          {(note.error ?? remove.error)?.message}
        </p>
      )}
    </div>
  );
}
