import { apiAddress } from "./base-path.ts";
import {
  addressOf,
  type AnswerOf,
  type BodyOf,
  type LinesOf,
  type ParamsOf,
  type QueryOf,
  type Route,
} from "../../../core/api/route.ts";
import { linkHeader } from "../../../core/api/links.ts";
import { linkSecret } from "./by-link.ts";
import { noteAsOf } from "./as-of.ts";
import { linesOf } from "./lines-of.ts";
import { proven } from "./proof.ts";

/** A request that was refused or failed; `message` is a sentence for the person. */
export class RequestFailed extends Error {
  readonly status: number;
  readonly errors: readonly { readonly path: string; readonly message: string }[];
  /**
   * Whether the server or its database is away: that is told once for the whole page, and it is asked again until it is
   * back.
   */
  readonly isAway: boolean;
  /** What is to be given beside it when it is asked again. */
  readonly asks: string | undefined;
  constructor(
    status: number,
    message: string,
    errors: RequestFailed["errors"] = [],
    isAway = status === noAnswer,
    asks?: string,
  ) {
    super(message);
    this.name = "RequestFailed";
    this.status = status;
    this.errors = errors;
    this.isAway = isAway;
    this.asks = asks;
  }
}

/** Status 0 stands for no answer at all. */
export const noAnswer = 0;

/** What else a request may have. */
interface More<R> {
  readonly query?: QueryOf<R>;
  readonly signal?: AbortSignal | undefined;
  /** What stands beside a view, and waits where the view asks for much. */
  readonly isAside?: boolean;
}

type Rest<R> = BodyOf<R> extends undefined ? [body?: undefined, more?: More<R>] : [body: BodyOf<R>, more?: More<R>];

/**
 * Asks what a route says, with what changes in its path, and a body where it carries one. Throws RequestFailed with the
 * words of the problem details (RFC 9457) that the server answers.
 */
export async function call<R extends Route>(
  route: R,
  params: ParamsOf<R>,
  ...[body, { query, signal, isAside = false } = {}]: Rest<R>
): Promise<AnswerOf<R>> {
  let response = await request(route, params, body, query, signal, isAside);
  if (response.status === 403 && (await asksProof(response)) && (await proven()))
    response = await request(route, params, body, query, signal);
  if (response.status === 204) return undefined as AnswerOf<R>;
  if (route.method === "GET") noteAsOf(response.headers.get("Nubrel-As-Of"));
  const answer: unknown = await response.json().catch(() => undefined);
  if (response.ok) return answer as AnswerOf<R>;
  throw problemError(response.status, answer);
}

const asksProof = async (response: Response): Promise<boolean> =>
  (
    (await response
      .clone()
      .json()
      .catch(() => ({}))) as { asks?: string }
  ).asks === "proof";

type LineOf<R> = AnswerOf<R> extends LinesOf<infer Line> ? Line : never;

/** Asks what answers line by line, and gives each as soon as it is there. Throws RequestFailed. */
export async function* callLines<R extends Route>(
  route: R,
  body: BodyOf<R>,
  signal?: AbortSignal,
): AsyncGenerator<LineOf<R>> {
  const response = await request(route, {} as ParamsOf<R>, body, undefined, signal);
  if (!response.ok || !response.body) throw problemError(response.status, await response.json().catch(() => undefined));
  for await (const line of linesOf(response.body)) yield JSON.parse(line) as LineOf<R>;
}

async function request<R extends Route>(
  { method, path }: R,
  params: ParamsOf<R>,
  body: unknown,
  query: object | undefined,
  signal: AbortSignal | undefined,
  isAside = false,
): Promise<Response> {
  const byLink = linkSecret();
  try {
    return await fetch(apiAddress(addressOf(path, params as Readonly<Record<string, string | number>>, query)), {
      method,
      headers: {
        ...(body !== undefined && { "Content-Type": "application/json" }),
        ...(byLink !== undefined && { [linkHeader]: byLink }),
      },
      ...(byLink !== undefined && { credentials: "omit" }),
      ...(body !== undefined && { body: JSON.stringify(body) }),
      ...(signal && { signal }),
      ...(isAside && { priority: "low" }),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new RequestFailed(
      noAnswer,
      "Nubrel's server does not answer. What is stored is safe; this page goes on by itself when the server is back.",
    );
  }
}

/** The error that problem details (RFC 9457) tell; the status alone where there are none. */
export function problemError(status: number, body: unknown): RequestFailed {
  const problem = (body ?? {}) as {
    detail?: string;
    title?: string;
    errors?: RequestFailed["errors"];
    away?: string;
    asks?: string;
  };
  return new RequestFailed(
    status,
    problem.detail ?? problem.title ?? `The server answered ${status}.`,
    problem.errors,
    status === noAnswer || problem.away !== undefined,
    problem.asks,
  );
}
