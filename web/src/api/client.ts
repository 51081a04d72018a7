import { noteAsOf } from "./as-of.ts";

/** A request that was refused or failed; `message` is a sentence for the person. */
export class RequestFailed extends Error {
  readonly status: number;
  readonly errors: readonly { readonly path: string; readonly message: string }[];
  /** Whether the server or its database is away: that is told once for the whole page, and it is asked again until it is back. */
  readonly isAway: boolean;
  constructor(status: number, message: string, errors: RequestFailed["errors"] = [], isAway = status === noAnswer) {
    super(message);
    this.name = "RequestFailed";
    this.status = status;
    this.errors = errors;
    this.isAway = isAway;
  }
}

/** Status 0 stands for no answer at all. */
export const noAnswer = 0;

/** Asks the server below /api. Throws RequestFailed with the words of the problem details (RFC 9457) that it answers. */
export async function ask<T>(method: "GET" | "POST" | "PUT" | "PATCH" | "DELETE", path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      ...(body !== undefined && { body: JSON.stringify(body), headers: { "Content-Type": "application/json" } }),
      ...(signal && { signal }),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new RequestFailed(noAnswer, "Nubrel's server does not answer. What is stored is safe; this page goes on by itself when the server is back.");
  }
  if (response.status === 204) return undefined as T;
  if (method === "GET") noteAsOf(response.headers.get("Nubrel-As-Of"));
  const answer: unknown = await response.json().catch(() => undefined);
  if (response.ok) return answer as T;
  throw problemError(response.status, answer);
}

/** The error that problem details (RFC 9457) tell; the status alone where there are none. */
export function problemError(status: number, body: unknown): RequestFailed {
  const problem = (body ?? {}) as { detail?: string; title?: string; errors?: RequestFailed["errors"]; away?: string };
  return new RequestFailed(status, problem.detail ?? problem.title ?? `The server answered ${status}.`, problem.errors, status === noAnswer || problem.away !== undefined);
}
