import { countersQuery } from "../../api/queries.ts";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Line } from "../../../../core/reading/document.ts";
import { present } from "../../../../core/units/present.ts";
import { SectionLink } from "../../time/section-link.tsx";
import type { Span } from "../../time/time-window.ts";
import type { TopList } from "../../shared/bands/band.ts";
import { useReading } from "../../sentence/use-reading.ts";

const most = 8;

/** What uses most, by the mean over the window, as bars from the same zero. */
export function TopUsers({ list, machine, span }: { list: TopList; machine: string; span: Span }): ReactNode {
  const answer = useReading(list.reading(machine), span, 60);
  const tells = useTells(list, machine);
  const rows = [...(answer.data?.lines ?? [])].sort((a, b) => (b.mean ?? 0) - (a.mean ?? 0)).slice(0, most);
  const longest = list.most ?? Math.max(rows[0]?.mean ?? 0, Number.MIN_VALUE);
  const names = rows.map(list.nameOf);
  const repeats = (name: string) => names.filter((other) => other === name).length > 1;
  if (!tells) return null;
  return (
    <div className="md:col-start-2 xl:col-start-3" data-top>
      <h3 className="mb-1 text-[13px] text-quiet">{list.title}</h3>
      {answer.isPending && <p className="text-quiet">reading …</p>}
      {answer.data && rows.length === 0 && <p className="text-[13px] text-quiet">none was seen in this window</p>}
      <ol className="text-[13px]">
        {rows.map((line, i) => (
          <TopRow
            key={JSON.stringify(line.tags)}
            line={line}
            list={list}
            name={names[i] as string}
            repeats={repeats(names[i] as string)}
            longest={longest}
          />
        ))}
      </ol>
    </div>
  );
}

/** Whether the machine tells of what the list counts: one whose source does not has no such list. */
function useTells(list: TopList, machine: string): boolean {
  const counters = useQuery(countersQuery).data;
  const asked = Object.values(list.reading(machine).sentences).map(({ counter }) => counter);
  return (
    counters === undefined ||
    asked.every((name) => counters.some((one) => one.name === name && one.machines.includes(machine)))
  );
}

function TopRow({
  line: { tags, mean },
  line,
  list,
  name,
  repeats,
  longest,
}: {
  line: Line;
  list: TopList;
  name: string;
  repeats: boolean;
  longest: number;
}): ReactNode {
  const shown = present(mean, list.unit);
  const pid = tags["pid"];
  return (
    <li
      className="grid grid-cols-[minmax(0,1fr)_4.5rem_4.5rem] items-center gap-2 leading-[19px]"
      title={pid ? `process ${pid}` : name}
    >
      <span className="truncate">
        {list.pathOf ? (
          <SectionLink to={list.pathOf(line)} className="hover:underline">
            {name}
          </SectionLink>
        ) : (
          name
        )}
        {repeats && pid && <span className="figure ml-1.5 text-[11px] text-quiet">{pid}</span>}
      </span>
      <span aria-hidden="true" className="h-1.5 border-b border-hairline">
        <span
          className="block h-full bg-act"
          style={{ width: `${Math.min(100, Math.max(0, (100 * (mean ?? 0)) / longest))}%` }}
        />
      </span>
      <span className="figure text-right">
        {shown.text}
        <span className="ml-0.5 text-quiet">{shown.unit}</span>
      </span>
    </li>
  );
}
