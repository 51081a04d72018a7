import { ViewTitle } from "../../ui/view-title.tsx";
import { useToasts } from "../../shared/toasts.ts";
import { useMay } from "../../shared/people/use-may.ts";
import {
  changeRecording,
  type RecordingView as Recording,
  bringRecordingBack,
  removeRecording,
  type RunListed,
} from "../../../../core/api/recordings.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Sentence } from "../../../../core/reading/document.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { countersQuery, recordingsQuery, runsQuery } from "../../api/queries.ts";
import { momentText } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { useGo } from "../../time/use-go.ts";
import { Quantity } from "../../ui/quantity.tsx";
import { BeginRun } from "./begin-run.tsx";
import { RecordingForm } from "./recording-form.tsx";
import { runWindow, runWords, scheduleWords, sentencesWords } from "./recording-words.ts";
import { RunStrip } from "./run-strip.tsx";

/** A recording is begun anew: with what an address says is to be in it, else with this machine's processor. */
export function NewRecordingView(): ReactNode {
  const go = useGo();
  const [search] = useSearchParams();
  return (
    <section aria-label="New recording">
      <Heading title="New recording" />
      <RecordingForm
        begin={{ name: "", everySeconds: 1, forSeconds: 240, sentences: sentencesOf(search.get("sentences")) }}
        onSaved={({ id }) => go(`/recordings/${id}`)}
        onLeave={() => go("/recordings")}
      />
    </section>
  );
}

/** The sentences in an address; what cannot be read is left. */
function sentencesOf(text: string | null): readonly Sentence[] {
  try {
    const read: unknown = JSON.parse(text ?? "");
    if (Array.isArray(read) && read.length > 0) return read as Sentence[];
  } catch {
    // begins with the usual one
  }
  return [{ counter: "system.cpu.time", lines: { per: ["machine", "mode"] }, combine: "sum" }];
}

function Heading({ title, children }: { title: string; children?: ReactNode }): ReactNode {
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
      <ViewTitle words={title} />
      {children}
      <SectionLink to="/recordings" className="word-link not-in-print ml-auto">
        all recordings
      </SectionLink>
    </div>
  );
}

/** One recording: what it says, and all of its runs; two of them are laid beside each other from here. */
export function RecordingView(): ReactNode {
  const id = Number(useParams()["id"]);
  const recordings = useQuery(recordingsQuery);
  const recording = recordings.data?.find((one) => one.id === id);
  if (recordings.isPending) return <p className="py-6 text-quiet">reading …</p>;
  if (!recording)
    return (
      <section aria-label="Recording">
        <Heading title="Recording" />
        <p role="alert" className="py-6">
          {recordings.error?.message ?? "There is no such recording; it may have been removed meanwhile."}
        </p>
      </section>
    );
  return <Shown key={id} recording={recording} />;
}

function Shown({ recording }: { recording: Recording }): ReactNode {
  const { id, name, everySeconds, forSeconds, schedule, keepDays } = recording;
  const go = useGo();
  const queries = useQueryClient();
  const may = useMay();
  const tell = useToasts();
  const counters = useQuery(countersQuery).data ?? [];
  const [isChanging, setIsChanging] = useState(false);
  const [asksRemoval, setAsksRemoval] = useState(false);
  const remove = useMutation({
    mutationFn: () => call(removeRecording, { id }),
    onSuccess: async () => {
      const refresh = () => queries.invalidateQueries({ queryKey: ["recordings"] });
      tell({
        text: `${name} was removed, with its runs.`,
        action: { words: "Undo", run: () => void call(bringRecordingBack, { id }).then(refresh) },
        forMs: 60_000,
      });
      await refresh();
      go("/recordings");
    },
  });
  const { nextMs: _, runs: __, lastRun: ___, ...document } = recording;
  return (
    <section aria-label={`Recording ${name}`}>
      <Heading title={name} />
      {isChanging ? (
        <RecordingForm begin={document} onSaved={() => setIsChanging(false)} onLeave={() => setIsChanging(false)} />
      ) : (
        <div className="flex flex-wrap items-start justify-between gap-x-8 gap-y-2 py-3">
          <div>
            <p className="text-[17px]">
              Every {presentSpan(everySeconds * 1000)}
              {forSeconds !== undefined && ` for ${presentSpan(forSeconds * 1000)}`}:{" "}
              {sentencesWords(recording, counters)}.
            </p>
            <p className="text-quiet">
              {schedule ? `By itself ${scheduleWords(schedule)}` : "When somebody or a script says so"}; reports are
              kept {keepDays === undefined ? "until somebody removes them" : `for ${keepDays} days`}.
            </p>
            <p className="mt-2 flex flex-wrap gap-x-4 text-[14px]" hidden={!may(changeRecording)}>
              <button type="button" className="word-link" onClick={() => setIsChanging(true)}>
                change it
              </button>
              <button type="button" className="word-link" onClick={() => setAsksRemoval(true)}>
                remove it
              </button>
              {asksRemoval && (
                <span>
                  With its {recording.runs === 1 ? "run" : `${recording.runs} runs`}?{" "}
                  <button type="button" className="word-link text-urgent" onClick={() => remove.mutate()}>
                    remove all of it
                  </button>{" "}
                  <button type="button" className="word-link" onClick={() => setAsksRemoval(false)}>
                    keep it
                  </button>
                </span>
              )}
              {remove.error && (
                <span role="alert" className="text-urgent">
                  {remove.error.message}
                </span>
              )}
            </p>
          </div>
          <BeginRun recording={recording} />
        </div>
      )}
      <Runs recording={recording} />
    </section>
  );
}

