import type { Request, RequestHandler, Response } from "express";
import { LRUCache } from "lru-cache";
import { callerOf, isWithoutCookie, personOf } from "./asker.ts";

const mostBytes = 20_000_000;
const mostBytesOfOne = 1_000_000;

interface Remembered {
  readonly text: string;
  readonly atMs: number;
}

/**
 * The last answer to every GET of people, so that while the database is away pages say what is known instead of
 * nothing. Each is told what they were told themselves; what is asked of a moving window is remembered without it.
 */
export class RememberedAnswers {
  readonly #answers = new LRUCache<string, Remembered>({
    maxSize: mostBytes,
    maxEntrySize: mostBytesOfOne,
    sizeCalculation: ({ text }) => text.length,
  });

  /** Notes what is answered from here on. */
  readonly handler: RequestHandler = (request, response, next) => {
    if (request.method === "GET" && !isWithoutCookie(request)) {
      const send = response.json.bind(response);
      response.json = (body: unknown) => {
        if (response.statusCode !== 200 || body === undefined) return send(body);
        // written as text once, for the answer and for memory
        const text = JSON.stringify(body);
        this.#answers.set(keyOf(request), { text, atMs: Date.now() });
        if (!response.get("Content-Type")) response.type("application/json");
        return response.send(text);
      };
    }
    next();
  };

  /** Answers from memory, and says of when that is; false where nothing is remembered, or nobody knows who asks. */
  answer(request: Request, response: Response): boolean {
    const isPerson = callerOf(request) !== "nobody" && !isWithoutCookie(request);
    const known = request.method === "GET" && isPerson ? this.#answers.get(keyOf(request)) : undefined;
    if (!known) return false;
    response.status(200).setHeader("Nubrel-As-Of", String(known.atMs)).type("application/json").send(known.text);
    return true;
  }
}

function keyOf(request: Request): string {
  const url = new URL(request.originalUrl, "http://nubrel");
  for (const moving of ["from", "to"]) url.searchParams.delete(moving);
  return `${personOf(request).id} ${url.pathname}${url.search}`;
}
