import { Agent } from "undici";
import { PullError } from "../../transport/pull-error.ts";

const mostBytes = 16 * 1_048_576;
const longestLine = 65_536;

/** Asks a container engine over its local socket. */
export interface Engine {
  /** Throws PullError. */
  get(path: string): Promise<{ readonly status: number; readonly json: unknown }>;
  /** Calls with each line of an answer that does not end; `ended` once it has. The result stops it. */
  follow(path: string, line: (json: unknown) => void, ended: () => void): () => void;
}

export function engineSocket(socketPath: string, timeoutMs: number): Engine {
  // One connection an answer: an engine that starts anew leaves none behind that is dead.
  const engine = new Agent({ connect: { socketPath, timeout: timeoutMs }, pipelining: 0 });
  const ask = (path: string, more: { readonly bodyTimeout: number; readonly signal?: AbortSignal }) =>
    engine.request({ origin: "http://localhost", path, method: "GET", headersTimeout: timeoutMs, ...more });
  return {
    async get(path) {
      try {
        const { statusCode, body } = await ask(path, { bodyTimeout: timeoutMs });
        return { status: statusCode, json: jsonOf(await textOf(body)) };
      } catch (error) {
        throw engineError(error, socketPath, timeoutMs);
      }
    },
    follow(path, line, ended) {
      const stopping = new AbortController();
      const followed = async () => {
        const { body } = await ask(path, { bodyTimeout: 0, signal: stopping.signal });
        for await (const text of linesOf(body)) if (!stopping.signal.aborted) tell(text, line);
      };
      // What ends it, an error or the engine, is the same to who follows.
      void followed()
        .catch(() => undefined)
        .then(() => !stopping.signal.aborted && ended());
      return () => stopping.abort();
    },
  };
}

/** The whole of an answer. Throws PullError where it is too long. */
async function textOf(body: AsyncIterable<Buffer>): Promise<string> {
  const pieces: Buffer[] = [];
  let size = 0;
  for await (const piece of body) {
    size += piece.length;
    if (size > mostBytes)
      throw new PullError(
        "too large",
        "The engine's answer is longer than 16 MiB.",
        "Look at what listens at this socket.",
      );
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString("utf8");
}

function jsonOf(text: string): unknown {
  try {
    return text.trim() === "" ? null : JSON.parse(text);
  } catch (error) {
    throw new PullError(
      "not the format",
      "What answers at this socket is not a container engine: its answer is no JSON.",
      "Give the path of the engine's own socket.",
      { cause: error },
    );
  }
}

/** The lines of an answer as they come; of one that is longer than an event can be, its end. */
async function* linesOf(body: AsyncIterable<Buffer>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = "";
  for await (const piece of body) {
    rest += decoder.decode(piece, { stream: true });
    const lines = rest.split("\n");
    rest = (lines.pop() as string).slice(-longestLine);
    yield* lines;
  }
}

/** A line that is no JSON tells nothing. */
function tell(text: string, line: (json: unknown) => void): void {
  try {
    if (text.trim() !== "") line(JSON.parse(text));
  } catch {
    // said above
  }
}

function engineError(error: unknown, socketPath: string, timeoutMs: number): PullError {
  if (error instanceof PullError) return error;
  const code = (error as NodeJS.ErrnoException).code;
  switch (code) {
    case "ENOENT":
      return new PullError(
        "wrong path",
        `There is no socket at ${socketPath}.`,
        "Look whether the engine runs and where its socket is.",
        { cause: error },
      );
    case "EACCES":
    case "EPERM":
      return new PullError(
        "not allowed",
        `This account may not use the socket ${socketPath}.`,
        "Run Nubrel as root, or add its account to the group that owns the socket.",
        { cause: error },
      );
    case "ECONNREFUSED":
    case "ENOTSOCK":
      return new PullError(
        "nothing listens",
        `Nothing listens at the socket ${socketPath}.`,
        "Start the engine; a socket that was left behind says nothing.",
        { cause: error },
      );
    case "UND_ERR_CONNECT_TIMEOUT":
    case "UND_ERR_HEADERS_TIMEOUT":
    case "UND_ERR_BODY_TIMEOUT":
      return new PullError(
        "no answer",
        `The engine did not answer within ${timeoutMs / 1000} s.`,
        "Look how the engine is: it hangs sometimes when a disk does.",
        { cause: error },
      );
    case "UND_ERR_SOCKET":
    case "UND_ERR_RES_CONTENT_LENGTH_MISMATCH":
    case "ECONNRESET":
    case "EPIPE":
      return new PullError(
        "truncated",
        "The engine closed the connection instead of answering to the end.",
        "It may just be starting anew; the next try comes by itself.",
        { cause: error },
      );
    default:
      return new PullError(
        "not the format",
        `What answers at ${socketPath} does not speak HTTP as an engine does: ${(error as Error).message}.`,
        "Give the path of the engine's own socket.",
        { cause: error },
      );
  }
}