/** All runs, the newest first, each as a strip; two that are ticked are laid beside each other. */
function Runs({ recording: { id } }: { recording: Recording }): ReactNode {
  const runs = useQuery(runsQuery(id));
  const [ticked, setTicked] = useState<readonly number[]>([]);
  const all = runs.data ?? [];
  const chosen = ticked.filter((run) => all.some((one) => one.id === run));
  return (
    <section aria-label="Runs" className="border-t border-ink pt-2">
      <p className="flex flex-wrap items-baseline gap-x-5 pb-1">
        <span className="font-bold">Runs</span>
        {all.length > 1 &&
          (chosen.length >= 2 ? (
            <SectionLink to={`/recordings/${id}/beside?runs=${chosen.join(",")}`} className="word-link">
              lay {chosen.length === 2 ? "these two" : `these ${chosen.length}`} beside each other
            </SectionLink>
          ) : (
            <span className="text-[13.5px] text-quiet">tick two to lay them beside each other</span>
          ))}
      </p>
      {runs.isPending && <p className="py-3 text-quiet">reading …</p>}
      {runs.error && !runs.data && (
        <p role="alert" className="py-3 text-urgent">
          {runs.error.message}
        </p>
      )}
      {runs.data?.length === 0 && <p className="py-3 text-quiet">It has not run yet.</p>}
      <ul>
        {all.map((run) => (
          <RunRow
            key={run.id}
            run={run}
            isTicked={chosen.includes(run.id)}
            onTick={(is) => setTicked(is ? [...chosen, run.id] : chosen.filter((one) => one !== run.id))}
          />
        ))}
      </ul>
    </section>
  );
}

function RunRow({
  run,
  isTicked,
  onTick,
}: {
  run: RunListed;
  isTicked: boolean;
  onTick: (is: boolean) => void;
}): ReactNode {
  const { nowMs } = useTime();
  const when = momentText(run.startedAtMs, nowMs);
  return (
    <li className="grid items-center gap-x-5 gap-y-1 border-b border-hairline py-1.5 sm:grid-cols-[1.2rem_10rem_minmax(8rem,22rem)_minmax(0,1fr)]">
      <input
        type="checkbox"
        className="accent-act"
        aria-label={`the run of ${when}`}
        checked={isTicked}
        onChange={(event) => onTick(event.target.checked)}
      />
      <SectionLink
        to={`/recordings/${run.recordingId}/runs/${run.id}${runWindow(run)}`}
        className="word-link moment whitespace-nowrap"
      >
        {when}
      </SectionLink>
      <RunStrip strip={run.strip} />
      <span className="text-[13.5px] text-quiet">
        {runWords(run)}; <span className="figure">{run.samples.toLocaleString("en")}</span> samples,{" "}
        <Quantity value={run.bytes} unit="By" />, {originWords[run.origin]}
      </span>
    </li>
  );
}

const originWords = {
  person: "begun by hand",
  script: "begun by a script",
  schedule: "begun by its schedule",
  file: "opened from a file",
} as const;
