import type { Writable } from "node:stream";

const waits = new WeakMap<Writable, Promise<void>>();

/**
 * Waits until a stream takes more, or is closed. All who wait for one stream wait by the same listeners, and none are
 * left behind, however often it is asked.
 */
export function drained(stream: Writable): Promise<void> {
  if (stream.destroyed || stream.closed) return Promise.resolve();
  const known = waits.get(stream);
  if (known) return known;
  const wait = new Promise<void>((resolve) => {
    const over = () => {
      stream.off("drain", over);
      stream.off("close", over);
      stream.off("error", over);
      waits.delete(stream);
      resolve();
    };
    stream.on("drain", over);
    stream.on("close", over);
    stream.on("error", over);
  });
  waits.set(stream, wait);
  return wait;
}
