import { type ReactNode, useMemo } from "react";
import type { Tile } from "../../../../../core/dashboards/dashboard.ts";
import { stateSpells } from "../../../../../core/dashboards/states.ts";
import type { Line, ReadingAnswer } from "../../../../../core/reading/document.ts";
import { presentSpan } from "../../../../../core/units/present.ts";
import { useHair } from "../../../charts/hair.ts";
import { palette } from "../../../../../core/drawing/palette.ts";
import { useTheme } from "../../../ui/theme.ts";
import { spanText } from "../../../time/moments.ts";
import { useTime } from "../../../time/time-provider.tsx";

const leastRowPx = 22;
const mostRowPx = 44;

interface StatesTileProps {
  readonly tile: Tile;
  readonly answer: ReadingAnswer;
  readonly nameOf: (line: Line) => string;
  readonly heightPx: number;
}

/**
 * A row a line: which state it was in, over time; its state now beside its name. Where nothing is known, nothing is
 * drawn.
 */
export function StatesTile({ tile, answer, nameOf, heightPx }: StatesTileProps): ReactNode {
  const { span } = useTime();
  const theme = useTheme();
  const atMs = useHair();
  const rows = useMemo(
    () =>
      answer.lines
        .filter(({ earlier }) => earlier === undefined)
        .map((line) => ({
          key: `${line.of} ${JSON.stringify(line.tags)}`,
          name: nameOf(line),
          spells: stateSpells(line.values, answer.from, answer.stepMs, tile.states, tile.limits),
        }))
        .sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true })),
    [answer, nameOf, tile.states, tile.limits],
  );
  if (rows.some(({ spells }) => spells === null))
    return (
      <p className="text-[13.5px] text-quiet">
        These values are too many to be states: say in the tile's editor from which value on it is in which state, or
        give it limits.
      </p>
    );
  const words = [
    ...new Set([
      ...(tile.states ?? []).map((state) => state.words),
      ...rows.flatMap(({ spells }) => spells?.map((spell) => spell.words) ?? []),
    ]),
  ].filter((word) => rows.some(({ spells }) => spells?.some((spell) => spell.words === word)));
  const colourOf = (word: string, signal: "notice" | "urgent" | null) =>
    signal ? `var(--${signal})` : (palette[theme][words.indexOf(word) % palette[theme].length] as string);
  const length = span.toMs - span.fromMs;
  const place = (ms: number) => Math.min(100, Math.max(0, ((ms - span.fromMs) / length) * 100));
  const rowPx = Math.min(mostRowPx, Math.max(leastRowPx, (heightPx - 24) / Math.max(1, rows.length)));
  return (
    <div className="flex h-full flex-col text-[13px]" data-states>
      <ul className="relative min-h-0 overflow-auto">
        {rows.map(({ key, name, spells }) => {
          const at = spells?.findLast(({ fromMs }) => fromMs <= (atMs ?? span.toMs));
          const now = at && (atMs === null || atMs < at.toMs) ? at : undefined;
          return (
            <li key={key} className="grid grid-cols-[minmax(0,26%)_1fr] items-center gap-2" style={{ height: rowPx }}>
              <span className="truncate" title={name}>
                {name} <span className="text-quiet">{now?.words ?? "no data"}</span>
              </span>
              <svg
                aria-hidden="true"
                viewBox={`0 0 100 ${rowPx}`}
                preserveAspectRatio="none"
                className="block w-full"
                height={rowPx - 6}
                data-spells={spells?.length}
              >
                {spells?.map(({ fromMs, toMs, words: word, signal }) => (
                  <rect
                    key={fromMs}
                    x={place(fromMs)}
                    width={Math.max(0, place(toMs) - place(fromMs))}
                    y="0"
                    height={rowPx}
                    fill={colourOf(word, signal)}
                    opacity={signal ? 0.95 : 0.7}
                  >
                    <title>{`${word}, ${spanWords(fromMs, toMs)}, ${presentSpan(toMs - fromMs)}`}</title>
                  </rect>
                ))}
                {atMs !== null && (
                  <line
                    x1={place(atMs)}
                    x2={place(atMs)}
                    y1="0"
                    y2={rowPx}
                    stroke="var(--ink)"
                    strokeDasharray="1 2"
                    vectorEffect="non-scaling-stroke"
                  />
                )}
              </svg>
            </li>
          );
        })}
      </ul>
      <p className="flex flex-wrap gap-x-4 pt-1 text-[12px] text-quiet">
        {words.map((word) => (
          <span key={word} className="flex items-center gap-1.5">
            <svg aria-hidden="true" width="11" height="9">
              <rect
                width="11"
                height="9"
                fill={colourOf(
                  word,
                  tile.states?.find((state) => state.words === word)?.signal ??
                    (word === "notice" || word === "urgent" ? word : null),
                )}
              />
            </svg>
            {word}
          </span>
        ))}
      </p>
    </div>
  );
}

function spanWords(fromMs: number, toMs: number): string {
  const { day, from, to } = spanText(fromMs, toMs);
  return `${day} ${from} to ${to}`;
}
