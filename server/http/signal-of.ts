import type { Response } from "express";

/** Is raised when the one who asks has gone before the answer came: nobody waits for it any more. */
export function signalOf(response: Response): AbortSignal {
  const gone = new AbortController();
  response.on("close", () => gone.abort());
  return gone.signal;
}
