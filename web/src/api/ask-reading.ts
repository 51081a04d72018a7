import * as routes from "../../../core/api/readings.ts";
import type { ReadingAnswer, ReadingDocument } from "../../../core/reading/document.ts";
import { call, callLines, noAnswer, problemError, RequestFailed } from "./client.ts";

interface Waiting {
  readonly document: ReadingDocument;
  readonly signal: AbortSignal;
  readonly done: (answer: ReadingAnswer) => void;
  readonly fail: (error: unknown) => void;
}

/** One request carries this many; the server answers them in the order in which they are ready. */
const mostTogether = 60;
let waiting: Waiting[] = [];

/**
 * Asks for a reading. Those that a page asks for in the same moment go in one request; each is answered as soon as it
 * is ready.
 */
export function askReading(document: ReadingDocument, signal: AbortSignal): Promise<ReadingAnswer> {
  return new Promise((done, fail) => {
    if (waiting.length === 0) queueMicrotask(send);
    waiting.push({ document, signal, done, fail });
  });
}

function send(): void {
  const all = waiting.filter(({ signal, fail }) => {
    if (signal.aborted) fail(signal.reason); // given up in the same moment in which it was asked for
    return !signal.aborted;
  });
  waiting = [];
  for (let at = 0; at < all.length; at += mostTogether) {
    const some = all.slice(at, at + mostTogether);
    const [only] = some;
    if (some.length === 1 && only)
      call(routes.askReading, {}, only.document, { signal: only.signal }).then(only.done, only.fail);
    else void sendTogether(some);
  }
}

/** The request is given up when nobody waits for any of its answers any more. */
async function sendTogether(all: readonly Waiting[]): Promise<void> {
  const gone = new AbortController();
  const open = new Set(all);
  const leave = (one: Waiting) => {
    open.delete(one);
    one.fail(one.signal.reason);
    if (open.size === 0) gone.abort();
  };
  for (const one of all) one.signal.addEventListener("abort", () => leave(one), { once: true });
  const failAll = (error: unknown) => {
    for (const one of open) one.fail(error);
    open.clear();
  };
  try {
    for await (const { index, answer, problem } of callLines(
      routes.askReadings,
      { readings: all.map(({ document }) => document) },
      gone.signal,
    )) {
      const one = all[index];
      if (!one || !open.delete(one)) continue;
      if (answer) one.done(answer);
      else one.fail(problemError(problem?.status ?? noAnswer, problem));
    }
    failAll(new RequestFailed(noAnswer, "The server's answer broke off. What is stored is safe; it is asked again."));
  } catch (error) {
    failAll(
      gone.signal.aborted || error instanceof RequestFailed
        ? error
        : new RequestFailed(
            noAnswer,
            "Nubrel's server does not answer. What is stored is safe; this page goes on by itself when the server is back.",
          ),
    );
  }
}
