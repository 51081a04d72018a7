import { join } from "node:path";
import { createCanvas, GlobalFonts, type SKRSContext2D } from "@napi-rs/canvas";
import { DateTime } from "luxon";
import { elementsOf } from "../../core/drawing/elements.ts";
import type { Place, PlotModel } from "../../core/drawing/model.ts";
import { pageColours, palette } from "../../core/drawing/palette.ts";
import type { Line, ReadingAnswer } from "../../core/reading/document.ts";
import type { IncidentView, RuleDocument } from "../../core/rules/rule.ts";
import { axisFor } from "../../core/units/axis.ts";
import { projectRoot } from "../project-root.ts";
import { paint } from "./paint.ts";

const width = 640;
const height = 220;
const ratio = 2;
const plot: Place = { x: 66, y: 14, width: width - 66 - 16, height: height - 14 - 28, edge: 16 };
const colours = pageColours.day;
const lineWidth = 1.5;
let fontsRead = false;

/**
 * A chart of an incident's line with its limits and when it was raised, as PNG: mails show no drawings. It is drawn of
 * the same shapes as a chart on screen, by day. Moments below the axis are of the zone's clock.
 */
export function incidentPicture(
  incident: IncidentView,
  document: RuleDocument,
  answer: ReadingAnswer,
  lines: readonly Line[],
  { nowMs, zone }: { readonly nowMs: number; readonly zone: string },
): Buffer {
  readFonts();
  const canvas = createCanvas(width * ratio, height * ratio);
  const pen = canvas.getContext("2d");
  pen.scale(ratio, ratio);
  pen.fillStyle = colours.paper;
  pen.fillRect(0, 0, width, height);
  const limits = limitsOf(document);
  const model = modelOf(incident, answer, lines, limits, zone);
  const x = (ms: number) => plot.x + ((ms - model.fromMs) / (model.toMs - model.fromMs)) * plot.width;
  const raisedX = Math.max(plot.x, x(incident.raisedAtMs));
  const colour = colours[incident.severity];
  pen.fillStyle = `${colour}22`;
  const untilX = Math.min(plot.x + plot.width, x(incident.clearedAtMs ?? nowMs));
  pen.fillRect(raisedX, plot.y, Math.max(1, untilX - raisedX), plot.height);
  paint(pen, elementsOf(model, plot, colours));
  for (const { at, severity } of limits) {
    const y = plot.y + plot.height - ((at - model.axis.min) / (model.axis.max - model.axis.min)) * plot.height;
    rule(pen, [plot.x, y], [plot.x + plot.width, y], colours[severity], [3, 3]);
  }
  rule(pen, [raisedX, plot.y], [raisedX, plot.y + plot.height], colour);
  return canvas.toBuffer("image/png");
}

interface Limit {
  readonly at: number;
  readonly severity: "notice" | "urgent";
}

function limitsOf(document: RuleDocument): readonly Limit[] {
  if (document.watch.kind !== "value") return [];
  return (["notice", "urgent"] as const).flatMap((severity) =>
    [document[severity]?.low, document[severity]?.high].flatMap((at) => (at === undefined ? [] : [{ at, severity }])),
  );
}

/** The lines, that of the incident first: it is raised, which lets the others stand back. */
function modelOf(
  incident: IncidentView,
  answer: ReadingAnswer,
  lines: readonly Line[],
  limits: readonly Limit[],
  zone: string,
): PlotModel {
  const known = [
    ...lines.flatMap(({ min, max }) => [min, max]).filter((value) => value !== null),
    ...limits.map(({ at }) => at),
  ];
  const [fromMs, toMs] = [answer.from, answer.from + answer.count * answer.stepMs];
  return {
    fromMs,
    toMs,
    firstMs: answer.from,
    stepMs: answer.stepMs,
    edges: answer.edges,
    axis: axisFor(lines[0]?.unit ?? incident.unit, Math.min(0, ...known), Math.max(0, ...known)),
    ticks: (most) => roundTicks(fromMs, toMs, most, zone),
    lines: lines.map((line, i) => ({
      key: `${i}`,
      values: line.values,
      colour: palette.day[i % palette.day.length] as string,
      width: lineWidth,
      raised: i === 0,
      dashed: false,
    })),
    drawn: "lines",
    theme: "day",
  };
}

const minuteMs = 60_000;
const roundStepsMs = [1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720, 1440, 2880, 10_080].map((n) => n * minuteMs);

/** Round moments of a zone's clock, `most` at most where there are so few. */
function roundTicks(fromMs: number, toMs: number, most: number, zone: string): ReturnType<PlotModel["ticks"]> {
  const step = roundStepsMs.find((one) => (toMs - fromMs) / one <= most) ?? (roundStepsMs.at(-1) as number);
  const offsetMs = DateTime.fromMillis(fromMs, { zone }).offset * minuteMs;
  const first = Math.ceil((fromMs + offsetMs) / step) * step - offsetMs;
  const form = toMs - fromMs > 1440 * minuteMs ? "MM-dd HH:mm" : "HH:mm";
  return Array.from({ length: Math.floor((toMs - first) / step) + 1 }, (_, i) => first + i * step).map((atMs) => ({
    atMs,
    text: DateTime.fromMillis(atMs, { zone }).toFormat(form),
  }));
}

function rule(
  pen: SKRSContext2D,
  [x1, y1]: readonly [x: number, y: number],
  [x2, y2]: readonly [x: number, y: number],
  colour: string,
  dash: number[] = [],
): void {
  pen.strokeStyle = colour;
  pen.lineWidth = 1;
  pen.setLineDash(dash);
  pen.beginPath();
  pen.moveTo(x1, y1);
  pen.lineTo(x2, y2);
  pen.stroke();
}

function readFonts(): void {
  if (fontsRead) return;
  fontsRead = true;
  GlobalFonts.registerFromPath(
    join(
      projectRoot,
      "node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2",
    ),
    "Atkinson Hyperlegible Mono Variable",
  );
}
