import { May } from "../../shared/people/may.tsx";
import { useMay } from "../../shared/people/use-may.ts";
import { sends, sourceKinds } from "../../../../core/sources/kinds/source-kinds.ts";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import {
  bringSourceBack,
  changeSource,
  endPause,
  removeSource,
  type SourceView as Source,
} from "../../../../core/api/sources.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { call } from "../../api/client.ts";
import { sourcesQuery } from "../../api/queries.ts";
import { useToasts } from "../../shared/toasts.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { exactClockTime } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { Diagnosis } from "../../shared/sources/diagnosis.tsx";
import { AskedFrom, RelayFacts } from "./relay-facts.tsx";
import { PauseForm } from "./pause-form.tsx";
import { RawText } from "./raw-text.tsx";
import { SourceSettingsForm } from "./source-settings-form.tsx";
import { SourceTokens } from "./source-tokens.tsx";
import {
  addressText,
  clockWords,
  isEndingSoon,
  deviceText,
  leftOutWords,
  signalOf,
  stateWords,
} from "../../shared/sources/source-words.ts";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { SpellStrip } from "./spell-strip.tsx";
import { TableForm } from "./table-form.tsx";
import { TakeRulesForm } from "./take-rules-form.tsx";
import { WindowsCountersForm } from "./windows-counters-form.tsx";

/** One source: how it stands, what it said, what is taken of it, its settings. */
export function SourceView(): ReactNode {
  const id = Number(useParams()["id"]);
  const sources = useQuery(sourcesQuery);
  const source = sources.data?.find((one) => one.id === id);
  return (
    <>
      <SourcesHeading one={source?.name} />
      {sources.isPending && <p className="py-8 text-quiet">reading …</p>}
      {sources.error && (
        <p role="alert" className="py-2 text-urgent">
          {sources.error.message}
        </p>
      )}
      {sources.data && !source && (
        <p className="py-8">
          This source is not there; it may have been removed.{" "}
          <SectionLink to="/sources" className="word-link">
            All sources
          </SectionLink>
        </p>
      )}
      {source && <OneSource key={source.id} source={source} />}
    </>
  );
}

