import { apiAddress } from "./base-path.ts";
import { addressOf, type AnswerOf, type QueryOf, type Route } from "../../../core/api/route.ts";
import { problemError, RequestFailed } from "./client.ts";

/** Sends a file as it is. Throws RequestFailed with the words of the problem details (RFC 9457). */
export async function sendFile<R extends Route>(route: R, file: Blob, query: QueryOf<R>): Promise<AnswerOf<R>> {
  let response: Response;
  try {
    response = await fetch(apiAddress(addressOf(route.path, {}, query)), {
      method: route.method,
      headers: { "Content-Type": "application/octet-stream" },
      body: file,
    });
  } catch {
    throw new RequestFailed(0, "The server does not answer. Nothing of the file was taken.");
  }
  const answer: unknown = await response.json().catch(() => undefined);
  if (!response.ok) throw problemError(response.status, answer);
  return answer as AnswerOf<R>;
}
