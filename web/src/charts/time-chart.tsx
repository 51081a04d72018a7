import { type ReactNode, useCallback, useMemo, useRef, useState } from "react";
import type { MachineEvent } from "../../../core/events/machine-event.ts";
import { bucketsApart } from "../../../core/reading/buckets.ts";
import type { Line, ReadingAnswer } from "../../../core/reading/document.ts";
import { present, scaleFor } from "../../../core/units/present.ts";
import { useMachineColours } from "../api/use-machine-colours.ts";
import { useTheme } from "../ui/theme.ts";
import { useIsPhone } from "../ui/use-is-phone.ts";
import { spanText, timeTicks } from "../time/moments.ts";
import type { Span } from "../time/time-window.ts";
import { saveFile } from "../ui/save-file.ts";
import { chartCsv } from "./chart-csv.ts";
import { axisOfLines, type ChartLine, chartLines } from "./chart-lines.ts";
import { type Action, ActionsMenu } from "../ui/actions-menu.tsx";
import { chartPicture, pictureRatio } from "./chart-picture.ts";
import { DirectLabels } from "./direct-labels.tsx";
import { type Drawn, inRows, onOneAnother } from "../../../core/drawing/drawings.ts";
import type { PlotLine, PlotModel } from "../../../core/drawing/model.ts";
import { LineFigures } from "./line-figures.tsx";
import { type LineStyle, lineStyles, useLineStyles, defaultWidth } from "./line-styles.ts";
import { LineTable } from "./line-table.tsx";
import { pageColours, palette } from "../../../core/drawing/palette.ts";
import { plotInset } from "./plot.ts";
import type { NoteMark } from "./plot-events.tsx";
import { type Limit, type Mark, PlotOverlay } from "./plot-overlay.tsx";
import { usePlot } from "./use-plot.ts";

export interface TimeChartProps {
  readonly title: string;
  readonly answer: ReadingAnswer | undefined;
  readonly span: Span;
  readonly unit: string;
  readonly nameOf: (line: Line) => string;
  readonly order?: readonly string[];
  readonly drawn?: Drawn;
  /** Names of lines that are drawn in the colour of hairlines: what is left over. */
  readonly plain?: readonly string[];
  readonly ceiling?: number | undefined;
  readonly limits?: readonly Limit[];
  readonly marks?: readonly Mark[];
  readonly events?: readonly MachineEvent[];
  /** What stands beside the words that open its figures and what else can be done. */
  readonly beside?: ReactNode;
  /** What else can be done with what is drawn; it comes before what the chart does by itself. */
  readonly actions?: readonly Action[];
  /** Called when a note is to be made of a span; nothing can be noted without it. */
  readonly onNote?: ((span: Span) => void) | undefined;
  /** How the notes among the events are marked; they look like other events without it. */
  readonly noteMark?: NoteMark | undefined;
  /** What stands between the plot and its figures. */
  readonly children?: ReactNode;
  /** Of what is counted into buckets, where a heat map shows some. */
  readonly boundUnit?: string | undefined;
  /** Called while a limit is moved; they stay where they are without it. */
  readonly onLimit?: (key: string, value: number) => void;
  /** Of the plot, px. */
  readonly height?: number;
  /** How much room names have beside the plot. */
  readonly labels?: "narrow" | "wide" | "none";
}

const noNames: readonly string[] = [];
const noActions: readonly Action[] = [];
const columns = {
  narrow: "grid-cols-[minmax(0,1fr)] sm:grid-cols-[minmax(0,1fr)_9.5rem]",
  wide: "grid-cols-[minmax(0,1fr)] sm:grid-cols-[minmax(0,1fr)_14rem]",
  none: "grid-cols-1",
} as const;

type StyledLine = ChartLine & { readonly style: LineStyle };

/** A line as it is plotted. */
function plotLine({ key, line, style }: StyledLine, colour: string): PlotLine {
  const { values, lows, highs, usual, earlier } = line;
  return {
    ...{ key, values, lows, highs, usual, colour },
    width: style.width ?? defaultWidth,
    raised: style.raised ?? false,
    dashed: earlier !== undefined,
  };
}

