import { Called } from "../../shared/machines/called.tsx";
import { ViewTitle } from "../../ui/view-title.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { CounterKind } from "../../../../core/counters/counter.ts";
import { onlyGrows } from "../../../../core/counters/counter.ts";
import { unitWords } from "../../../../core/reading/presented-as.ts";
import { figures, scaleFor } from "../../../../core/units/present.ts";
import { costsQuery, counterQuery } from "../../api/queries.ts";
import { RequestFailed } from "../../api/client.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { Quantity } from "../../ui/quantity.tsx";

const kinds: Readonly<Record<CounterKind, string>> = {
  total: "a total: it only grows, and is shown as its rate",
  level: "a level: it goes up and down",
  state: "a state: one of a few values",
  distribution: "a distribution: how much fell below each bound",
};
const mostMachines = 12;

/** What a counter is, its unit and kind, who reports it, how it stands now and what keeping it costs. */
export function CounterFacts({ name }: { name: string }): ReactNode {
  const detail = useQuery(counterQuery(name));
  const bytesPerSample = useQuery(costsQuery).data?.bytesPerSample;
  if (detail.error instanceof RequestFailed && detail.error.status === 404)
    return <p className="py-2">{detail.error.message}</p>;
  if (detail.error)
    return (
      <p role="alert" className="py-2 text-urgent">
        {detail.error.message}
      </p>
    );
  const counter = detail.data;
  if (!counter) return <div className="h-36 pt-2 text-quiet">reading …</div>;
  const values = counter.newest.flatMap(({ value }) => (value === null ? [] : [value]));
  return (
    <header className="pb-3" data-counter-facts>
      <ViewTitle words={counter.words} className="pt-2 text-[26px] leading-tight font-bold" />
      <p className="figure text-[13px] text-quiet">{counter.name}</p>
      {counter.explains && <p className="mt-2 max-w-prose">{counter.explains}</p>}
      <dl className="mt-3 grid grid-cols-[auto_minmax(0,1fr)] gap-x-5 gap-y-1 text-[14px]">
        <dt className="text-quiet">unit</dt>
        <dd>
          {unitWords(counter.unit)}
          {unitWords(counter.unit) !== counter.unit && (
            <span className="figure ml-2 text-[12.5px] text-quiet">{counter.unit}</span>
          )}
        </dd>
        <dt className="text-quiet">kind</dt>
        <dd>{kinds[counter.kind]}</dd>
        <dt className="text-quiet">reported by</dt>
        <dd>
          {counter.machines.slice(0, mostMachines).map((machine, i) => (
            <span key={machine}>
              {i > 0 && ", "}
              <SectionLink to={`/machines/${encodeURIComponent(machine)}`} className="hover:underline">
                <Called machine={machine} />
              </SectionLink>
            </span>
          ))}
          {counter.machines.length > mostMachines && ` and ${counter.machines.length - mostMachines} more`}
          <span className="text-quiet">
            {" "}
            · {counter.series === 1 ? "1 series" : `${counter.series.toLocaleString("en")} series`}
          </span>
        </dd>
        <dt className="text-quiet">now</dt>
        <dd>
          {values.length === 0 ? (
            "nothing in the last quarter of an hour"
          ) : onlyGrows(counter.kind) ? (
            <CountNow values={values} unit={counter.unit} />
          ) : (
            <Range values={values} unit={counter.unit} />
          )}
        </dd>
        <dt className="text-quiet">cost</dt>
        <dd>
          {amount(counter.samplesPerDay)} samples a day
          {bytesPerSample !== undefined && (
            <>
              , <Quantity value={counter.samplesPerDay * bytesPerSample} unit="By" /> on disk
            </>
          )}
        </dd>
      </dl>
    </header>
  );
}

function Range({ values, unit }: { values: readonly number[]; unit: string }): ReactNode {
  const [least, most] = [Math.min(...values), Math.max(...values)];
  if (least === most) return <Quantity value={most} unit={unit} />;
  return (
    <>
      <Quantity value={least} unit={unit} /> to <Quantity value={most} unit={unit} />
    </>
  );
}

const CountNow = ({ values, unit }: { values: readonly number[]; unit: string }): ReactNode => (
  <>
    counted so far: <Range values={values} unit={unit} />
  </>
);

function amount(n: number): string {
  const { factor, unit } = scaleFor("1", n);
  return `${figures(n * factor)}${unit ? ` ${unit === "k" ? "thousand" : unit === "M" ? "million" : unit === "G" ? "billion" : unit}` : ""}`;
}
