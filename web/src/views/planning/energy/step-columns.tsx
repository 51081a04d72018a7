import { type ReactNode, useRef, useState } from "react";
import type { EnergyView } from "../../../../../core/api/energy.ts";
import { kilowattHours, money } from "../../../../../core/tariffs/cost-words.ts";
import { clockTime, dayOf, dayWithName } from "../../../time/moments.ts";
import { useWidth } from "../../../ui/use-width.ts";

const height = 150;
const foot = 18;
const head = 6;

interface StepColumnsProps {
  readonly energy: EnergyView;
  readonly step: "hour" | "day" | "month";
}

/** Energy of each step as a column, all that is added together; pointing or arrows tell one in figures. */
export function StepColumns({ energy: { lines, edges, currency }, step }: StepColumnsProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const [at, setAt] = useState<number | null>(null);
  if (!edges || edges.length < 2) return null;
  const added = lines.filter(({ share }) => share !== null);
  const shown = added.length > 0 ? added : lines;
  const columns = edges.slice(0, -1).map((fromMs, i) => ({
    fromMs,
    wattHours: shown.reduce<number | null>((sum, { steps }) => plus(sum, steps?.[i]?.wattHours ?? null), null),
    cost: shown.reduce<number | null>((sum, { steps }) => plus(sum, steps?.[i]?.cost ?? null), null),
  }));
  // Of nothing there is no picture.
  if (columns.every(({ wattHours }) => wattHours === null)) return null;
  const most = Math.max(1e-9, ...columns.map(({ wattHours }) => wattHours ?? 0));
  const each = width / columns.length;
  const y = (wattHours: number) => head + (1 - wattHours / most) * (height - foot - head);
  const told = columns[at ?? -1];
  const named = (ms: number) =>
    step === "hour" ? clockTime(ms) : step === "month" ? dayOf(ms).slice(0, 7) : dayOf(ms).slice(5);
  const every = Math.max(1, Math.ceil((columns.length * 52) / Math.max(1, width)));
  return (
    <figure className="mb-5" aria-label={`energy by the ${step}`}>
      <figcaption className="flex flex-wrap items-baseline gap-x-4 text-[13px]">
        <span className="text-quiet">by the {step}</span>
        <span data-step-told>
          {told
            ? `${step === "hour" ? `${dayWithName(told.fromMs)}, ${clockTime(told.fromMs)}` : dayWithName(told.fromMs)}: ${told.wattHours === null ? "not known" : kilowattHours(told.wattHours)}${told.cost !== null && currency ? `, ${money(told.cost, currency)}` : ""}`
            : `at most ${kilowattHours(most)}`}
        </span>
      </figcaption>
      <div
        ref={place}
        role="slider"
        tabIndex={0}
        aria-label={`energy of each ${step}`}
        aria-valuemin={0}
        aria-valuemax={columns.length - 1}
        aria-valuenow={at ?? columns.length - 1}
        aria-valuetext={
          told
            ? `${dayWithName(told.fromMs)} ${told.wattHours === null ? "not known" : kilowattHours(told.wattHours)}`
            : "none chosen"
        }
        onKeyDown={(event) => {
          const now = at ?? columns.length - 1;
          if (event.key === "ArrowLeft") setAt(Math.max(0, now - 1));
          else if (event.key === "ArrowRight") setAt(Math.min(columns.length - 1, now + 1));
          else if (event.key === "Escape") setAt(null);
          else return;
          event.preventDefault();
        }}
        onPointerMove={(event) => {
          const left = event.currentTarget.getBoundingClientRect().left;
          setAt(Math.max(0, Math.min(columns.length - 1, Math.floor((event.clientX - left) / Math.max(1, each)))));
        }}
        onPointerLeave={() => setAt(null)}
      >
        <svg width={width} height={height} aria-hidden="true" className="block">
          <path d={`M0 ${height - foot + 0.5}H${width}`} stroke="var(--hairline)" />
          {columns.map(({ fromMs, wattHours }, i) => (
            <StepColumn
              key={fromMs}
              x={i * each}
              each={each}
              top={wattHours === null ? null : y(wattHours)}
              isChosen={at === i}
              label={i % every === 0 ? named(fromMs) : null}
            />
          ))}
        </svg>
      </div>
    </figure>
  );
}

interface ColumnProps {
  readonly x: number;
  readonly each: number;
  readonly top: number | null;
  readonly isChosen: boolean;
  readonly label: string | null;
}

function StepColumn({ x, each, top, isChosen, label }: ColumnProps): ReactNode {
  const gap = Math.min(4, each * 0.2);
  return (
    <g>
      {top === null ? (
        <path
          d={`M${x + gap / 2} ${height - foot - 4}h${Math.max(1, each - gap)}`}
          stroke="var(--quiet)"
          strokeDasharray="2 2"
        />
      ) : (
        <rect
          x={x + gap / 2}
          y={top}
          width={Math.max(1, each - gap)}
          height={Math.max(1, height - foot - top)}
          fill="var(--act)"
          opacity={isChosen ? 1 : 0.7}
        />
      )}
      {label && (
        <text x={x} y={height - 4} fontSize="11" fill="var(--quiet)">
          {label}
        </text>
      )}
    </g>
  );
}

const plus = (a: number | null, b: number | null): number | null => (b === null ? a : (a ?? 0) + b);
