import { ViewTitle } from "../../ui/view-title.tsx";
import { useQueries, useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { useParams, useSearchParams } from "react-router";
import type { RunView as Run } from "../../../../core/api/recordings.ts";
import { besideRuns, besideWords } from "../../../../core/recordings/beside.ts";
import { laidOver } from "../../../../core/recordings/laid-over.ts";
import { namedSentences } from "../../../../core/recordings/recording.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { countersQuery, runQuery } from "../../api/queries.ts";
import { clockTime, dayWithName } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Quantity } from "../../ui/quantity.tsx";
import { RunChart } from "./run-chart.tsx";
import { runLineNames } from "./run-names.ts";

const mostRuns = 6;

/** Runs of one recording laid on the same start, and what differs in figures. */
export function BesideView(): ReactNode {
  const id = Number(useParams()["id"]);
  const [search] = useSearchParams();
  const chosen = (search.get("runs") ?? "")
    .split(",")
    .map(Number)
    .filter((run) => Number.isInteger(run) && run > 0)
    .slice(0, mostRuns);
  const answers = useQueries({ queries: chosen.map((run) => runQuery(id, run)) });
  const failed = answers.find(({ error }) => error);
  const runs = answers.flatMap(({ data }) => (data ? [data] : [])).sort((a, b) => a.startedAtMs - b.startedAtMs);
  return (
    <section aria-label="Runs beside each other">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <ViewTitle words={runs[0]?.name ?? "Runs"} />
        <p className="text-quiet">runs laid on the same start</p>
        <SectionLink to={`/recordings/${id}`} className="word-link not-in-print ml-auto">
          all runs
        </SectionLink>
      </div>
      {chosen.length < 2 && <p className="py-6 text-quiet">Two runs at least are laid beside each other.</p>}
      {failed?.error && (
        <p role="alert" className="py-3 text-urgent">
          {failed.error.message}
        </p>
      )}
      {!failed && runs.length < chosen.length && <p className="py-6 text-quiet">reading …</p>}
      {runs.length >= 2 && runs.length === chosen.length && <Beside runs={runs} />}
    </section>
  );
}

/** By the moment at which it began. */
const runName = ({ startedAtMs }: Run) => `${dayWithName(startedAtMs)} ${clockTime(startedAtMs)}`;

function Beside({ runs }: { runs: readonly Run[] }): ReactNode {
  const counters = useQuery(countersQuery).data;
  const first = runs[0] as Run;
  const last = runs.at(-1) as Run;
  // A midnight of the reader's: the clock over the chart counts from the start of each run.
  const beginsMs = useMemo(() => new Date(first.startedAtMs).setHours(0, 0, 0, 0), [first]);
  const reading = useMemo(
    () =>
      laidOver(
        runs.map((run) => ({
          name: runs.length === 2 ? "run before" : runName(run),
          startedAtMs: run.startedAtMs,
          reading: run.reading,
        })),
        beginsMs,
      ),
    [runs, beginsMs],
  );
  // The midnight itself would be told as a day.
  const span = { fromMs: beginsMs + 1, toMs: beginsMs + reading.count * reading.stepMs };
  const sentences = namedSentences(last.document.sentences);
  const names = useMemo(
    () => runLineNames(first.reading.lines, namedSentences(first.document.sentences), counters ?? []),
    [first, counters],
  );
  const { lines, onlyFirst, onlySecond } = besideRuns(first.lines, last.lines);
  const numberNames = runLineNames([...first.lines, ...last.lines], sentences, counters ?? []);
  return (
    <>
      <p className="py-2 text-[14px] text-quiet">
        The clock under the chart counts from the start of each run; dashed is what ran earlier. {runName(first)} ran{" "}
        {presentSpan((first.endedAtMs ?? Date.now()) - first.startedAtMs)}, {runName(last)} ran{" "}
        {presentSpan((last.endedAtMs ?? Date.now()) - last.startedAtMs)}.
      </p>
      <RunChart title={`${first.name} beside`} reading={reading} span={span} nameOf={names} />
      <div className="mt-4 overflow-x-auto border-t border-ink pt-2" data-beside>
        <table className="text-[14px]">
          <thead>
            <tr className="text-left text-quiet">
              <th className="pr-6 font-normal">line</th>
              <th className="pr-6 text-right font-normal">{runName(first)}</th>
              <th className="pr-6 text-right font-normal">{runName(last)}</th>
              <th className="font-normal">that is</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => {
              const shown = ({ sum, mean, unit }: typeof line.first) =>
                sum ? <Quantity value={sum.value} unit={sum.unit} /> : <Quantity value={mean} unit={unit} />;
              return (
                <tr key={`${line.second.of} ${JSON.stringify(line.second.tags)}`} className="border-t border-hairline">
                  <th scope="row" className="max-w-96 truncate py-0.5 pr-6 text-left font-normal">
                    {numberNames(line.second)}
                  </th>
                  <td className="pr-6 text-right">{shown(line.first)}</td>
                  <td className="pr-6 text-right">{shown(line.second)}</td>
                  <td>{besideWords(line)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <p className="mt-1 text-[13px] text-quiet">
          Totals are compared by what they grew, everything else by its mean.
          {onlyFirst.length + onlySecond.length > 0 &&
            ` ${onlyFirst.length + onlySecond.length} lines are in one of the two only: ${[...onlyFirst, ...onlySecond].slice(0, 6).map(numberNames).join(", ")}.`}
        </p>
      </div>
    </>
  );
}
