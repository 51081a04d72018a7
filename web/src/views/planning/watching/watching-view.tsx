import { May } from "../../../shared/people/may.tsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, type ReactNode, useState } from "react";
import {
  getWatching,
  leaveCounters,
  type WatchedSource,
  type WatchingView as Watching,
} from "../../../../../core/api/watching.ts";
import { amount } from "../../../../../core/planning/space-words.ts";
import { money } from "../../../../../core/tariffs/cost-words.ts";
import { figures } from "../../../../../core/units/present.ts";
import { call } from "../../../api/client.ts";
import { dayOf } from "../../../time/moments.ts";
import { SectionLink } from "../../../time/section-link.tsx";
import { Asking } from "../asking.tsx";
import { PlanningHeading } from "../planning-heading.tsx";

const queryKey = ["planning", "watching"];

/** What watching itself costs, source by source, and which counters nobody needs. */
export function WatchingView(): ReactNode {
  const watching = useQuery({
    queryKey,
    queryFn: ({ signal }) => call(getWatching, {}, undefined, { signal }),
    staleTime: 30_000,
  });
  return (
    <section aria-label="What watching costs">
      <PlanningHeading />
      <Asking of={watching} />
      {watching.data && <Told watching={watching.data} />}
      {watching.data && watching.data.sources.length > 0 && <SourcesTable watching={watching.data} />}
      {watching.data?.sources.length === 0 && <p className="py-6 text-quiet">Nothing is gathered yet.</p>}
    </section>
  );
}

function Told({
  watching: { sources, isEstimated, costPerYear, currency, formula, notedSinceMs },
}: {
  watching: Watching;
}): ReactNode {
  const samples = sources.reduce((sum, one) => sum + one.samplesPerDay, 0);
  const disk = sources.reduce((sum, one) => sum + one.diskBytesPerDay, 0);
  const unused = sources.reduce((sum, one) => sum + one.unused.reduce((n, { series }) => n + series, 0), 0);
  return (
    <div className="mt-4 max-w-prose space-y-1 text-[17px]" data-watching-words>
      <p>
        {amount(samples, "{sample}")} samples a day{`, ${isEstimated ? "about " : ""}${amount(disk, "By")} of disk`}
        {costPerYear !== null && currency !== null
          ? `; Nubrel's own processor time costs ${money(costPerYear, currency)} a year`
          : ""}
        .
      </p>
      <p>
        {unused === 0
          ? "Every counter is looked at, or named by a dashboard, a rule or a recording."
          : `${unused} lines are gathered that nobody has looked at since ${dayOf(notedSinceMs)}, and that no dashboard, rule or recording names.`}
      </p>
      <p className="text-[13.5px] text-quiet">{formula}</p>
    </div>
  );
}

function SourcesTable({ watching }: { watching: Watching }): ReactNode {
  const [open, setOpen] = useState<number | null>(null);
  return (
    <div className="mt-4 overflow-x-auto">
      <table className="w-full text-[14px]" data-watching>
        <caption className="sr-only">Sources and what they cost</caption>
        <thead>
          <tr className="text-[13px] text-quiet">
            <th className="pr-3 text-left font-normal">source</th>
            <th className="px-2 text-right font-normal">lines</th>
            <th className="px-2 text-right font-normal">samples a day</th>
            <th className="px-2 text-right font-normal">disk a day</th>
            <th
              className="px-2 text-right font-normal"
              title="by its last answer, before compression; of this machine, sockets and SNMP no text travels"
            >
              on the wire a day
            </th>
            <th className="px-2 text-right font-normal">processor here</th>
            <th className="px-2 text-right font-normal">processor there</th>
            <th
              className="px-2 text-right font-normal"
              title="what its processor time here and there takes of what both machines draw above idle"
            >
              energy a day
            </th>
            <th className="px-2 text-right font-normal">nobody needs</th>
          </tr>
        </thead>
        <tbody>
          {watching.sources.map((one) => (
            <Fragment key={one.id}>
              <Row one={one} isOpen={open === one.id} onOpen={() => setOpen(open === one.id ? null : one.id)} />
              {open === one.id && (
                <tr>
                  <td colSpan={9} className="pb-3">
                    <Unused one={one} />
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Row({ one, isOpen, onOpen }: { one: WatchedSource; isOpen: boolean; onOpen: () => void }): ReactNode {
  const share = (value: number | null) => (value === null ? "–" : `${figures(value * 100)} %`);
  const unused = one.unused.reduce((sum, { series }) => sum + series, 0);
  return (
    <tr className="border-t border-hairline align-baseline" data-watched={one.name}>
      <td className="py-1 pr-3">
        <SectionLink to={`/sources/${one.id}`} className="word-link">
          {one.name}
        </SectionLink>
      </td>
      <td className="figure px-2 text-right">{one.series}</td>
      <td className="figure px-2 text-right whitespace-nowrap">{amount(one.samplesPerDay, "{sample}")}</td>
      <td className="figure px-2 text-right whitespace-nowrap">{amount(one.diskBytesPerDay, "By")}</td>
      <td className="figure px-2 text-right whitespace-nowrap">
        {one.wireBytesPerDay === null ? "–" : amount(one.wireBytesPerDay, "By")}
      </td>
      <td className="figure px-2 text-right whitespace-nowrap">{share(one.serverShare)}</td>
      <td className="figure px-2 text-right whitespace-nowrap">{share(one.machineShare)}</td>
      <td className="figure px-2 text-right whitespace-nowrap">{energyWords(one)}</td>
      <td className="px-2 text-right whitespace-nowrap">
        {unused === 0 ? (
          "–"
        ) : (
          <button type="button" className="word-link figure" aria-expanded={isOpen} onClick={onOpen}>
            {unused} lines
          </button>
        )}
      </td>
    </tr>
  );
}

function energyWords({ wattHoursPerDay, costPerYear, currency }: WatchedSource): string {
  if (wattHoursPerDay === null) return "–";
  const energy = amount(wattHoursPerDay, "W.h");
  return costPerYear === null || currency === null ? energy : `${energy}, ${money(costPerYear, currency)} a year`;
}

/** Counters that nobody needs, and one step to leave them. */
function Unused({ one }: { one: WatchedSource }): ReactNode {
  const client = useQueryClient();
  const leave = useMutation({
    mutationFn: (counters: readonly string[]) => call(leaveCounters, { id: one.id }, { counters }),
    onSuccess: (next) => client.setQueryData(queryKey, next),
  });
  return (
    <div className="max-w-prose text-[13.5px]">
      <ul className="columns-1 gap-x-8 sm:columns-2">
        {one.unused.map(({ counter, series }) => (
          <li key={counter} className="break-inside-avoid">
            {counter} <span className="figure text-quiet">{series}</span>{" "}
            <May ask={leaveCounters}>
              <button
                type="button"
                className="word-link"
                disabled={leave.isPending}
                onClick={() => leave.mutate([counter])}
              >
                leave it
              </button>
            </May>
          </li>
        ))}
      </ul>
      <May ask={leaveCounters}>
        <button
          type="button"
          className="act-plain mt-2"
          disabled={leave.isPending}
          onClick={() => leave.mutate(one.unused.map(({ counter }) => counter))}
        >
          Gather none of these of {one.name}
        </button>
        <span className="ml-3 text-quiet">What was gathered stays; take it again under the source's rules.</span>
      </May>
      {leave.error && (
        <p role="alert" className="text-urgent">
          {leave.error.message}
        </p>
      )}
    </div>
  );
}
