import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { CounterView } from "../../../../core/api/counters.ts";
import type { RecordingView } from "../../../../core/api/recordings.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { runningQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { BeginRun } from "./begin-run.tsx";
import { runWindow, runWords, scheduleWords, sentencesWords } from "./recording-words.ts";
import { RunStrip } from "./run-strip.tsx";

/** One recording in the list. */
export function RecordingRow({
  recording,
  counters,
}: {
  recording: RecordingView;
  counters: readonly CounterView[];
}): ReactNode {
  const { id, name, everySeconds, forSeconds, schedule, nextMs, runs, lastRun } = recording;
  const { nowMs } = useTime();
  const isOn = useQuery(runningQuery).data?.some(({ recordingId }) => recordingId === id) ?? false;
  const every = `every ${presentSpan(everySeconds * 1000)}`;
  const length = forSeconds === undefined ? "" : ` for ${presentSpan(forSeconds * 1000)}`;
  return (
    <li
      className="grid items-start gap-x-8 gap-y-2 border-b border-hairline py-3 sm:grid-cols-[minmax(0,1fr)_15rem_9rem]"
      data-recording={name}
    >
      <div className="min-w-0">
        <p className="flex flex-wrap items-baseline gap-x-3">
          <SectionLink to={`/recordings/${id}`} className="word-link truncate text-[17px] font-semibold">
            {name}
          </SectionLink>
          <span className="text-quiet">
            {every}
            {length}
          </span>
        </p>
        <p className="text-[14px]">{sentencesWords(recording, counters)}</p>
        {schedule && (
          <p className="text-[13.5px] text-quiet">
            {scheduleWords(schedule)}
            {nextMs !== null && (
              <>
                ; next <span className="moment">{momentText(nextMs, nowMs)}</span>
              </>
            )}
          </p>
        )}
      </div>
      <div className="text-[13.5px]">
        {lastRun ? (
          <SectionLink to={`/recordings/${id}/runs/${lastRun.id}${runWindow(lastRun)}`} className="block">
            <RunStrip strip={lastRun.strip} />
            <span className="word-link moment">{momentText(lastRun.startedAtMs, nowMs)}</span>{" "}
            <span className="text-quiet">{runWords(lastRun)}</span>
          </SectionLink>
        ) : (
          <p className="text-quiet">has not run yet</p>
        )}
        {runs > 1 && (
          <SectionLink to={`/recordings/${id}`} className="word-link">
            all {runs} runs
          </SectionLink>
        )}
      </div>
      <div className="sm:text-right">
        {isOn ? <p className="text-act">on now</p> : <BeginRun recording={recording} />}
      </div>
    </li>
  );
}
