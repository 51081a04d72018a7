import compression from "compression";
import type { RequestHandler } from "express";

/** Less than this is sent as it is: it fits into a packet. */
const leastBytes = 1024;

/**
 * Packs answers of more than a kilobyte for who takes them packed. What is told piece by piece (the live stream, and
 * progress) goes out as it comes.
 */
export const packed: RequestHandler = compression({
  threshold: leastBytes,
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
