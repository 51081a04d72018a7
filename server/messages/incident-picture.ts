import { join } from "node:path";
import { createCanvas, GlobalFonts, type SKRSContext2D } from "@napi-rs/canvas";
import type { Line, ReadingAnswer } from "../../core/reading/document.ts";
import type { IncidentView, RuleDocument } from "../../core/rules/rule.ts";
import { axisFor } from "../../core/units/axis.ts";
import { projectRoot } from "../project-root.ts";

const width = 640;
const height = 220;
const ratio = 2;
const plot = { left: 66, top: 14, right: 16, bottom: 28 } as const;
const colours = {
  paper: "#f7f4ed",
  ink: "#1d2a33",
  quiet: "#56626b",
  hairline: "#d9d3c5",
  line: "#17695e",
  other: "#9aa7a3",
  urgent: "#b3301b",
  notice: "#8a5a00",
} as const;
const figures = "11px 'Nubrel Mono'";
const ticks = 5;
let fontsRead = false;

/**
 * A chart of an incident's line with its limits and when it was raised, as PNG: mails show no drawings. `timeText`
 * writes a moment below the axis.
 */
export function incidentPicture(
  incident: IncidentView,
  document: RuleDocument,
  answer: ReadingAnswer,
  lines: readonly Line[],
  nowMs: number,
  timeText: (ms: number) => string,
): Buffer {
  readFonts();
  const canvas = createCanvas(width * ratio, height * ratio);
  const pen = canvas.getContext("2d");
  pen.scale(ratio, ratio);
  pen.fillStyle = colours.paper;
  pen.fillRect(0, 0, width, height);
  const limits =
    document.watch.kind === "value"
      ? (["notice", "urgent"] as const).flatMap((severity) =>
          [document[severity]?.low, document[severity]?.high].flatMap((at) =>
            at === undefined ? [] : [{ at, severity }],
          ),
        )
      : [];
  const unit = lines[0]?.unit ?? incident.unit;
  const known = lines.flatMap(({ min, max }) => [min, max]).filter((value) => value !== null);
  const axis = axisFor(
    unit,
    Math.min(0, ...known, ...limits.map(({ at }) => at)),
    Math.max(0, ...known, ...limits.map(({ at }) => at)),
  );
  const toMs = answer.from + answer.count * answer.stepMs;
  const x = (ms: number) => plot.left + ((ms - answer.from) / (toMs - answer.from)) * (width - plot.left - plot.right);
  const y = (value: number) =>
    height - plot.bottom - ((value - axis.min) / (axis.max - axis.min)) * (height - plot.top - plot.bottom);
  const colour = colours[incident.severity];

  pen.fillStyle = `${colour}22`;
  const raised = Math.max(plot.left, x(incident.raisedAtMs));
  pen.fillRect(
    raised,
    plot.top,
    Math.max(1, Math.min(width - plot.right, x(incident.clearedAtMs ?? nowMs)) - raised),
    height - plot.top - plot.bottom,
  );
  pen.font = figures;
  pen.textBaseline = "middle";
  axis.ticks.forEach((tick, i) => {
    rule(pen, [plot.left, y(tick)], [width - plot.right, y(tick)], colours.hairline);
    text(
      pen,
      `${axis.labels[i]}${i === axis.ticks.length - 1 ? ` ${axis.unit}` : ""}`,
      plot.left - 8,
      y(tick),
      "right",
    );
  });
  for (let i = 0; i <= ticks; i++) {
    const ms = answer.from + ((toMs - answer.from) * i) / ticks;
    text(pen, timeText(ms), x(ms), height - plot.bottom + 14, i === 0 ? "left" : i === ticks ? "right" : "center");
  }
  for (const { at, severity } of limits)
    rule(pen, [plot.left, y(at)], [width - plot.right, y(at)], colours[severity], [3, 3]);
  for (const line of [...lines].reverse())
    drawLine(pen, line, answer, x, y, line === lines[0] ? colours.line : colours.other);
  rule(pen, [raised, plot.top], [raised, height - plot.bottom], colour);
  return canvas.toBuffer("image/png");
}

function drawLine(
  pen: SKRSContext2D,
  { values }: Line,
  { from, stepMs }: ReadingAnswer,
  x: (ms: number) => number,
  y: (value: number) => number,
  colour: string,
): void {
  pen.strokeStyle = colour;
  pen.lineWidth = 1.6;
  pen.setLineDash([]);
  pen.beginPath();
  let isOpen = false;
  values.forEach((value, i) => {
    if (value === null)
      isOpen = false; // a gap is not drawn across
    else if (isOpen) pen.lineTo(x(from + (i + 0.5) * stepMs), y(value));
    else {
      pen.moveTo(x(from + (i + 0.5) * stepMs), y(value));
      isOpen = true;
    }
  });
  pen.stroke();
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

function text(pen: SKRSContext2D, words: string, x: number, y: number, align: "left" | "right" | "center"): void {
  pen.fillStyle = colours.quiet;
  pen.textAlign = align;
  pen.fillText(words, x, y);
}

function readFonts(): void {
  if (fontsRead) return;
  fontsRead = true;
  GlobalFonts.registerFromPath(
    join(
      projectRoot,
      "node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2",
    ),
    "Nubrel Mono",
  );
}
