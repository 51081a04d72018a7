/** How a request asks. */
export type Method = "GET" | "POST" | "PUT" | "PATCH" | "DELETE";

/** The names of what changes in a path, such as `id` in "/rules/:id". */
type NamesIn<Path extends string> = Path extends `${string}:${infer Name}/${infer Rest}`
  ? Name | NamesIn<`/${Rest}`>
  : Path extends `${string}:${infer Name}`
    ? Name
    : never;

/** Names in paths that stand for numbers. */
export const numbersInPaths = ["id", "run"] as const;

/** What a path is asked with: numbers where it says `:id` or `:run`, texts elsewhere. */
export type ParamsOf<R> =
  R extends Route<infer Path, unknown, unknown, object>
    ? { readonly [Name in NamesIn<Path>]: Name extends (typeof numbersInPaths)[number] ? number : string }
    : never;

/** Marks an answer that comes as lines of JSON, each as soon as it is ready. */
export interface LinesOf<Line> {
  readonly line: Line;
}

/**
 * One question that the server answers below /api, as a value: who answers it and who asks it name the same one, so
 * that a path is written once.
 * What it carries and gives stands in its type alone.
 */
export interface Route<Path extends string = string, Body = unknown, Answer = unknown, Query extends object = object> {
  readonly method: Method;
  /** Below /api. */
  readonly path: Path;
  /** Of an answer that succeeded. */
  readonly status: 200 | 201 | 204;
  readonly types?: { readonly body: Body; readonly answer: Answer; readonly query: Query };
}

export type BodyOf<R> = R extends Route<string, infer Body, unknown, object> ? Body : never;
export type AnswerOf<R> = R extends Route<string, unknown, infer Answer, object> ? Answer : never;
export type QueryOf<R> = R extends Route<string, unknown, unknown, infer Query> ? Query : never;

/** What carries nothing. */
export type Nothing = undefined;

/**
 * Begins a route; its types follow: `route("PUT", "/sources/:id/pause")<PauseBody, SourceView>()`. Without a status it
 * is 200.
 */
export function route<const Path extends string>(
  method: Method,
  path: Path,
  status: Route["status"] = 200,
): <Body = Nothing, Answer = Nothing, Query extends object = object>() => Route<Path, Body, Answer, Query> {
  return () => ({ method, path, status });
}

/**
 * The address of a route below /api, with what changes in it and its query. What is undefined is left out of a query;
 * lists repeat their name.
 */
export function addressOf(
  path: string,
  params: Readonly<Record<string, string | number>> = {},
  query: object = {},
): string {
  const filled = path.replace(/:(\w+)/g, (_all, name: string) => encodeURIComponent(String(params[name])));
  const pairs = Object.entries(query as Record<string, unknown>).flatMap(([name, value]) =>
    value === undefined
      ? []
      : (Array.isArray(value) ? value : [value]).map(
          (one) => `${encodeURIComponent(name)}=${encodeURIComponent(String(one))}`,
        ),
  );
  return pairs.length === 0 ? filled : `${filled}?${pairs.join("&")}`;
}
