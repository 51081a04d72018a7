import { May } from "../../shared/people/may.tsx";
import { useMay } from "../../shared/people/use-may.ts";
import { makeSource } from "../../../../core/api/sources.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { SourceView } from "../../../../core/api/sources.ts";
import { healthQuery, sourcesQuery } from "../../api/queries.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Signal } from "../../ui/signal.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { SourcesHeading } from "../../shared/sources/sources-heading.tsx";
import { sourceKinds } from "../../../../core/sources/kinds/source-kinds.ts";
import { clockWords, leftOutWords, signalOf, stateWords } from "../../shared/sources/source-words.ts";
import { SpellStrip } from "./spell-strip.tsx";
import { presentSpan } from "../../../../core/units/present.ts";

/** Everything that is gathered from, how it stands, and the way to connect more. */
export function SourcesView(): ReactNode {
  const may = useMay();
  const sources = useQuery(sourcesQuery);
  return (
    <>
      <SourcesHeading>
        <SectionLink to="/sources/connect" className="act ml-auto" hidden={!may(makeSource)}>
          Connect a machine
        </SectionLink>
      </SourcesHeading>
      {sources.isPending && <p className="py-8 text-quiet">reading …</p>}
      {sources.error && (
        <p role="alert" className="py-2 text-urgent">
          {sources.error.message}
        </p>
      )}
      {sources.data && <Summary sources={sources.data} />}
      {sources.data && <SourceRows sources={sources.data} />}
      {sources.data?.length === 1 && (
        <p className="max-w-prose py-6">
          So far there is the machine that Nubrel runs on.{" "}
          <May ask={makeSource}>
            <SectionLink to="/sources/connect" className="word-link">
              Connect another one
            </SectionLink>
            : nothing needs to be installed on it.
          </May>
        </p>
      )}
    </>
  );
}

function Summary({ sources }: { sources: readonly SourceView[] }): ReactNode {
  const sum = (of: (source: SourceView) => number | null) =>
    sources.reduce((all, source) => all + (of(source) ?? 0), 0);
  const states = (["reporting", "late", "silent", "waiting", "paused"] as const)
    .map((state) => [state, sources.filter((source) => source.state === state).length] as const)
    .filter(([, n]) => n > 0);
  const off = sources.filter((source) => clockWords(source)?.isOff);
  const setAside = useQuery(healthQuery).data?.setAside;
  const unchecked = sources.filter(({ trust }) => trust.kind === "unchecked");
  return (
    <p className="py-3">
      {sources.length === 1 ? "1 source" : `${sources.length} sources`}:{" "}
      {states.map(([state, n]) => `${n} ${state}`).join(", ")}. Found{" "}
      <span className="figure">{sum(({ found }) => found).toLocaleString("en")}</span> values at last, took{" "}
      <span className="figure">{sum(({ taken }) => taken).toLocaleString("en")}</span>.
      {off.length > 0 && (
        <strong className="text-notice">
          {" "}
          {off.length === 1 ? `The clock of ${off[0]?.name} is` : `The clocks of ${off.length} are`} off by more than 10
          s.
        </strong>
      )}
      {(setAside ?? 0) > 0 && (
        <strong className="text-urgent">
          {" "}
          Part of what is stored{" "}
          <SectionLink to="/sources/condition" className="word-link">
            could not be read
          </SectionLink>
          .
        </strong>
      )}
      {unchecked.length > 0 && (
        <strong className="text-notice">
          {" "}
          {unchecked.length === 1 ? "One is" : `${unchecked.length} are`} believed without checking the certificate.
        </strong>
      )}
    </p>
  );
}

function SourceRows({ sources }: { sources: readonly SourceView[] }): ReactNode {
  const { nowMs } = useTime();
  return (
    <div className="relative overflow-x-auto">
      <table className="w-full table-fixed border-collapse sm:min-w-[860px]">
        <caption className="sr-only">Every source, how it answered over the window, and its last answer</caption>
        <thead>
          <tr className="text-left text-[13px] text-quiet">
            <th className="py-2 font-normal sm:w-64">Source</th>
            <th className="hidden py-2 pr-6 font-normal sm:table-cell">Over this window</th>
            <th className="w-24 py-2 text-right font-normal sm:w-28 sm:pr-4">Last answer</th>
            <th className="hidden w-20 py-2 pr-4 sm:table-cell text-right font-normal">Took</th>
            <th className="hidden w-36 py-2 pr-4 sm:table-cell text-right font-normal">Taken of found</th>
            <th className="hidden w-24 py-2 text-right font-normal sm:table-cell">Next try</th>
          </tr>
        </thead>
        <tbody>
          {sources.map((source) => (
            <SourceRow key={source.id} source={source} nowMs={Math.max(nowMs, source.heardMs ?? 0)} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SourceRow({ source, nowMs }: { source: SourceView; nowMs: number }): ReactNode {
  const words = stateWords(source, nowMs);
  return (
    <tr className="border-t border-hairline align-middle" data-source={source.name} data-state={source.state}>
      <th scope="row" className="py-2.5 pr-4 text-left font-normal">
        <span className="flex gap-2.5">
          <span className="pt-1.5">
            <Signal of={signalOf(source)} label={source.state} />
          </span>
          <span className="min-w-0">
            <SectionLink to={`/sources/${source.id}`} className="block truncate font-bold hover:underline">
              {source.name}
            </SectionLink>
            <span className="block text-[13px] text-quiet">
              {words} · {sourceKinds[source.kind].words}
              {source.kind !== "this-machine" && ` every ${presentSpan(source.intervalMs).replaceAll(" ", "\u00a0")}`}
              {source.name !== source.machine && ` · ${source.machine}`}
            </span>
            {source.trust.kind === "unchecked" && (
              <span className="block text-[13px] font-bold text-notice">certificate not checked</span>
            )}
            {source.failure && <span className="block text-[13px] text-notice sm:hidden">{source.failure.words}</span>}
          </span>
        </span>
      </th>
      <td className="hidden py-2.5 pr-6 sm:table-cell">
        <SpellStrip id={source.id} name={source.name} intervalMs={source.intervalMs} />
        {source.failure && <span className="mt-1 block text-[13px] text-notice">{source.failure.words}</span>}
      </td>
      <td className="figure py-2.5 text-right sm:pr-4">
        {source.heardMs === null ? "–" : `${presentSpan(nowMs - source.heardMs)} ago`}
      </td>
      <td className="figure hidden py-2.5 pr-4 text-right whitespace-nowrap sm:table-cell">
        {source.tookMs === null ? "–" : `${Math.round(source.tookMs)} ms`}
      </td>
      <td className="hidden py-2.5 pr-4 text-right sm:table-cell" title={leftOutWords(source.leftOut)}>
        {source.taken === null ? (
          "–"
        ) : (
          <>
            <span className="figure">{source.taken.toLocaleString("en")}</span>{" "}
            <span className="text-[13px] text-quiet">of {source.found?.toLocaleString("en")}</span>
          </>
        )}
      </td>
      <td className="figure hidden py-2.5 text-right whitespace-nowrap sm:table-cell">
        {source.nextMs === null ? "–" : `in ${presentSpan(Math.max(0, source.nextMs - nowMs))}`}
      </td>
    </tr>
  );
}
