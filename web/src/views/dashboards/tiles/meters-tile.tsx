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
  textWidth,
  tickText,
} from "./meter-words.tsx";

const wordsPx = 20;
const glassPx = 24;
const leastPx = 78;
const mostPx = 190;
const rowPx = 52;
const lipPx = 3;

interface MetersTileProps {
  readonly tile: Tile;
  readonly figures: ShownFigures;
  readonly widthPx: number;
  readonly heightPx: number;
}

/**
 * Graduated columns, like measuring glasses: a scale etched beside each, its limit as a notch, its figure at the
 * meniscus.
 */
export function MetersTile({ tile, figures, widthPx, heightPx }: MetersTileProps): ReactNode {
  const look = tile.meter ?? {};
  const made = useMeters(tile, figures);
  if (made.problem) return <MetersWords meters={made} />;
  const isLying = look.orientation === "lying";
  const valuePx = textPx[look.valueSize ?? "plain"];
  const besideGlass =
    look.values === undefined || look.values === "meniscus"
      ? Math.max(
          0,
          ...made.meters.map(
            (meter) => tickText(meter) + 8 + glassPx + 12 + textWidth(`${meter.text}${meter.unit}`, valuePx) * 1.15,
          ),
        )
      : 0;
  // Narrower, figures would be cut off: then they scroll.
  const each = Math.min(
    Math.max(mostPx, besideGlass),
    Math.max(leastPx, besideGlass, widthPx / Math.max(1, made.meters.length)),
  );
  return (
    <div className="flex h-full flex-col" data-meters={isLying ? "lying" : "upright"}>
      <div className={`min-h-0 overflow-auto ${isLying ? "" : "flex"}`}>
        {made.meters.map((meter) =>
          isLying ? (
            <LyingMeter key={meter.key} meter={meter} look={look} widthPx={widthPx} />
          ) : (
            <UprightMeter
              key={meter.key}
              meter={meter}
              look={look}
              widthPx={each}
              heightPx={Math.max(70, heightPx - wordsPx - 4)}
            />
          ),
        )}
      </div>
      <MetersWords meters={made} />
    </div>
  );
}

function UprightMeter({
  meter,
  look,
  widthPx,
  heightPx,
}: {
  meter: Meter;
  look: MeterLook;
  widthPx: number;
  heightPx: number;
}): ReactNode {
  const { names = "after", values = "meniscus" } = look;
  const namePx = textPx[look.nameSize ?? "plain"];
  const valuePx = textPx[look.valueSize ?? "plain"];
  const above = (names === "before" ? namePx + 5 : 0) + (values === "before" ? valuePx + 5 : 0) + 6;
  const below = (names === "after" ? namePx + 5 : 0) + (values === "after" ? valuePx + 5 : 0) + 4;
  const height = Math.max(30, heightPx - above - below);
  const left = Math.min(widthPx * 0.45, tickText(meter) + 8);
  const right = left + glassPx;
  const middle = left + glassPx / 2;
  const at = (share: number) => above + height * (1 - share);
  const bottom = at(0);
  const level = meter.share === null ? bottom : at(meter.share);
  const shownTicks = meter.ticks.filter(
    (_, i) => meter.ticks.length * 12 <= height || i === 0 || i === meter.ticks.length - 1,
  );
  return (
    <div {...meterRole(meter)} data-meter={meter.name} className="shrink-0">
      <svg aria-hidden="true" width={widthPx} height={heightPx} className="block">
        <g clipPath="inset(0)">
          {meter.share !== null && meter.share > 0 && (
            <path
              d={`M${left} ${level}Q${middle} ${level + 3} ${right} ${level}V${bottom - 5}Q${right} ${bottom} ${right - 5} ${bottom}H${left + 5}Q${left} ${bottom} ${left} ${bottom - 5}Z`}
              fill={fillColour(meter, look.fill)}
              opacity={fillStrength(meter, look.fill)}
            />
          )}
          <path
            d={`M${left - lipPx} ${above - lipPx}L${left} ${above}V${bottom - 5}Q${left} ${bottom} ${left + 5} ${bottom}H${right - 5}Q${right} ${bottom} ${right} ${bottom - 5}V${above}L${right + lipPx} ${above - lipPx}`}
            fill="none"
            stroke="var(--quiet)"
          />
          {meter.ticks.map(({ share, text }) => (
            <line
              key={text}
              x1={left}
              x2={left + 6}
              y1={at(share)}
              y2={at(share)}
              stroke={meter.share !== null && share < meter.share ? "var(--paper)" : "var(--quiet)"}
            />
          ))}
          {shownTicks.map(({ share, text }) => (
            <text
              key={text}
              x={left - 5}
              y={at(share) + 3.5}
              textAnchor="end"
              fontSize="10.5"
              className="figure"
              fill="var(--quiet)"
            >
              {text}
            </text>
          ))}
          {meter.notches.map(({ share, severity, text }) => (
            <Notch key={`${severity} ${text}`} x={right} y={at(share)} turn={0} severity={severity} text={text} />
          ))}
          {values === "meniscus" && (
            <SvgFigure
              meter={meter}
              x={right + (meter.notches.some(({ share }) => Math.abs(at(share) - level) < valuePx) ? 11 : 6)}
              y={Math.min(bottom - 2, Math.max(above + valuePx * 0.8, level + valuePx * 0.35))}
              anchor="start"
              px={valuePx}
            />
          )}
          {values === "before" && <SvgFigure meter={meter} x={middle} y={above - 8} anchor="middle" px={valuePx} />}
          {values === "after" && (
            <SvgFigure meter={meter} x={middle} y={bottom + valuePx + 4} anchor="middle" px={valuePx} />
          )}
          {names !== "none" && (
            <text
              {...namePlace(meter.name, middle, widthPx, namePx)}
              y={names === "before" ? namePx : heightPx - 4}
              fontSize={namePx}
              fill="var(--ink)"
            >
              <title>{meter.name}</title>
              {fitted(meter.name, widthPx - 8, namePx)}
            </text>
          )}
        </g>
      </svg>
    </div>
  );
}

