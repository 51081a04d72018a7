import { useMay } from "../shared/people/use-may.ts";
import { listRunning, type RunningView, stopRun } from "../../../core/api/recordings.ts";
import { May } from "../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { presentSpan } from "../../../core/units/present.ts";
import { call } from "../api/client.ts";
import { runningQuery } from "../api/queries.ts";
import { SectionLink } from "../time/section-link.tsx";
import { Quantity } from "../ui/quantity.tsx";

const mostNamed = 3;

/** On every page: the runs that are on, with the time left and what they cost. */
export function RunningBanner(): ReactNode {
  const running = useQuery({ ...runningQuery, enabled: useMay()(listRunning) }).data ?? [];
  if (running.length === 0) return null;
  return (
    <section
      aria-label="Recordings that are on"
      className="not-in-print border-b border-act px-4 py-1.5 text-[14px] sm:px-7"
      data-running
    >
      {running.slice(0, mostNamed).map((run) => (
        <Running key={run.id} run={run} />
      ))}
      {running.length > mostNamed && (
        <SectionLink to="/recordings" className="word-link">
          and {running.length - mostNamed} more
        </SectionLink>
      )}
    </section>
  );
}

function Running({ run }: { run: RunningView }): ReactNode {
  const { id, recordingId, name, everySeconds, leftMs, samples, bytes, serverShare } = run;
  const queries = useQueryClient();
  const stop = useMutation({
    mutationFn: () => call(stopRun, { id: recordingId, run: id }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["recordings"] }),
  });
  return (
    <p className="flex flex-wrap items-baseline gap-x-3">
      <span>
        Recording{" "}
        <SectionLink to={`/recordings/${recordingId}/runs/${id}`} className="word-link font-semibold">
          {name}
        </SectionLink>{" "}
        every {presentSpan(everySeconds * 1000)}
        {leftMs !== null && <>, {presentSpan(leftMs)} left</>}
      </span>
      <span className="text-quiet">
        <span className="figure">{samples.toLocaleString("en")}</span> samples, <Quantity value={bytes} unit="By" />
        {serverShare !== null && (
          <>
            , <Quantity value={serverShare * 100} unit="%" /> of a core here
          </>
        )}
      </span>
      <May ask={stopRun}>
        <button type="button" className="word-link" disabled={stop.isPending} onClick={() => stop.mutate()}>
          end it
        </button>
      </May>
      {stop.error && (
        <span role="alert" className="text-urgent">
          {stop.error.message}
        </span>
      )}
    </p>
  );
}
