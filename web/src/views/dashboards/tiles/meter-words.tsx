import type { ReactNode } from "react";
import type { Meter, MeterLook, Meters } from "../../../../../core/dashboards/meters.ts";

export const textPx = { small: 11, plain: 13.5, large: 19 } as const;

export const fillColour = ({ passed }: Meter, fill: MeterLook["fill"] = "limit"): string =>
  fill === "limit" && passed !== null ? `var(--${passed})` : "var(--act)";
/** By value: the fuller, the stronger. */
export const fillStrength = ({ share }: Meter, fill: MeterLook["fill"] = "limit"): number =>
  fill === "value" ? 0.25 + 0.75 * (share ?? 0) : 0.85;

/** What a meter says to those who do not see it. */
export function meterRole(meter: Meter): Readonly<Record<string, string | number>> {
  const { name, value, text, unit, min, max, passed, beyond } = meter;
  const said = `${text} ${unit}`.trim();
  if (value === null) return { role: "img", "aria-label": `${name}: ${said}` };
  return {
    role: "meter",
    "aria-label": name,
    "aria-valuenow": value,
    "aria-valuemin": Math.min(min, value),
    "aria-valuemax": Math.max(max, value),
    "aria-valuetext": [said, beyond && "beyond the scale", passed && `past its limit, ${passed}`]
      .filter(Boolean)
      .join(", "),
  };
}

/** Which values these are and how the scale was made; or why there is none. */
export function MetersWords({ meters }: { meters: Meters }): ReactNode {
  if (meters.problem)
    return (
      <p className="text-[13.5px] text-quiet" data-meter-problem>
        {meters.problem} {meters.problem.startsWith("One value") && "The tile's editor has a place for it."}
      </p>
    );
  return (
    <p
      className="truncate pt-1 text-[12px] text-quiet"
      title={`${meters.shown}; scale ${meters.scale}`}
      data-meter-words
    >
      {/* That the newest values are meant goes without saying. */}
      {meters.shown.replace(/^last(, first )?/, (_, cut) => (cut ? "the first " : ""))}
      <span className="sr-only">
        {meters.shown}; scale {meters.scale}
      </span>
    </p>
  );
}

/** The figure with its unit smaller, as text of a drawing. */
export function SvgFigure({
  meter,
  x,
  y,
  anchor,
  px,
}: {
  meter: Meter;
  x: number;
  y: number;
  anchor: "start" | "middle" | "end";
  px: number;
}): ReactNode {
  const isNone = meter.value === null;
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fontSize={isNone ? Math.min(px, 12) : px}
      className={isNone ? "" : "figure"}
      fill={isNone ? "var(--quiet)" : "var(--ink)"}
    >
      {meter.text}
      {meter.unit && (
        <tspan fontSize={px * 0.75} fill="var(--quiet)" dx="2">
          {meter.unit}
        </tspan>
      )}
      {meter.beyond && (
        <tspan fill="var(--quiet)" dx="2">
          {(meter.value ?? 0) > meter.max ? "↑" : "↓"}
        </tspan>
      )}
    </text>
  );
}

/** A limit's notch: its tip on the scale, urgent with a doubled outline. `turn` in degrees, 0 points to the left. */
export function Notch({
  x,
  y,
  turn,
  severity,
  text,
}: {
  x: number;
  y: number;
  turn: number;
  severity: "notice" | "urgent";
  text: string;
}): ReactNode {
  const colour = `var(--${severity})`;
  return (
    <g transform={`translate(${x} ${y}) rotate(${turn})`} fill="none" stroke={colour}>
      <title>{`limit ${text}, ${severity}`}</title>
      <path d="M0 0 7 -4.5V4.5Z" fill={severity === "urgent" ? "var(--paper)" : colour} />
      {severity === "urgent" && <path d="M2.6 0 5.6 -2V2Z" fill={colour} stroke="none" />}
    </g>
  );
}

/** About how wide letters are, of their height. */
const letterShare = 0.54;
export const textWidth = (text: string, px: number): number => text.length * px * letterShare;

/** So much of a text as has room, by about how wide its letters are. */
export function fitted(text: string, roomPx: number, px: number): string {
  const most = Math.max(2, Math.floor(roomPx / (px * letterShare)));
  return text.length <= most ? text : `${text.slice(0, most - 1)}…`;
}

export const tickText = (meter: Meter): number => Math.max(...meter.ticks.map(({ text }) => text.length), 1) * 6.4;
