import { setImmediate as turn } from "node:timers/promises";
import type { Response } from "express";
import { drained } from "../http/drained.ts";
import type { ReadingAnswer } from "../../core/reading/document.ts";

/** Values after which others get their turn. */
const valuesAtOnce = 50_000;

/**
 * Sends an answer line by line, as fast as it is taken: two million values as one text would hold up everybody else.
 */
export async function sendReading(response: Response, answer: ReadingAnswer): Promise<void> {
  const { lines, ...rest } = answer;
  response.type("application/json");
  response.write(`${JSON.stringify(rest).slice(0, -1)},"lines":[`);
  let values = 0;
  for (const [i, line] of lines.entries()) {
    if (response.destroyed) return;
    const text = JSON.stringify(line);
    if (!response.write(i === 0 ? text : `,${text}`)) await drained(response);
    values += line.values.length;
    if (values > valuesAtOnce) {
      values = 0;
      await turn();
    }
  }
  response.end("]}");
}
