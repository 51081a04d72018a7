import type { Writable } from "node:stream";

/** Waits until a stream takes more, or is closed. It leaves no listeners behind, however often it is asked. */
export function drained(stream: Writable): Promise<void> {
  if (stream.destroyed || stream.closed) return Promise.resolve();
  return new Promise((resolve) => {
    const over = () => {
      stream.off("drain", over);
      stream.off("close", over);
      stream.off("error", over);
      resolve();
    };
    stream.on("drain", over);
    stream.on("close", over);
    stream.on("error", over);
  });
}
