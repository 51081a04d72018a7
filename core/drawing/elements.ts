import { bars, type Cells, heat, horizon, heights, lonely, middles, stacked, type Way } from "./geometry.ts";
import { type Drawn, inRows } from "./drawings.ts";
import type { ShapeName } from "./paths.ts";
import type { Place, PlotLine, PlotModel, Values } from "./model.ts";

/** A shape or a text with its style, as the chart library's custom series takes it. */
export type Element = ShapeElement | TextElement;

interface TextElement {
  readonly type: "text";
  readonly x: number;
  readonly y: number;
  readonly style: {
    readonly text: string;
    readonly fill: string;
    readonly font: string;
    readonly align: "left" | "center" | "right";
    readonly verticalAlign: "top" | "middle";
  };
  readonly z2: number;
  readonly silent: true;
}

interface ShapeElement {
  readonly type: ShapeName;
  readonly shape: object;
  readonly style: {
    readonly stroke?: string;
    readonly fill?: string;
    readonly lineWidth?: number;
    readonly opacity?: number;
    readonly lineDash?: readonly number[];
    readonly lineJoin?: "bevel";
  };
  readonly z2: number;
  readonly silent: true;
}

interface Colours {
  readonly hairline: string;
  readonly quiet: string;
  readonly paper: string;
  readonly act: string;
}

const faintOpacity = 0.3;
const raisedExtra = 1.2;

/** All that a model draws inside its plot, from the back to the front. */
export function elementsOf(model: PlotModel, place: Place, colours: Colours): readonly Element[] {
  const count = Math.max(0, ...model.lines.map(({ values }) => values.length));
  const x = middles(model, count, place);
  return [
    ...(inRows(model.drawn) ? [] : scale(model, place, colours)),
    ...belowPlot(model, place, colours),
    ...draw[model.drawn](model, place, x, colours),
  ];
}

type Draw = (model: PlotModel, place: Place, x: Float64Array, colours: Colours) => readonly Element[];

/** How each way of drawing is drawn. */
const draw: Readonly<Record<Drawn, Draw>> = {
  lines: (model, place, x) => {
    const anyRaised = model.lines.some(({ raised }) => raised);
    return [
      ...model.lines.flatMap((line) => usualOf(line, model, place, x, anyRaised)),
      ...model.lines.flatMap((line) => bandOf(line, model, place, x, anyRaised)),
      ...model.lines.flatMap((line) => strokeOf(line, model, place, x, anyRaised)),
    ];
  },
  stacked: (model, place, x, colours) =>
    stackOf(model).flatMap(({ line, base, top, faint }) => {
      const y = heights(top, model.axis, place);
      return [
        element(
          "nubrel-ribbon",
          { ribbon: { x, y, base: heights(base, model.axis, place) } },
          { fill: line.colour, opacity: faint ? 0.25 : 0.85 },
          3,
        ),
        element("nubrel-way", { way: { x, y } }, { stroke: colours.paper, lineWidth: 1, lineJoin: "bevel" }, 4),
      ];
    }),
  bars: (model, place) =>
    stackOf(model).map(({ line, base, top, faint }) =>
      cells(bars(base, top, model, place), line.colour, faint ? faintOpacity : 0.9),
    ),
  horizon: (model, place) =>
    model.lines.flatMap(({ values, colour }, row) =>
      horizon(values, row, model.lines.length, model, place).map((band, i) =>
        cells(band, colour, [0.3, 0.45, 0.75][i]),
      ),
    ),
  heat: (model, place, _, colours) =>
    heat(
      model.lines.map(({ values }) => values),
      model,
      place,
    ).map((level, i, all) => cells(level, colours.act, 0.12 + (0.88 * i) / (all.length - 1))),
};

function stackOf(
  model: PlotModel,
): readonly { readonly line: PlotLine; readonly base: Values; readonly top: Values; readonly faint: boolean }[] {
  const anyRaised = model.lines.some(({ raised }) => raised);
  return stacked(model.lines.map(({ values }) => values)).map(({ base, top }, i) => {
    const line = model.lines[i] as PlotLine;
    return { line, base, top, faint: (anyRaised && !line.raised) || line.dashed };
  });
}

/** What is usual: a light band with a dotted middle. */
function usualOf(
  { usual, colour, raised }: PlotLine,
  model: PlotModel,
  place: Place,
  x: Float64Array,
  anyRaised: boolean,
): readonly Element[] {
  if (!usual || (anyRaised && !raised)) return [];
  const [low, mid, high] = [usual.low, usual.mid, usual.high].map((values) => heights(values, model.axis, place));
  if (!low || !mid || !high) return [];
  return [
    element("nubrel-ribbon", { ribbon: { x, y: high, base: low } }, { fill: colour, opacity: 0.13 }, 2),
    element(
      "nubrel-way",
      { way: { x, y: mid } },
      { stroke: colour, lineWidth: 1, opacity: 0.6, lineJoin: "bevel", lineDash: [1, 3] },
      2,
    ),
  ];
}

