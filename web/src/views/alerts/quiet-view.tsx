import { rootAddress } from "../../api/base-path.ts";
import { makeToken } from "../../../../core/api/tokens.ts";
import { May } from "../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { endQuietTime, planQuietTime, type QuietView as Quiet } from "../../../../core/api/quiet.ts";
import { isAll } from "../../../../core/quiet/quiet-time.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { quietTimesQuery, sourcesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { pauseWords } from "../../shared/sources/pause-words.ts";
import { AlertsHeading } from "./alerts-heading.tsx";
import { QuietForm } from "./quiet-form.tsx";

const allFor = [
  ["15 min", 900_000],
  ["1 h", 3_600_000],
  ["4 h", 14_400_000],
  ["1 day", 86_400_000],
] as const;
const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;

/**
 * Quiet times: the switch for everything, maintenance that is planned, and what each hides; all of them end by
 * themselves.
 */
export function QuietTimesView(): ReactNode {
  const { nowMs } = useTime();
  const queries = useQueryClient();
  const list = useQuery(quietTimesQuery);
  const paused = (useQuery(sourcesQuery).data ?? []).filter(({ pause }) => pause !== null);
  const [isPlanning, setIsPlanning] = useState(false);
  const refresh = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ["quiet-times"] }),
      queries.invalidateQueries({ queryKey: ["alerting"] }),
    ]);
  const all = useMutation({
    mutationFn: (forMs: number) =>
      call(
        planQuietTime,
        {},
        {
          title: "Everything is quiet",
          scope: { machines: [], tags: [] },
          fromMs: Date.now(),
          toMs: Date.now() + forMs,
        },
      ),
    onSuccess: refresh,
  });
  const end = useMutation({ mutationFn: (id: number) => call(endQuietTime, { id }), onSuccess: refresh });
  const failure = list.error ?? all.error ?? end.error;
  return (
    <>
      <AlertsHeading>
        rules are checked on; nobody is told, and what is still raised afterwards is told then
      </AlertsHeading>
      {failure && (
        <p role="alert" className="py-2 text-urgent">
          {failure.message}
        </p>
      )}
      <May ask={planQuietTime}>
        <p className="flex flex-wrap items-baseline gap-x-4 py-3" data-all-quiet>
          <span className="font-bold">Everything</span> is to be quiet for
          {allFor.map(([words, ms]) => (
            <button
              key={ms}
              type="button"
              className="word-link"
              disabled={all.isPending}
              onClick={() => all.mutate(ms)}
              aria-label={`everything is quiet for ${words}`}
            >
              {words}
            </button>
          ))}
        </p>
      </May>
      <section aria-labelledby="quiet-times" className="border-t border-hairline py-3">
        <h2 id="quiet-times" className="flex items-baseline gap-4 font-bold">
          Now and to come{" "}
          <May ask={planQuietTime}>
            <button
              type="button"
              className="word-link text-[14px] font-normal"
              aria-expanded={isPlanning}
              onClick={() => setIsPlanning(!isPlanning)}
            >
              plan one …
            </button>
          </May>
        </h2>
        {isPlanning && <QuietForm onClose={() => setIsPlanning(false)} />}
        {list.isPending && <p className="py-2 text-quiet">reading …</p>}
        {list.data?.length === 0 && (
          <p className="max-w-prose py-2 text-quiet">
            None. Plan one for work on machines, once or again and again: it hides what they raise, says so wherever it
            does, and ends by itself.
          </p>
        )}
        <ul>
          {list.data?.map((quiet) => (
            <QuietRow
              key={quiet.id}
              quiet={quiet}
              nowMs={nowMs}
              isBusy={end.isPending}
              onEnd={() => end.mutate(quiet.id)}
            />
          ))}
        </ul>
      </section>
      {paused.length > 0 && (
        <section aria-labelledby="paused-sources" className="border-t border-hairline py-3">
          <h2 id="paused-sources" className="font-bold">
            Paused sources
          </h2>
          <ul>
            {paused.map(({ id, name, pause }) => (
              <li key={id} className="py-1" data-paused={name}>
                <SectionLink to={`/sources/${id}`} className="word-link">
                  {name}
                </SectionLink>{" "}
                {pause && pauseWords(pause, nowMs)}
              </li>
            ))}
          </ul>
        </section>
      )}
      <May ask={makeToken}>
        <p className="border-t border-hairline py-3 text-[13.5px] text-quiet">
          As a calendar (iCalendar): <code className="figure">{rootAddress()}/api/quiet-times.ics?token=…</code>, with a
          token for calendars, from Sources, Tokens and limits.
        </p>
      </May>
    </>
  );
}

function QuietRow({
  quiet: { title, why, by, scope, fromMs, toMs, repeat, now, next, hides },
  nowMs,
  isBusy,
  onEnd,
}: {
  quiet: Quiet;
  nowMs: number;
  isBusy: boolean;
  onEnd: () => void;
}): ReactNode {
  const what = isAll(scope)
    ? "everything"
    : [scope.machines.join(", "), ...scope.tags.map(({ tag, is }) => `${tag} is ${is.join(" or ")}`)]
        .filter(Boolean)
        .join("; ");
  return (
    <li
      className="grid gap-x-5 border-t border-hairline py-2 md:grid-cols-[minmax(0,1fr)_16rem_14rem_6rem]"
      data-quiet={title}
    >
      <span className="min-w-0">
        <span className="font-semibold">{title}</span>
        <span className="block text-[13px] text-quiet">
          {[what, why, by && `by ${by}`].filter(Boolean).join(" · ")}
        </span>
      </span>
      <span>
        {repeat ? (
          `${repeat.weekdays.map((day) => weekdays[day - 1]).join(", ")}, for ${presentSpan(toMs - fromMs)}, by the clock of ${repeat.zone}`
        ) : (
          <>
            {momentText(fromMs, nowMs)} to {momentText(toMs, nowMs)}
          </>
        )}
      </span>
      <span>
        {now ? (
          <span className="flex items-center gap-1.5">
            <Signal of="easing" />
            holds until <span className="moment">{momentText(now.toMs, nowMs)}</span>
          </span>
        ) : next ? (
          <>
            next at <span className="moment">{momentText(next.fromMs, nowMs)}</span>
          </>
        ) : (
          "over"
        )}
        {hides > 0 && (
          <span className="block text-[13px] text-notice">
            hides {hides === 1 ? "1 incident" : `${hides} incidents`}
          </span>
        )}
      </span>
      <span>
        <May ask={endQuietTime}>
          <button type="button" className="word-link" disabled={isBusy} onClick={onEnd} aria-label={`end it: ${title}`}>
            end it
          </button>
        </May>
      </span>
    </li>
  );
}
