import { NamedMeters } from "./named-meters.tsx";
import { May } from "../../../shared/people/may.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import {
  askEnergy,
  type EnergyBody,
  type EnergyPer,
  type EnergyView as Energy,
  putPlanningSettings,
} from "../../../../../core/api/energy.ts";
import { energyWords } from "../../../../../core/planning/energy-words.ts";
import { call } from "../../../api/client.ts";
import { machinesQuery } from "../../../api/queries.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import type { Span } from "../../../time/time-window.ts";
import { useTime } from "../../../time/time-provider.tsx";
import { Asking } from "../asking.tsx";
import { PlanningHeading } from "../planning-heading.tsx";
import { EnergyTable } from "./energy-table.tsx";
import { GuessesPart } from "./guesses-part.tsx";
import { MonthGauge } from "../../../shared/planning/month-gauge.tsx";
import { StepColumns } from "./step-columns.tsx";
import { TariffsPart } from "./tariffs-part.tsx";

const dayMs = 86_400_000;
const kinds: readonly (readonly [string, string])[] = [
  ["machine", "each machine"],
  ["outlet", "each outlet"],
  ["guest", "each guest and container"],
  ["together", "all together"],
];

const overs = [
  ["today", "today"],
  ["7", "seven days"],
  ["month", "this month"],
  ["30", "thirty days"],
  ["365", "twelve months"],
  ["rail", "the window below"],
] as const;
type Over = (typeof overs)[number][0];

/** Whole days by the viewer's clock, up to the last minute of today. */
function spanOver(over: Over, rail: Span, nowMs: number): { readonly from: number; readonly to: number } {
  const minute = (ms: number) => Math.floor(ms / 60_000) * 60_000;
  const to = minute(nowMs);
  if (over === "rail")
    return { from: minute(rail.fromMs), to: Math.max(minute(rail.toMs), minute(rail.fromMs) + 60_000) };
  const day = new Date(nowMs);
  day.setHours(0, 0, 0, 0);
  if (over === "month") day.setDate(1);
  else if (over === "365") day.setMonth(day.getMonth() - 11, 1);
  else if (over !== "today") day.setDate(day.getDate() - Number(over) + 1);
  return { from: day.getTime(), to: Math.max(to, day.getTime() + 60_000) };
}

/** How much energy was used, what it costs, and what the month will. */
export function EnergyView(): ReactNode {
  const { span, nowMs } = useTime();
  const [over, setOver] = useState<Over>("7");
  const [per, setPer] = useState<EnergyPer>("machine");
  const [fills, setFills] = useState(false);
  const machines = useQuery(machinesQuery).data ?? [];
  const tags = [...new Set(machines.flatMap((machine) => Object.keys(machine.tags)))].sort();
  const { from, to } = spanOver(over, span, nowMs);
  const lengthMs = to - from;
  const step: NonNullable<EnergyBody["step"]> =
    lengthMs <= 2 * dayMs ? "hour" : lengthMs <= 62 * dayMs ? "day" : "month";
  const body: EnergyBody = {
    window: { from, to },
    per,
    step,
    fill: fills,
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  };
  const energy = useQuery({
    queryKey: ["energy", body],
    queryFn: ({ signal }) => call(askEnergy, {}, body, { signal }),
    placeholderData: (before) => before,
  });
  return (
    <section aria-label="Energy">
      <PlanningHeading />
      <Asking of={energy} />
      {energy.data && <Sentences energy={energy.data} lengthMs={lengthMs} />}
      <p className="mt-4 leading-8">
        Show{" "}
        <SelectPart
          label="what of"
          value={per}
          options={[...kinds, ...tags.map((name) => [`tag:${name}`, `machines by ${name}`] as const)]}
          onChange={(next) => setPer(next as EnergyPer)}
        />{" "}
        over{" "}
        <SelectPart label="over how long" value={over} options={overs} onChange={(next) => setOver(next as Over)} />,
        what is missing{" "}
        <SelectPart
          label="what is missing"
          value={fills ? "fill" : "leave"}
          options={[
            ["leave", "left out"],
            ["fill", "filled by what is usual of its hours"],
          ]}
          onChange={(next) => setFills(next === "fill")}
        />
        .
      </p>
      {energy.data && (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)] items-start gap-x-10 gap-y-6 xl:grid-cols-[minmax(0,3fr)_minmax(22rem,2fr)]">
          <EnergyTable lines={energy.data.lines} />
          <div>
            <StepColumns energy={energy.data} step={step} />
            {energy.data.months.map((month) => (
              <MonthGauge key={month.tariff} month={month} />
            ))}
          </div>
        </div>
      )}
      {energy.data?.notes.map((note) => (
        <p key={note} className="mt-2 max-w-prose text-[13.5px] text-quiet">
          {note}
        </p>
      ))}
      <div className="not-in-print mt-8 grid grid-cols-[minmax(0,1fr)] items-start gap-x-10 gap-y-8 xl:grid-cols-2">
        <TariffsPart />
        <May ask={putPlanningSettings}>
          <GuessesPart measured={energy.data?.lines.filter(({ estimated }) => !estimated).map(({ of }) => of) ?? []} />
          <NamedMeters />
        </May>
      </div>
    </section>
  );
}

function Sentences({ energy, lengthMs }: { energy: Energy; lengthMs: number }): ReactNode {
  const words = energyWords(energy, lengthMs);
  return words.length === 0 ? null : (
    <div className="mt-4 max-w-prose space-y-1 text-[17px]" data-energy-words>
      {words.map((one) => (
        <p key={one}>{one}</p>
      ))}
    </div>
  );
}
