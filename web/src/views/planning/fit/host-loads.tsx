import { type ReactNode, useRef } from "react";
import type { FitAnswer, FitHostView, Peak } from "../../../../../core/api/fit.ts";
import { amount } from "../../../../../core/planning/space-words.ts";
import { figures } from "../../../../../core/units/present.ts";
import { HostSpeed } from "./host-speed.tsx";
import { useWidth } from "../../../ui/use-width.ts";

const height = 64;

interface HostLoadsProps {
  readonly answer: FitAnswer;
  readonly headroom: number;
  /** What is said of a host has been changed. */
  readonly onSpeed: () => void;
}

/** What each host would have been loaded with over the span, beside what it has. */
export function HostLoads({ answer, headroom, onSpeed }: HostLoadsProps): ReactNode {
  const shown = answer.hosts.filter(({ guests, machine }) => guests.length > 0 || answer.canBeOff.includes(machine));
  return (
    <ul
      className="mt-4 grid grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-4 lg:grid-cols-2 min-[1900px]:grid-cols-3"
      data-host-loads
    >
      {shown.map((host) => (
        <li key={host.machine} data-host={host.machine}>
          <p className="border-b border-hairline pb-0.5">
            <span className="font-bold">{host.machine}</span>{" "}
            <span className="text-[13.5px] text-quiet">
              {answer.canBeOff.includes(host.machine)
                ? "could be off: nothing would run on it"
                : `${host.guests.length} ${host.guests.length === 1 ? "guest" : "guests"}`}
            </span>
            <HostSpeed host={host} onChange={onSpeed} />
          </p>
          {host.guests.length > 0 &&
            host.peak.map(
              (peak, r) =>
                (peak.capacity !== null || peak.most > 0) && (
                  <Load key={peak.resource} host={host} peak={peak} curve={host.curves[r] ?? []} headroom={headroom} />
                ),
            )}
        </li>
      ))}
    </ul>
  );
}

interface LoadProps {
  readonly host: FitHostView;
  readonly peak: Peak;
  readonly curve: readonly number[];
  readonly headroom: number;
}

function Load({ host, peak, curve, headroom }: LoadProps): ReactNode {
  const place = useRef<HTMLDivElement>(null);
  const width = useWidth(place);
  const { resource, unit, needed, most, capacity } = peak;
  const top = Math.max(capacity ?? 0, most);
  const y = (value: number) => 1 + (1 - value / top) * (height - 2);
  const each = width / Math.max(1, curve.length);
  const path = `M0 ${height}${curve.map((value, i) => `L${(i * each).toFixed(1)} ${y(value).toFixed(1)}H${((i + 1) * each).toFixed(1)}`).join("")}V${height}Z`;
  const words = capacity === null ? amount(needed, unit) : `${amount(needed, unit)} of ${amount(capacity, unit)}`;
  return (
    <div className="mt-1.5">
      <p className="flex flex-wrap items-baseline gap-x-3 text-[13px]">
        <span className="text-quiet">{resource}</span>
        {capacity !== null && <span className="figure">{figures((needed / capacity) * 100)} %</span>}
        <span className="text-quiet">{words}</span>
      </p>
      <div ref={place}>
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={`${host.machine}, ${resource}: ${words}, at most ${amount(most, unit)}`}
          className="block"
        >
          <path d={path} fill="var(--act)" opacity="0.55" />
          {capacity !== null && <path d={`M0 ${y(capacity) + 0.5}H${width}`} stroke="var(--ink)" />}
          {capacity !== null && headroom > 0 && (
            <path
              d={`M0 ${y(capacity * (1 - headroom)).toFixed(1)}H${width}`}
              stroke="var(--quiet)"
              strokeDasharray="4 3"
            />
          )}
        </svg>
      </div>
    </div>
  );
}
