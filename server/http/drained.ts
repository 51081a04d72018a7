import type { Writable } from "node:stream";

interface Waiting {
  wait: Promise<void> | undefined;
  resolve: () => void;
}

const waiting = new WeakMap<Writable, Waiting>();

/**
 * Waits until a stream takes more, or is closed. All who wait for one stream, however often, wait by the same listeners,
 * which stay with it: an answer that is packed hands them on and knows nothing of taking them away.
 */
export function drained(stream: Writable): Promise<void> {
  if (stream.destroyed || stream.closed) return Promise.resolve();
  const known = waiting.get(stream) ?? heard(stream);
  known.wait ??= new Promise((resolve) => {
    known.resolve = resolve;
  });
  return known.wait;
}

function heard(stream: Writable): Waiting {
  const known: Waiting = { wait: undefined, resolve: () => {} };
  waiting.set(stream, known);
  for (const event of ["drain", "close", "error"])
    stream.on(event, () => {
      known.wait = undefined;
      known.resolve();
    });
  return known;
}
