import type { ErrorRequestHandler, Request, RequestHandler, Response } from "express";
import { DatabaseError } from "pg";
import type { Logger } from "pino";
import { problemsPath, problemTitles, type ProblemType } from "../../core/api/problem-types.ts";
import { FigureError } from "../../core/reading/figure.ts";
import { isDatabaseAway } from "../db/database-away.ts";
import { basePathOf } from "./asked-below.ts";

export interface FieldProblem {
  /** Where in the request, as a dotted path. */
  readonly path: string;
  readonly message: string;
}

/** An answer other than success, sent as problem details (RFC 9457). `detail` says what happened and what to do. */
export class Problem extends Error {
  readonly status: number;
  readonly type: ProblemType;
  readonly errors: readonly FieldProblem[] | undefined;
  readonly retryAfterSeconds: number | undefined;
  /** What is away, where that is why; it comes back by itself. */
  readonly away: "database" | undefined;
  /** What is to be given before it is asked again. */
  readonly asks: "proof" | "code" | "next" | undefined;

  constructor(
    status: number,
    type: ProblemType,
    detail: string,
    more: {
      errors?: readonly FieldProblem[];
      retryAfterSeconds?: number;
      away?: "database";
      asks?: "proof" | "code" | "next";
    } = {},
  ) {
    super(detail);
    this.name = "Problem";
    this.status = status;
    this.type = type;
    this.errors = more.errors;
    this.retryAfterSeconds = more.retryAfterSeconds;
    this.away = more.away;
    this.asks = more.asks;
  }

  get title(): string {
    return problemTitles[this.type];
  }
}

export const notThere: RequestHandler = (request) => {
  throw new Problem(404, "not-found", `Nothing answers ${request.method} ${request.originalUrl.split("?")[0]}.`);
};

/**
 * The last handler: every error leaves as problem details; what nobody foresaw is logged and told without its inside.
 */
export function problemHandler(
  log: Logger,
  remembered: { answer(request: Request, response: Response): boolean },
): ErrorRequestHandler {
  return (error: unknown, request, response, next) => {
    if (response.headersSent) return next(error);
    const problem = problemOf(error);
    if (problem.away && remembered.answer(request, response)) return;
    if (request.readableAborted) return; // nobody hears the answer, and nothing failed here
    closeEarly(request, response);
    if (problem.status >= 500) log.error({ err: error, path: request.path }, "a request failed");
    sendProblem(request, response, problem);
  };
}

const lingerMs = 2000;

/**
 * An answer that comes before the end of the body closes the connection, and what is still sent is read for a moment
 * and thrown away: closed at once, the sender would see its connection
 * reset and not the answer (RFC 9112 §9.6).
 */
export function closeEarly(request: Request, response: Response): void {
  if (request.complete) return;
  response.setHeader("Connection", "close");
  const { socket } = request;
  // Node.js ends a connection that is to close by destroying it; with bytes unread the kernel resets it then. Its own
  // side is ended alone, the other's is read on.
  socket.destroySoon = () => void socket.end();
  response.once("finish", () => {
    request.on("error", () => {});
    request.resume();
    setTimeout(() => socket.destroy(), lingerMs).unref();
  });
}

/**
 * What PostgreSQL refuses about a value (SQLSTATE classes 22 and 23): no route should let it come so far, and none
 * fails over it.
 */
const refusedValue = /^2[23]/;

function sendProblem(request: Request, response: Response, problem: Problem): void {
  if (problem.retryAfterSeconds !== undefined) response.setHeader("Retry-After", String(problem.retryAfterSeconds));
  response
    .status(problem.status)
    .type("application/problem+json")
    .send(JSON.stringify(bodyOf(request, problem)));
}

const bodyOf = (request: Request, problem: Problem): object => ({
  type: `${basePathOf(request)}/api${problemsPath}/${problem.type}`,
  title: problem.title,
  status: problem.status,
  detail: problem.message,
  ...(problem.errors && { errors: problem.errors }),
  ...(problem.away && { away: problem.away }),
  ...(problem.asks && { asks: problem.asks }),
});

/** The problem details of an error, for one part of an answer of several. */
export function problemBody(request: Request, error: unknown): object {
  return bodyOf(request, problemOf(error));
}

function problemOf(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof FigureError)
    return new Problem(422, "the-figure-cannot-be-worked-out", error.message, {
      errors: [{ path: "figure", message: error.message }],
    });
  const { type, status } = error as { type?: string; status?: number };
  if (type === "request.aborted")
    return new Problem(400, "the-body-broke-off", "The sender ended the connection before the end of the body.");
  if (type === "entity.parse.failed") return new Problem(400, "the-body-is-not-json", (error as Error).message);
  if (type === "entity.too.large") return new Problem(413, "the-body-is-too-large", "The body may have 1 MiB at most.");
  if (status !== undefined && status >= 400 && status < 500)
    return new Problem(status, "the-request-cannot-be-read", (error as Error).message);
  if (isDatabaseAway(error)) {
    return new Problem(
      503,
      "the-database-does-not-answer",
      "Nubrel's database does not answer just now. What was stored is safe; this works again when the database is back.",
      { retryAfterSeconds: 5, away: "database" },
    );
  }
  const { code } = error as { code?: string };
  if (error instanceof DatabaseError && code !== undefined && refusedValue.test(code))
    return new Problem(422, "the-request-does-not-fit", `A value cannot be stored: ${error.message}.`);
  return new Problem(
    500,
    "something-went-wrong",
    "Nubrel failed at this request; its log says why. Nothing was changed.",
  );
}
