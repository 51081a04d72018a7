import compression from "compression";
import { constants } from "node:zlib";
import type { RequestHandler } from "express";

/** Less than this is sent as it is: it fits into a packet. */
const leastBytes = 1024;
/**
 * Answers are packed while somebody waits, each once: the lowest quality takes a third of the time of the usual one and
 * four per cent more bytes. What is built is packed with the highest, beforehand.
 */
const brotli = { params: { [constants.BROTLI_PARAM_QUALITY]: 1, [constants.BROTLI_PARAM_LGWIN]: 16 } };
const gzipLevel = 1;

/**
 * Packs answers of more than a kilobyte for who takes them packed. What is told piece by piece (the live stream, and
 * progress) goes out as it comes.
 */
export const packed: RequestHandler = compression({
  threshold: leastBytes,
  level: gzipLevel,
  brotli,
  filter: (request, response) => {
    const type = String(response.getHeader("Content-Type"));
    if (response.getHeader("X-Accel-Buffering") === "no" || type.startsWith("text/event-stream")) return false;
    return type.startsWith("application/x-ndjson") || compression.filter(request, response);
  },
});

/** Sends on what was written and waits to be packed with more. */
export function sendOn(response: object): void {
  (response as { flush?: () => void }).flush?.();
}
