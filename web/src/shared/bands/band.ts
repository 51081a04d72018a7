import type { Condition, Line, Sentence } from "../../../../core/reading/document.ts";
import type { OpenReading } from "../../sentence/reading-address.ts";

/** One way in which a band draws its subject. */
interface BandView {
  readonly id: string;
  /** What is drawn, as the sentence begins. */
  readonly shows: string;
  /** How it is split into lines, as the sentence ends; also the choice's name. */
  readonly split: string;
  readonly unit: string;
  /** A counter without which the view is not offered. */
  readonly needs?: string;
  readonly reading: (machine: string) => OpenReading;
  readonly nameOf: (line: Line) => string;
  readonly order?: readonly string[];
  readonly stacked?: boolean;
  /** Names of lines drawn in the colour of hairlines. */
  readonly plain?: readonly string[];
  readonly ceiling?: number;
}

/** The one figure of a band: big beside the chart, and what a rule is made of. */
interface BandFigure {
  readonly words: string;
  /** How it is made, in a sentence. */
  readonly explains?: string;
  readonly unit: string;
  readonly reading: (machine: string) => OpenReading;
  /** The limit that the form begins with, in the unit's own size. */
  readonly commonLimit: number;
  /** What stands in its place where a machine does not tell of it. */
  readonly instead?: BandFigure;
}

/** The highest of something by their mean over the window, as bars from the same zero. */
export interface TopList {
  readonly title: string;
  readonly unit: string;
  readonly reading: (machine: string) => OpenReading;
  readonly nameOf: (line: Line) => string;
  /** Where a row leads. */
  readonly pathOf?: (line: Line) => string;
  /** What bars end at; the longest where nothing is said. */
  readonly most?: number;
}

export interface Band {
  readonly id: string;
  readonly title: string;
  /** A machine has the band where it reports one of these. */
  readonly counters: readonly string[];
  readonly views: readonly [BandView, ...BandView[]];
  readonly figure: BandFigure;
  /** What uses most of it, in lists beside the chart. */
  readonly top?: TopList;
  /** The mean of the last hour stands beside the device's own. */
  readonly checksMean?: true;
}

export const of = (machine: string, ...more: readonly Condition[]): readonly Condition[] => [
  { tag: "machine", is: [machine] },
  ...more,
];
export const tag = (name: string) => (line: Line) => line.tags[name] ?? line.of;
export const tags =
  (...names: readonly string[]) =>
  (line: Line) =>
    names
      .map((name) => line.tags[name] ?? "")
      .filter(Boolean)
      .join(" ");
const directions: Readonly<Record<string, string>> = {
  receive: "received",
  transmit: "sent",
  read: "read",
  write: "written",
  in: "in",
  out: "out",
};
export const withDirection = (name: string) => (line: Line) =>
  `${line.tags[name] ?? ""} ${directions[line.tags["direction"] ?? ""] ?? ""}`.trim();

export const one = (counter: string, machine: string, sentence: Partial<Sentence> = {}): OpenReading => ({
  sentences: { value: { counter, where: of(machine), ...sentence } },
});
export const scaled = (
  counter: string,
  machine: string,
  figure: string,
  unit: string,
  sentence: Partial<Sentence> = {},
): OpenReading => ({ ...one(counter, machine, sentence), figure, unit });

/** A machine's reading for all of them at once: the condition on the machine is taken out, lines stay one a machine. */
export function ofAllMachines(reading: OpenReading): OpenReading {
  const sentences = Object.entries(reading.sentences).map(([name, sentence]) => [
    name,
    { ...sentence, where: (sentence.where ?? []).filter(({ tag }) => tag !== "machine") },
  ]);
  return { ...reading, sentences: Object.fromEntries(sentences) };
}
