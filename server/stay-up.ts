import type { Logger } from "pino";

/**
 * Keeps the process when a promise's failure is handled by nobody, or a listener throws: samples wait in its memory,
 * and other work of it is sound. Each is
 * told in the log, and so on the page of the log; the answer ends that again.
 */
export function stayUp(
  log: Pick<Logger, "error">,
  process: Pick<NodeJS.Process, "on" | "off"> = globalThis.process,
): () => void {
  const rejected = (reason: unknown) =>
    log.error({ err: asError(reason) }, "a failure that nobody waited for; the server goes on");
  const thrown = (error: unknown) =>
    log.error({ err: asError(error) }, "a failure in a listener or a stream; the server goes on");
  process.on("unhandledRejection", rejected);
  process.on("uncaughtException", thrown);
  return () => {
    process.off("unhandledRejection", rejected);
    process.off("uncaughtException", thrown);
  };
}

const asError = (reason: unknown): Error => (reason instanceof Error ? reason : new Error(String(reason)));
