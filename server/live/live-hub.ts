import type { Request, RequestHandler, Response } from "express";
import { Problem } from "../http/problem.ts";
import type { LiveEvent } from "../../core/api/live.ts";

const heartbeatMs = 10_000;
/** A page shares one stream with the browser's other pages. */
const mostOfOne = 30;
/** A page that reads this much too slowly is cut off; it connects again by itself. */
const mostBufferedBytes = 1_000_000;

/**
 * Sends events to every open page as server-sent events (HTML standard §9.2), with a comment now and then so that a
 * broken line is noticed.
 */
export class LiveHub {
  readonly #keyOf: (request: Request) => string;
  readonly #pages = new Map<Response, string>();
  readonly #heartbeat = setInterval(() => this.#send(": \n\n"), heartbeatMs);

  /** `keyOf` says by what the one who asks has signed in. */
  constructor(keyOf: (request: Request) => string = () => "") {
    this.#keyOf = keyOf;
  }

  readonly handler: RequestHandler = (request, response) => {
    const key = this.#keyOf(request);
    if ([...this.#pages.values()].filter((one) => one === key).length >= mostOfOne)
      throw new Problem(
        429,
        "Too many streams",
        `${mostOfOne} live streams are open by this sign-in already; close some of its pages.`,
        { retryAfterSeconds: 10 },
      );
    response.writeHead(200, {
      "Content-Type": "text/event-stream",
      "Cache-Control": "no-store",
      "X-Accel-Buffering": "no",
    });
    response.write("retry: 2000\n\nevent: hello\ndata: {}\n\n");
    this.#pages.set(response, key);
    request.on("close", () => this.#pages.delete(response));
  };

  publish(event: LiveEvent): void {
    this.#send(`event: ${event.kind}\ndata: ${JSON.stringify(event)}\n\n`);
  }

  /** A session or a token is no more: what it had open ends now. */
  endOf(key: string): void {
    for (const [page, of] of this.#pages) if (of === key) page.end();
  }

  close(): void {
    clearInterval(this.#heartbeat);
    for (const page of this.#pages.keys()) page.end();
    this.#pages.clear();
  }

  #send(text: string): void {
    for (const page of this.#pages.keys()) {
      if (page.writableLength > mostBufferedBytes) page.destroy();
      else page.write(text);
    }
  }
}