function LyingMeter({ meter, look, widthPx }: { meter: Meter; look: MeterLook; widthPx: number }): ReactNode {
  const { names = "before", values = "meniscus" } = look;
  const namePx = textPx[look.nameSize ?? "plain"];
  const valuePx = textPx[look.valueSize ?? "plain"];
  const nameRoom = names === "none" ? 0 : Math.min(widthPx * 0.32, 150);
  const valueRoom = values === "before" || values === "after" ? 76 : 0;
  const left = 8 + (names === "before" ? nameRoom : 0) + (values === "before" ? valueRoom : 0);
  const right = widthPx - 14 - (names === "after" ? nameRoom : 0) - (values === "after" ? valueRoom : 0);
  const top = valuePx + 4;
  const bottom = top + 14;
  const at = (share: number) => left + (right - left) * share;
  const level = meter.share === null ? left : at(meter.share);
  const shownTicks = meter.ticks.filter((_, i) =>
    meter.ticks.length * tickText(meter) < right - left - 20 ? true : i === 0 || i === meter.ticks.length - 1,
  );
  const valueX = values === "before" ? left - 10 : values === "after" ? right + 10 : level;
  const anchor =
    values === "before"
      ? "end"
      : values === "after"
        ? "start"
        : level > right - 50
          ? "end"
          : level < left + 30
            ? "start"
            : "middle";
  return (
    <div {...meterRole(meter)} data-meter={meter.name}>
      <svg aria-hidden="true" width={widthPx} height={Math.max(rowPx, bottom + 20)} className="block">
        {meter.share !== null && meter.share > 0 && (
          <path
            d={`M${level} ${top}Q${level + 3} ${(top + bottom) / 2} ${level} ${bottom}H${left + 5}Q${left} ${bottom} ${left} ${bottom - 5}V${top + 5}Q${left} ${top} ${left + 5} ${top}Z`}
            fill={fillColour(meter, look.fill)}
            opacity={fillStrength(meter, look.fill)}
          />
        )}
        <path
          d={`M${right + lipPx} ${top - lipPx}L${right} ${top}H${left + 5}Q${left} ${top} ${left} ${top + 5}V${bottom - 5}Q${left} ${bottom} ${left + 5} ${bottom}H${right}L${right + lipPx} ${bottom + lipPx}`}
          fill="none"
          stroke="var(--quiet)"
        />
        {meter.ticks.map(({ share, text }) => (
          <line
            key={text}
            x1={at(share)}
            x2={at(share)}
            y1={bottom}
            y2={bottom - 5}
            stroke={meter.share !== null && share < meter.share ? "var(--paper)" : "var(--quiet)"}
          />
        ))}
        {shownTicks.map(({ share, text }) => (
          <text
            key={text}
            x={at(share)}
            y={bottom + 13}
            textAnchor={share > 0.95 ? "end" : share < 0.05 ? "start" : "middle"}
            fontSize="10.5"
            className="figure"
            fill="var(--quiet)"
          >
            {text}
          </text>
        ))}
        {meter.notches.map(({ share, severity, text }) => (
          <Notch key={`${severity} ${text}`} x={at(share)} y={top} turn={-90} severity={severity} text={text} />
        ))}
        {values !== "none" && (
          <SvgFigure
            meter={meter}
            x={valueX}
            y={values === "meniscus" ? top - 5 : (top + bottom) / 2 + valuePx * 0.35}
            anchor={anchor}
            px={valuePx}
          />
        )}
        {names !== "none" && (
          <text
            x={names === "before" ? 0 : right + 10 + valueRoom}
            y={(top + bottom) / 2 + namePx * 0.35}
            fontSize={namePx}
            fill="var(--ink)"
          >
            <title>{meter.name}</title>
            {fitted(meter.name, nameRoom, namePx)}
          </text>
        )}
      </svg>
    </div>
  );
}

/** Under the middle of its glass, or from the left where it is longer than there is room on both sides. */
function namePlace(
  name: string,
  middle: number,
  widthPx: number,
  px: number,
): { readonly x: number; readonly textAnchor: "middle" | "start" } {
  const half = (Math.min(widthPx, textWidth(name, px)) + 4) / 2;
  return half <= Math.min(middle, widthPx - middle)
    ? { x: middle, textAnchor: "middle" }
    : { x: 0, textAnchor: "start" };
}
