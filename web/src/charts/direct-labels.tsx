import type { ReactNode } from "react";
import type { Axis } from "../../../core/units/axis.ts";
import { figures } from "../../../core/units/present.ts";
import { type Drawn, inRows, onOneAnother } from "../../../core/drawing/drawings.ts";
import { type ChartLine, indexAt } from "./chart-lines.ts";
import { useHair } from "./hair.ts";
import { LimitFlag } from "./limit-flag.tsx";
import type { Limit } from "./plot-overlay.tsx";
import { spreadLabels } from "./spread-labels.ts";

const lineHeight = 16;

interface DirectLabelsProps {
  readonly lines: readonly ChartLine[];
  readonly colourOf: (line: ChartLine) => string;
  readonly limits: readonly Limit[];
  readonly firstMs: number;
  readonly stepMs: number;
  readonly edges?: readonly number[] | undefined;
  readonly axis: Axis;
  readonly scale: number;
  readonly drawn: Drawn;
  /** Height of the plot, px. */
  readonly height: number;
  readonly raised: ReadonlySet<string>;
  readonly onRaise: (line: ChartLine) => void;
}

/**
 * The lines' names beside their ends, with the value now or at the hair, moved apart so that none covers another. A
 * click raises a line.
 */
export function DirectLabels({
  lines,
  colourOf,
  limits,
  firstMs,
  stepMs,
  edges,
  axis,
  scale,
  drawn,
  height,
  raised,
  onRaise,
}: DirectLabelsProps): ReactNode {
  const atMs = useHair();
  // In a stack, what is nothing all the time takes no place; its figures stand in the table.
  const onTop = onOneAnother(drawn);
  const named = onTop ? lines.filter(({ line }) => line.max !== 0) : lines;
  const room = Math.max(1, Math.floor(height / lineHeight) - (inRows(drawn) ? 0 : limits.length));
  const shown = named.length <= room ? named : inOrder(named, byValue(named).slice(0, Math.max(1, room - 1)));
  const flags = inRows(drawn) ? [] : limits;
  const span = axis.max - axis.min;
  const heightOf = (value: number) => height - ((value - axis.min) / span) * height;
  let below = 0;
  const wishes = named.map(({ line }, i) => {
    const value = line.last ?? axis.min;
    if (inRows(drawn)) return height - ((i + 0.5) / named.length) * height;
    const wish = onTop ? heightOf(below + value / 2) : heightOf(value);
    below += value;
    return wish;
  });
  const wishOf = (line: ChartLine) => wishes[named.indexOf(line)] as number;
  const places = spreadLabels([...shown.map(wishOf), ...flags.map(({ value }) => heightOf(value))], lineHeight, height);
  return (
    <div className="relative text-[12.5px] leading-4" style={{ height }}>
      {shown.map((chartLine, i) => {
        const { key, name, line } = chartLine;
        const index = indexAt(line, firstMs, stepMs, atMs, edges);
        const value = index < 0 ? null : (line.values[index] ?? null);
        const on = raised.has(key);
        return (
          <button
            key={key}
            type="button"
            aria-pressed={on}
            title={`${name}: raise this line above the others`}
            onClick={() => onRaise(chartLine)}
            className={`absolute left-0 flex w-full items-baseline gap-1.5 border-0 bg-transparent p-0 text-left ${on ? "font-bold underline" : ""}`}
            style={{ top: (places[i] as number) - lineHeight / 2, height: lineHeight }}
          >
            <span
              aria-hidden="true"
              className="inline-block h-[3px] w-2.5 shrink-0 self-center"
              style={{ background: colourOf(chartLine) }}
            />
            <span className="min-w-0 truncate">{name}</span>
            <span className="figure ml-auto shrink-0 text-quiet">
              {membersText(line, index)}
              {value === null ? "–" : `${line.above?.includes(index) ? "over " : ""}${figures(value * scale)}`}
            </span>
          </button>
        );
      })}
      {flags.map((limit, i) => (
        <LimitFlag key={limit.key} limit={limit} top={(places[shown.length + i] as number) - lineHeight / 2} />
      ))}
      {shown.length < named.length && (
        <span className="absolute left-4 text-quiet" style={{ top: height }}>
          and {named.length - shown.length} more
        </span>
      )}
    </div>
  );
}

/** How many of its series a step has, where that varies and not all are there. */
function membersText({ members }: ChartLine["line"], index: number): string {
  const most = members ? Math.max(...members) : 0;
  const here = members?.[index];
  return here === undefined || here === most ? "" : `${here} of ${most}: `;
}

/** The chosen ones of `all` in the order of `all`. */
const inOrder = (all: readonly ChartLine[], chosen: readonly ChartLine[]) =>
  all.filter((line) => chosen.includes(line));
const byValue = (lines: readonly ChartLine[]) =>
  [...lines].sort((a, b) => (b.line.last ?? Number.NEGATIVE_INFINITY) - (a.line.last ?? Number.NEGATIVE_INFINITY));