/** What a step's mean hides: the band between its least and its most. */
function bandOf(
  { lows, highs, colour, raised, dashed }: PlotLine,
  model: PlotModel,
  place: Place,
  x: Float64Array,
  anyRaised: boolean,
): readonly Element[] {
  if (!lows || !highs || dashed || (anyRaised && !raised)) return [];
  return [
    element(
      "nubrel-ribbon",
      { ribbon: { x, y: heights(highs, model.axis, place), base: heights(lows, model.axis, place) } },
      { fill: colour, opacity: 0.16 },
      2,
    ),
  ];
}

function strokeOf(
  { values, colour, width, raised, dashed }: PlotLine,
  model: PlotModel,
  place: Place,
  x: Float64Array,
  anyRaised: boolean,
): readonly Element[] {
  const opacity = anyRaised && !raised ? faintOpacity : dashed ? 0.75 : 1;
  const way: Way = { x, y: heights(values, model.axis, place) };
  const dots = lonely(way);
  const z = raised ? 6 : dashed ? 4 : 5;
  const stroke = element(
    "nubrel-way",
    { way },
    {
      stroke: colour,
      lineWidth: raised ? width + raisedExtra : width,
      opacity,
      lineJoin: "bevel",
      ...(dashed && { lineDash: [5, 4] }),
    },
    z,
  );
  return dots.length === 0
    ? [stroke]
    : [stroke, element("nubrel-dots", { held: { at: dots, radius: 1.5 } }, { fill: colour, opacity }, z)];
}

const font = '11px "Atkinson Hyperlegible Mono Variable"';
/** Half the width of a character of the labels, px. */
const halfCharacter = 3.4;
/** What stands below a plot: ticks, then their labels. */
const tickLength = 5;

const label = (
  text: string,
  x: number,
  y: number,
  fill: string,
  align: TextElement["style"]["align"],
): TextElement => ({
  type: "text",
  x,
  y,
  style: { text, fill, font, align, verticalAlign: align === "center" ? "top" : "middle" },
  z2: 7,
  silent: true,
});

/** Hairlines at the ticks with their labels to the left; the unit stands at the highest. */
function scale(model: PlotModel, place: Place, colours: Colours): readonly Element[] {
  const { axis } = model;
  const y = (tick: number) => place.y + place.height - ((tick - axis.min) / (axis.max - axis.min)) * place.height;
  const last = axis.ticks.length - 1;
  return [
    gridLines(model, place, colours.hairline),
    ...axis.ticks.map((tick, i) =>
      label(
        `${axis.labels[i]}${i === last && axis.unit ? ` ${axis.unit}` : ""}`,
        place.x - 8,
        y(tick),
        colours.quiet,
        "right",
      ),
    ),
  ];
}

/**
 * The line below the plot with round moments; a label that would reach beyond the canvas is left out, its tick stays.
 */
function belowPlot(model: PlotModel, place: Place, colours: Colours): readonly Element[] {
  const ticks = model.ticks(Math.max(2, Math.floor(place.width / 90)));
  const bottom = Math.round(place.y + place.height);
  const x = (atMs: number) => place.x + ((atMs - model.fromMs) / (model.toMs - model.fromMs)) * place.width;
  const marks = ticks.flatMap(({ atMs }) => [Math.round(x(atMs)) - 0.5, bottom, 1, tickLength]);
  const fits = (atMs: number, text: string) =>
    place.x + place.width + place.edge - x(atMs) > text.length * halfCharacter;
  return [
    cells([place.x, bottom - 0.5, place.width, 1, ...marks], colours.quiet, 1, 1),
    ...ticks
      .filter(({ atMs, text }) => fits(atMs, text))
      .map(({ atMs, text }) => label(text, x(atMs), bottom + tickLength + 2, colours.quiet, "center")),
  ];
}

/** Hairlines at the ticks. */
function gridLines(model: PlotModel, place: Place, colour: string): Element {
  const lines = model.axis.ticks.flatMap((tick) => [
    place.x,
    Math.round(place.y + place.height - ((tick - model.axis.min) / (model.axis.max - model.axis.min)) * place.height) -
      0.5,
    place.width,
    1,
  ]);
  return cells(lines, colour, 1, 1);
}

const cells = (at: Cells, fill: string, opacity: number, z = 3): ShapeElement =>
  element("nubrel-cells", { held: { cells: at } }, { fill, opacity }, z);

function element(type: ShapeElement["type"], shape: object, style: ShapeElement["style"], z2: number): ShapeElement {
  return { type, shape, style: { ...(!style.stroke ? {} : { fill: "none" }), ...style }, z2, silent: true };
}
