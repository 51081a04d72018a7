import { Called } from "../../shared/machines/called.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { getSteadiness, type SteadinessView as Steady } from "../../../../core/api/steadiness.ts";
import { costs, type Dip, halfBackDays } from "../../../../core/steadiness/steadiness.ts";
import { call } from "../../api/client.ts";
import { SelectPart } from "../../sentence/select-part.tsx";
import { dayWithName, exactClockTime } from "../../time/moments.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { SteadyLine } from "./steady-line.tsx";

const dayMs = 86_400_000;
const lengths = [
  ["30", "30 days"],
  ["90", "90 days"],
  ["365", "a year"],
] as const;

/** How steady each machine was: a line over weeks that dips with what disturbed it, the least steady first. */
export function SteadinessView(): ReactNode {
  const [days, setDays] = useState("30");
  const [askedAtMs] = useState(Date.now);
  const steady = useQuery({
    queryKey: ["steadiness", days, askedAtMs],
    queryFn: ({ signal }) =>
      call(getSteadiness, {}, undefined, {
        signal,
        query: {
          from: askedAtMs - (Number(days) - 1) * dayMs,
          to: askedAtMs,
          zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
        },
      }),
    staleTime: 60_000,
  });
  const sorted = useMemo(() => [...(steady.data ?? [])].sort((a, b) => lowest(a) - lowest(b)), [steady.data]);
  return (
    <section aria-label="Steadiness">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-ink pt-2 pb-3">
        <ViewTitle words="Steadiness" />
        <p className="text-quiet">
          of every machine over{" "}
          <SelectPart label="how long" value={days} options={lengths} onChange={(next) => setDays(next)} />, the least
          steady first
        </p>
      </div>
      {steady.isPending && <p className="py-6 text-quiet">reading …</p>}
      {steady.error && (
        <p role="alert" className="py-6 text-urgent">
          {steady.error.message}{" "}
          <button type="button" className="word-link" onClick={() => void steady.refetch()}>
            Try again
          </button>
        </p>
      )}
      {steady.data?.length === 0 && <p className="py-6 text-quiet">No machine reports yet.</p>}
      <ul>
        {sorted.map((one) => (
          <Row key={one.machine} of={one} />
        ))}
      </ul>
      {sorted.length > 0 && <HowMade />}
    </section>
  );
}

const lowest = ({ days }: Steady): number => Math.min(100, ...days.map(({ value }) => value));

function Row({ of: { machine, days } }: { of: Steady }): ReactNode {
  const [chosen, setChosen] = useState<number | null>(null);
  const now = days.at(-1)?.value ?? 100;
  const dips = days.flatMap((one) => one.dips);
  const day = chosen === null ? undefined : days[chosen];
  return (
    <li className="border-t border-hairline py-2" data-steady={machine}>
      <div className="grid grid-cols-[minmax(0,1fr)] items-center gap-x-6 gap-y-1 sm:grid-cols-[11rem_4.5rem_minmax(0,1fr)]">
        <div>
          <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="word-link font-bold">
            <Called machine={machine} />
          </SectionLink>
          <p className="text-[13px] text-quiet">
            {dips.length === 0
              ? "nothing disturbed it"
              : `${dips.length === 1 ? "one dip" : `${dips.length} dips`}, lowest ${lowest({ machine, days }).toFixed(1)}`}
          </p>
        </div>
        <span className="figure text-[17px]">{now.toFixed(now === 100 ? 0 : 1)}</span>
        <SteadyLine days={days} chosen={chosen} onChoose={setChosen} />
      </div>
      {day && (
        <div className="mt-1 sm:pl-[10rem]">
          <p className="text-[13.5px]">
            <span className="font-semibold">{dayWithName(day.day)}</span>, at its end{" "}
            <span className="figure">{day.value.toFixed(1)}</span>
            {day.dips.length === 0 && ": a quiet day"}
          </p>
          <ul className="text-[13.5px]">
            {day.dips.map((dip) => (
              <DipRow key={`${dip.cause} ${dip.id} ${dip.atMs}`} dip={dip} />
            ))}
          </ul>
        </div>
      )}
    </li>
  );
}

/** What took points, and where it is told. */
function DipRow({ dip: { cause, id, words, atMs, points } }: { dip: Dip }): ReactNode {
  const isIncident = cause === "notice" || cause === "urgent" || cause === "silence";
  const around = `from=${new Date(atMs - 900_000).toISOString()}&to=${new Date(atMs + 2_700_000).toISOString()}`;
  return (
    <li>
      <span className="figure">−{points}</span> {cause === words ? "" : `${cause}: `}
      <SectionLink
        to={isIncident ? `/alerts/incidents/${id}?${around}` : `/differences?${around}`}
        className="word-link"
      >
        {words}
      </SectionLink>{" "}
      <span className="text-quiet">{exactClockTime(atMs)}</span>
    </li>
  );
}

/** The formula with its constants. */
function HowMade(): ReactNode {
  return (
    <details className="mt-4 max-w-prose text-[13.5px]">
      <summary className="cursor-pointer text-quiet">How this figure is made</summary>
      <p className="mt-1">
        Every machine begins at 100. What disturbs it takes points on its day; half of what is missing to 100 comes back
        in {halfBackDays} quiet days. What fell into a quiet time was planned, and takes nothing. A value is
        yesterday's, plus (100 − yesterday's) × (1 − 2<sup>−1/{halfBackDays}</sup>), minus the day's points; never below
        0.
      </p>
      <table className="mt-2">
        <thead>
          <tr className="text-left text-quiet">
            <th className="pr-5 font-normal">what</th>
            <th className="pr-5 text-right font-normal">as it begins</th>
            <th className="pr-5 text-right font-normal">an hour more</th>
            <th className="text-right font-normal">at most a day</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(costs).map(([cause, { begins, perHour, most }]) => (
            <tr key={cause}>
              <td className="pr-5">{cause}</td>
              <td className="figure pr-5 text-right">{begins}</td>
              <td className="figure pr-5 text-right">{perHour}</td>
              <td className="figure text-right">{most}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
