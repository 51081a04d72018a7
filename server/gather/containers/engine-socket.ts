import { request } from "node:http";
import { PullError } from "../../transport/pull-error.ts";

const mostBytes = 16 * 1_048_576;

/** Asks a container engine over its local socket. */
export interface Engine {
  /** Throws PullError. */
  get(path: string): Promise<{ readonly status: number; readonly json: unknown }>;
  /** Calls with each line of an answer that does not end; `ended` once it has. The result stops it. */
  follow(path: string, line: (json: unknown) => void, ended: () => void): () => void;
}

export function engineSocket(socketPath: string, timeoutMs: number): Engine {
  return {
    get: (path) =>
      new Promise((resolve, reject) => {
        const failed = (error: unknown) => reject(engineError(error, socketPath, timeoutMs));
        const asked = request({ socketPath, path, timeout: timeoutMs, headers: { host: "localhost" } }, (answer) => {
          const pieces: Buffer[] = [];
          let size = 0;
          answer.on("data", (piece: Buffer) => {
            size += piece.length;
            if (size > mostBytes)
              asked.destroy(
                new PullError(
                  "too large",
                  `The engine's answer is longer than 16 MiB.`,
                  "Look at what listens at this socket.",
                ),
              );
            else pieces.push(piece);
          });
          answer.on("aborted", () =>
            failed(
              new PullError(
                "truncated",
                "The engine ended its answer in the middle.",
                "It may just be starting anew; the next try comes by itself.",
              ),
            ),
          );
          answer.on("error", failed);
          answer.on("end", () => {
            const text = Buffer.concat(pieces).toString("utf8");
            try {
              resolve({ status: answer.statusCode ?? 0, json: text.trim() === "" ? null : JSON.parse(text) });
            } catch (error) {
              failed(
                new PullError(
                  "not the format",
                  "What answers at this socket is not a container engine: its answer is no JSON.",
                  "Give the path of the engine's own socket.",
                  { cause: error },
                ),
              );
            }
          });
        });
        asked.on("timeout", () => asked.destroy(Object.assign(new Error("time"), { code: "ETIMEDOUT" })));
        asked.on("error", failed);
        asked.end();
      }),
    follow(path, line, ended) {
      let rest = "";
      let stopped = false;
      const end = () => {
        if (!stopped) ended();
        stopped = true;
      };
      const asked = request({ socketPath, path, headers: { host: "localhost" } }, (answer) => {
        answer.setEncoding("utf8");
        answer.on("data", (piece: string) => {
          rest += piece;
          const lines = rest.split("\n");
          rest = (lines.pop() as string).slice(-65_536);
          for (const text of lines) {
            try {
              if (text.trim() !== "") line(JSON.parse(text));
            } catch {
              // a line that is no JSON tells nothing
            }
          }
        });
        answer.on("close", end);
      });
      asked.on("error", end);
      asked.end();
      return () => {
        stopped = true;
        asked.destroy();
      };
    },
  };
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
    case "ETIMEDOUT":
      return new PullError(
        "no answer",
        `The engine did not answer within ${timeoutMs / 1000} s.`,
        "Look how the engine is: it hangs sometimes when a disk does.",
        { cause: error },
      );
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
