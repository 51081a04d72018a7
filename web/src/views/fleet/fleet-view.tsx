import { useQueries, useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { MachineView, RuleView } from "../../../../core/api/views.ts";
import type { Line, ReadingAnswer } from "../../../../core/reading/document.ts";
import type { Mode, Severity } from "../../../../core/rules/rule.ts";
import { present } from "../../../../core/units/present.ts";
import { machinesQuery, readingQuery, rulesQuery } from "../../api/queries.ts";
import { Strip } from "../../charts/strip.tsx";
import { SectionLink } from "../../frame/section-link.tsx";
import { Signal, signalWords } from "../../signals/signal.tsx";
import { momentText, spanText } from "../../time/moments.ts";
import { useTime } from "../../time/time-provider.tsx";
import { LevelScale } from "./level-scale.tsx";
import { type LedgerColumn, ledgerColumns, ofEveryMachine } from "./ledger-columns.ts";

const stripPoints = 120;

/** The whole fleet: one row a machine, one column a counter, every strip over the same window. */
export function FleetView(): ReactNode {
  const { span } = useTime();
  const machines = useQuery(machinesQuery);
  const rules = useQuery(rulesQuery).data ?? [];
  const readings = useQueries({
    queries: ledgerColumns.flatMap(ofEveryMachine).map((reading) => readingQuery({ ...reading, points: stripPoints, window: { from: Math.round(span.fromMs), to: Math.round(span.toMs) } })),
  });
  const answersOf = (column: LedgerColumn) => {
    const first = ledgerColumns.slice(0, ledgerColumns.indexOf(column)).reduce((sum, { readings: before }) => sum + before.length, 0);
    return readings.slice(first, first + column.readings.length).flatMap(({ data }) => (data ? [data] : []));
  };
  const text = spanText(span.fromMs, span.toMs);
  const series = (machines.data ?? []).reduce((sum, machine) => sum + machine.series, 0);
  const failure = machines.error ?? readings.find(({ error }) => error)?.error;
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 border-b border-ink pt-2 pb-3">
        <h1 className="text-[26px] leading-none font-bold">Fleet</h1>
        <p className="text-quiet">
          {machines.data && <>{machines.data.length === 1 ? "1 machine" : `${machines.data.length} machines`}, <span className="figure">{series.toLocaleString("en")}</span> series · </>}
          {text.day}, <span className="figure">{text.from}</span> to <span className="figure">{text.to}</span>
        </p>
      </div>
      {failure && <p role="alert" className="border-b border-hairline py-2 text-urgent">{failure.message}</p>}
      {machines.isPending && <p className="py-8 text-quiet">reading …</p>}
      {machines.data?.length === 0 && <p className="max-w-prose py-8">Here every machine will have a row. This one's own counters arrive within ten seconds of the start; nothing has to be set up for it.</p>}
      {machines.data && machines.data.length > 0 && (
        <div className="relative overflow-x-auto">
          <table className="w-full min-w-[880px] table-fixed border-collapse">
            <caption className="sr-only">Every machine's main counters over the window, and their values now</caption>
            <thead>
              <tr className="text-left text-[13px] text-quiet">
                <th className="w-44 py-2 font-normal">Machine</th>
                {ledgerColumns.map(({ id, title }) => <th key={id} className="py-2 pr-5 font-normal">{title}</th>)}
              </tr>
            </thead>
            <tbody>
              {machines.data.map((machine) => (
                <tr key={machine.name} className="border-b border-hairline" data-machine={machine.name}>
                  <th scope="row" className="py-3 text-left align-middle font-normal"><MachineCell machine={machine} rules={rules} /></th>
                  {ledgerColumns.map((column) => (
                    <td key={column.id} className="py-2 pr-5 align-middle"><LedgerCell column={column} machine={machine} answers={answersOf(column)} /></td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}

function MachineCell({ machine, rules }: { machine: MachineView; rules: readonly RuleView[] }): ReactNode {
  const { nowMs } = useTime();
  const worst = worstState(machine, rules);
  const words = machine.state !== "reporting" ? machine.state : worst.mode === "quiet" ? "reporting" : signalWords[worst.mode];
  return (
    <div className="flex gap-2.5">
      <span className="pt-1.5"><Signal of={worst.mode} severity={worst.severity} label={words} /></span>
      <span className="min-w-0">
        <SectionLink to={`/machines/${encodeURIComponent(machine.name)}`} className="block truncate font-bold hover:underline" title={machine.name}>{machine.friendlyName || machine.name}</SectionLink>
        <span className="text-[13px] text-quiet">
          {words}
          {machine.sources.some(({ unchecked }) => unchecked) && <strong className="text-notice"> · certificate not checked</strong>}
          {machine.state === "silent" && machine.lastSampleAtMs !== null && ` since ${momentText(machine.lastSampleAtMs, nowMs)}`}
        </span>
      </span>
    </div>
  );
}

function LedgerCell({ column, machine, answers }: { column: LedgerColumn; machine: MachineView; answers: readonly ReadingAnswer[] }): ReactNode {
  const { span } = useTime();
  const ofMachine = (one: ReadingAnswer) => one.lines.filter(({ tags }) => tags["machine"] === machine.name);
  const answer = answers.find((one) => ofMachine(one).length > 0) ?? answers[0];
  const line = fullest(column.scale ? answers.flatMap(ofMachine) : answer ? ofMachine(answer) : []);
  const now = machine.state === "silent" ? null : (line?.last ?? null);
  const shown = present(now, column.unit);
  const most = column.most ?? Math.max(1, ...answers.flatMap(({ lines }) => lines).map(({ max }) => max ?? 0));
  const mountpoint = line?.tags["mountpoint"] ?? line?.tags["pool"] ?? line?.tags["instance"];
  const label = `${column.title} of ${machine.name}${mountpoint ? `, ${mountpoint}` : ""}`;
  return (
    <SectionLink to={`/machines/${encodeURIComponent(machine.name)}#${column.band}`} className="grid grid-cols-[minmax(0,1fr)_5.2rem] items-end gap-2.5" title={label}>
      <span className="sr-only">{label}</span>
      {column.scale ? <LevelScale share={now === null ? null : now / most} /> : <Strip line={line} firstMs={answer?.from ?? span.fromMs} stepMs={answer?.stepMs ?? 1000} span={span} most={most} height={28} />}
      <span className="figure whitespace-nowrap leading-none" data-cell={column.id}>
        {shown.text}
        <span className="ml-1 text-[12px] text-quiet">{shown.unit}</span>
      </span>
    </SectionLink>
  );
}

const fullest = (lines: readonly Line[]): Line | undefined => [...lines].sort((a, b) => (b.last ?? -1) - (a.last ?? -1))[0];

const loudness: readonly Mode[] = ["quiet", "building", "blind", "easing", "raised"];

function worstState(machine: MachineView, rules: readonly RuleView[]): { readonly mode: Mode; readonly severity: Severity } {
  let worst: { mode: Mode; severity: Severity } = { mode: machine.state === "silent" ? "blind" : "quiet", severity: "notice" };
  for (const rule of rules) {
    const about = Object.values(rule.reading.sentences).some(({ where }) => where?.some(({ tag, is }) => tag === "machine" && is?.includes(machine.name)));
    if (about && rule.on && rule.mode && loudness.indexOf(rule.mode) > loudness.indexOf(worst.mode)) worst = { mode: rule.mode, severity: rule.severity };
  }
  return worst;
}