/**
 * Lines, a stack, bars or a heat map over time, with direct labels, hair, limits, marks, events and figures. It keeps
 * what it shows while newer data comes.
 */
export function TimeChart({
  title,
  answer,
  span,
  unit,
  nameOf,
  order,
  beside,
  drawn = "lines",
  plain = noNames,
  ceiling,
  limits = [],
  marks = [],
  events = [],
  actions = noActions,
  onNote,
  noteMark,
  children,
  boundUnit = "1",
  onLimit,
  height = 116,
  labels: room = "narrow",
}: TimeChartProps): ReactNode {
  const theme = useTheme();
  const isPhone = useIsPhone();
  const canvas = useRef<HTMLDivElement>(null);
  const styleOf = useLineStyles(title);
  const [figuresShown, setFiguresShown] = useState(false);
  const machineColours = useMachineColours();
  const all = useMemo(
    () =>
      drawn === "heat"
        ? heatRows(answer?.lines ?? [], nameOf, boundUnit)
        : chartLines(answer?.lines ?? [], nameOf, order, machineColours),
    [answer, nameOf, order, machineColours, drawn, boundUnit],
  );
  const styled = useMemo(
    () =>
      all.map((line) => ({
        ...line,
        style: styleOf(line.name),
        colourIndex: styleOf(line.name).colour ?? line.colourIndex,
      })),
    [all, styleOf],
  );
  const lines = useMemo(() => styled.filter(({ style }) => !style.hidden), [styled]);
  const limitValues = limits.map((limit) => limit.value).join(" ");
  const onTop = onOneAnother(drawn);
  const axis = useMemo(
    () => axisOfLines(lines, onTop, unit, limitValues === "" ? [] : limitValues.split(" ").map(Number), ceiling),
    [lines, onTop, unit, limitValues, ceiling],
  );
  const colourOf = useCallback(
    (line: ChartLine) =>
      plain.includes(line.name)
        ? pageColours[theme].hairline
        : drawn === "heat"
          ? pageColours[theme].act
          : (palette[theme][line.colourIndex % palette[theme].length] as string),
    [plain, theme, drawn],
  );
  const firstMs = answer?.from ?? span.fromMs;
  const stepMs = answer?.stepMs ?? 1000;
  const edges = answer?.edges;
  const model = useMemo(
    (): PlotModel => ({
      ...span,
      ticks: (most) => timeTicks(span.fromMs, span.toMs, most),
      firstMs,
      stepMs,
      edges,
      axis,
      drawn,
      theme,
      lines: lines.map((line) => plotLine(line, colourOf(line))),
    }),
    [span, firstMs, stepMs, edges, axis, drawn, theme, lines, colourOf],
  );
  const plot = usePlot(canvas, answer && model);

  const scale = scaleFor(unit, Math.max(Math.abs(axis.max), Math.abs(axis.min)));
  const raised = new Set(styled.flatMap(({ key, style }) => (style.raised ? [key] : [])));
  const empty = answer !== undefined && !all.some(({ line }) => line.values.some((value) => value !== null));
  const raise = (name: string) => lineStyles.set(title, name, { raised: !styleOf(name).raised });
  const savePicture = () => {
    const chart = plot.current?.canvas(pictureRatio);
    const { day, from, to } = spanText(span.fromMs, span.toMs);
    const labels = lines.map((line) => ({
      name: line.name,
      colour: colourOf(line),
      value: valueText(line.line.last, unit),
    }));
    if (chart)
      chartPicture({ title, below: `${day} ${from} to ${to}`, chart, labels, colours: pageColours[theme] }).toBlob(
        (picture) => picture && saveFile(`${title}.png`, picture),
      );
  };
  const menu = [
    ...actions,
    { words: "Save as picture", run: savePicture },
    {
      words: "Save numbers (CSV)",
      run: () => answer && saveFile(`${title}.csv`, new Blob([chartCsv(answer, all)], { type: "text/csv" })),
    },
    ...(onNote ? [{ words: "Note a moment …", run: () => onNote({ fromMs: span.toMs, toMs: span.toMs }) }] : []),
  ];
  return (
    <div data-chart={title}>
      <div className={`grid ${columns[room]}`}>
        <div className="relative" style={{ height: height + plotInset.top + plotInset.bottom }}>
          <div ref={canvas} aria-hidden="true" className="absolute inset-0" />
          <div className="absolute" style={plotInset}>
            <PlotOverlay
              span={span}
              height={height}
              marks={marks}
              limits={inRows(drawn) ? [] : limits}
              events={events}
              placeOf={(value) => 1 - (value - axis.min) / (axis.max - axis.min)}
              onNote={onNote}
              noteMark={noteMark}
              onLimit={onLimit}
            />
            {answer === undefined && <p className="absolute inset-x-0 top-1/3 text-center text-quiet">reading …</p>}
            {empty && (
              <p className="pointer-events-none absolute inset-x-0 top-1/3 text-center text-quiet">
                nothing was gathered in this window
              </p>
            )}
          </div>
        </div>
        {room !== "none" && (
          <div className="sm:pl-2" style={{ paddingTop: plotInset.top }}>
            {isPhone ? (
              <LabelsBelow lines={lines} colourOf={colourOf} unit={unit} />
            ) : (
              <DirectLabels
                {...{ lines, colourOf, firstMs, stepMs, edges, axis, drawn, height, raised, limits }}
                scale={scale.factor}
                onRaise={(line) => raise(line.name)}
              />
            )}
            <p className="not-in-print mt-1 flex gap-2 whitespace-nowrap sm:mt-4 sm:ml-2 leading-4">
              <button
                type="button"
                className="word-link text-[12px] leading-4"
                aria-expanded={figuresShown}
                aria-label={`figures of ${title}`}
                onClick={() => setFiguresShown(!figuresShown)}
              >
                figures
              </button>
              {beside}
              <ActionsMenu about={title} actions={menu} />
            </p>
          </div>
        )}
      </div>
      {children}
      {figuresShown ? (
        <LineFigures
          caption={title}
          chart={title}
          lines={styled}
          colourOf={colourOf}
          scale={scale.factor}
          unit={scale.unit}
        />
      ) : (
        <LineTable caption={title} lines={all} scale={scale.factor} unit={scale.unit} />
      )}
    </div>
  );
}

