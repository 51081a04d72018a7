import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Line, ReadingAnswer } from "../../../core/reading/document.ts";
import { scaleFor } from "../../../core/units/present.ts";
import { useTheme } from "../frame/theme.ts";
import type { Span } from "../time/time-window.ts";
import { axisOfLines, type ChartLine, chartLines } from "./chart-lines.ts";
import { DirectLabels } from "./direct-labels.tsx";
import { LineFigures } from "./line-figures.tsx";
import { pageColours, palette } from "./palette.ts";
import { Plot, plotInset } from "./plot.ts";
import { type Limit, type Mark, PlotOverlay } from "./plot-overlay.tsx";

export interface TimeChartProps {
  readonly title: string;
  readonly answer: ReadingAnswer | undefined;
  readonly span: Span;
  readonly unit: string;
  readonly nameOf: (line: Line) => string;
  readonly order?: readonly string[];
  readonly stacked?: boolean;
  /** Names of lines that are drawn in the colour of hairlines: what is left over. */
  readonly plain?: readonly string[];
  readonly ceiling?: number | undefined;
  readonly limits?: readonly Limit[];
  readonly marks?: readonly Mark[];
  /** Of the plot, px. */
  readonly height?: number;
}

const noNames: readonly string[] = [];

/** Lines or a stack over time, with direct labels, hair, limits, marks and figures. It keeps what it shows while newer data comes. */
export function TimeChart({ title, answer, span, unit, nameOf, order, stacked = false, plain = noNames, ceiling, limits = [], marks = [], height = 116 }: TimeChartProps): ReactNode {
  const theme = useTheme();
  const canvas = useRef<HTMLDivElement>(null);
  const plot = useRef<Plot>(null);
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [raised, setRaised] = useState<ReadonlySet<string>>(new Set());
  const [figuresShown, setFiguresShown] = useState(false);
  const all = useMemo(() => chartLines(answer?.lines ?? [], nameOf, order), [answer, nameOf, order]);
  const lines = useMemo(() => all.filter(({ key }) => !hidden.has(key)), [all, hidden]);
  const limitValues = limits.map((limit) => limit.value).join(" ");
  const axis = useMemo(() => axisOfLines(lines, stacked, unit, limitValues === "" ? [] : limitValues.split(" ").map(Number), ceiling), [lines, stacked, unit, limitValues, ceiling]);
  const colourOf = useCallback((line: ChartLine) => (plain.includes(line.name) ? pageColours[theme].hairline : (palette[theme][line.colourIndex % palette[theme].length] as string)), [plain, theme]);
  const firstMs = answer?.from ?? span.fromMs;
  const stepMs = answer?.stepMs ?? 1000;

  useEffect(() => {
    const made = new Plot(canvas.current as HTMLDivElement);
    plot.current = made;
    return () => {
      plot.current = null;
      made.dispose();
    };
  }, []);
  useEffect(() => {
    plot.current?.update({
      ...span,
      firstMs,
      stepMs,
      axis,
      stacked,
      theme,
      lines: lines.map((line) => ({ key: line.key, values: line.line.values, lows: line.line.lows, highs: line.line.highs, colour: colourOf(line), raised: raised.has(line.key) })),
    });
  }, [span, firstMs, stepMs, axis, stacked, theme, lines, colourOf, raised]);

  const placeOf = (value: number) => 1 - (value - axis.min) / (axis.max - axis.min);
  const scale = scaleFor(unit, Math.max(Math.abs(axis.max), Math.abs(axis.min)));
  const empty = answer !== undefined && !all.some(({ line }) => line.last !== null);
  return (
    <div>
      <div className="grid grid-cols-[minmax(0,1fr)_7.5rem] sm:grid-cols-[minmax(0,1fr)_9.5rem]">
        <div className="relative" style={{ height: height + plotInset.top + plotInset.bottom }}>
          <div ref={canvas} aria-hidden="true" className="absolute inset-0" />
          <div className="absolute" style={plotInset}>
            <PlotOverlay span={span} height={height} marks={marks} limits={limits} placeOf={placeOf} />
            {answer === undefined && <p className="absolute inset-x-0 top-1/3 text-center text-quiet">reading …</p>}
            {empty && <p className="pointer-events-none absolute inset-x-0 top-1/3 text-center text-quiet">nothing was gathered in this window</p>}
          </div>
        </div>
        <div className="pl-2" style={{ paddingTop: plotInset.top }}>
          <DirectLabels {...{ lines, colourOf, firstMs, stepMs, axis, stacked, height, raised, limits }} scale={scale.factor} onRaise={(key) => setRaised(toggled(raised, key))} />
          <button type="button" className="word-link mt-4 ml-4 text-[12px] leading-4 not-in-print" aria-expanded={figuresShown} aria-label={`figures of ${title}`} onClick={() => setFiguresShown(!figuresShown)}>
            figures
          </button>
        </div>
      </div>
      {figuresShown && <LineFigures caption={title} lines={all} {...{ colourOf, hidden, raised }} scale={scale.factor} unit={scale.unit} onHide={(key) => setHidden(toggled(hidden, key))} onRaise={(key) => setRaised(toggled(raised, key))} />}
    </div>
  );
}

function toggled(set: ReadonlySet<string>, key: string): ReadonlySet<string> {
  const next = new Set(set);
  if (!next.delete(key)) next.add(key);
  return next;
}
