import type { ReactNode } from "react";
import { present } from "../../../../core/units/present.ts";
import type { Span } from "../../time/time-window.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";
import { useReading } from "./use-reading.ts";

const most = 8;

interface TopProcessesProps {
  readonly counter: "process.cpu.time" | "process.memory.usage";
  readonly machine: string;
  readonly span: Span;
}

/** The processes that use most, by their mean over the window, as bars from the same zero. */
export function TopProcesses({ counter, machine, span }: TopProcessesProps): ReactNode {
  const processor = counter === "process.cpu.time";
  const reading: OpenReading = {
    sentences: { used: { counter, where: [{ tag: "machine", is: [machine] }], lines: { per: ["machine", "process", "pid"] }, combine: "sum", keep: { highest: most, by: "mean" } } },
    figure: processor ? "used * 100" : "used * 1",
    unit: processor ? "%" : "By",
  };
  const answer = useReading(reading, span, 60);
  const rows = [...(answer.data?.lines ?? [])].sort((a, b) => (b.mean ?? 0) - (a.mean ?? 0));
  const longest = rows[0]?.mean ?? 1;
  const names = rows.map(({ tags }) => tags["process"]);
  const repeats = (name: string | undefined) => names.filter((other) => other === name).length > 1;
  return (
    <div className="md:col-start-2 xl:col-start-3">
      <h3 className="mb-1 text-[13px] text-quiet">processes by {processor ? "processor (of one core)" : "memory"}</h3>
      {answer.isPending && <p className="text-quiet">reading …</p>}
      {answer.data && rows.length === 0 && <p className="text-[13px] text-quiet">none was seen in this window</p>}
      <ol className="text-[13px]">
        {rows.map(({ tags, mean }) => {
          const shown = present(mean, processor ? "%" : "By");
          return (
            <li key={`${tags["process"]} ${tags["pid"]}`} className="grid grid-cols-[minmax(0,1fr)_4.5rem_4.5rem] items-center gap-2 leading-[19px]" title={`process ${tags["pid"]}`}>
              <span className="truncate">
                {tags["process"]}
                {repeats(tags["process"]) && <span className="figure ml-1.5 text-[11px] text-quiet">{tags["pid"]}</span>}
              </span>
              <span aria-hidden="true" className="h-1.5 border-b border-hairline">
                <span className="block h-full bg-act" style={{ width: `${(100 * (mean ?? 0)) / longest}%` }} />
              </span>
              <span className="figure text-right">
                {shown.text}
                <span className="ml-0.5 text-quiet">{shown.unit}</span>
              </span>
            </li>
          );
        })}
      </ol>
    </div>
  );
}