function OneSource({ source }: { source: Source }): ReactNode {
  const { nowMs } = useTime();
  const [isPausing, setIsPausing] = useState(false);
  const now = Math.max(nowMs, source.heardMs ?? 0);
  const clock = clockWords(source);
  const left = leftOutWords(source.leftOut);
  const facts: readonly (readonly [string, ReactNode])[] = [
    [
      "machine",
      <Link key="machine" to={`/machines/${encodeURIComponent(source.machine)}`} className="word-link">
        {source.machine}
      </Link>,
    ],
    [
      "how",
      source.address || source.device ? (
        <>
          {source.address ? addressText(source.address) : source.device && deviceText(source.device)}, every{" "}
          {presentSpan(source.intervalMs)}
          {source.askedFrom && <AskedFrom relay={source.askedFrom} />}
        </>
      ) : source.kind === "this-machine" ? (
        `read from the kernel every ${presentSpan(source.intervalMs)}`
      ) : (
        `${sourceKinds[source.kind].words}, expected every ${presentSpan(source.intervalMs)}`
      ),
    ],
    [
      "last answer",
      source.heardMs === null ? (
        "none yet"
      ) : (
        <>
          <span className="moment">{exactClockTime(source.heardMs)}</span>
          {source.tookMs !== null && (
            <>
              , it took <span className="figure">{Math.round(source.tookMs)}</span> ms
            </>
          )}
        </>
      ),
    ],
    [
      "values",
      source.taken === null ? (
        "none yet"
      ) : (
        <>
          took <span className="figure">{source.taken.toLocaleString("en")}</span> of{" "}
          <span className="figure">{source.found?.toLocaleString("en")}</span> found{left && `; ${left}`}
        </>
      ),
    ],
    ...(isEndingSoon(source, now)
      ? [
          [
            "its certificate",
            <span key="certificate" className="font-bold text-notice" data-certificate-ends>
              {(source.certificateUntilMs ?? 0) <= now
                ? "has ended"
                : `ends in ${presentSpan((source.certificateUntilMs ?? 0) - now)}`}
              : have it renewed, or nothing will come any more
            </span>,
          ] as const,
        ]
      : []),
    ...(clock
      ? [
          [
            "its clock",
            <span key="clock" className={clock.isOff ? "font-bold text-notice" : undefined} data-source-clock>
              {clock.words}
              {clock.isOff && ". Have it keep the time (NTP): its events would stand at the wrong moment."}
            </span>,
          ] as const,
        ]
      : []),
    ...(source.senderVersion === null || source.kind === "relay"
      ? []
      : [
          [
            "its collector",
            <span key="version">
              of version <span className="figure">{source.senderVersion}</span>
            </span>,
          ] as const,
        ]),
    ...(source.nextMs === null
      ? []
      : [
          [
            "next try",
            <span key="next" className="figure">
              in {presentSpan(Math.max(0, source.nextMs - now))}
            </span>,
          ] as const,
        ]),
  ];
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 py-4">
        <h2 className="flex items-center gap-2 text-xl font-bold">
          <Signal of={signalOf(source)} label={source.state} />
          {source.name}
        </h2>
        <p data-source-state={source.state}>{stateWords(source, now)}</p>
        {source.trust.kind === "unchecked" && <p className="font-bold text-notice">certificate not checked</p>}
        <Actions source={source} isPausing={isPausing} onPause={() => setIsPausing(!isPausing)} />
      </div>
      {isPausing && !source.pause && <PauseForm source={source} onClose={() => setIsPausing(false)} />}
      <SpellStrip id={source.id} name={source.name} intervalMs={source.intervalMs} height={28} />
      <dl className="grid max-w-4xl grid-cols-[auto_1fr] gap-x-6 gap-y-1 py-4">
        {facts.map(([words, fact]) => (
          <div key={words} className="contents">
            <dt className="text-quiet">{words}</dt>
            <dd className="min-w-0 break-words">{fact}</dd>
          </div>
        ))}
      </dl>
      {source.failure && (
        <div className="pb-4">
          <p className="pb-1 text-[13px] text-quiet">
            The last try, at <span className="moment">{exactClockTime(source.failure.atMs)}</span>:
          </p>
          <Diagnosis failure={source.failure} />
        </div>
      )}
      {source.kind === "relay" && <RelayFacts source={source} nowMs={now} />}
      <May ask={changeSource}>
        {source.hasRaw && <RawText id={source.id} />}
        {sends(source) && <SourceTokens source={source} />}
        {source.kind === "collector" && <WindowsCountersForm source={source} />}
        <TakeRulesForm source={source} />
        {(source.kind === "push" || source.csv) && <TableForm source={source} />}
        <SourceSettingsForm source={source} />
      </May>
    </>
  );
}

function Actions({
  source,
  isPausing,
  onPause,
}: {
  source: Source;
  isPausing: boolean;
  onPause: () => void;
}): ReactNode {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const tell = useToasts();
  const [asked, setAsked] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ["sources"] });
  const goOn = useMutation({
    mutationFn: () => call(endPause, { id: source.id }),
    onSuccess: () => Promise.all([refresh(), queries.invalidateQueries({ queryKey: ["machines"] })]),
  });
  const may = useMay();
  const remove = useMutation({
    mutationFn: () => call(removeSource, { id: source.id }),
    onSuccess: async () => {
      const bringBack = () => void call(bringSourceBack, { id: source.id }).then(refresh);
      tell({
        text: `${source.name} was removed. What was gathered stays.`,
        action: { words: "Undo", run: bringBack },
        forMs: 60_000,
      });
      await refresh();
      await navigate("/sources");
    },
  });
  const failed = goOn.error ?? remove.error;
  if (!may(removeSource)) return null;
  return (
    <span className="ml-auto flex flex-wrap items-center gap-3">
      {source.pause ? (
        <button type="button" className="act-plain" disabled={goOn.isPending} onClick={() => goOn.mutate()}>
          Go on
        </button>
      ) : (
        <button type="button" className="act-plain" aria-expanded={isPausing} onClick={onPause}>
          Pause …
        </button>
      )}
      {source.kind !== "this-machine" &&
        (asked ? (
          <>
            <button type="button" className="act" disabled={remove.isPending} onClick={() => remove.mutate()}>
              Remove it
            </button>
            <button type="button" className="act-plain" onClick={() => setAsked(false)}>
              Keep it
            </button>
          </>
        ) : (
          <button type="button" className="act-plain" onClick={() => setAsked(true)}>
            Remove …
          </button>
        ))}
      {failed && (
        <span role="alert" className="text-urgent">
          {failed.message}
        </span>
      )}
    </span>
  );
}
