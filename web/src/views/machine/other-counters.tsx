import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { CounterView } from "../../../../core/api/counters.ts";
import { onlyGrows } from "../../../../core/counters/counter.ts";
import { boundTag } from "../../../../core/reading/buckets.ts";
import type { Line } from "../../../../core/reading/document.ts";
import { rateUnit } from "../../../../core/units/rate-unit.ts";
import { countersQuery } from "../../api/queries.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { ChartWithActions } from "../../shared/charts/chart-with-actions.tsx";
import { useTime } from "../../time/time-provider.tsx";
import { bands } from "../../shared/bands/bands.ts";
import { useReading } from "../../sentence/use-reading.ts";

/** Counters that no band shows, when there are more than these: a field narrows them down. */
const manyCounters = 12;
const mostLines = 8;

/** Everything a machine reports that has no band of its own: by name, each with its chart on request. */
export function OtherCounters({ machine, counters }: { machine: string; counters: readonly string[] }): ReactNode {
  const known = useQuery(countersQuery).data ?? [];
  const [typed, setTyped] = useState("");
  const inBands = new Set(
    bands.flatMap((band) => [
      ...band.counters,
      ...[band.figure, ...band.views, ...(band.top ? [band.top] : [])].flatMap(({ reading }) =>
        Object.values(reading(machine).sentences).map(({ counter }) => counter),
      ),
    ]),
  );
  const others = known
    .filter(({ name }) => counters.includes(name) && !inBands.has(name))
    .sort((a, b) => a.words.localeCompare(b.words, "en", { numeric: true }));
  const wanted = typed.trim().toLowerCase();
  const shown = others.filter(
    ({ name, words, explains }) => wanted === "" || `${name} ${words} ${explains}`.toLowerCase().includes(wanted),
  );
  if (others.length === 0) return null;
  return (
    <section id="other" aria-labelledby="other-title" className="py-4">
      <h2 id="other-title" className="font-bold">
        Also reported
      </h2>
      {others.length > manyCounters && (
        <p className="py-1">
          <label className="text-quiet">
            with the words{" "}
            <input value={typed} onChange={(event) => setTyped(event.target.value)} className="ml-1 w-56" />
          </label>{" "}
          <span className="text-quiet">
            {shown.length} of {others.length}
          </span>
        </p>
      )}
      <ul>
        {shown.map((counter) => (
          <OtherCounter key={counter.name} counter={counter} machine={machine} opened={others.length <= 3} />
        ))}
      </ul>
    </section>
  );
}

function OtherCounter({
  counter,
  machine,
  opened,
}: {
  counter: CounterView;
  machine: string;
  opened: boolean;
}): ReactNode {
  const [open, setOpen] = useState(opened);
  return (
    <li className="border-t border-hairline py-1.5" data-counter={counter.name}>
      <button
        type="button"
        aria-expanded={open}
        className="grid w-full gap-x-5 text-left sm:grid-cols-[minmax(0,22rem)_1fr]"
        onClick={() => setOpen(!open)}
      >
        <span className="min-w-0 truncate text-act">{counter.words}</span>
        <span className="min-w-0 truncate text-quiet">{counter.explains || counter.name}</span>
      </button>
      {open && <CounterChart counter={counter} machine={machine} />}
    </li>
  );
}

function CounterChart({ counter, machine }: { counter: CounterView; machine: string }): ReactNode {
  const { span } = useTime();
  const boundUnit = useQuery(countersQuery).data?.find(({ name }) => name === `${counter.name}.sum`)?.unit;
  const buckets = counter.kind === "distribution";
  const where = [{ tag: "machine", is: [machine] }];
  const reading: OpenReading = {
    sentences: {
      a: buckets
        ? { counter: counter.name, where, lines: { per: [boundTag] }, combine: "sum" }
        : { counter: counter.name, where, keep: { highest: mostLines, by: "mean" } },
    },
  };
  const answer = useReading(reading, span);
  const rate = onlyGrows(counter.kind);
  const unit = rate ? rateUnit(counter.unit) : counter.unit;
  return (
    <div className="py-2">
      <p className="mb-1 text-[13.5px]">
        <span className="part">{counter.words}</span> of <span className="part">{machine}</span>
        {rate && ", as a rate"}
        {!buckets && counter.series > mostLines && `, the ${mostLines} highest`}
      </p>
      {answer.error && (
        <p role="alert" className="text-[13px] text-urgent">
          {answer.error.message}
        </p>
      )}
      {answer.data?.lines.length === 0 && (
        <p className="text-[13px] text-quiet">Nothing was reported in this window.</p>
      )}
      <ChartWithActions
        title={`${counter.words} of ${machine}`}
        answer={answer.data}
        span={span}
        unit={unit}
        nameOf={nameOfLine}
        drawn={buckets ? "heat" : "lines"}
        boundUnit={boundUnit}
        reading={reading}
        machine={machine}
      />
    </div>
  );
}

/** A line by what tells it from others. */
function nameOfLine({ tags, of }: Line): string {
  const own = Object.entries(tags)
    .filter(([tag]) => tag !== "machine")
    .map(([, value]) => value);
  return own.join(" ") || of;
}
