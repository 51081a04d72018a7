import { RequestFailed } from "../../api/client.ts";

/** What a refused request says: each field's problem, or what it is as a whole. */
export function problemWords(error: Error): string {
  return error instanceof RequestFailed && error.errors.length > 0
    ? error.errors.map(({ message }) => message).join("; ")
    : error.message;
}
