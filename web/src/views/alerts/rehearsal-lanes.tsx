import type { ReactNode } from "react";
import { presentSpan } from "../../../../core/units/present.ts";
import type { RehearsalAnswer } from "../../../../core/rules/rehearse.ts";
import { spanText } from "../../time/moments.ts";

interface RehearsalLanesProps {
  readonly result: RehearsalAnswer;
  readonly lines: readonly {
    readonly tags: Readonly<Record<string, string>>;
    readonly count: number;
    readonly raisedMs: number;
    readonly index: number;
  }[];
}

/** A lane a line with bars where the rule would have been raised; how often and how long beside it. */
export function RehearsalLanes({ result: { from, to, incidents }, lines }: RehearsalLanesProps): ReactNode {
  const place = (ms: number) => (100 * (Math.min(to, Math.max(from, ms)) - from)) / (to - from);
  return (
    <ul className="min-w-0 text-[13px]">
      {lines.map(({ tags, count, raisedMs, index }) => {
        const name = Object.values(tags).join(" ") || "all together";
        return (
          <li
            key={index}
            className="grid grid-cols-[8rem_minmax(0,1fr)_9rem] items-center gap-3 border-b border-hairline leading-[22px]"
          >
            <span className="truncate" title={name}>
              {name}
            </span>
            <svg aria-hidden="true" viewBox="0 0 100 14" preserveAspectRatio="none" className="block h-3.5 w-full">
              {incidents
                .filter(({ line }) => line === index)
                .map(({ raisedAtMs, clearedAtMs, severity }) => {
                  const { day, from: begin, to: end } = spanText(raisedAtMs, clearedAtMs ?? to);
                  return (
                    <rect
                      key={raisedAtMs}
                      x={place(raisedAtMs)}
                      width={Math.max(0.25, place(clearedAtMs ?? to) - place(raisedAtMs))}
                      y="1"
                      height="12"
                      fill={`var(--${severity})`}
                      opacity={severity === "urgent" ? 0.9 : 0.6}
                    >
                      <title>{`${severity}, ${day} ${begin} to ${end}`}</title>
                    </rect>
                  );
                })}
            </svg>
            <span className="figure text-right text-quiet">
              {count} ×, {presentSpan(raisedMs)}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
