import { type ReactNode, useRef } from "react";
import type { MonthOutlook } from "../../../../core/api/energy.ts";
import { money } from "../../../../core/tariffs/cost-words.ts";
import { dayOf } from "../../time/moments.ts";
import { useWidth } from "../../ui/use-width.ts";

const height = 54;
const bar = { top: 16, height: 12 };

/** The month as a measuring rule: what it cost so far, what it will, and its budget as a notch. */
export function MonthGauge({ month }: { month: MonthOutlook }): ReactNode {
  const { tariff, currency, fromMs, soFar, expected, budget, formula } = month;
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const most = Math.max(expected.cost, budget ?? 0, 1e-9) * 1.12;
  const x = (amount: number) => (amount / most) * width;
  const isOver = budget !== null && expected.cost > budget;
  return (
    <figure className="mb-4" data-month-gauge={tariff}>
      <figcaption className="flex flex-wrap items-baseline gap-x-3 text-[13.5px]">
        <span className="font-semibold">{tariff}</span>
        <span className="text-quiet">{dayOf(fromMs).slice(0, 7)}</span>
        <span className="figure">{money(soFar.cost, currency)}</span>
        <span className="text-quiet">so far, about</span>
        <span className={`figure ${isOver ? "text-notice" : ""}`}>{money(expected.cost, currency)}</span>
        <span className="text-quiet">by its end</span>
      </figcaption>
      <div ref={place}>
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={`${money(soFar.cost, currency)} so far, ${money(expected.cost, currency)} expected${budget === null ? "" : `, budget ${money(budget, currency)}`}`}
        >
          <rect
            x="0.5"
            y={bar.top}
            width={Math.max(0, x(expected.cost) - 1)}
            height={bar.height}
            fill="none"
            stroke="var(--quiet)"
            strokeDasharray="3 2"
          />
          <rect x="0" y={bar.top} width={x(soFar.cost)} height={bar.height} fill="var(--act)" opacity="0.8" />
          <path d={`M0 ${bar.top + bar.height + 0.5}H${width}`} stroke="var(--ink)" />
          <path d={ticks(width)} stroke="var(--quiet)" />
          {budget !== null && (
            <>
              <path
                d={`M${x(budget)} ${bar.top - 6}v${bar.height + 12}`}
                stroke={isOver ? "var(--notice)" : "var(--ink)"}
                strokeWidth="2"
              />
              <text
                x={Math.min(x(budget), width - 4)}
                y={bar.top - 7}
                textAnchor={x(budget) > width * 0.7 ? "end" : "start"}
                fontSize="11.5"
                fill="var(--ink)"
              >
                budget {money(budget, currency)}
              </text>
            </>
          )}
        </svg>
      </div>
      <details className="text-[13px]">
        <summary className="cursor-pointer text-quiet">How this is made</summary>
        <p className="figure mt-1 max-w-prose">{formula}</p>
      </details>
    </figure>
  );
}

/** Tenths of the rule, the ends and the middle longer. */
function ticks(width: number): string {
  return Array.from(
    { length: 11 },
    (_, i) => `M${(i / 10) * (width - 1) + 0.5} ${bar.top + bar.height}v${i % 5 === 0 ? 7 : 4}`,
  ).join("");
}
