import { useMeters } from "./use-meters.ts";
import type { ReactNode } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import type { Meter, MeterLook } from "../../../../../core/dashboards/meters.ts";
import type { ShownFigures } from "../../../../../core/dashboards/shown-figures.ts";
import {
  fillColour,
  fillStrength,
  fitted,
  MetersWords,
  meterRole,
  Notch,
  SvgFigure,
  textPx,
  tickText,
} from "./meter-words.tsx";

/** The arc begins and ends so far from straight down, in degrees. */
const openDegrees = 60;
const wordsPx = 24;
const leastPx = 120;
/** Two numbers are read in this as well as in half a screen. */
const mostPx = 230;

interface DialTileProps {
  readonly tile: Tile;
  readonly figures: ShownFigures;
  readonly widthPx: number;
  readonly heightPx: number;
}

/** Plain arc scales with ticks, one a row and column; as many beside one another as have room. */
export function DialTile({ tile, figures, widthPx, heightPx }: DialTileProps): ReactNode {
  const made = useMeters(tile, figures);
  if (made.problem) return <MetersWords meters={made} />;
  const n = Math.max(1, made.meters.length);
  const room = Math.max(leastPx, heightPx - wordsPx);
  const columns = Math.max(1, Math.min(n, Math.floor(widthPx / Math.max(leastPx, Math.min(room, widthPx / n)))));
  const rows = Math.ceil(n / columns);
  const size = Math.min(mostPx, Math.max(leastPx, Math.min(widthPx / columns, room / rows)));
  return (
    <div className="flex h-full flex-col" data-dials>
      <div className="flex min-h-0 flex-wrap content-start overflow-auto">
        {made.meters.map((meter) => (
          <Dial key={meter.key} meter={meter} look={tile.meter ?? {}} size={size} />
        ))}
      </div>
      <MetersWords meters={made} />
    </div>
  );
}

function Dial({ meter, look, size }: { meter: Meter; look: MeterLook; size: number }): ReactNode {
  const middle = size / 2;
  const centre = size * 0.5;
  // Room for the ticks' texts on both sides.
  const radius = Math.max(size * 0.22, Math.min(size * 0.36, middle - 15 - tickText(meter)));
  const namePx = textPx[look.nameSize ?? "plain"];
  const valuePx = look.valueSize === undefined ? Math.max(15, size * 0.12) : textPx[look.valueSize] * 1.3;
  const degrees = (share: number) => 90 + openDegrees + share * (360 - 2 * openDegrees);
  const point = (share: number, r: number) => {
    const turn = (degrees(share) * Math.PI) / 180;
    return [middle + Math.cos(turn) * r, centre + Math.sin(turn) * r] as const;
  };
  const arc = (from: number, to: number, r: number) => {
    const [x1, y1] = point(from, r);
    const [x2, y2] = point(to, r);
    return `M${x1} ${y1}A${r} ${r} 0 ${(to - from) * (360 - 2 * openDegrees) > 180 ? 1 : 0} 1 ${x2} ${y2}`;
  };
  const names = look.names ?? "after";
  return (
    <div {...meterRole(meter)} data-meter={meter.name}>
      <svg aria-hidden="true" width={size} height={size} className="block">
        <path d={arc(0, 1, radius)} fill="none" stroke="var(--quiet)" />
        {meter.share !== null && meter.share > 0.002 && (
          <path
            d={arc(0, meter.share, radius - 5)}
            fill="none"
            stroke={fillColour(meter, look.fill)}
            strokeWidth="7"
            opacity={fillStrength(meter, look.fill)}
          />
        )}
        {meter.ticks.map(({ share, text }) => {
          const [x1, y1] = point(share, radius);
          const [x2, y2] = point(share, radius + 5);
          const [x, y] = point(share, radius + 13);
          return (
            <g key={text}>
              <line x1={x1} y1={y1} x2={x2} y2={y2} stroke="var(--quiet)" />
              <text
                x={x}
                y={y + 3.5}
                textAnchor={Math.abs(x - middle) < 6 ? "middle" : x < middle ? "end" : "start"}
                fontSize="10.5"
                className="figure"
                fill="var(--quiet)"
              >
                {text}
              </text>
            </g>
          );
        })}
        {meter.notches.map(({ share, severity, text }) => {
          const [x, y] = point(share, radius - 9);
          return (
            <Notch
              key={`${severity} ${text}`}
              x={x}
              y={y}
              turn={degrees(share) + 180}
              severity={severity}
              text={text}
            />
          );
        })}
        {look.values !== "none" && (
          <SvgFigure meter={meter} x={middle} y={centre + valuePx * 0.35} anchor="middle" px={valuePx} />
        )}
        {names !== "none" && (
          <text
            x={middle}
            y={names === "before" ? namePx : centre + radius + namePx}
            textAnchor="middle"
            fontSize={namePx}
            fill="var(--ink)"
          >
            <title>{meter.name}</title>
            {fitted(meter.name, size * 0.8, namePx)}
          </text>
        )}
      </svg>
    </div>
  );
}
