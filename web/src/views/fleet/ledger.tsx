import {
  type CSSProperties,
  memo,
  type ReactNode,
  Suspense,
  useCallback,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { MachineView } from "../../../../core/api/machines.ts";
import type { RuleView } from "../../../../core/api/rules.ts";
import { lazyView } from "../../ui/lazy-view.ts";
import { SectionLink } from "../../time/section-link.tsx";
import { arrangeLedger, nextSort } from "./arrange-ledger.ts";
import { LedgerCell, MachineCell } from "./ledger-cells.tsx";
import { type LedgerColumn, ledgerColumns } from "./ledger-columns.ts";
import type { PartKind } from "../../shared/bands/part-bands.ts";
import type { LedgerChoice } from "./ledger-choice.ts";
import type { Ledger as LedgerData } from "./use-ledger.ts";

const WindowedRows = lazyView(() => import("./windowed-rows.tsx"), "WindowedRows");

/** A row's height where there are many, and where a few have the room. */
const [rowHeight, highRow] = [62, 104];
/** Of a row, what is no strip: the figure above it, and the room around. */
const besideStrip = 34;
/** Where a figure says itself what it is. */
const aloneWords = 14;
/** Below the ledger: the rail, and a little. */
const below = 130;
const partHeight = 32;
const groupHeight = 34;
/** Fewer rows than this are drawn all; a page that is searched or printed has them then. */
const drawnAll = 60;

type Row =
  | { readonly kind: "group"; readonly key: string; readonly words: string; readonly count: number }
  | { readonly kind: "machine"; readonly key: string; readonly machine: MachineView }
  | {
      readonly kind: "part";
      readonly key: string;
      readonly machine: MachineView;
      readonly part: PartKind;
      readonly name: string;
    };

interface LedgerProps {
  readonly machines: readonly MachineView[];
  readonly rules: readonly RuleView[];
  readonly choice: LedgerChoice;
  readonly data: LedgerData;
  readonly onChange: (change: Partial<LedgerChoice>) => void;
}

/** One row a machine, what runs on it folded out beneath, one column a counter, every strip over the same window. */
export function Ledger({ machines, rules, choice, data, onChange }: LedgerProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  const columns = useMemo(
    () => choice.columns.flatMap((id) => ledgerColumns.filter((column) => column.id === id)),
    [choice.columns],
  );
  const rows = useMemo(() => {
    const groups = arrangeLedger(machines, choice, ({ name }, id) => {
      const column = ledgerColumns.find((one) => one.id === id);
      return column ? (data.cellOf(column, name).line?.last ?? null) : null;
    });
    return rowsOf(groups, choice);
  }, [machines, choice, data]);
  useLayoutEffect(() => setTop((place.current?.getBoundingClientRect().top ?? 0) + window.scrollY), []);
  const machinesShown = rows.filter(({ kind }) => kind === "machine").length;
  const others = rows.reduce((sum, row) => sum + (row.kind === "machine" ? 0 : heightOf(row)), 0);
  const high =
    machinesShown === 0
      ? rowHeight
      : Math.max(rowHeight, Math.min(highRow, (window.innerHeight - top - 34 - below - others) / machinesShown));
  const fold = useCallback(
    (name: string) =>
      onChange({
        open: choice.open.includes(name) ? choice.open.filter((one) => one !== name) : [...choice.open, name],
      }),
    [choice.open, onChange],
  );
  const head = (id: string, title: string, explains?: string) => {
    const on = choice.sort.replace(/^-/, "") === id;
    const down = choice.sort.startsWith("-");
    return (
      <th
        key={id}
        aria-sort={on ? (down ? "descending" : "ascending") : "none"}
        className={`py-1.5 pr-5 font-normal ${id === "name" ? "w-44" : ""}`}
      >
        <button
          type="button"
          className={on ? "font-bold text-ink" : "hover:text-ink"}
          title={explains}
          onClick={() => onChange({ sort: nextSort(choice.sort, id) })}
        >
          {title}
          {on && id !== "name" && <span className="font-normal"> {down ? "highest first" : "lowest first"}</span>}
        </button>
      </th>
    );
  };
  const draw = (row: Row) => (
    <LedgerRow
      key={row.key}
      row={row}
      columns={columns}
      rules={rules}
      data={data}
      high={high}
      open={choice.open}
      onFold={fold}
    />
  );
  return (
    <div ref={place} className="relative overflow-x-auto">
      <table
        className="w-full border-collapse max-sm:block sm:min-w-[var(--least)] sm:table-fixed"
        style={{ "--least": `${180 + columns.length * 120}px` } as CSSProperties}
      >
        <caption className="sr-only">Every machine's main counters over the window, and their values now</caption>
        <thead className="max-sm:hidden">
          <tr className="text-left text-[13px] text-quiet">
            {head("name", "Machine")}
            {columns.map(({ id, title, explains }) => head(id, title, explains))}
          </tr>
        </thead>
        <tbody className="max-sm:block">
          {rows.length <= drawnAll ? (
            rows.map(draw)
          ) : (
            <Suspense fallback={rows.slice(0, drawnAll).map(draw)}>
              <WindowedRows
                count={rows.length}
                top={top}
                heightOf={(index) => heightOf(rows[index] as Row)}
                keyOf={(index) => (rows[index] as Row).key}
                draw={(index) => draw(rows[index] as Row)}
              />
            </Suspense>
          )}
        </tbody>
      </table>
      {rows.length === 0 && (
        <p className="py-6 text-quiet">
          No machine fits these conditions.{" "}
          <button type="button" className="word-link" onClick={() => onChange({ where: [] })}>
            Show every machine
          </button>
        </p>
      )}
    </div>
  );
}

interface LedgerRowProps {
  readonly row: Row;
  readonly columns: readonly LedgerColumn[];
  readonly rules: readonly RuleView[];
  readonly data: LedgerData;
  /** The height of a machine's row, px. */
  readonly high: number;
  readonly open: readonly string[];
  readonly onFold: (machine: string) => void;
}

/** Drawn anew when its data is, not when the page is scrolled. */
const LedgerRow = memo(function LedgerRow({
  row,
  columns,
  rules,
  data,
  high,
  open,
  onFold,
}: LedgerRowProps): ReactNode {
  if (row.kind === "group") {
    return (
      <tr className="border-b border-ink" data-group={row.words} style={{ height: groupHeight }}>
        <th scope="rowgroup" colSpan={columns.length + 1} className="pt-2 text-left align-bottom font-bold">
          {row.words} <span className="figure font-normal text-quiet">{row.count}</span>
        </th>
      </tr>
    );
  }
  const { machine } = row;
  const silentSinceMs = machine.state === "silent" ? machine.lastSampleAtMs : null;
  const page = `/machines/${encodeURIComponent(machine.name)}`;
  if (row.kind === "part") {
    const to = `${page}/${row.part}s/${encodeURIComponent(row.name)}`;
    return (
      <tr className="border-b border-hairline" data-part={row.name} style={{ height: partHeight }}>
        <th scope="row" className="py-1 pl-6 text-left font-normal">
          <SectionLink to={to} className="block truncate text-[14px] hover:underline">
            {row.name}
          </SectionLink>
        </th>
        {columns.map((column) => {
          const cell = data.partCellOf(column, machine.name, row.part, row.name);
          return (
            <td key={column.id} className="py-1 pr-5 align-middle text-[14px]">
              {cell && (
                <LedgerCell
                  column={column}
                  label={`${column.title} of ${row.name}`}
                  to={to}
                  data={cell}
                  silentSinceMs={silentSinceMs}
                  height={12}
                />
              )}
            </td>
          );
        })}
      </tr>
    );
  }
  return (
    <MachineRow
      machine={machine}
      {...{ columns, rules, data, high, silentSinceMs, page }}
      isOpen={open.includes(machine.name)}
      onFold={() => onFold(machine.name)}
    />
  );
});

interface MachineRowProps extends Pick<LedgerRowProps, "columns" | "rules" | "data" | "high"> {
  readonly machine: MachineView;
  readonly silentSinceMs: number | null;
  /** The machine's page. */
  readonly page: string;
  readonly isOpen: boolean;
  readonly onFold: () => void;
}

/** A machine with its figures; where it has none of the chosen ones, with what it has. On a phone: two lines. */
function MachineRow({
  machine,
  columns,
  rules,
  data,
  high,
  silentSinceMs,
  page,
  isOpen,
  onFold,
}: MachineRowProps): ReactNode {
  const worst = worstColumn(columns, data, machine.name);
  const instead = data.insteadOf(machine.name);
  return (
    <tr
      className="border-b border-hairline max-sm:flex max-sm:flex-wrap max-sm:items-baseline max-sm:gap-x-3.5 max-sm:py-1.5 sm:h-[var(--high)]"
      data-machine={machine.name}
      style={{ "--high": `${high}px` } as CSSProperties}
    >
      <th
        scope="row"
        className="py-1.5 text-left align-middle font-normal max-sm:-order-3 max-sm:min-w-0 max-sm:grow max-sm:basis-1/2 max-sm:py-0"
      >
        <MachineCell machine={machine} rules={rules} parts={partWords(machine)} open={isOpen} onFold={onFold} />
      </th>
      {instead.length > 0 ? (
        <td colSpan={columns.length} className="py-1.5 align-middle max-sm:basis-full max-sm:p-0" data-instead>
          <div
            className="grid gap-x-5 max-sm:flex max-sm:flex-wrap"
            style={{ gridTemplateColumns: `repeat(${columns.length}, minmax(0, 1fr))` }}
          >
            {instead.slice(0, columns.length).map((column) => (
              <LedgerCell
                key={column.id}
                column={column}
                label={`${column.title} of ${machine.name}`}
                to={column.band === "" ? page : `${page}#${column.band}`}
                data={data.cellOf(column, machine.name)}
                silentSinceMs={silentSinceMs}
                height={high - besideStrip - aloneWords}
                isAlone
              />
            ))}
          </div>
        </td>
      ) : (
        [
          // On a phone what follows stands in a line of its own.
          <td key="" aria-hidden="true" className="hidden max-sm:-order-1 max-sm:block max-sm:h-0 max-sm:basis-full" />,
          ...columns.map((column) => (
            <td
              key={column.id}
              className={`py-1.5 pr-5 align-middle max-sm:p-0 ${column === worst ? "font-bold max-sm:-order-2 sm:font-normal" : ""}`}
            >
              <LedgerCell
                column={column}
                label={`${column.title} of ${machine.name}`}
                to={column.workedOut ? `/${column.workedOut}` : `${page}#${column.band}`}
                data={data.cellOf(column, machine.name)}
                silentSinceMs={silentSinceMs}
                height={high - besideStrip}
              />
            </td>
          )),
        ]
      )}
    </tr>
  );
}

/** Of the shares among a machine's figures the one that is nearest to its whole. */
function worstColumn(columns: readonly LedgerColumn[], data: LedgerData, machine: string): LedgerColumn | undefined {
  let worst: { readonly column: LedgerColumn; readonly share: number } | undefined;
  for (const column of columns) {
    const last = column.most === undefined ? undefined : data.cellOf(column, machine).line?.last;
    const share = last === undefined || last === null ? undefined : last / (column.most as number);
    if (share !== undefined && share > (worst?.share ?? 0)) worst = { column, share };
  }
  return worst?.column;
}

function rowsOf(groups: ReturnType<typeof arrangeLedger<MachineView>>, { group, open }: LedgerChoice): readonly Row[] {
  return groups.flatMap(({ value, machines }): readonly Row[] => [
    ...(value === undefined
      ? []
      : [
          {
            kind: "group" as const,
            key: `group ${value}`,
            words: value === "" ? `without ${group}` : value,
            count: machines.length,
          },
        ]),
    ...machines.flatMap((machine): readonly Row[] => [
      { kind: "machine", key: machine.name, machine },
      ...(open.includes(machine.name)
        ? [
            ...machine.guests.map((name) => part(machine, "guest", name)),
            ...machine.containers.map((name) => part(machine, "container", name)),
          ]
        : []),
    ]),
  ]);
}

const part = (machine: MachineView, kind: PartKind, name: string): Row => ({
  kind: "part",
  key: `${machine.name} ${kind} ${name}`,
  machine,
  part: kind,
  name,
});
const heightOf = ({ kind }: Row) => ({ group: groupHeight, machine: rowHeight, part: partHeight })[kind];
const counted = (n: number, word: string) => (n === 0 ? "" : `${n} ${word}${n === 1 ? "" : "s"}`);
const partWords = ({ guests, containers }: MachineView) =>
  [counted(guests.length, "guest"), counted(containers.length, "container")].filter(Boolean).join(", ");
