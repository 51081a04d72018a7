import { ViewTitle } from "../../ui/view-title.tsx";
import { useMay } from "../../shared/people/use-may.ts";
import { May } from "../../shared/people/may.tsx";
import { makeRecording, openRunFile } from "../../../../core/api/recordings.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { countersQuery, recordingsQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { OpenFile } from "./open-file.tsx";
import { RecordingRow } from "./recording-row.tsx";

/** Every recording: what it holds, when it runs, how its last run went; made, begun and opened from files here. */
export function RecordingsView(): ReactNode {
  const may = useMay();
  const recordings = useQuery(recordingsQuery);
  const counters = useQuery(countersQuery).data ?? [];
  return (
    <section aria-label="Recordings">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-2 border-b border-ink pt-2 pb-3">
        <ViewTitle words="Recordings" />
        <p className="text-quiet">a close look that ends by itself, kept as long as you say</p>
        <span className="ml-auto flex flex-wrap items-baseline gap-x-5">
          <May ask={openRunFile}>
            <OpenFile />
          </May>
          <SectionLink to="/recordings/new" className="act" hidden={!may(makeRecording)}>
            New recording
          </SectionLink>
        </span>
      </div>
      {recordings.isPending && <p className="py-6 text-quiet">reading …</p>}
      {recordings.error && !recordings.data && (
        <p role="alert" className="py-6 text-urgent">
          {recordings.error.message}{" "}
          <button type="button" className="word-link" onClick={() => void recordings.refetch()}>
            Try again
          </button>
        </p>
      )}
      {recordings.data?.length === 0 && <Empty />}
      <ul>
        {recordings.data?.map((recording) => (
          <RecordingRow key={recording.id} recording={recording} counters={counters} />
        ))}
      </ul>
    </section>
  );
}

function Empty(): ReactNode {
  return (
    <div className="max-w-prose py-6">
      <p>
        Nothing is recorded yet. A recording names some counters, gathers just these as often as every second for a
        while, and leaves a report that stays when the fine samples are long gone: before and after a change, every
        Monday from 7:20 to 7:50, or for as long as a script runs.
      </p>
      <May ask={makeRecording}>
        <p className="mt-3">
          <SectionLink to="/recordings/new" className="word-link">
            Make the first one
          </SectionLink>
        </p>
      </May>
    </div>
  );
}
