import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import {
  changeForward,
  type ForwardBody,
  type ForwardView,
  makeForward,
  removeForward,
} from "../../../../core/api/forwards.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { forwardsQuery } from "../../api/queries.ts";
import { May } from "../../shared/people/may.tsx";
import { problemWords } from "../../shared/sources/problem-words.ts";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { exactClockTime, momentText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Signal } from "../../ui/signal.tsx";
import { ForwardForm } from "./forward-form.tsx";

/** What is sent on to other receivers, how far each is, and what went wrong. */
export function ForwardsView(): ReactNode {
  const forwards = useQuery(forwardsQuery);
  const [editing, setEditing] = useState<number | "new" | null>(null);
  const edited = forwards.data?.find(({ id }) => id === editing);
  return (
    <>
      <SourcesHeading />
      <section aria-labelledby="forwards-title" className="py-4">
        <h2 id="forwards-title" className="flex flex-wrap items-baseline gap-4 font-bold">
          Sent on
          <May ask={makeForward}>
            <button type="button" className="word-link text-[14px] font-normal" onClick={() => setEditing("new")}>
              to a receiver …
            </button>
          </May>
        </h2>
        <p className="max-w-prose text-quiet">
          Chosen counters go on to whoever takes OTLP over HTTP, as they come and in the order of time. While a receiver
          is away nothing is lost: it is sent from the store when it is back, as far as samples are kept.
        </p>
        {editing !== null && <ForwardForm key={String(editing)} saved={edited} onClose={() => setEditing(null)} />}
        {forwards.isPending && <p className="py-4 text-quiet">reading …</p>}
        {forwards.error && (
          <p role="alert" className="py-2 text-urgent">
            {forwards.error.message}
          </p>
        )}
        {forwards.data?.length === 0 && editing === null && <p className="py-4">Nothing is sent on.</p>}
        <ul>
          {forwards.data?.map((forward) => (
            <ForwardRow key={forward.id} forward={forward} onEdit={() => setEditing(forward.id)} />
          ))}
        </ul>
      </section>
    </>
  );
}

function ForwardRow({ forward, onEdit }: { forward: ForwardView; onEdit: () => void }): ReactNode {
  const queries = useQueryClient();
  const { nowMs } = useTime();
  const refresh = () => queries.invalidateQueries({ queryKey: ["forwards"] });
  const [asked, setAsked] = useState(false);
  const remove = useMutation({
    mutationFn: () => call(removeForward, { id: forward.id }),
    onSuccess: refresh,
  });
  const toggle = useMutation({
    mutationFn: () => call(changeForward, { id: forward.id }, { ...bodyOf(forward), isOn: !forward.isOn }),
    onSuccess: refresh,
  });
  const failed = remove.error ?? toggle.error;
  const { name, url, counters, machine, series, isOn, failure, sent, refused, sentUntilMs } = forward;
  return (
    <li className="border-t border-hairline py-3" data-forward={name}>
      <p className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <Signal of={isOn && failure ? "raised" : "quiet"} label={isOn ? (failure ? "failing" : "on") : "off"} />
        <span className="font-bold">{name}</span>
        <span className="min-w-0 break-all text-quiet">{url}</span>
        <May ask={changeForward}>
          <span className="ml-auto flex gap-3">
            <button type="button" className="word-link" onClick={onEdit}>
              change …
            </button>
            <button type="button" className="word-link" disabled={toggle.isPending} onClick={() => toggle.mutate()}>
              {isOn ? "stop it" : "go on"}
            </button>
            {asked ? (
              <button type="button" className="word-link" disabled={remove.isPending} onClick={() => remove.mutate()}>
                remove it
              </button>
            ) : (
              <button type="button" className="word-link" onClick={() => setAsked(true)}>
                remove …
              </button>
            )}
          </span>
        </May>
      </p>
      <p>
        {counters.join(", ")} of {machine === "*" ? "every machine" : machine}
        {isOn && (
          <>
            : <span className="figure">{series.toLocaleString("en")}</span> series
          </>
        )}
      </p>
      <p className="text-quiet">
        {isOn ? "taken there up to" : "stopped at"} <span className="moment">{momentText(sentUntilMs, nowMs)}</span>
        {isOn && nowMs - sentUntilMs > behindMs && `, ${presentSpan(nowMs - sentUntilMs)} behind`};{" "}
        <span className="figure">{sent.toLocaleString("en")}</span> values since this server started
        {refused > 0 && `, ${refused.toLocaleString("en")} refused there`}
      </p>
      {failure && (
        <p className="text-notice">
          <span className="moment">{exactClockTime(failure.atMs)}</span>: {failure.words}
        </p>
      )}
      {failed && (
        <p role="alert" className="text-urgent">
          {problemWords(failed)}
        </p>
      )}
    </li>
  );
}

/** Less is the interval and what settles. */
const behindMs = 120_000;

/** What is sent back of a forward that is changed in one thing alone. */
function bodyOf(forward: ForwardView): ForwardBody {
  const { name, url, headers, issuer, counters, machine, everySeconds, isOn } = forward;
  return { name, url, headers, issuer, counters, machine, everySeconds, isOn, values: {} };
}
