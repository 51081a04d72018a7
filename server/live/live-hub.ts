import type { Request, RequestHandler, Response } from "express";
import { Problem } from "../http/problem.ts";
import type { LiveEvent } from "../../core/api/live.ts";

const heartbeatMs = 10_000;
/** A page shares one stream with the browser's other pages. */
const mostOfOne = 30;
/** A page that reads this much too slowly is cut off; it connects again by itself. */
const mostBufferedBytes = 1_000_000;

/** What is to be known of those who open a stream. */
export interface LiveAskers {
  /** By what the one who asks has signed in. */
  keyOf(request: Request): string;
  /** Which events are for them. */
  hears(request: Request): (event: LiveEvent) => boolean;
}

/**
 * Sends events to every open page as server-sent events (HTML standard §9.2), with a comment now and then so that a
 * broken line is noticed.
 */
export class LiveHub {
  readonly #askers: LiveAskers;
  readonly #pages = new Map<Response, { readonly key: string; readonly hears: (event: LiveEvent) => boolean }>();
  readonly #heartbeat = setInterval(() => this.#send(": \n\n"), heartbeatMs);

  constructor(askers: LiveAskers = { keyOf: () => "", hears: () => () => true }) {
    this.#askers = askers;
  }

  readonly handler: RequestHandler = (request, response) => {
    const key = this.#askers.keyOf(request);
    const hears = this.#askers.hears(request);
    if ([...this.#pages.values()].filter((one) => one.key === key).length >= mostOfOne)
      throw new Problem(
        429,
        "too-many-streams",
        `${mostOfOne} live streams are open by this sign-in already; close some of its pages.`,
        { retryAfterSeconds: 10 },
      );
    response.writeHead(200, {
      "Content-Type": "text/event-stream",
      "Cache-Control": "no-store",
      "X-Accel-Buffering": "no",
    });
    response.write("retry: 2000\n\nevent: hello\ndata: {}\n\n");
    this.#pages.set(response, { key, hears });
    request.on("close", () => this.#pages.delete(response));
  };

  publish(event: LiveEvent): void {
    this.#send(`event: ${event.kind}\ndata: ${JSON.stringify(event)}\n\n`, event);
  }

  /** A session or a token is no more: what it had open ends now. */
  endOf(key: string): void {
    for (const [page, of] of this.#pages) if (of.key === key) page.end();
  }

  close(): void {
    clearInterval(this.#heartbeat);
    for (const page of this.#pages.keys()) page.end();
    this.#pages.clear();
  }

  #send(text: string, event?: LiveEvent): void {
    for (const [page, { hears }] of this.#pages) {
      if (event && !hears(event)) continue;
      if (page.writableLength > mostBufferedBytes) page.destroy();
      else page.write(text);
    }
  }
}
