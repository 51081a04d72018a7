import { execFile } from "node:child_process";
import { PullError } from "../../transport/pull-error.ts";

export interface ToolAnswer {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** The server's own environment holds the database's password and the command line's token: programs get none of it. */
function bare(): Record<string, string> {
  const { PATH = "/usr/sbin:/usr/bin:/sbin:/bin", TZ } = process.env;
  return { PATH, LC_ALL: "C", ...(TZ !== undefined && { TZ }) };
}

/**
 * Runs a program of the system without a shell; it is ended after `timeoutMs`, or when `signal` says so. Throws
 * PullError where it is missing or does not end.
 */
export function runTool(
  program: string,
  args: readonly string[],
  {
    timeoutMs,
    env,
    debianPackage,
    signal,
  }: { timeoutMs: number; env?: Readonly<Record<string, string>>; debianPackage?: string; signal?: AbortSignal },
): Promise<ToolAnswer> {
  return new Promise((resolve, reject) => {
    execFile(
      program,
      args,
      {
        timeout: timeoutMs,
        killSignal: "SIGKILL",
        maxBuffer: 16 * 1_048_576,
        env: { ...bare(), ...env },
        encoding: "utf8",
        ...(signal && { signal }),
      },
      (error, out, err) => {
        const failed = error as (Error & { code?: string | number; killed?: boolean }) | null;
        if (failed?.code === "ENOENT")
          reject(
            new PullError(
              "tool missing",
              `The program ${program} is not on this machine.`,
              `Install it: apt install ${debianPackage ?? program}`,
              { cause: error },
            ),
          );
        else if (failed?.code === "EACCES")
          reject(
            new PullError("not allowed", `This account may not run ${program}.`, "Run Nubrel as a user that may.", {
              cause: error,
            }),
          );
        else if (failed?.name === "AbortError")
          reject(
            new PullError("failed", `${program} was ended: it is asked no more.`, "Nothing to do.", { cause: error }),
          );
        else if (failed?.killed)
          reject(
            new PullError(
              "no answer",
              `${program} had not ended after ${timeoutMs / 1000} s.`,
              "Look whether the device answers at all, and allow more time.",
              { cause: error },
            ),
          );
        else resolve({ code: typeof failed?.code === "number" ? failed.code : failed ? 1 : 0, out, err });
      },
    );
  });
}
