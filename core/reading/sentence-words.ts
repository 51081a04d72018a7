import type { OfEvery } from "../series/of-every.ts";
import { boundTag } from "./buckets.ts";
import type { Combine, Condition, Lines, ReadingDocument, Sentence } from "./document.ts";
import { spanMs } from "./step.ts";

/** The words of everything that a sentence can say, and whole sentences made of them. */
export const ofEveryWords: Readonly<Record<OfEvery, string>> = {
  mean: "mean",
  min: "lowest",
  max: "highest",
  sum: "sum",
  last: "last",
  first: "first",
  count: "count",
  p50: "median",
  p90: "90th percentile",
  p95: "95th percentile",
  p99: "99th percentile",
  deviation: "standard deviation",
};

export const combineWords: Readonly<Record<Combine, string>> = {
  sum: "added up",
  mean: "by their mean",
  min: "by their lowest",
  max: "by their highest",
  p95: "by their 95th percentile",
  count: "counted",
};

export const keptByWords = { max: "highest value", mean: "mean", last: "last value" } as const;

/** Earlier times that are often wanted, beside what is shown. */
export const earlierTimes = ["1h", "1d", "7d", "14d", "28d", "91d", "364d"] as const;

export function earlierWords(span: string): string {
  const ms = spanMs(span);
  if (ms === undefined) return span;
  const [n, unit] =
    ms % 604_800_000 === 0 && ms < 364 * 86_400_000
      ? [ms / 604_800_000, "week"]
      : ms === 364 * 86_400_000
        ? [52, "week"]
        : ms % 86_400_000 === 0
          ? [ms / 86_400_000, "day"]
          : ms % 3_600_000 === 0
            ? [ms / 3_600_000, "hour"]
            : ms % 60_000 === 0
              ? [ms / 60_000, "minute"]
              : [ms / 1000, "second"];
  if (n === 1) return `${unit === "hour" ? "an" : "a"} ${unit} earlier`;
  return `${n} ${unit}s earlier`;
}

/** "vault and hive", "every machine", "every machine but vault". */
export function machineWords(where: readonly Condition[] = []): string {
  const said = where.filter(({ tag }) => tag === "machine");
  if (said.length === 0) return "every machine";
  return said
    .map((one) =>
      one.is
        ? listed(one.is, "or")
        : one.not
          ? `every machine but ${listed(one.not, "and")}`
          : `machines like ${one.like || "nothing"}`,
    )
    .join(" and ");
}

/** "direction is receive or transmit". */
export function conditionWords({ tag, is, not, like }: Condition): string {
  const parts = [
    is && `${tag} is ${listed(is, "or")}`,
    not && `${tag} is not ${listed(not, "or")}`,
    like !== undefined && `${tag} is like ${like || "nothing"}`,
  ].filter(Boolean);
  return parts.join(" and ");
}

export function linesWords(lines: Lines = "each"): string {
  if (lines === "each") return "one line each";
  return lines === "together" ? "all in one line" : `one line per ${listed(lines.per.map(tagWords), "and")}`;
}

/** The bounds of a distribution's buckets stand under a tag that nobody would guess. */
const tagWords = (tag: string): string => (tag === boundTag ? "bucket" : tag);

export function keepWords(keep: Sentence["keep"]): string {
  if (!keep) return "all lines";
  const n = keep.highest ?? keep.lowest ?? 0;
  const end = keep.highest === undefined ? "lowest" : "highest";
  return `the ${n === 1 ? "" : `${n} `}${end} by ${keptByWords[keep.by ?? "mean"]}${keep.rest ? ", the rest as one" : ""}`;
}

export function stepWords(seconds: number): string {
  if (seconds % 86_400 === 0) return seconds === 86_400 ? "day" : `${seconds / 86_400} days`;
  return seconds % 3600 === 0 ? `${seconds / 3600} h` : seconds % 60 === 0 ? `${seconds / 60} min` : `${seconds} s`;
}

export interface SentenceContext {
  /** The counter's name in plain words. */
  readonly words: string;
  /** How its values are presented, "bits per second" say; left out where empty. */
  readonly presented?: string;
  readonly stepSeconds?: number;
}

/** A sentence as a person would say it, from "Show" to its end, without a full stop. */
export function sentenceText(sentence: Sentence, { words, presented, stepSeconds }: SentenceContext): string {
  const others = (sentence.where ?? []).filter(({ tag }) => tag !== "machine");
  const where = others.length === 0 ? "" : ` where ${others.map(conditionWords).join(" and ")}`;
  const joined =
    sentence.lines === undefined || sentence.lines === "each" || sentence.combine === undefined
      ? ""
      : ` ${combineWords[sentence.combine]}`;
  const parts = [
    `Show ${words} of ${machineWords(sentence.where)}${where}${presented ? ` as ${presented}` : ""}`,
    `${ofEveryWords[sentence.of_every ?? "mean"]} of every ${stepSeconds === undefined ? "step" : stepWords(stepSeconds)}`,
    `${linesWords(sentence.lines)}${joined}`,
    ...(sentence.keep ? [keepWords(sentence.keep)] : []),
    ...(sentence.earlier ? [earlierWords(sentence.earlier)] : []),
  ];
  return parts.join(", ");
}

/** A whole document in words: each sentence, the arithmetic between them, and what stands beside it. */
export function readingText(
  reading: Omit<ReadingDocument, "window">,
  contextOf: (sentence: Sentence) => SentenceContext,
): string {
  const all = Object.entries(reading.sentences);
  const named = all.length > 1 || reading.figure !== undefined;
  const lines = all.map(
    ([name, sentence]) => `${named ? `${name}: ` : ""}${sentenceText(sentence, contextOf(sentence))}`,
  );
  if (reading.figure !== undefined)
    lines.push(`drawn is ${reading.figure}${reading.unit ? `, in ${reading.unit}` : ""}`);
  if (reading.beside !== undefined) lines.push(`beside ${earlierWords(reading.beside)}`);
  return lines.join("; ");
}

function listed(values: readonly string[], word: "or" | "and"): string {
  const shown = values.map((value) => (value === "" ? "nothing" : value));
  return shown.length < 2
    ? (shown[0] ?? "nothing")
    : `${shown.slice(0, -1).join(", ")} ${word} ${shown[shown.length - 1]}`;
}
