import type { Sentence } from "../../../core/reading/document.ts";
import { withoutIdle } from "../../../core/reading/idle.ts";
import { FigureError, parseFigure } from "../../../core/reading/figure.ts";
import type { OpenReading } from "./reading-address.ts";

/** Another counter in the place of one: machines stay, conditions on other tags may not exist there. */
export function sentenceOf(counter: string, { where, keep }: Sentence): Sentence {
  const machines = (where ?? []).filter(({ tag }) => tag === "machine");
  return { counter, ...(machines.length > 0 && { where: machines }), ...(keep && { keep }) };
}

/**
 * What can be asked while it is being said: without idle conditions, and without arithmetic that cannot be read yet.
 */
export function askedReading(reading: OpenReading): OpenReading {
  const { figure, unit, ...rest } = withoutIdle(reading);
  const works = figure !== undefined && figureFault(figure, Object.keys(reading.sentences)) === undefined;
  return { ...rest, ...(works && { figure }), ...(works && unit !== undefined && { unit }) };
}

/** What is wrong with arithmetic; undefined where nothing is, or nothing has been typed. */
export function figureFault(figure: string, names: readonly string[]): FigureError | undefined {
  if (figure.trim() === "") return undefined;
  try {
    parseFigure(figure, names);
    return undefined;
  } catch (error) {
    if (error instanceof FigureError) return error;
    throw error;
  }
}