/** A row a bucket, from the lowest up, where the lines are buckets of a distribution; a row a line otherwise. */
function heatRows(lines: readonly Line[], nameOf: (line: Line) => string, boundUnit: string): readonly ChartLine[] {
  const buckets = bucketsApart(lines);
  if (buckets.length === 0) return [...chartLines(lines, nameOf)].reverse();
  return buckets.map(({ bound, line, values }, i) => ({
    key: `bucket ${line.of} ${JSON.stringify(line.tags)}`,
    name: Number.isFinite(bound) ? `up to ${valueText(bound, boundUnit)}` : "beyond",
    line: { ...line, values },
    colourIndex: i,
  }));
}

/** So many lines are named under a chart; the figures have all of them. */
const mostBelow = 8;

/** On a phone the lines' names and values stand under the chart, which has the width. */
function LabelsBelow({
  lines,
  colourOf,
  unit,
}: {
  lines: readonly ChartLine[];
  colourOf: (line: ChartLine) => string;
  unit: string;
}): ReactNode {
  return (
    <ul aria-hidden="true" className="flex flex-wrap gap-x-3.5 pl-2 text-[12.5px] leading-5">
      {lines.slice(0, mostBelow).map((line) => (
        <li key={line.key} className="flex max-w-full min-w-0 items-baseline gap-1">
          <span className="inline-block h-2 w-2 shrink-0" style={{ background: colourOf(line) }} />
          <span className="truncate">{line.name}</span>
          <span className="figure whitespace-nowrap">{valueText(line.line.last, unit)}</span>
        </li>
      ))}
      {lines.length > mostBelow && <li className="text-quiet">and {lines.length - mostBelow} more</li>}
    </ul>
  );
}

function valueText(value: number | null, unit: string): string {
  const shown = present(value, unit);
  return `${shown.text}${shown.unit ? ` ${shown.unit}` : ""}`;
}
