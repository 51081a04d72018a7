import type { SourceView } from "../../../../core/api/sources.ts";
import type { Source } from "../../../../core/sources/source.ts";
import { type Device, kindOf } from "../../../../core/sources/kinds/device-kinds.ts";
import { sends } from "../../../../core/sources/kinds/source-kinds.ts";
import type { Mode } from "../../../../core/rules/rule.ts";
import { presentSpan } from "../../../../core/units/present.ts";
import { mostOffMs } from "../../../../core/sources/source-clock.ts";
import { pauseWords } from "./pause-words.ts";

/** A state as a signal of the same grammar as rules: what is not heard is blind. */
export function signalOf({ state, failure }: Pick<SourceView, "state" | "failure">): Mode {
  if (state === "silent") return "blind";
  return state === "late" || failure ? "building" : "quiet";
}

/** How a source stands, in words. */
export function stateWords(source: SourceView, nowMs: number): string {
  const ago = source.heardMs === null ? undefined : presentSpan(Math.max(0, nowMs - source.heardMs));
  switch (source.state) {
    case "paused":
      return source.pause ? pauseWords(source.pause, nowMs) : "paused";
    case "waiting":
      return sends(source) ? "waits to be heard for the first time" : "waits for its first answer";
    case "silent":
      return ago ? `silent for ${ago}` : "never heard";
    case "late":
      return `late, heard ${ago} ago`;
    case "reporting":
      return source.failure ? "reporting; the last try failed" : "reporting";
  }
}

/** How a source's clock stands to the server's, and how late its samples come; undefined where it sends no times. */
export function clockWords({
  clockBehindMs,
  measuredLateMs,
  lateMs,
}: Pick<SourceView, "clockBehindMs" | "measuredLateMs" | "lateMs">):
  | { readonly words: string; readonly isOff: boolean }
  | undefined {
  if (clockBehindMs === null) return undefined;
  const isOff = Math.abs(clockBehindMs) > mostOffMs;
  const off =
    Math.abs(clockBehindMs) < 1000
      ? "right within a second"
      : `${presentSpan(Math.abs(clockBehindMs))} ${clockBehindMs > 0 ? "behind" : "ahead of"} this server's`;
  const waited = lateMs ?? measuredLateMs;
  return { words: `${off}${waited >= 1000 ? `; rules wait ${presentSpan(waited)} for what it sends` : ""}`, isOff };
}

/** "7 left out: 5 left by a rule, 2 no number (NaN)"; undefined where nothing was. */
export function leftOutWords(leftOut: Readonly<Record<string, number>>): string | undefined {
  const reasons = Object.entries(leftOut);
  if (reasons.length === 0) return undefined;
  const sum = reasons.reduce((all, [, n]) => all + n, 0);
  return `${sum.toLocaleString("en")} left out: ${reasons.map(([reason, n]) => (reasons.length === 1 ? reason : `${n.toLocaleString("en")} ${reason}`)).join(", ")}`;
}

/** Where a device is asked, as it would be said. */
export function deviceText(device: Device): string {
  return kindOf(device).text(device);
}

/** Where a source is asked, as it would be typed. */
export function addressText({ scheme, host, port, path }: NonNullable<Source["address"]>): string {
  return `${scheme}://${host.includes(":") ? `[${host}]` : host}:${port}${path}`;
}

const soonMs = 14 * 86_400_000;

/** Whether the certificate that a source shows ends within a fortnight. */
export function isEndingSoon({ certificateUntilMs }: Pick<SourceView, "certificateUntilMs">, nowMs: number): boolean {
  return certificateUntilMs !== null && certificateUntilMs - nowMs < soonMs;
}
