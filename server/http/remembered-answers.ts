import type { Request, RequestHandler, Response } from "express";
import { isToken } from "./asker.ts";

const mostBytes = 20_000_000;
const mostBytesOfOne = 1_000_000;

interface Remembered {
  readonly text: string;
  readonly atMs: number;
}

/**
 * The last answer to every GET of people, so that while the database is away pages say what is known instead of
 * nothing. They are for those who are signed in, behind whose check this stands;
 * what is asked of a moving window is remembered without it.
 */
export class RememberedAnswers {
  readonly #answers = new Map<string, Remembered>();
  #bytes = 0;

  /** Notes what is answered from here on. */
  readonly handler: RequestHandler = (request, response, next) => {
    if (request.method === "GET" && !isToken(request)) {
      const send = response.json.bind(response);
      response.json = (body: unknown) => {
        if (response.statusCode === 200) this.#keep(keyOf(request), JSON.stringify(body));
        return send(body);
      };
    }
    next();
  };

  /** Answers from memory, and says of when that is; false where nothing is remembered. */
  answer(request: Request, response: Response): boolean {
    const known = request.method === "GET" && !isToken(request) ? this.#answers.get(keyOf(request)) : undefined;
    if (!known) return false;
    response.status(200).setHeader("Nubrel-As-Of", String(known.atMs)).type("application/json").send(known.text);
    return true;
  }

  #keep(key: string, text: string): void {
    this.#forget(key);
    if (text === undefined || text.length > mostBytesOfOne) return;
    this.#answers.set(key, { text, atMs: Date.now() });
    this.#bytes += text.length;
    for (const oldest of this.#answers.keys()) {
      if (this.#bytes <= mostBytes) break;
      this.#forget(oldest);
    }
  }

  #forget(key: string): void {
    this.#bytes -= this.#answers.get(key)?.text.length ?? 0;
    this.#answers.delete(key);
  }
}

function keyOf(request: Request): string {
  const url = new URL(request.originalUrl, "http://nubrel");
  for (const moving of ["from", "to"]) url.searchParams.delete(moving);
  return url.pathname + url.search;
}
