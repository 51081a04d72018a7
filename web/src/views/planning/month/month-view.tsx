import { Called } from "../../../shared/machines/called.tsx";
import { May } from "../../../shared/people/may.tsx";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useSearchParts } from "../../../ui/use-search-parts.ts";
import { getMonth, type MonthView as Month, putMonthSending } from "../../../../../core/api/month.ts";
import { figureRows } from "../../../../../core/planning/month-html.ts";
import { amount, whenWords } from "../../../../../core/planning/space-words.ts";
import { kilowattHours, money } from "../../../../../core/tariffs/cost-words.ts";
import { figures, presentSpan } from "../../../../../core/units/present.ts";
import { call } from "../../../api/client.ts";
import { SelectPart } from "../../../sentence/select-part.tsx";
import { SectionLink } from "../../../time/section-link.tsx";
import { Asking } from "../asking.tsx";
import { PlanningHeading } from "../planning-heading.tsx";
import { MonthSendingPart } from "./month-sending-part.tsx";
import { Part } from "./month-part.tsx";

const mostMonths = 24;

/** A month on one page, for the screen, for paper and for mail. */
export function MonthView(): ReactNode {
  const [search, setSearch] = useSearchParts();
  const [nowMs] = useState(Date.now);
  const names = monthNames(nowMs);
  const month = search.get("month") ?? (names[0] as string);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const page = useQuery({
    queryKey: ["planning", "month", month, zone],
    queryFn: ({ signal }) => call(getMonth, {}, undefined, { signal, query: { month, zone } }),
    staleTime: 60_000,
  });
  return (
    <section aria-label="The month">
      <PlanningHeading>
        <button type="button" className="word-link not-in-print" onClick={() => window.print()}>
          Print it
        </button>
      </PlanningHeading>
      <p className="mt-4 leading-8">
        Of{" "}
        <SelectPart
          label="which month"
          value={month}
          options={names.map((one) => [one, one])}
          onChange={(next) => setSearch((before) => withMonth(before, next))}
        />
        {page.data && !page.data.isOver && " so far"}:
      </p>
      <Asking of={page} />
      {page.data && <Page page={page.data} nowMs={nowMs} />}
      <May ask={putMonthSending}>
        <MonthSendingPart month={month} />
      </May>
    </section>
  );
}

function withMonth(before: URLSearchParams, month: string): URLSearchParams {
  const next = new URLSearchParams(before);
  next.set("month", month);
  return next;
}

/** This month and those before it. */
function monthNames(nowMs: number): readonly string[] {
  const now = new Date(nowMs);
  return Array.from({ length: mostMonths }, (_, back) => {
    const one = new Date(now.getFullYear(), now.getMonth() - back, 1);
    return `${one.getFullYear()}-${String(one.getMonth() + 1).padStart(2, "0")}`;
  });
}

function Page({ page, nowMs }: { page: Month; nowMs: number }): ReactNode {
  const { words, figures: now, before, incidents, energy, steadiness, fills, grew, silent } = page;
  return (
    <div data-month={page.month}>
      <div className="max-w-prose space-y-1 text-[17px]" data-month-words>
        {words.map((one) => (
          <p key={one}>{one}</p>
        ))}
      </div>
      <div className="mt-5 grid grid-cols-[minmax(0,1fr)] items-start gap-x-10 gap-y-6 md:grid-cols-2 min-[1700px]:grid-cols-3 print:block print:columns-2">
        <Part title="In figures" heads={["", "this month", "the one before"]} rows={figureRows(now, before)} />
        <Part
          title="Incidents, the longest"
          none="No incident was raised."
          heads={["what", "since", "for"]}
          rows={incidents.map(({ id, machine, rule, severity, raisedAtMs, lengthMs }) => [
            <SectionLink key={id} to={`/alerts/incidents/${id}`} className="word-link">
              <Called machine={machine} />: {rule}
            </SectionLink>,
            `${new Date(raisedAtMs).toISOString().slice(5, 10)}${severity === "urgent" ? ", urgent" : ""}`,
            presentSpan(lengthMs),
          ])}
        />
        <Part
          title="Energy"
          none="Nothing measured power or energy."
          heads={["what", "energy", "cost"]}
          rows={energy.map(({ of, wattHours, cost, estimated }) => [
            `${of}${estimated ? ", estimated" : ""}`,
            kilowattHours(wattHours),
            cost === null || now.currency === null ? "–" : money(cost, now.currency),
          ])}
        />
        <Part
          title="Steadiness"
          none="No machine reported."
          heads={["machine", "mean", "lowest"]}
          rows={steadiness.map(({ machine, mean, lowest, lowestDay }) => [
            machine,
            mean.toFixed(1),
            lowestDay ? `${lowest.toFixed(1)} on ${lowestDay.slice(5)}` : "–",
          ])}
        />
        {!page.isOver && (
          <Part
            title="What fills"
            none="Nothing fills that is known of."
            heads={["what", "used", "full"]}
            rows={fills.map(({ machine, what, share, fullFromMs, fullToMs }) => [
              `${machine}: ${what}`,
              `${figures(share * 100)} %`,
              whenWords(fullFromMs, fullToMs, nowMs) || "–",
            ])}
          />
        )}
        <Part
          title="What grew most"
          none="Nothing grew by a hundredth."
          heads={["what", "by", ""]}
          rows={grew.map(({ machine, what, by, unit, share }) => [
            `${machine}: ${what}`,
            `${by < 0 ? "−" : "+"}${amount(Math.abs(by), unit)}`,
            `${share < 0 ? "−" : "+"}${figures(Math.abs(share) * 100)} %`,
          ])}
        />
        <Part
          title="Silent"
          none="No machine was silent."
          heads={["machine", "for", "times"]}
          rows={silent.map(({ machine, silentMs, times }) => [machine, presentSpan(silentMs), String(times)])}
        />
      </div>
    </div>
  );
}
