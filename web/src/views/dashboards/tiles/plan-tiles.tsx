import { Called } from "../../../shared/machines/called.tsx";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { askEnergy, type EnergyBody } from "../../../../../core/api/energy.ts";
import { askFit } from "../../../../../core/api/fit.ts";
import { getMonth } from "../../../../../core/api/month.ts";
import { spaceWords, whenWords } from "../../../../../core/planning/space-words.ts";
import { kilowattHours, money } from "../../../../../core/tariffs/cost-words.ts";
import { figures } from "../../../../../core/units/present.ts";
import { call, callLines } from "../../../api/client.ts";
import { spaceQuery } from "../../../api/queries.ts";
import { MonthGauge } from "../../../shared/planning/month-gauge.tsx";
import { useTime } from "../../../time/time-provider.tsx";

const minuteMs = 60_000;
const hourMs = 60 * minuteMs;
const weekMs = 7 * 24 * hourMs;

/** Energy of each machine over the window, with what it cost. */
export function EnergyTile(): ReactNode {
  const { span } = useTime();
  const grain = span.toMs - span.fromMs > 24 * hourMs ? 10 * minuteMs : minuteMs;
  const [from, to] = [Math.floor(span.fromMs / grain) * grain, Math.ceil(span.toMs / grain) * grain];
  const energy = useEnergy({ window: { from, to }, per: "machine" });
  if (!energy.data) return <Waiting error={energy.error} />;
  const lines = energy.data.lines.filter(({ wattHours }) => wattHours > 0);
  if (lines.length === 0) return <p className="text-quiet">Nothing here measures power or energy.</p>;
  const most = Math.max(...lines.map(({ wattHours }) => wattHours));
  return (
    <ul className="h-full overflow-auto text-[13.5px]">
      {lines.map(({ of, wattHours, cost, currency, share }) => (
        <li key={of} className="border-b border-hairline py-0.5">
          <span className="flex justify-between gap-2">
            <span className={share === null ? "truncate text-quiet" : "truncate"}>{of}</span>
            <span className="figure whitespace-nowrap">
              {kilowattHours(wattHours)}
              {cost !== null && currency !== null && <span className="text-quiet"> {money(cost, currency)}</span>}
            </span>
          </span>
          <span
            aria-hidden="true"
            className="block h-[4px]"
            style={{
              width: `${(wattHours / most) * 100}%`,
              background: share === null ? "var(--hairline)" : "var(--act)",
              opacity: 0.7,
            }}
          />
        </li>
      ))}
    </ul>
  );
}

/** What this month cost so far and will cost, beside its budget. */
export function CostTile(): ReactNode {
  const { nowMs } = useTime();
  const to = Math.ceil(nowMs / hourMs) * hourMs;
  const energy = useEnergy({ window: { from: to - 24 * hourMs, to }, per: "together" });
  if (!energy.data) return <Waiting error={energy.error} />;
  const { months, lines } = energy.data;
  const today = lines.find(({ estimated }) => !estimated);
  if (months.length === 0) return <p className="text-quiet">No tariff is given yet: it is under Planning, Energy.</p>;
  return (
    <div className="h-full overflow-auto">
      {months.map((month) => (
        <MonthGauge key={month.tariff} month={month} />
      ))}
      {today && today.cost !== null && today.currency !== null && (
        <p className="text-[13px] text-quiet">
          {money(today.cost, today.currency)} for {kilowattHours(today.wattHours)} in 24 hours
        </p>
      )}
    </div>
  );
}

/** What is full first. */
export function SpaceTile(): ReactNode {
  const { nowMs } = useTime();
  const space = useQuery(spaceQuery);
  if (!space.data) return <Waiting error={space.error} />;
  const shown = space.data.filter(({ kind }) => kind !== "tier").slice(0, 12);
  if (shown.length === 0) return <p className="text-quiet">Nothing that fills is gathered yet.</p>;
  return (
    <div className="h-full overflow-auto text-[13.5px]">
      <p className="mb-1">{spaceWords(space.data, nowMs)[0]}</p>
      <ul>
        {shown.map(({ machine, what, used, size, fullFromMs, fullToMs }) => (
          <li key={`${machine} ${what}`} className="flex justify-between gap-2 border-b border-hairline py-0.5">
            <span className="truncate">
              <Called machine={machine} />: {what}
            </span>
            <span className="whitespace-nowrap">
              <span className="figure">{figures((used / size) * 100)} %</span>{" "}
              <span className="text-quiet">{whenWords(fullFromMs, fullToMs, nowMs)}</span>
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Whether guests would fit on fewer machines, of the last seven days. */
export function FitTile(): ReactNode {
  const { nowMs } = useTime();
  const to = Math.floor(nowMs / hourMs) * hourMs;
  const fit = useQuery({
    queryKey: ["planning", "fit", to],
    queryFn: async ({ signal }) => {
      for await (const line of callLines(
        askFit,
        { window: { from: to - weekMs, to }, percentile: 0.95, headroom: 0.2 },
        signal,
      )) {
        if ("problem" in line) throw new Error("It could not be worked out.");
        if (!("progress" in line)) return line;
      }
      throw new Error("It could not be worked out.");
    },
    staleTime: hourMs,
    placeholderData: (before) => before,
  });
  if (!fit.data) return <Waiting error={fit.error} />;
  const { words, saves, canBeOff } = fit.data;
  return (
    <div className="h-full space-y-1 overflow-auto text-[13.5px]">
      {words.map((one) => (
        <p key={one}>{one}</p>
      ))}
      {canBeOff.length > 0 && saves.costPerYear !== null && saves.currency !== null && (
        <p className="font-semibold">{money(saves.costPerYear, saves.currency)} a year saved.</p>
      )}
    </div>
  );
}

/** The month in sentences. */
export function MonthTile(): ReactNode {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const month = useQuery({
    queryKey: ["planning", "month", "now", zone],
    queryFn: ({ signal }) => call(getMonth, {}, undefined, { signal, query: { zone } }),
    staleTime: hourMs / 4,
  });
  if (!month.data) return <Waiting error={month.error} />;
  return (
    <div className="h-full space-y-1 overflow-auto text-[13.5px]">
      <p className="text-quiet">{month.data.month} so far</p>
      {month.data.words.map((one) => (
        <p key={one}>{one}</p>
      ))}
    </div>
  );
}

function useEnergy(asked: EnergyBody) {
  const body = { ...asked, zone: Intl.DateTimeFormat().resolvedOptions().timeZone };
  return useQuery({
    queryKey: ["energy", body],
    queryFn: ({ signal }) => call(askEnergy, {}, body, { signal }),
    staleTime: minuteMs,
    placeholderData: (before) => before,
  });
}

function Waiting({ error }: { error: Error | null }): ReactNode {
  return error ? (
    <p role="alert" className="text-[13px] text-urgent">
      {error.message}
    </p>
  ) : (
    <p className="text-quiet">reading …</p>
  );
}
